/** The renderer's own glare: whether the beauty holds it already, so that lamps would shine twice if it were added. */
import { rebuildSet } from '../elements/rebuild-set.ts';
import type { Layer, Source, TazzelDocument } from '../model/model.ts';
import { elementValues } from '../model/query.ts';
import type { Measure } from '../raster/measure.ts';
import { rebuildDocument } from './recipes.ts';
import { baseSource } from './start.ts';

/** Documents whose light is to be measured. */
export interface GlareQuestions {
  readonly glare: TazzelDocument;
  readonly beauty: TazzelDocument;
  /** The beauty less the glare. */
  readonly less: TazzelDocument;
  /** What its elements sum to without the glare; null where there are none. */
  readonly sum: TazzelDocument | null;
}

/** `held`: the beauty holds it; `apart`: it does not; `open`: nothing tells. */
export type GlareVerdict = 'held' | 'apart' | 'open';

/** More of the picture than this is darker than the glare over it: noise and rounding aside, it cannot hold it. */
const DARKER_SHARE = 0.005;
/** What the elements leave of the beauty is as much as the glare, or nothing, within so much of the glare. */
const NEAR = 0.5;

/** Null without a beauty to ask. */
export function glareQuestions(document: TazzelDocument, glare: Source): GlareQuestions | null {
  const sources = document.sources.filter(({ id }) => id !== glare.id);
  const set = rebuildSet(sources, 'elements');
  const beauty = set?.target ?? baseSource(sources);
  if (!beauty) return null;
  const [alone, whole] = [elementValues(document, glare), elementValues(document, beauty)];
  const over = { ...(alone.buildUp.scene[0] as Layer & { kind: 'picture' }), id: 'glare', blend: 'subtract' } as const;
  return { glare: alone, beauty: whole, less: { ...whole, buildUp: { scene: [...whole.buildUp.scene, over], picture: [] } }, sum: set && rebuildDocument(document, set, 'sum') };
}

/** @param measured light of the documents of `glareQuestions` */
export function glareVerdict({ glare, beauty, less, sum }: { readonly [K in keyof GlareQuestions]: Measure | (K extends 'sum' ? null : never) }): GlareVerdict {
  if (less.cutShare > DARKER_SHARE) return 'apart';
  if (!sum || !(glare.luminance.mean > 0)) return 'open';
  const left = (beauty.luminance.mean - sum.luminance.mean) / glare.luminance.mean;
  if (Math.abs(left - 1) <= NEAR) return 'held';
  return Math.abs(left) < NEAR ? 'apart' : 'open';
}
