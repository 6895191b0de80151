/**
 * A picture as another lens would have drawn it: turned in space, bent along its radius, each colour a little larger or smaller. Maps go from places in the new picture to
 * places in the old one, in pixels of the full picture.
 * @source D. C. Brown, “Close-Range Camera Calibration”, Photogrammetric Engineering 37(8), 1971 (radial terms); homography of a turned camera: Hartley and Zisserman, Multiple View Geometry, 8.4
 */
import type { Triple } from '../vector.ts';
import { cubic } from './filters.ts';
import type { Homography } from './homography.ts';
import { boundedLight } from './read.ts';
import type { Size } from './region.ts';

export interface Bend {
  /** Rows of a matrix on homogeneous places. */
  readonly homography: Homography;
  readonly middle: readonly [x: number, y: number];
  /** Length of the radius 1: to a corner. */
  readonly unitPx: number;
  /** Radius r becomes r (1 + k₁ r² + k₂ r⁴), or is what becomes r. */
  readonly radial: readonly [k1: number, k2: number];
  readonly isInverse: boolean;
  /** By how much red, green and blue are read farther out. */
  readonly channels: Triple;
  /** Of the new picture only this part, around its middle, is shown, as large as the whole. */
  readonly zoom: number;
}

export const UNBENT = [1, 0, 0, 0, 1, 0, 0, 0, 1] as const;

/** Nothing but a map that keeps lines straight. */
export const projective = (homography: Homography): Bend => ({ homography, middle: [0, 0], unitPx: 1, radial: [0, 0], isInverse: false, channels: [1, 1, 1], zoom: 1 });

/** Where a radial curve has no inverse, it is the nearest. */
export function radiusThere(r: number, [k1, k2]: readonly [number, number], isInverse: boolean): number {
  if (!isInverse) return r * (1 + k1 * r * r + k2 * r ** 4);
  let u = r;
  for (let n = 0; n < 12; n++) {
    const slope = 1 + 3 * k1 * u * u + 5 * k2 * u ** 4;
    u -= (u * (1 + k1 * u * u + k2 * u ** 4) - r) / Math.max(0.05, slope);
  }
  return u;
}

/** The part of a radial curve that can be turned round: beyond some radius up to 1.2 it would fold back. Its terms, less of each where it would. */
export function unfolded([k1, k2]: readonly [number, number]): readonly [number, number] {
  let part = 1;
  const folds = (by: number) => {
    for (let r = 0; r <= 1.2; r += 0.02) if (1 + by * (3 * k1 * r * r + 5 * k2 * r ** 4) < 0.1) return true;
    return false;
  };
  while (part > 0.01 && folds(part)) part -= 0.01;
  return [k1 * part, k2 * part];
}

/** Of a place before the turned camera, as a share of that of the middle. */
const LEAST_DEPTH = 0.02;

/** Where a place of the new picture lies in the old one, for a channel; into `out`. */
export function bentInto({ homography: h, middle: [cx, cy], unitPx, radial, isInverse, channels, zoom }: Bend, x: number, y: number, channel: number, out: Float64Array): void {
  const [px, py] = [cx + (x - cx) * zoom, cy + (y - cy) * zoom];
  // What would lie behind the camera lies very far outside.
  const w = Math.max(LEAST_DEPTH, h[6] * px + h[7] * py + h[8]);
  const [dx, dy] = [(h[0] * px + h[1] * py + h[2]) / w - cx, (h[3] * px + h[4] * py + h[5]) / w - cy];
  const r = Math.hypot(dx, dy) / unitPx;
  const isRadial = radial[0] !== 0 || radial[1] !== 0;
  const by = (isRadial && r > 0 ? radiusThere(r, radial, isInverse) / r : 1) * channels[channel];
  out[0] = cx + dx * by;
  out[1] = cy + dy * by;
}

