import type { Triple } from '../vector.ts';

/** How much of each channel is scattered by a share of the light and a tint (white takes all alike), and how much of it stays: nothing where the scattered light is shown alone. */
export function scatteredBy(share: number, tint: Triple, shows: string): { readonly own: Triple; readonly gain: Triple } {
  const most = Math.max(...tint, 1e-6);
  const gain = tint.map((one) => (share * Math.max(0, one)) / most) as unknown as Triple;
  return { own: shows === 'alone' ? [0, 0, 0] : (gain.map((one) => 1 - one) as unknown as Triple), gain };
}
