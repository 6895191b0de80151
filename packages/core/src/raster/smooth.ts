/**
 * One pass of a smoothing that stops at edges: 25 pixels around, `distance` apart, weighed by the cubic B-spline and by how alike they are, in light and in the guides.
 * @source H. Dammertz et al., “Edge-Avoiding À-Trous Wavelet Transform for fast Global Illumination Filtering”, HPG 2010
 */
import { stopsOf } from './local.ts';
import { boundedLight } from './read.ts';

/** A picture whose edges are followed: four planes, of which the first three are compared. */
export interface SmoothGuide {
  readonly planes: Float32Array;
  /** Differences (as a distance of three numbers) that count as the same. */
  readonly width: number;
}

/** The definition of the loop. The kernel is compared with it. */
export interface SmoothLoop {
  /** `planes` and guides reach beyond width × height by twice the distance on each side. What is no number counts as 0; guides are finite. */
  smooth(out: Float32Array, planes: Float32Array, guides: readonly SmoothGuide[], width: number, height: number, distance: number, lightStops: number): void;
}

/** What is more unlike than this (a likeness of 2⁻²⁰) has no part in it: else next to nothing would come to where nothing is. */
const LEAST_LIKE = 20 * Math.LN2;
const SPLINE = [1 / 16, 1 / 4, 3 / 8, 1 / 4, 1 / 16];

export const referenceSmooth: SmoothLoop = {
  smooth: (out, planes, guides, width, height, distance, lightStops) => {
    const [across, area] = [width + 4 * distance, width * height];
    const inside = planes.length / 4;
    const apart = (of: Float32Array, a: number, b: number, by: (value: number) => number) => [0, 1, 2].reduce((sum, c) => sum + (by(of[c * inside + a]) - by(of[c * inside + b])) ** 2, 0);
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const here = (y + 2 * distance) * across + x + 2 * distance;
        const sums = [0, 0, 0, 0];
        let total = 0;
        for (let j = 0; j < 5; j++) {
          for (let i = 0; i < 5; i++) {
            const there = (y + j * distance) * across + x + i * distance;
            let exponent = apart(planes, here, there, stopsOf) / lightStops ** 2;
            for (const guide of guides) exponent += apart(guide.planes, here, there, (value) => value) / guide.width ** 2;
            const weight = exponent < LEAST_LIKE ? SPLINE[i] * SPLINE[j] * Math.exp(-exponent) : 0;
            total += weight;
            for (let plane = 0; plane < 4; plane++) sums[plane] += weight * boundedLight(planes[plane * inside + there]);
          }
        }
        for (let plane = 0; plane < 4; plane++) out[plane * area + y * width + x] = sums[plane] / total;
      }
    }
  },
};
