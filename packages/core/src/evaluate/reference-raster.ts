/** The definitions of what is done across pixels: what the kernels are compared with. */
import type { Backend } from './backend.ts';

/** Weights of the cubic B-spline on four samples around a place that is `t` behind the second. @source Unser 1999 */
export const splineWeights = (t: number): [number, number, number, number] => [(1 - t) ** 3 / 6, (3 * t ** 3 - 6 * t ** 2 + 4) / 6, (-3 * t ** 3 + 3 * t ** 2 + 3 * t + 1) / 6, t ** 3 / 6];

const LARGEST = 65504;
const finite = (value: number) => (Number.isNaN(value) ? 0 : Math.min(LARGEST, Math.max(-LARGEST, value)));

const HALVING = [1 / 8, 3 / 8, 3 / 8, 1 / 8];

/** One direction at a time; `stride` is the distance between neighbours along it. */
export const referenceRaster: Pick<Backend, 'halve' | 'convolve' | 'enlarge'> = {
  halve: (from, width, height) => {
    const across = 2 * width + 2;
    const out = new Float32Array(width * height);
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        let sum = 0;
        for (let j = 0; j < 4; j++) for (let i = 0; i < 4; i++) sum += HALVING[j] * HALVING[i] * finite(from[(2 * y + j) * across + 2 * x + i]);
        out[y * width + x] = sum;
      }
    }
    return out;
  },
  convolve: (from, width, height, weights) => {
    const across = width + weights.length - 1;
    const rows = new Float64Array(width * (height + weights.length - 1));
    for (let y = 0; y < height + weights.length - 1; y++) {
      for (let x = 0; x < width; x++) rows[y * width + x] = weights.reduce((sum, weight, k) => sum + weight * finite(from[y * across + x + k]), 0);
    }
    return Float32Array.from({ length: width * height }, (_, i) => weights.reduce((sum, weight, k) => sum + weight * rows[i + k * width], 0));
  },
  enlarge: (from, coarse, region, by) => {
    const out = new Float32Array(region.width * region.height);
    const place = (at: number) => {
      const u = (at + 0.5) / 2 ** by - 0.5;
      return { first: Math.floor(u) - 1, weights: splineWeights(u - Math.floor(u)) };
    };
    for (let y = 0; y < region.height; y++) {
      const down = place(region.y + y);
      for (let x = 0; x < region.width; x++) {
        const along = place(region.x + x);
        let sum = 0;
        for (let j = 0; j < 4; j++) for (let i = 0; i < 4; i++) sum += down.weights[j] * along.weights[i] * from[(down.first - coarse.y + j) * coarse.width + along.first - coarse.x + i];
        out[y * region.width + x] = sum;
      }
    }
    return out;
  },
};
