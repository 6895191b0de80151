import { type OutputSpaceId, outputSpaces, type Size } from '@tazzel/core';
import { codesOf, type Platform } from '../bytes.ts';
import { iccProfile } from '../icc-write.ts';
import { crc32, PNG_SIGNATURE } from './chunks.ts';

export interface PngPicture {
  readonly width: number;
  readonly height: number;
  /** Interleaved straight RGBA; 16-bit samples in the machine's order. */
  readonly rgba: Uint8Array | Uint8ClampedArray | Uint16Array;
  /** Dots per inch; 0 or nothing says nothing. */
  readonly dpi?: number;
  /** What its numbers are of; sRGB where nothing is said. */
  readonly space?: OutputSpaceId;
  /** By keywords of the specification (11.3.3.2); empty ones are left out. */
  readonly notes?: Readonly<Record<string, string>>;
}

/** A PNG with the sRGB chunk or the profile of its space, RGB when every pixel is opaque, else RGBA. Rows carry the Sub filter. */
export async function encodePng({ width, height, rgba, dpi = 0, space = 'srgb', notes = {} }: PngPicture, platform: Pick<Platform, 'deflate'>): Promise<Uint8Array[]> {
  const chunks = [
    ...(space === 'srgb' ? chunk('sRGB', Uint8Array.of(0)) : chunk('iCCP', Uint8Array.from([...codesOf(outputSpaces[space].label), 0, 0, ...(await platform.deflate(iccProfile(space)))]))),
    ...(dpi > 0 ? chunk('pHYs', dotsPerMetre(dpi)) : []),
    // Not packed, no language, no translated keyword.
    ...Object.entries(notes).flatMap(([keyword, text]) => (text === '' ? [] : chunk('iTXt', Uint8Array.from([...codesOf(keyword), 0, 0, 0, 0, 0, ...new TextEncoder().encode(text)])))),
  ];
  return write({ width, height, samples: rgba, given: 4, kept: isOpaque(rgba) ? 3 : 4, colorType: isOpaque(rgba) ? 2 : 6 }, chunks, platform);
}

/** A grey PNG of numbers that are no colours, such as a matte: without a colour space. 16-bit samples in the machine's order. */
export const encodeGreyPng = ({ width, height, data }: Size & { readonly data: Uint8Array | Uint16Array }, platform: Pick<Platform, 'deflate'>): Promise<Uint8Array[]> =>
  write({ width, height, samples: data, given: 1, kept: 1, colorType: 0 }, [], platform);

interface Samples extends Size {
  readonly samples: PngPicture['rgba'];
  /** Samples of a pixel that are there, and of these the first ones that are written. */
  readonly given: number;
  readonly kept: number;
  readonly colorType: number;
}

async function write({ width, height, samples, given, kept, colorType }: Samples, chunks: readonly Uint8Array[], platform: Pick<Platform, 'deflate'>): Promise<Uint8Array[]> {
  const wide = samples instanceof Uint16Array;
  const pixelBytes = kept * (wide ? 2 : 1);
  const rowBytes = width * pixelBytes;
  const raw = new Uint8Array((rowBytes + 1) * height);
  for (let y = 0; y < height; y++) {
    const row = raw.subarray(y * (rowBytes + 1) + 1, (y + 1) * (rowBytes + 1));
    let to = 0;
    for (let from = y * width * given; from < (y + 1) * width * given; from += given) {
      for (let c = 0; c < kept; c++) {
        const value = samples[from + c];
        if (wide) row[to++] = value >> 8;
        row[to++] = value & 255;
      }
    }
    for (let i = rowBytes - 1; i >= pixelBytes; i--) row[i] -= row[i - pixelBytes];
    raw[y * (rowBytes + 1)] = 1;
  }
  const header = new DataView(new ArrayBuffer(13));
  header.setUint32(0, width);
  header.setUint32(4, height);
  header.setUint8(8, wide ? 16 : 8);
  header.setUint8(9, colorType);
  const packed = await platform.deflate(raw);
  return [PNG_SIGNATURE.slice(), ...chunk('IHDR', new Uint8Array(header.buffer)), ...chunks, ...chunk('IDAT', packed), ...chunk('IEND', new Uint8Array(0))];
}

/** Both ways, and that the unit is the metre. */
function dotsPerMetre(dpi: number): Uint8Array {
  const view = new DataView(new ArrayBuffer(9));
  view.setUint32(0, Math.round(dpi / 0.0254));
  view.setUint32(4, Math.round(dpi / 0.0254));
  view.setUint8(8, 1);
  return new Uint8Array(view.buffer);
}

function isOpaque(rgba: PngPicture['rgba']): boolean {
  const full = rgba instanceof Uint16Array ? 65535 : 255;
  for (let i = 3; i < rgba.length; i += 4) if (rgba[i] !== full) return false;
  return true;
}

function chunk(type: string, body: Uint8Array): Uint8Array[] {
  const head = new Uint8Array(8);
  const name = new TextEncoder().encode(type);
  new DataView(head.buffer).setUint32(0, body.length);
  head.set(name, 4);
  const tail = new Uint8Array(4);
  new DataView(tail.buffer).setUint32(0, crc32(body, crc32(name)));
  return [head, body, tail];
}
