/**
 * TIFF, written: one picture in strips or tiles, little endian, packed by deflate or LZW after differences between neighbours, or plain.
 * @source TIFF 6.0 (Adobe, 1992), its tags by their numbers; compression 8 and predictor 2: TIFF Technical Notes (2002); predictor 3 for floats: TIFF Technical Note 3 (2005)
 */
import type { Size } from '@tazzel/core';
import type { Platform } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { packLzw } from './lzw.ts';

export type TiffSamples = Uint8Array | Uint16Array | Float32Array;

export type TiffPacking = 'deflate' | 'lzw' | 'none';
const PACKINGS = { none: 1, lzw: 5, deflate: 8 } as const;

export interface TiffPicture extends Size {
  /** Pixel after pixel. */
  readonly samples: TiffSamples;
  /** 3, or 4 with alpha. */
  readonly channels: 3 | 4;
  readonly isPremultiplied: boolean;
  readonly packing: TiffPacking;
  /** In tiles, which programs read that show parts of large pictures; otherwise in strips. */
  readonly isTiled: boolean;
  /** Dots per inch; 0 says nothing. */
  readonly dpi: number;
  /** The ICC profile of its numbers. */
  readonly profile: Uint8Array;
  /** Empty ones are left out. */
  readonly title: string;
  readonly author: string;
}

/** About so many bytes in a strip. TIFF 6.0 asks for 8 kB; far larger ones are usual now, and pack better. */
const STRIP_BYTES = 2 ** 18;
/** Multiples of 16. */
const TILE_SIDE = 256;
const MOST_BYTES = 2 ** 32 - 2 ** 20;
const [SHORT, LONG, ASCII, RATIONAL, UNDEFINED] = [3, 4, 2, 5, 7] as const;
const TYPE_BYTES = { [ASCII]: 1, [UNDEFINED]: 1, [SHORT]: 2, [LONG]: 4, [RATIONAL]: 8 };

/** @throws FormatError `too-large` where 32-bit places in the file do not suffice */
export function mustFitTiff({ width, height }: Size, bytesPerPixel: number): void {
  if (width * height * bytesPerPixel > MOST_BYTES) throw new FormatError('too-large', `${width} × ${height} pixels`, 'a TIFF has at most 4 GB. Deliver it with fewer bits, smaller, or as OpenEXR.');
}

/** `mustFitTiff` is asked beforehand. */
export async function encodeTiff({ width, height, samples, channels, isPremultiplied, packing, isTiled, dpi, profile, title, author }: TiffPicture, platform: Pick<Platform, 'deflate'>): Promise<Uint8Array[]> {
  const bytes = samples.BYTES_PER_ELEMENT;
  const isPacked = packing !== 'none';
  const rows = isTiled ? TILE_SIDE : Math.max(1, Math.floor(STRIP_BYTES / (width * channels * bytes)));
  const across = isTiled ? TILE_SIDE : width;
  const blocks: Uint8Array[] = [];
  for (let y = 0; y < height; y += rows) {
    for (let x = 0; x < width; x += across) {
      const block = isTiled ? tileOf(samples, { width, height }, channels, x, y) : samples.slice(y * width * channels, Math.min(height, y + rows) * width * channels);
      if (!isPacked) blocks.push(new Uint8Array(block.buffer, block.byteOffset, block.byteLength));
      else {
        const plain = differences(block, across, channels);
        blocks.push(packing === 'lzw' ? packLzw(plain) : await platform.deflate(plain));
      }
    }
  }
  const offsets: number[] = [];
  let at = 8;
  for (const { length } of blocks) {
    offsets.push(at);
    at += length + (length & 1);
  }
  const isFloat = samples instanceof Float32Array;
  const each = (value: number) => new Array<number>(channels).fill(value);
  const tags: Tag[] = [
    [256, LONG, [width]],
    [257, LONG, [height]],
    [258, SHORT, each(bytes * 8)],
    [259, SHORT, [PACKINGS[packing]]],
    [262, SHORT, [2]],
    ...(title === '' ? [] : ([[270, ASCII, utf8(title)]] as const)),
    [277, SHORT, [channels]],
    ...(dpi > 0 ? ([[282, RATIONAL, [dpi, 1]], [283, RATIONAL, [dpi, 1]]] as const) : []),
    [284, SHORT, [1]],
    ...(dpi > 0 ? ([[296, SHORT, [2]]] as const) : []),
    [305, ASCII, utf8('Tazzel')],
    ...(author === '' ? [] : ([[315, ASCII, utf8(author)]] as const)),
    ...(isPacked ? ([[317, SHORT, [isFloat ? 3 : 2]]] as const) : []),
    ...(channels === 4 ? ([[338, SHORT, [isPremultiplied ? 1 : 2]]] as const) : []),
    ...(isTiled ? ([[322, LONG, [across]], [323, LONG, [rows]], [324, LONG, offsets], [325, LONG, blocks.map(({ length }) => length)]] as const) : ([[273, LONG, offsets], [278, LONG, [rows]], [279, LONG, blocks.map(({ length }) => length)]] as const)),
    [339, SHORT, each(isFloat ? 3 : 1)],
    // ICC.1:2010, annex B.4
    [34675, UNDEFINED, [...profile]],
  ];
  const head = new Uint8Array(8);
  head.set([0x49, 0x49, 42, 0]);
  new DataView(head.buffer).setUint32(4, at, true);
  return [head, ...blocks.flatMap((block) => (block.length & 1 ? [block, new Uint8Array(1)] : [block])), directory(tags.toSorted(([a], [b]) => a - b), at)];
}

