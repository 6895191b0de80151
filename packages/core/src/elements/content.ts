/**
 * What the pixels of an element look like, from a sample of its rows: enough to tell IDs from light, depth from occlusion,
 * and to see common damage. The limits are common practice, no published source.
 */
import { sampleReader } from '../raster/read.ts';
import type { Plane } from '../raster/planes.ts';
import type { RoleGuess } from './roles.ts';
import { colorKeyAt } from './palette-keys.ts';

export interface ContentFacts {
  readonly channels: number;
  readonly integer: boolean;
  readonly bits: number;
  /** Pixels that were looked at. */
  readonly pixels: number;
  readonly least: number;
  readonly most: number;
  readonly mean: number;
  /** Shares of the pixels, 0…1. */
  readonly black: number;
  readonly white: number;
  readonly grey: number;
  /** Whole numbers above 1. */
  readonly whole: number;
  /** Vectors of length 1, as they are or packed into 0…1. */
  readonly unitVectors: number;
  /** Every channel 0 or 1, and at most one of them 1. */
  readonly disjoint: number;
  /** Colours equal to those of the left and the upper neighbour. */
  readonly flat: number;
  /** Different colours in flat places, at most 4097. */
  readonly flatColors: number;
  /** Of the samples and their places: equal for equal pictures. */
  readonly print: number;
}

const SAMPLED_ROWS = 48;
const MANY_COLORS = 4097;
const NEAR = 1 / 254;

/** Pairs of rows to look at, spread over a height; `first` and `last` limit them to rows that are there. */
export function sampledRows(height: number): number[] {
  const count = Math.min(SAMPLED_ROWS, Math.max(1, height - 1));
  return Array.from({ length: count }, (_, i) => Math.min(height - 1, 1 + Math.floor((i * Math.max(1, height - 1)) / count)));
}

/** Looks at some rows (each with the one above it). Planes: one or three of equal size; all values are stored values 0…1 or floats. */
export function contentFacts(planes: readonly Plane[], rows: readonly number[]): ContentFacts {
  const { width, type } = planes[0];
  const integer = type === 'u8' || type === 'u16' || type === 'u32';
  const count = { black: 0, white: 0, grey: 0, whole: 0, unit: 0, disjoint: 0, flat: 0, pixels: 0 };
  let [least, most, sum, print] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 0, 17];
  const colors = new Set<number>();
  const read = planes.map(sampleReader);
  for (const y of rows) {
    for (let x = 1; x < width; x++) {
      const at = y * width + x;
      const v = read.map((value) => value(at));
      const key = colorKeyAt(planes, at);
      count.pixels++;
      for (const value of v) {
        if (value < least) least = value;
        if (value > most) most = value;
        sum += value / v.length;
      }
      print = (Math.imul(print, 31) + (key % 2147483647) + x) | 0;
      if (v.every((value) => Math.abs(value) < NEAR)) count.black++;
      if (v.every((value) => Math.abs(value - 1) < NEAR)) count.white++;
      if (v.every((value) => Math.abs(value - v[0]) <= 1.5 / 255)) count.grey++;
      if (v.every((value) => value > 1 && Number.isInteger(value))) count.whole++;
      if (v.length === 3) {
        const length = Math.hypot(...v);
        const packed = Math.hypot(...v.map((value) => 2 * value - 1));
        if (Math.abs(length - 1) < 0.02 || Math.abs(packed - 1) < 0.03) count.unit++;
        const ones = v.filter((value) => Math.abs(value - 1) < NEAR).length;
        if (ones <= 1 && v.every((value) => Math.abs(value) < NEAR || Math.abs(value - 1) < NEAR)) count.disjoint++;
      }
      if (key === colorKeyAt(planes, at - 1) && (y === 0 || key === colorKeyAt(planes, at - width))) {
        count.flat++;
        if (colors.size < MANY_COLORS) colors.add(key);
      }
    }
  }
  const share = (value: number) => value / Math.max(1, count.pixels);
  return {
    channels: planes.length,
    integer,
    bits: type === 'u8' ? 8 : type === 'u16' || type === 'f16' ? 16 : 32,
    pixels: count.pixels,
    least: count.pixels > 0 ? least : 0,
    most: count.pixels > 0 ? most : 0,
    mean: share(sum),
    black: share(count.black),
    white: share(count.white),
    grey: share(count.grey),
    whole: share(count.whole),
    unitVectors: share(count.unit),
    disjoint: share(count.disjoint),
    flat: share(count.flat),
    flatColors: colors.size,
    print,
  };
}

/** What the pixels say; null if they could be anything. */
export function roleByContent(facts: ContentFacts): RoleGuess | null {
  const { channels, black, white, grey, flat, flatColors, least, most, mean } = facts;
  if (facts.pixels < 64) return null;
  if (channels === 3) {
    if (facts.unitVectors > 0.9 && flat < 0.98 && grey < 0.9) return { role: 'normals', reason: 'its colours are vectors of length one', confidence: 0.8 };
    if (facts.disjoint > 0.95 && black < 0.98 && grey < 0.98) return { role: 'rgb-matte', reason: 'red, green and blue are three masks that do not overlap', confidence: 0.75 };
    if (flat > 0.6 && flatColors >= 3 && flatColors < 2000 && grey < 0.9 && most <= 1 && black < 0.9) return { role: 'material-id', reason: `it is painted in ${flatColors} flat colours`, confidence: 0.65 };
  }
  const oneValue = channels === 1 || grey > 0.99;
  if (!oneValue) return null;
  if (channels === 1 && facts.whole > 0.8 && flat > 0.6) return { role: 'object-id', reason: 'it holds whole numbers in flat areas', confidence: 0.6 };
  if (channels === 1 && !facts.integer && most > 2 && least >= 0 && flat < 0.9) return { role: 'depth', reason: 'one channel that grows to more than two: distances', confidence: 0.55 };
  if (least >= 0 && most <= 1.001) {
    if (black + white > 0.9 && black > 0.01 && white > 0.01) return { role: 'alpha', reason: 'it is almost everywhere black or white', confidence: 0.5 };
    if (white > 0.15 && mean > 0.6) return { role: 'ambient-occlusion', reason: 'it is white with dark creases', confidence: 0.55 };
    if (black > 0.15 && mean < 0.35) return { role: 'ambient-occlusion', reason: 'it is black with light creases: occlusion the other way round', confidence: 0.4 };
  }
  return null;
}
