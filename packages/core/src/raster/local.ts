/**
 * Light taken apart by size: what changes slowly (a base, which keeps its edges) and what lies on it. Everything is in stops of luminance, so that a factor of light
 * is a difference. A base is a guided filter of the picture by itself, with Gaussian windows in place of square ones; its line is fitted on a reduced picture where
 * the window is large, so that the time does not grow with it.
 * @source K. He, J. Sun, X. Tang, “Guided Image Filtering”, IEEE TPAMI 35(6), 2013; K. He, J. Sun, “Fast Guided Filter”, 2015 (arXiv:1505.00996); in stops: F. Durand,
 * J. Dorsey, “Fast Bilateral Filtering for the Display of High-Dynamic-Range Images”, SIGGRAPH 2002
 */
import { luminanceOf } from '../color/luminance.ts';
import { LARGEST_LIGHT } from './read.ts';

/** Added to luminance, so that the dark has an end: ten stops below 1. */
export const FLOOR = 2 ** -10;
/** No pixel becomes lighter or darker than by this. */
export const MOST_STOPS = 8;

/** Stops over which a curve of bases is given, and entries for each. */
export const CURVE_FROM = -10;
export const CURVE_STOPS = 16;
export const CURVE_STEPS = 256;

/** What is done with the parts, as plain data. */
export interface LocalWeights {
  /** What the light between two neighbouring bases is multiplied with, less 1; the first is between the picture and its finest base. */
  readonly amounts: readonly number[];
  /** Differences up to this many stops stay as they are, for each amount. */
  readonly thresholds: readonly number[];
  /** Stops that are added over the coarsest base: `CURVE_STEPS` + 1 entries. */
  readonly curve: readonly number[] | null;
}

/** Luminance in stops; what is no number counts as black. */
export function stopsOf(luminance: number): number {
  return Math.log2((luminance > 0 ? Math.min(LARGEST_LIGHT, luminance) : 0) + FLOOR);
}

/** What of a difference lies beyond a threshold. */
export const beyond = (difference: number, threshold: number): number => Math.sign(difference) * Math.max(0, Math.abs(difference) - threshold);

export function curveAt(curve: ArrayLike<number>, stops: number): number {
  const at = Math.min(CURVE_STEPS, Math.max(0, ((stops - CURVE_FROM) / CURVE_STOPS) * CURVE_STEPS));
  const whole = Math.min(Math.floor(at), CURVE_STEPS - 1);
  return curve[whole] + (at - whole) * (curve[whole + 1] - curve[whole]);
}

/** The definitions of the three loops, over planes of `area` numbers. The kernels are compared with them. */
export interface LocalLoops {
  /** Red, green, blue and alpha (premultiplied) to stops, their square, and alpha; the first two weighed with alpha. */
  moments(out: Float32Array, planes: Float32Array, area: number): void;
  /** Smoothed moments to the line `a` × stops + `b` that the base follows. Where the light varies by much more than `edgeStops` it follows the picture. */
  fit(out: Float32Array, moments: Float32Array, area: number, edgeStops: number): void;
  /** The picture with its parts weighed anew. `lines` are two planes for each base, from fine to coarse. */
  local(out: Float32Array, planes: Float32Array, lines: readonly Float32Array[], area: number, weights: LocalWeights): void;
}

/** Less than this of alpha is nothing. */
export const LEAST_ALPHA = 1e-6;

const luminanceAt = (planes: Float32Array, area: number, i: number) => {
  const alpha = planes[3 * area + i];
  return alpha > LEAST_ALPHA ? luminanceOf([planes[i], planes[area + i], planes[2 * area + i]]) / alpha : 0;
};

export const referenceLocal: LocalLoops = {
  moments: (out, planes, area) => {
    for (let i = 0; i < area; i++) {
      const stops = stopsOf(luminanceAt(planes, area, i));
      const alpha = planes[3 * area + i];
      out[i] = stops * alpha;
      out[area + i] = stops * stops * alpha;
      out[2 * area + i] = alpha;
    }
  },
  fit: (out, moments, area, edgeStops) => {
    for (let i = 0; i < area; i++) {
      const alpha = moments[2 * area + i];
      const mean = alpha > LEAST_ALPHA ? moments[i] / alpha : 0;
      const variance = alpha > LEAST_ALPHA ? Math.max(0, moments[area + i] / alpha - mean * mean) : 0;
      const a = variance / (variance + edgeStops * edgeStops);
      out[i] = a;
      out[area + i] = mean - a * mean;
    }
  },
  local: (out, planes, lines, area, { amounts, thresholds, curve }) => {
    for (let i = 0; i < area; i++) {
      const stops = stopsOf(luminanceAt(planes, area, i));
      let [change, finer] = [0, stops];
      for (const [n, line] of lines.entries()) {
        const base = line[i] * stops + line[area + i];
        change += amounts[n] * beyond(finer - base, thresholds[n]);
        finer = base;
      }
      if (curve) change += curveAt(curve, finer);
      const gain = 2 ** Math.min(MOST_STOPS, Math.max(-MOST_STOPS, change));
      for (let plane = 0; plane < 3; plane++) out[plane * area + i] = planes[plane * area + i] * gain;
      out[3 * area + i] = planes[3 * area + i];
    }
  },
};
