/** The colour spaces that finished pictures are delivered in. */
import type { Triple } from '../vector.ts';
import { multiply } from './oklab.ts';
import { DISPLAY_P3, type Matrix, OPRGB, type Primaries, REC709, rgbToRgb } from './primaries.ts';
import { clampUnit, srgbEncode } from './srgb.ts';

export interface OutputSpace {
  readonly label: string;
  readonly primaries: Primaries;
  /** The sRGB transfer function, or the power that light is raised to; 1 leaves it linear. */
  readonly curve: 'srgb' | number;
}

/** By ids that are never used for something else. */
export const outputSpaces = {
  /** @source IEC 61966-2-1 */
  srgb: { label: 'sRGB', primaries: REC709, curve: 'srgb' },
  /** @source SMPTE EG 432-1 primaries, D65, the curve of sRGB: as CSS Color 4 §10.3 has it */
  'display-p3': { label: 'Display P3', primaries: DISPLAY_P3, curve: 'srgb' },
  /** @source IEC 61966-2-5: its exponent is 2 + 51/256 */
  oprgb: { label: 'opRGB', primaries: OPRGB, curve: 256 / 563 },
  linear: { label: 'Linear Rec. 709', primaries: REC709, curve: 1 },
} as const satisfies Record<string, OutputSpace>;
export type OutputSpaceId = keyof typeof outputSpaces;

/** From light of Rec. 709 to that of a space: worked out once, since whole pictures go through it span by span. */
const MATRICES = new Map<OutputSpaceId, Matrix>((Object.keys(outputSpaces) as OutputSpaceId[]).map((id) => [id, rgbToRgb(REC709, outputSpaces[id].primaries)]));
export const matrixTo = (space: OutputSpaceId): Matrix => MATRICES.get(space) as Matrix;

/** Light of Rec. 709 to values of a space, 0 to 1: what lies beyond becomes its end. The definition of what the kernels do. */
export function inOutputSpace(light: Triple, space: OutputSpaceId): Triple {
  const { curve }: OutputSpace = outputSpaces[space];
  const encode = (value: number) => (curve === 'srgb' ? srgbEncode(value) : clampUnit(value) ** curve);
  const [r, g, b] = multiply(matrixTo(space), light);
  return [encode(r), encode(g), encode(b)];
}
