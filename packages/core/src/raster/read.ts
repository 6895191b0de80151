import { halfToFloat } from './half.ts';
import type { Plane } from './planes.ts';

/** Reads stored samples as numbers, with the branch on the type taken once. Infinities and NaN of halves and floats come as they are. */
export function sampleReader({ type, data }: Plane): (i: number) => number {
  if (type === 'u8') return (i) => data[i] / 255;
  if (type === 'u16') return (i) => data[i] / 65535;
  if (type === 'f16') return (i) => halfToFloat(data[i]);
  return (i) => data[i];
}
