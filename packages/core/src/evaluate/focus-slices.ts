/**
 * Into which slices a picture is taken apart for a depth of field, and at which size each is blurred: large circles in reduced pictures, so that the time does not grow
 * with them. Next to one another slices differ by little, so that nobody sees where one ends.
 */
import type { FocusLens, SliceRange } from '../raster/focus.ts';

export interface FocusSlice {
  /** In pixels of the level: before what is sharp below 0, and 0 for what is. */
  readonly radius: number;
  readonly range: SliceRange;
}

/** Slices that are blurred together, at a picture so many halvings smaller; from the front. */
export interface FocusBand {
  readonly coarser: number;
  readonly slices: readonly FocusSlice[];
}

/** Circles below this are sharp; of two slices next to one another the smaller circle is so many times the larger one, or so many pixels less, whichever is less of it. */
const [LEAST_RADIUS, SLICE_SHARE, SLICE_PX] = [0.4, 0.84, 0.4];
/** What is between two slices belongs to both, over this share of what lies between their circles. */
const OVERLAP = 0.4;
/** Larger circles are blurred in a reduced picture. */
const FINE_RADIUS = 7;

/** From the largest circle to the smallest. */
function radiiFrom(most: number): number[] {
  const radii: number[] = [];
  for (let radius = most; radius >= LEAST_RADIUS; radius = Math.min(radius * SLICE_SHARE, radius - SLICE_PX)) radii.push(radius);
  return radii;
}

const coarserFor = (radius: number): number => Math.max(0, Math.ceil(Math.log2(Math.abs(radius) / FINE_RADIUS)));

/** A disc's variance along an axis is a quarter of its radius squared; reducing and enlarging add theirs (see gaussian-phases.ts). */
export function radiusReduced(radius: number, coarser: number): number {
  if (coarser === 0) return radius;
  const area = 4 ** coarser;
  return Math.sign(radius) * 2 * Math.sqrt(Math.max(1 / 16, (radius ** 2 / 4 - (area - 1) / 4) / area - 1 / 3));
}

/** From the front to the back. Each but the middle one with its neighbours of about the same circle. */
export function focusBands(lens: FocusLens): FocusBand[] {
  const behind = radiiFrom(Math.min(lens.mostPx, lens.farPx));
  const radii = [...radiiFrom(lens.mostPx).map((radius) => -radius), 0, ...behind.toReversed()];
  const slices = radii.map((radius, n): FocusSlice => {
    const edge = (one: number | undefined, other: number | undefined, beyond: number) => (one === undefined || other === undefined ? { at: beyond, width: 1 } : { at: (one + other) / 2, width: OVERLAP * (other - one) });
    const [from, to] = [edge(radii[n - 1], radius, Number.NEGATIVE_INFINITY), edge(radius, radii[n + 1], Number.POSITIVE_INFINITY)];
    return { radius, range: { from: from.at, fromWidth: from.width, to: to.at, toWidth: to.width } };
  });
  const bands: { coarser: number; slices: FocusSlice[] }[] = [];
  for (const slice of slices) {
    const coarser = coarserFor(slice.radius);
    const last = bands.at(-1);
    if (last?.coarser === coarser) last.slices.push(slice);
    else bands.push({ coarser, slices: [slice] });
  }
  return bands;
}
