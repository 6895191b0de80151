/**
 * Depth of field after rendering. What is seen is taken apart by how large a point is drawn there (its circle of confusion) into slices from the nearest to the farthest;
 * each is blurred by its own opening, and they are laid on one another from the front. What a slice covers nothing of lets the next ones through, what lies behind something
 * near and was never seen is filled from around.
 * @source slices: M. Kraus, M. Strengert, “Depth-of-Field Rendering by Pyramidal Image Processing”, Computer Graphics Forum 26(3), 2007; circles: thin lens, S. F. Ray, Applied Photographic Optics
 */
import type { Taps } from './aperture.ts';
import { boundedLight, LARGEST_LIGHT } from './read.ts';
import type { Region } from './region.ts';
import { SKY_METRES } from './sides.ts';

/** How large points are drawn, as radii in pixels: none between two distances; behind them what is farther grows towards `farPx`, before them it grows without an end, but for `mostPx`. */
export interface FocusLens {
  readonly nearMetres: number;
  readonly farMetres: number;
  /** Radius of what is infinitely far away, were the lens focused at one or the other. */
  readonly nearPx: number;
  readonly farPx: number;
  readonly mostPx: number;
}

/** Radius of the circle of a depth in metres: before what is sharp below 0. What is not beyond 0 is a hole in the depth, which shows sky, too. */
export function circleOf({ nearMetres, farMetres, nearPx, farPx, mostPx }: FocusLens, metres: number): number {
  const isSky = !(metres > 0 && metres < SKY_METRES);
  const behind = isSky ? farPx : farPx * (1 - farMetres / metres);
  const before = isSky ? 0 : nearPx * (1 - nearMetres / metres);
  return Math.max(-mostPx, Math.min(0, before)) + Math.min(mostPx, Math.max(0, behind));
}

/** What belongs to a slice, by its circle: all between two limits; across each it fades over a width. */
export interface SliceRange {
  readonly from: number;
  readonly fromWidth: number;
  readonly to: number;
  readonly toWidth: number;
}

const ramp = (x: number) => Math.min(1, Math.max(0, x));
export const sliceWeight = ({ from, fromWidth, to, toWidth }: SliceRange, circle: number): number => Math.max(0, ramp((circle - from) / fromWidth + 0.5) - ramp((circle - to) / toWidth + 0.5));

/** Planes of a slice: red, green and blue under alpha and its weight, the weight, and alpha under the weight. */
export const SLICE_PLANES = 5;

/** A pixel that is farther than this from what its shares would make, by what lies between near and far, is no mixture of them. */
const UNLIKE = 0.25;

/** A part of a picture and the opening by which it is seen. */
export interface OpenPart {
  readonly part: Region;
  readonly taps: Taps;
}

/** The definitions of the loops. The kernels are compared with them. */
export interface FocusLoops {
  /**
   * Colours of pixels on edges taken apart: what is near is as its neighbours on the near thing are, what is far as those on the far one; where there are none on one
   * side, as what is left of the pixel. Four planes each, of width × height, from planes that reach a pixel beyond on each side.
   */
  parted(out: Float32Array, planes: Float32Array, sides: Float32Array, width: number, height: number): void;
  /** Near and far metres to circles: two planes. Returns the least and the most. */
  circles(out: Float32Array, near: Float32Array, far: Float32Array, lens: FocusLens): readonly [least: number, most: number];
  /** What of a picture belongs to a slice. `planes` are eight: what is near in each pixel, and what is far; `circles` are theirs, `share` is how much of a pixel is the far one. Says whether anything does. */
  slice(out: Float32Array, planes: Float32Array, circles: Float32Array, share: Float32Array, range: SliceRange): boolean;
  /** Rectangles of `out` (`width` wide), each by its opening, of one that reaches beyond by `reach` on each side. */
  disc(out: Float32Array, from: Float32Array, width: number, height: number, reach: number, parts: readonly OpenPart[]): void;
  /** Lays a slice behind what is there: it takes what is left of each pixel, as far as it covers it. */
  behind(sum: Float32Array, slice: Float32Array): void;
  /** What is far goes on behind what hides it: it takes what is left, as far as enough of it is seen. `front` is what is not behind what is sharp. */
  continued(sum: Float32Array, front: Float32Array): void;
  /** Colours and alpha (four planes) out of sums under their weight, colours times a gain. */
  weighed(out: Float32Array, sum: Float32Array, gain: number): void;
}

/** Of what is far so much must be seen before it goes on behind all that hides it. */
export const ENOUGH_SEEN = 0.25;
/** Less than this of a slice is nothing of it. */
const LEAST_WEIGHT = 1e-6;

