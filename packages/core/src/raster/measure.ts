/**
 * Numbers from a picture: extremes, means, percentiles and a histogram for each channel and for luminance, exact over all pixels that count.
 * They are always taken at one level, whatever is shown: the screen and a delivered file then speak of the same numbers.
 */
import { LUMINANCE_SHARES, MID_GREY } from '../color/luminance.ts';
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import type { Plane } from './planes.ts';
import { sampleReader } from './read.ts';
import { levelWithin, type Size } from './region.ts';
import { sortedFloats } from './sorted.ts';

/** Longest side of the picture that is measured, at most. */
export const ANALYSIS_SIDE = 1536;

/** The level at which a picture is measured. */
export const analysisLevel = (size: Size): number => levelWithin(size, ANALYSIS_SIDE);

/** Light, or picture values from 0 to 1. */
export type Scale = 'light' | 'picture';

export const PERCENTS = [0.1, 1, 5, 25, 50, 75, 95, 99, 99.9] as const;

/** Stops of light around mid grey that its histogram shows. */
export const STOPS = { least: -10, most: 8, each: 8 } as const;

export interface ChannelMeasure {
  readonly min: number;
  readonly max: number;
  readonly mean: number;
  /** Of all pixels, not of a sample of them. */
  readonly deviation: number;
  /** At PERCENTS. Between two values it lies between them: definition 7 of Hyndman and Fan, The American Statistician 50(4), 1996. */
  readonly percentiles: readonly number[];
  /**
   * How many pixels. Picture: the 256 codes of a file of 8 bits. Light: eighths of a stop around mid grey; what is darker or brighter
   * lies in the first and the last.
   */
  readonly bins: readonly number[];
}

export interface Measure {
  readonly pixels: number;
  /** The share of pixels whose colour is cut at an end of the range, and not all of it at the same: too bright or too pure for the space. Of light: those with less than none of a primary. */
  readonly cutShare: number;
  readonly red: ChannelMeasure;
  readonly green: ChannelMeasure;
  readonly blue: ChannelMeasure;
  readonly luminance: ChannelMeasure;
}

/** How each channel and luminance are spread, at PERCENTS. */
export type Spread = Readonly<Record<'red' | 'green' | 'blue' | 'luminance', readonly number[]>>;

/** The spread of a measure in other numbers, which must rise with those that were measured. */
export const spreadOf = ({ red, green, blue, luminance }: Measure, of: (value: number) => number = (value) => value): Spread => ({ red: red.percentiles.map(of), green: green.percentiles.map(of), blue: blue.percentiles.map(of), luminance: luminance.percentiles.map(of) });

/** In which bin of a histogram a value lies. */
export function binOf(value: number, scale: Scale): number {
  // Rounded without a call: scopes count millions.
  if (scale === 'picture') return value > 0 ? (value < 1 ? (value * 255 + 0.5) | 0 : 255) : 0;
  const last = (STOPS.most - STOPS.least) * STOPS.each - 1;
  if (!(value > 0)) return 0;
  return Math.min(last, Math.max(0, Math.floor((Math.log2(value / MID_GREY) - STOPS.least) * STOPS.each)));
}
export const binCount = (scale: Scale): number => (scale === 'picture' ? 256 : (STOPS.most - STOPS.least) * STOPS.each);

/** Where pixels count: at least half covered by it, or, inverted, less. As large as the picture. */
export interface Within {
  readonly plane: Plane;
  readonly inverted: boolean;
}

/**
 * Which pixels of a picture count, by their place in a plane: what is not there has no colour.
 * @param planes red, green, blue premultiplied, and alpha, one after the other
 * @param mask null counts all that are there
 */
export function counts(planes: Float32Array, mask: Within | null): (i: number) => boolean {
  const alpha = planes.subarray((3 * planes.length) / 4);
  if (!mask) return (i) => alpha[i] >= 0.5;
  const weightAt = sampleReader(mask.plane);
  return (i) => alpha[i] >= 0.5 && weightAt(i) >= 0.5 !== mask.inverted;
}

/**
 * @param planes red, green, blue premultiplied, and alpha, one after the other; finite
 * @param mask where pixels count; null counts all
 */
export function measure(planes: Float32Array, scale: Scale, mask: Within | null): Measure {
  const area = planes.length / 4;
  const isCounted = counts(planes, mask);
  const values = [0, 1, 2, 3].map(() => new Float32Array(area));
  let count = 0;
  let cut = 0;
  for (let i = 0; i < area; i++) {
    if (!isCounted(i)) continue;
    const alpha = planes[3 * area + i];
    let luminance = 0;
    let [least, most] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (let c = 0; c < 3; c++) {
      const value = planes[c * area + i] / alpha;
      if (value < least) least = value;
      if (value > most) most = value;
      values[c][count] = value;
      luminance += LUMINANCE_SHARES[c] * (scale === 'picture' ? srgbDecode(value) : value);
    }
    values[3][count] = scale === 'picture' ? srgbEncode(luminance) : luminance;
    count++;
    if (scale === 'light' ? least < 0 : (most >= 1 && least < 1) || (least <= 0 && most > 0)) cut++;
  }
  const [red, green, blue, luminance] = values.map((channel) => channelMeasure(channel.subarray(0, count), scale));
  return { pixels: count, cutShare: count > 0 ? cut / count : 0, red, green, blue, luminance };
}

function channelMeasure(values: Float32Array, scale: Scale): ChannelMeasure {
  const bins = new Array<number>(binCount(scale)).fill(0);
  if (values.length === 0) return { min: 0, max: 0, mean: 0, deviation: 0, percentiles: PERCENTS.map(() => 0), bins };
  let sum = 0;
  for (const value of values) {
    sum += value;
    bins[binOf(value, scale)]++;
  }
  const mean = sum / values.length;
  let squares = 0;
  for (const value of values) squares += (value - mean) ** 2;
  const sorted = sortedFloats(values);
  const percentile = (percent: number) => {
    const at = ((sorted.length - 1) * percent) / 100;
    const below = Math.floor(at);
    return sorted[below] + (at - below) * (sorted[Math.min(sorted.length - 1, below + 1)] - sorted[below]);
  };
  return { min: sorted[0], max: sorted[sorted.length - 1], mean, deviation: Math.sqrt(squares / values.length), percentiles: PERCENTS.map(percentile), bins };
}
