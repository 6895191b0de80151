/** How many pixels of a picture have which value at which column, and which colour: for a waveform, a parade of channels and a vectorscope. */
import { LUMINANCE_SHARES, luminanceOf } from '../color/luminance.ts';
import { clampUnit, srgbDecode, srgbEncode } from '../color/srgb.ts';
import { binCount, binOf, type Scale } from './measure.ts';
import { levelWithin, type Size } from './region.ts';

export const SCOPE_COLUMNS = 256;
/** Longest side of the picture that is counted, at most: scopes follow every step of a slider. */
const COUNTED_SIDE = 512;

/** The level at which a picture is counted. */
export const scopeLevel = (size: Size): number => levelWithin(size, COUNTED_SIDE);

/** Cells of a vectorscope in each direction. */
export const SCOPE_SIDE = 128;

/** Counts of pixels. Waveforms: columns of the picture from the left, each with values from the least up, as many as a histogram of that scale has. */
export interface Scopes {
  readonly values: number;
  readonly red: Uint32Array;
  readonly green: Uint32Array;
  readonly blue: Uint32Array;
  readonly luminance: Uint32Array;
  /** Differences of colour, Cb to the right and Cr upwards, from −0.5 to 0.5: of the values as they are, and of light. */
  readonly encoded: Uint32Array;
  readonly linear: Uint32Array;
}

const [KR, KG, KB] = LUMINANCE_SHARES;
/** What differences of colour are divided by, so that they reach from −0.5 to 0.5. @source ITU-R BT.709-6, 3.3 and 3.4 */
const [CB_SCALE, CR_SCALE] = [2 - 2 * KB, 2 - 2 * KR];

/** Differences of colour of values from 0 to 1. */
export function colourDifference(rgb: readonly number[]): readonly [cb: number, cr: number] {
  const y = luminanceOf(rgb);
  return [(rgb[2] - y) / CB_SCALE, (rgb[0] - y) / CR_SCALE];
}

const placeOf = (difference: number) => (difference > -0.5 ? (difference < 0.5 ? ((difference + 0.5) * SCOPE_SIDE) | 0 : SCOPE_SIDE - 1) : 0);
const cellAt = (cb: number, cr: number) => (SCOPE_SIDE - 1 - placeOf(cr)) * SCOPE_SIDE + placeOf(cb);
/** In which cell of a vectorscope it lies, counted row by row from the top. */
export const cellOf = ([cb, cr]: readonly [number, number]): number => cellAt(cb, cr);

/** Light of picture values, over steps that are fine enough for counting. */
const DECODED = Float32Array.from({ length: 4096 }, (_, i) => srgbDecode(i / 4095));
/** Picture values of light, and the bins in which they lie; steps are finer in the dark: over square roots. */
const ENCODED = Float32Array.from({ length: 4096 }, (_, i) => srgbEncode((i / 4095) ** 2));
const ENCODED_BINS = Uint8Array.from(ENCODED, (value) => binOf(value, 'picture'));
/** Its place among them, for 0 to 1. */
const stepOf = (value: number) => (value * 4095 + 0.5) | 0;
/** The bin of a picture value, for 0 to 1: asking binOf for it takes twice as long. */
const codeOf = (value: number) => (value * 255 + 0.5) | 0;

function cell(r: number, g: number, b: number): number {
  const y = KR * r + KG * g + KB * b;
  return cellAt((b - y) / CB_SCALE, (r - y) / CR_SCALE);
}

/**
 * Live while one works: no pixel costs an allocation or a power.
 * @param planes red, green, blue premultiplied, and alpha, one after the other; finite
 */
export function scopesOf(planes: Float32Array, { width, height }: Size, scale: Scale): Scopes {
  const area = width * height;
  const values = binCount(scale);
  const [red, green, blue, luminance] = [0, 1, 2, 3].map(() => new Uint32Array(SCOPE_COLUMNS * values));
  const [ofValues, ofLight] = [0, 1].map(() => new Uint32Array(SCOPE_SIDE ** 2));
  const isPicture = scale === 'picture';
  for (let row = 0, i = 0; row < height; row++) {
    for (let x = 0; x < width; x++, i++) {
      const alpha = planes[3 * area + i];
      if (!(alpha >= 0.5)) continue;
      const at = (((x * SCOPE_COLUMNS) / width) | 0) * values;
      const r = planes[i] / alpha;
      const g = planes[area + i] / alpha;
      const b = planes[2 * area + i] / alpha;
      const ur = clampUnit(r);
      const ug = clampUnit(g);
      const ub = clampUnit(b);
      if (isPicture) {
        red[at + codeOf(ur)]++;
        green[at + codeOf(ug)]++;
        blue[at + codeOf(ub)]++;
        const lr = DECODED[stepOf(ur)];
        const lg = DECODED[stepOf(ug)];
        const lb = DECODED[stepOf(ub)];
        luminance[at + ENCODED_BINS[stepOf(Math.sqrt(KR * lr + KG * lg + KB * lb))]]++;
        ofValues[cell(ur, ug, ub)]++;
        ofLight[cell(lr, lg, lb)]++;
      } else {
        red[at + binOf(r, scale)]++;
        green[at + binOf(g, scale)]++;
        blue[at + binOf(b, scale)]++;
        luminance[at + binOf(KR * r + KG * g + KB * b, scale)]++;
        ofValues[cell(ENCODED[stepOf(Math.sqrt(ur))], ENCODED[stepOf(Math.sqrt(ug))], ENCODED[stepOf(Math.sqrt(ub))])]++;
        ofLight[cell(ur, ug, ub)]++;
      }
    }
  }
  return { values, red, green, blue, luminance, encoded: ofValues, linear: ofLight };
}
