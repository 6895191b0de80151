import { type Plane, planeView, sizeAtLevel } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';

/**
 * Level 1 to `levels` of a plane, each from the one before. Colours are averaged two by two; planes whose values must
 * survive (IDs) give their upper left sample.
 */
export function reducePlanes(plane: Plane, keepsValues: boolean, levels: number, kernels: Kernels, allocate: (byteLength: number) => ArrayBufferLike): Plane[] {
  const result: Plane[] = [];
  let from = plane;
  for (let level = 1; level <= levels; level++) {
    const size = sizeAtLevel(from, 1);
    const data = planeView(plane.type, allocate(size.width * size.height * plane.data.BYTES_PER_ELEMENT));
    for (let y = 0; y < size.height; y++) {
      const row = (at: number) => from.data.subarray(at * from.width, (at + 1) * from.width);
      const out = data.subarray(y * size.width, (y + 1) * size.width);
      const upper = row(2 * y);
      if (keepsValues || plane.type === 'u32') for (let x = 0; x < size.width; x++) out[x] = upper[2 * x];
      else kernels.reduceRow(plane.type, upper, row(Math.min(2 * y + 1, from.height - 1)), out);
    }
    from = { type: plane.type, ...size, data };
    result.push(from);
  }
  return result;
}