/** A tile of the picture; what lies beyond it repeats its last pixels, which packs better than anything else. */
function tileOf(samples: TiffSamples, { width, height }: Size, channels: number, x: number, y: number): TiffSamples {
  const tile = new (samples.constructor as new (length: number) => TiffSamples)(TILE_SIDE * TILE_SIDE * channels);
  const inside = Math.min(TILE_SIDE, width - x) * channels;
  for (let row = 0; row < TILE_SIDE; row++) {
    const from = (Math.min(height - 1, y + row) * width + x) * channels;
    const to = row * TILE_SIDE * channels;
    tile.set(samples.subarray(from, from + inside) as never, to);
    for (let i = inside; i < TILE_SIDE * channels; i++) tile[to + i] = tile[to + i - channels];
  }
  return tile;
}

/** ASCII by the letter of TIFF 6.0; what is written and read today is UTF-8. */
const utf8 = (text: string) => [...new TextEncoder().encode(`${text}\0`)];

type Tag = readonly [tag: number, type: keyof typeof TYPE_BYTES, values: readonly number[]];

/** @param at where it stands in the file */
function directory(tags: readonly Tag[], at: number): Uint8Array {
  const countOf = ([, type, values]: Tag) => (type === RATIONAL ? values.length / 2 : values.length);
  const sizes = tags.map((tag) => TYPE_BYTES[tag[1]] * countOf(tag));
  let free = 2 + tags.length * 12 + 4;
  const bytes = new Uint8Array(free + sizes.reduce((sum, size) => sum + (size > 4 ? size + (size & 1) : 0), 0));
  const view = new DataView(bytes.buffer);
  view.setUint16(0, tags.length, true);
  for (const [i, tag] of tags.entries()) {
    const [id, type, values] = tag;
    const entry = 2 + i * 12;
    view.setUint16(entry, id, true);
    view.setUint16(entry + 2, type, true);
    view.setUint32(entry + 4, countOf(tag), true);
    let to = entry + 8;
    if (sizes[i] > 4) {
      view.setUint32(to, at + free, true);
      to = free;
      free += sizes[i] + (sizes[i] & 1);
    }
    for (const value of values) {
      if (type === ASCII || type === UNDEFINED) view.setUint8(to, value);
      else if (type === SHORT) view.setUint16(to, value, true);
      else view.setUint32(to, value, true);
      to += type === RATIONAL ? 4 : TYPE_BYTES[type];
    }
  }
  return bytes;
}

/** What packs better: whole numbers as differences from the pixel to the left; floats taken apart into planes of bytes, the high ones first, each as differences. */
function differences(strip: TiffSamples, width: number, channels: number): Uint8Array {
  const row = width * channels;
  if (!(strip instanceof Float32Array)) {
    for (let start = 0; start < strip.length; start += row) for (let i = start + row - 1; i >= start + channels; i--) strip[i] -= strip[i - channels];
    return new Uint8Array(strip.buffer, strip.byteOffset, strip.byteLength);
  }
  const from = new Uint8Array(strip.buffer, strip.byteOffset, strip.byteLength);
  const out = new Uint8Array(from.length);
  for (let start = 0; start < from.length; start += row * 4) {
    for (let i = 0; i < row; i++) for (let b = 0; b < 4; b++) out[start + b * row + i] = from[start + i * 4 + 3 - b];
    for (let i = start + row * 4 - 1; i >= start + channels; i--) out[i] -= out[i - channels];
  }
  return out;
}
