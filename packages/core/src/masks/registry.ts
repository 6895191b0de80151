/** All mask terms, in the order in which they are offered. */
import type { MaskTerm } from '../model/model.ts';
import { CoreError } from '../errors.ts';
import { alpha } from './alpha.ts';
import { channel } from './channel.ts';
import { colour } from './colour.ts';
import type { TermSpec } from './define.ts';
import { depth } from './depth.ts';
import { distance } from './distance.ts';
import { ellipse } from './ellipse.ts';
import { facing } from './facing.ts';
import { gradient } from './gradient.ts';
import { height } from './height.ts';
import { mask } from './mask.ts';
import { material } from './material.ts';
import { paint } from './paint.ts';
import { polygon } from './polygon.ts';
import { rectangle } from './rectangle.ts';
import { completeParams, type KeptValues } from '../params/table.ts';
import { tone } from './tone.ts';

export const maskTerms: readonly TermSpec[] = [material, depth, distance, height, facing, tone, colour, alpha, channel, ellipse, rectangle, polygon, gradient, paint, mask];
const byId = new Map(maskTerms.map((spec) => [spec.id, spec]));
if (byId.size !== maskTerms.length) throw new Error('Two mask terms share an id.');

export const isTermType = (type: string): boolean => byId.has(type);

/** @throws CoreError `unknown-operation` */
export function termSpec(type: string): TermSpec {
  const spec = byId.get(type);
  if (!spec) throw new CoreError('unknown-operation', `There is no mask term “${type}”. There are: ${[...byId.keys()].join(', ')}.`);
  return spec;
}

/** What a term is called; the id itself for one that a later version brought. */
export const termLabel = (type: string): string => byId.get(type)?.label ?? type;

/** A term of a kind that is known, with its values in full; null if a later version brought it. */
export function knownTerm(term: MaskTerm): { readonly spec: TermSpec; readonly values: KeptValues } | null {
  const spec = byId.get(term.type);
  return spec ? { spec, values: completeParams(spec, term.params) } : null;
}
