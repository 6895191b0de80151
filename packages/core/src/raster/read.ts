import { halfToFloat } from './half.ts';
import type { Plane } from './planes.ts';

/** The largest finite half; what infinities become when they are read. */
export const LARGEST_LIGHT = 65504;

const finite = (value: number) => (Number.isFinite(value) ? value : Number.isNaN(value) ? 0 : Math.sign(value) * LARGEST_LIGHT);

/** What a sample counts as where pixels are mixed, so that a bad one cannot spread: NaN is 0, and nothing is beyond the largest. */
export const boundedLight = (value: number): number => (Number.isNaN(value) ? 0 : Math.min(LARGEST_LIGHT, Math.max(-LARGEST_LIGHT, value)));

/**
 * Reads stored samples as numbers, by their place in the plane, with the branch on the type taken once: this is what reading means everywhere.
 * Bytes and 16-bit integers become 0…1; halves and floats are what they are, but NaN is 0 and infinities are ±65504; whole numbers of 32 bits stay.
 */
export function sampleReader({ type, data }: Plane): (i: number) => number {
  if (type === 'u8') return (i) => data[i] / 255;
  if (type === 'u16') return (i) => data[i] / 65535;
  if (type === 'f16') return (i) => finite(halfToFloat(data[i]));
  return (i) => finite(data[i]);
}
