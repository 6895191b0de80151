/**
 * What the pixels of an element look like, from a sample of its rows: enough to tell IDs from light, depth from occlusion,
 * and to see common damage. The limits are common practice, no published source.
 */
import { sampleReader } from '../raster/read.ts';
import type { Plane } from '../raster/planes.ts';
import type { RoleGuess } from './roles.ts';
import { colorKeyAt, sameColors } from './palette-keys.ts';

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
  const channels = planes.length;
  const read = planes.map(sampleReader);
  const same = sameColors(planes);
  const line = read.map(() => new Float64Array(width));
  for (const y of rows) {
    // A row at a time, so that each loop reads one kind of sample.
    for (let c = 0; c < channels; c++) for (let x = 0; x < width; x++) line[c][x] = read[c](y * width + x);
    for (let x = 1; x < width; x++) {
      const at = y * width + x;
      const first = line[0][x];
      let [blacks, whites, greys, wholes] = [0, 0, 0, 0];
      let [squares, packed] = [0, 0];
      for (let c = 0; c < channels; c++) {
        const value = line[c][x];
        if (value < least) least = value;
        if (value > most) most = value;
        sum += value / channels;
        if (Math.abs(value) < NEAR) blacks++;
        else if (Math.abs(value - 1) < NEAR) whites++;
        if (Math.abs(value - first) <= 1.5 / 255) greys++;
        if (value > 1 && Number.isInteger(value)) wholes++;
        squares += value * value;
        packed += (2 * value - 1) ** 2;
      }
      count.pixels++;
      if (blacks === channels) count.black++;
      if (whites === channels) count.white++;
      if (greys === channels) count.grey++;
      if (wholes === channels) count.whole++;
      if (channels === 3) {
        if (Math.abs(Math.sqrt(squares) - 1) < 0.02 || Math.abs(Math.sqrt(packed) - 1) < 0.03) count.unit++;
        if (whites <= 1 && blacks + whites === 3) count.disjoint++;
      }
      const key = colorKeyAt(planes, at);
      print = (Math.imul(print, 31) + (key % 2147483647) + x) | 0;
      if (same(at, at - 1) && (y === 0 || same(at, at - width))) {
        count.flat++;
        if (colors.size < MANY_COLORS) colors.add(key);
      }
    }
  }
  const share = (value: number) => value / Math.max(1, count.pixels);
  return {
    channels,
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