/** How much of the new picture, around its middle, can be shown so that nothing lies outside the old one. */
export function zoomToFill(bend: Omit<Bend, 'zoom'>, { width, height }: Size): number {
  const at = new Float64Array(2);
  const isInside = (zoom: number) => {
    for (let n = 0; n <= 64; n++) {
      for (const [x, y] of [[(n / 64) * width, 0], [(n / 64) * width, height], [0, (n / 64) * height], [width, (n / 64) * height]]) {
        bentInto({ ...bend, zoom }, x, y, 1, at);
        if (!(at[0] >= -0.01 && at[1] >= -0.01 && at[0] <= width + 0.01 && at[1] <= height + 0.01)) return false;
      }
    }
    return true;
  };
  // Above 1 more is seen than before: a lens that draws its corners farther out has more to show.
  let [low, high] = [0.05, 2];
  for (let n = 0; n < 30; n++) {
    const between = (low + high) / 2;
    if (isInside(between)) low = between;
    else high = between;
  }
  return low;
}

/** Colours are read apart, and by nothing else are places moved: they go by green. */
export const keepsPlaces = ({ homography, radial, channels, zoom }: Bend): boolean => zoom === 1 && channels[1] === 1 && radial.every((k) => k === 0) && homography.every((value, i) => value === UNBENT[i]);

/** A place in pixels of the full picture. */
type At = readonly [x: number, y: number];

const there = new Float64Array(2);
/** Where what is seen at a place lay before it was bent, the last bend being that on top. */
export function placeBehind(bends: readonly Bend[], [x, y]: At): At {
  there.set([x, y]);
  for (let i = bends.length - 1; i >= 0; i--) bentInto(bends[i], there[0], there[1], 1, there);
  return [there[0], there[1]];
}

/** Steps towards a place, and what is near enough, in pixels. */
const [SEEKING_STEPS, NEAR_ENOUGH] = [30, 1e-3];
/** Where a place is seen once it is bent: the other way round. What is seen nowhere has the nearest place that was found. */
export function placeSeen(bends: readonly Bend[], [x, y]: At): At {
  if (bends.length === 0) return [x, y];
  let at: At = [x, y];
  for (let n = 0; n < SEEKING_STEPS; n++) {
    const [u, v] = placeBehind(bends, at);
    const [dx, dy] = [x - u, y - v];
    if (Math.hypot(dx, dy) < NEAR_ENOUGH) break;
    // Newton’s method, by differences of a pixel.
    const [ux, vx] = placeBehind(bends, [at[0] + 1, at[1]]);
    const [uy, vy] = placeBehind(bends, [at[0], at[1] + 1]);
    const [a, b, c, d] = [ux - u, uy - u, vx - v, vy - v];
    const area = a * d - b * c;
    at = Math.abs(area) < 1e-6 ? [at[0] + dx, at[1] + dy] : [at[0] + (d * dx - b * dy) / area, at[1] + (a * dy - c * dx) / area];
  }
  return at;
}

/** Weights by distance: Catmull–Rom, which keeps what is sharp. @source E. Catmull, R. Rom, 1974 */
const catmullRom = cubic(0, 1 / 2);
const weightsOf = (t: number) => [t + 1, t, 1 - t, 2 - t].map(catmullRom);

/** The definition of the loop. The kernel is compared with it. */
export interface BendLoop {
  /** One plane at places (`u`, `v`: in pixels of `from`, centres at a half, at least two pixels within it). */
  sample(out: Float32Array, from: Float32Array, across: number, u: Float32Array, v: Float32Array): void;
}

export const referenceBend: BendLoop = {
  sample: (out, from, across, u, v) => {
    for (let i = 0; i < out.length; i++) {
      const [x, y] = [Math.fround(u[i] - 0.5), Math.fround(v[i] - 0.5)];
      const [left, top] = [Math.floor(x), Math.floor(y)];
      const [wx, wy] = [weightsOf(x - left), weightsOf(y - top)];
      let sum = 0;
      for (let b = 0; b < 4; b++) for (let a = 0; a < 4; a++) sum += wy[b] * wx[a] * boundedLight(from[(top - 1 + b) * across + left - 1 + a]);
      out[i] = sum;
    }
  },
};