export const referenceFocus: FocusLoops = {
  parted: (out, planes, sides, width, height) => {
    const across = width + 2;
    const [area, inside] = [width * height, across * (height + 2)];
    const neighbours = [-across - 1, -across, -across + 1, -1, 1, across - 1, across, across + 1];
    for (let y = 0, to = 0; y < height; y++) {
      for (let x = 0; x < width; x++, to++) {
        const i = (y + 1) * across + x + 1;
        const share = sides[2 * inside + i];
        const between = (sides[i] + sides[inside + i]) / 2;
        const alike = neighbours.filter((by) => share > 0 && sides[2 * inside + i + by] === 0);
        const [near, far] = [alike.filter((by) => sides[i + by] < between), alike.filter((by) => sides[i + by] >= between)];
        const parts = [0, 1, 2, 3].map((plane) => {
          const most = plane === 3 ? 1 : LARGEST_LIGHT;
          const own = Math.min(most, boundedLight(planes[plane * inside + i]));
          const mean = (of: readonly number[]) => of.reduce((sum, by) => sum + boundedLight(planes[plane * inside + i + by]), 0) / of.length;
          const rest = (of: readonly number[], part: number) => (of.length > 0 ? Math.max(0, (own - part * mean(of)) / (1 - part)) : own);
          return { own, near: Math.min(most, near.length > 0 ? mean(near) : rest(far, share)), far: Math.min(most, far.length > 0 ? mean(far) : rest(near, 1 - share)) };
        });
        const sum = (of: (part: (typeof parts)[number]) => number) => parts.reduce((total, part) => total + Math.abs(of(part)), 0);
        // Depth that only grows fast, as of ground far away: its pixels are no mixture of their neighbours.
        const isMixed = sum((part) => part.own - part.near - share * (part.far - part.near)) <= UNLIKE * sum((part) => part.far - part.near);
        for (const [plane, part] of parts.entries()) {
          out[plane * area + to] = isMixed ? part.near : part.own;
          out[(4 + plane) * area + to] = isMixed ? part.far : part.own;
        }
      }
    }
  },
  circles: (out, near, far, lens) => {
    const area = near.length;
    let [least, most] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (let i = 0; i < area; i++) {
      out[i] = circleOf(lens, near[i]);
      out[area + i] = circleOf(lens, far[i]);
      least = Math.min(least, out[i], out[area + i]);
      most = Math.max(most, out[i], out[area + i]);
    }
    return [least, most];
  },
  slice: (out, planes, circles, share, range) => {
    const area = share.length;
    let isThere = false;
    for (let i = 0; i < area; i++) {
      const near = (1 - share[i]) * sliceWeight(range, circles[i]);
      const far = share[i] * sliceWeight(range, circles[area + i]);
      const of = (c: number) => near * planes[c * area + i] + far * planes[(4 + c) * area + i];
      for (let c = 0; c < 3; c++) out[c * area + i] = of(c);
      out[3 * area + i] = near + far;
      out[4 * area + i] = of(3);
      isThere ||= near + far > 0;
    }
    return isThere;
  },
  disc: (out, from, width, height, reach, parts) => {
    const across = width + 2 * reach;
    const [area, inside] = [width * height, across * (height + 2 * reach)];
    for (let plane = 0; plane < out.length / area; plane++) {
      for (const { part, taps } of parts)
      for (let y = part.y; y < part.y + part.height; y++) {
        for (let x = part.x; x < part.x + part.width; x++) {
          const at = plane * inside + (y + reach) * across + x + reach;
          let sum = 0;
          for (let n = 0; n < taps.full; n++) sum += from[at + taps.dy[n] * across + taps.dx[n]];
          sum *= taps.weights[0];
          for (let n = taps.full; n < taps.weights.length; n++) sum += taps.weights[n] * from[at + taps.dy[n] * across + taps.dx[n]];
          out[plane * area + y * width + x] = sum;
        }
      }
    }
  },
  behind: (sum, slice) => {
    const area = sum.length / SLICE_PLANES;
    for (let i = 0; i < area; i++) {
      const covers = slice[3 * area + i];
      if (!(covers > LEAST_WEIGHT)) continue;
      const part = Math.max(0, Math.min(1, (1 - sum[3 * area + i]) / covers));
      for (let plane = 0; plane < SLICE_PLANES; plane++) sum[plane * area + i] += part * slice[plane * area + i];
    }
  },
  continued: (sum, front) => {
    const area = sum.length / SLICE_PLANES;
    for (let i = 0; i < area; i++) {
      const [covers, before] = [sum[3 * area + i], front[3 * area + i]];
      const seen = covers - before;
      if (covers >= 1 || !(seen > 0)) continue;
      const more = (Math.min(1, seen / ENOUGH_SEEN) * (1 - covers)) / seen;
      for (let plane = 0; plane < SLICE_PLANES; plane++) sum[plane * area + i] += more * (sum[plane * area + i] - front[plane * area + i]);
    }
  },
  weighed: (out, sum, gain) => {
    const area = sum.length / SLICE_PLANES;
    for (let i = 0; i < area; i++) {
      const covers = sum[3 * area + i];
      const part = covers > 0 ? 1 / covers : 0;
      for (let c = 0; c < 3; c++) out[c * area + i] = sum[c * area + i] * part * gain;
      out[3 * area + i] = Math.min(1, sum[4 * area + i] * part);
    }
  },
};
