/** How many pixels of a picture have which value at which column, and which colour: for a waveform, a parade of channels and a vectorscope. */
import { LUMINANCE_SHARES, luminanceOf } from '../color/luminance.ts';
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import { binCount, binOf, type Scale } from './measure.ts';
import type { Size } from './region.ts';

export const SCOPE_COLUMNS = 256;
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

const [KR, , KB] = LUMINANCE_SHARES;
/** Differences of colour of values from 0 to 1. @source ITU-R BT.709-6, 3.3 and 3.4 */
export function colourDifference(rgb: readonly number[]): readonly [cb: number, cr: number] {
  const y = luminanceOf(rgb);
  return [(rgb[2] - y) / (2 - 2 * KB), (rgb[0] - y) / (2 - 2 * KR)];
}
/** In which cell of a vectorscope it lies, counted row by row from the top. */
export function cellOf([cb, cr]: readonly [number, number]): number {
  const at = (value: number) => Math.min(SCOPE_SIDE - 1, Math.max(0, Math.floor((value + 0.5) * SCOPE_SIDE)));
  return (SCOPE_SIDE - 1 - at(cr)) * SCOPE_SIDE + at(cb);
}

/** @param planes red, green, blue premultiplied, and alpha, one after the other; finite */
export function scopesOf(planes: Float32Array, { width, height }: Size, scale: Scale): Scopes {
  const area = width * height;
  const values = binCount(scale);
  const [red, green, blue, luminance] = [0, 1, 2, 3].map(() => new Uint32Array(SCOPE_COLUMNS * values));
  const [encoded, linear] = [0, 1].map(() => new Uint32Array(SCOPE_SIDE ** 2));
  const columnOf = Uint32Array.from({ length: width }, (_, x) => Math.floor((x * SCOPE_COLUMNS) / width) * values);
  for (let i = 0; i < area; i++) {
    const alpha = planes[3 * area + i];
    if (!(alpha >= 0.5)) continue;
    const rgb = [planes[i] / alpha, planes[area + i] / alpha, planes[2 * area + i] / alpha];
    const shown = scale === 'picture' ? rgb : rgb.map(srgbEncode);
    const light = scale === 'picture' ? rgb.map(srgbDecode) : rgb.map((value) => Math.min(1, Math.max(0, value)));
    const column = columnOf[i % width];
    red[column + binOf(rgb[0], scale)]++;
    green[column + binOf(rgb[1], scale)]++;
    blue[column + binOf(rgb[2], scale)]++;
    luminance[column + binOf(scale === 'picture' ? srgbEncode(luminanceOf(light)) : luminanceOf(rgb), scale)]++;
    encoded[cellOf(colourDifference(shown))]++;
    linear[cellOf(colourDifference(light))]++;
  }
  return { values, red, green, blue, luminance, encoded, linear };
}
