/** How much of what a correction did is taken over: all of it, or one side of it. One row each. */
import { luminanceOf } from '../color/luminance.ts';
import type { Triple } from '../vector.ts';
import type { Zone } from '../color/zones.ts';
import { luminosityOf, setLuminosity } from './non-separable.ts';
import { multiply, screen } from './separable.ts';

/** Straight colours before and after the correction. */
type Join = (before: Triple, after: Triple) => Triple;

export interface CorrectionBlend {
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  /** In light and in picture values: the definition, and the kernel that runs it. Null is not offered there; `all` needs none. */
  readonly scene: { readonly formula: Join; readonly kernel: string } | null;
  readonly picture: { readonly formula: Join; readonly kernel: string } | null;
}

/** Light weaker than this has no colour that could be kept. */
const LEAST_LIGHT = 1e-6;

/** A colour with another luminance, of the same chromaticity; grey where it has no light. */
const withLuminance = (color: Triple, wanted: number): Triple => {
  const own = luminanceOf(color);
  if (!(own > LEAST_LIGHT)) return [wanted, wanted, wanted];
  const factor = wanted / own;
  return [color[0] * factor, color[1] * factor, color[2] * factor];
};
const each = (formula: (b: number, s: number) => number): Join => (before, after) => [formula(before[0], after[0]), formula(before[1], after[1]), formula(before[2], after[2])];

const rows = [
  { id: 'all', label: 'All of it', summary: 'What the correction makes takes the place of what was there.', scene: null, picture: null },
  {
    id: 'lightness',
    label: 'Lightness only',
    summary: 'How light it is changes, the colour stays.',
    scene: { formula: (before, after) => withLuminance(before, luminanceOf(after)), kernel: 'lightness-light' },
    picture: { formula: (before, after) => setLuminosity(before, luminosityOf(after)), kernel: 'lightness-picture' },
  },
  {
    id: 'colour',
    label: 'Colour only',
    summary: 'The colour changes, how light it is stays.',
    scene: { formula: (before, after) => withLuminance(after, luminanceOf(before)), kernel: 'colour-light' },
    picture: { formula: (before, after) => setLuminosity(after, luminosityOf(before)), kernel: 'colour-picture' },
  },
  { id: 'multiply', label: 'Multiply', summary: 'What the correction makes darkens what was there.', scene: { formula: each(multiply), kernel: 'multiply' }, picture: { formula: each(multiply), kernel: 'multiply' } },
  { id: 'screen', label: 'Screen', summary: 'What the correction makes lightens what was there. It needs white as an upper end: over the tone line only.', scene: null, picture: { formula: each(screen), kernel: 'screen' } },
] as const satisfies readonly CorrectionBlend[];

export type CorrectionBlendId = (typeof rows)[number]['id'];
export const correctionBlends: readonly CorrectionBlend[] = rows;
export const CORRECTION_BLENDS: readonly CorrectionBlendId[] = rows.map(({ id }) => id);

/** @param id of a row; unknown ones take all */
export const correctionBlend = (id: string): CorrectionBlend => correctionBlends.find((row) => row.id === id) ?? rows[0];

/** What is offered for numbers of a kind. */
export const isOfferedIn = (id: string, zone: Zone): boolean => id === 'all' || correctionBlend(id)[zone] !== null;
