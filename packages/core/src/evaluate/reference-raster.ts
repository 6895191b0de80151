/** The definitions of what is done across pixels: what the kernels are compared with. */
import { tableWeight } from '../raster/filters.ts';
import { boundedLight } from '../raster/read.ts';
import type { Backend } from './backend.ts';
import type { AffineMap } from '../raster/affine.ts';

/** Weights of the cubic B-spline on four samples around a place that is `t` behind the second. @source Unser 1999 */
export const splineWeights = (t: number): [number, number, number, number] => [(1 - t) ** 3 / 6, (3 * t ** 3 - 6 * t ** 2 + 4) / 6, (-3 * t ** 3 + 3 * t ** 2 + 3 * t + 1) / 6, t ** 3 / 6];

const HALVING = [1 / 8, 3 / 8, 3 / 8, 1 / 8];

/** Whether a map takes pixels to pixels, so that nothing needs to be filtered. */
export const isWhole = ([a, b, c, d, e, f]: AffineMap): boolean => Math.abs(a) + Math.abs(b) === 1 && Math.abs(c) + Math.abs(d) === 1 && [a, b, c, d].every(Number.isInteger) && Number.isInteger(e + (a + b) / 2 - 0.5) && Number.isInteger(f + (c + d) / 2 - 0.5);

export const referenceRaster: Pick<Backend, 'halve' | 'sum' | 'convolve' | 'enlarge' | 'warp'> = {
  sum: (out, planes, gains) => {
    for (let i = 0; i < out.length; i++) out[i] = planes.reduce((total, plane, k) => total + gains[k] * plane[i], 0);
  },
  warp: (out, planes, from, region, map, table, radius) => {
    const [a, b, c, d, e, f] = map;
    const area = region.width * region.height;
    const inside = from.width * from.height;
    const [sx, sy] = [Math.max(1, Math.hypot(a, b)), Math.max(1, Math.hypot(c, d))];
    const whole = isWhole(map);
    const along = (u: number, stretch: number) => {
      const middle = whole ? Math.round(u - 0.5) : 0;
      if (whole) return [[middle, 1] as const];
      const taps: (readonly [number, number])[] = [];
      for (let i = Math.ceil(u - 0.5 - radius * stretch); i <= Math.floor(u - 0.5 + radius * stretch); i++) taps.push([i, tableWeight(table, (i + 0.5 - u) / stretch)]);
      const total = taps.reduce((sum, [, weight]) => sum + weight, 0);
      return taps.map(([i, weight]) => [i, weight / total] as const);
    };
    for (let y = 0; y < region.height; y++) {
      for (let x = 0; x < region.width; x++) {
        const [px, py] = [region.x + x + 0.5, region.y + y + 0.5];
        const [columns, rows] = [along(a * px + b * py + e, sx), along(c * px + d * py + f, sy)];
        const sums = [0, 0, 0, 0];
        for (const [j, wy] of rows) {
          for (const [i, wx] of columns) {
            const [u, v] = [i - from.x, j - from.y];
            if (u < 0 || v < 0 || u >= from.width || v >= from.height) continue;
            for (let plane = 0; plane < 4; plane++) sums[plane] += wx * wy * boundedLight(planes[plane * inside + v * from.width + u]);
          }
        }
        sums[3] = Math.min(1, Math.max(0, sums[3]));
        for (let plane = 0; plane < 4; plane++) out[plane * area + y * region.width + x] = sums[plane];
      }
    }
  },
  halve: (out, from, width, height) => {
    const across = 2 * width + 2;
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        let sum = 0;
        for (let j = 0; j < 4; j++) for (let i = 0; i < 4; i++) sum += HALVING[j] * HALVING[i] * boundedLight(from[(2 * y + j) * across + 2 * x + i]);
        out[y * width + x] = sum;
      }
    }
  },
  convolve: (out, from, width, height, weights) => {
    const across = width + weights.length - 1;
    const rows = new Float64Array(width * (height + weights.length - 1));
    for (let y = 0; y < height + weights.length - 1; y++) {
      for (let x = 0; x < width; x++) rows[y * width + x] = weights.reduce((sum, weight, k) => sum + weight * boundedLight(from[y * across + x + k]), 0);
    }
    for (let i = 0; i < width * height; i++) out[i] = weights.reduce((sum, weight, k) => sum + weight * rows[i + k * width], 0);
  },
  enlarge: (out, from, coarse, { x: left, y: top, width, height }, by) => {
    const [area, inside] = [width * height, coarse.width * coarse.height];
    const place = (at: number) => {
      const u = (at + 0.5) / 2 ** by - 0.5;
      return { first: Math.floor(u) - 1, weights: splineWeights(u - Math.floor(u)) };
    };
    for (let plane = 0; plane < out.length / area; plane++) {
      for (let y = 0; y < height; y++) {
        const down = place(top + y);
        for (let x = 0; x < width; x++) {
          const along = place(left + x);
          let sum = 0;
          for (let j = 0; j < 4; j++) for (let i = 0; i < 4; i++) sum += down.weights[j] * along.weights[i] * from[plane * inside + (down.first - coarse.y + j) * coarse.width + along.first - coarse.x + i];
          out[plane * area + y * width + x] = sum;
        }
      }
    }
  },
};
