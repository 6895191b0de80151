/** JPEG: the header and orientation by ourselves, the pixels by mozjpeg compiled to WebAssembly (those of inks by jpeg-js). @source ITU-T T.81 (markers), Exif 2.3 (orientation), ICC.1 annex B (profiles in APP2) */
import decode, { init } from '@jsquash/jpeg/decode.js';
import { type Plane, planeView } from '@tazzel/core';
import { decode as decodeInks } from 'jpeg-js';
import { type Allocate, type ByteSource, MAX_PIXELS, MAX_SIDE, type Platform, plainMemory } from './bytes.ts';
import { failure, FormatError } from './errors.ts';
import { type ColorSpace, SRGB, type StoredPixels, spaceOfProfile } from './icc.ts';
import { exifOrientation, turnedUpright, uprightSize } from './orientation.ts';

export interface JpegHeader {
  /** As it is shown, turned upright. */
  readonly width: number;
  readonly height: number;
  readonly channels: 1 | 3;
  /** Exif: 1 upright, 2–8 turned or mirrored. */
  readonly orientation: number;
  readonly space: ColorSpace;
  /** Cyan, magenta, yellow and black, which are converted. */
  readonly hasInks: boolean;
}

/** @throws FormatError */
export async function readJpegHeader(source: ByteSource): Promise<JpegHeader> {
  const { name, size } = source;
  const truncated = () => new FormatError('truncated', name, 'the file ends inside its header. It was not written or copied completely; save it again.');
  const corrupt = (what: string) => new FormatError('corrupt', name, `${what}. The file is damaged; save it again.`);
  let at = 2;
  let orientation = 1;
  const profile: Uint8Array[] = [];
  for (;;) {
    if (at + 4 > size) throw truncated();
    const head = await source.read(at, 4);
    if (head[0] !== 0xff) throw corrupt('a marker is missing');
    const marker = head[1];
    if (marker === 0xff) {
      at++;
      continue;
    }
    if (marker === 0xd9 || marker === 0xda) throw corrupt('the size is missing');
    const length = (head[2] << 8) | head[3];
    if (length < 2 || at + 2 + length > size) throw truncated();
    const body = await source.read(at + 4, length - 2);
    // Frames: all but the tables that share their numbers.
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) {
      if (body.length < 6) throw corrupt('the frame is cut off');
      const [height, width, channels] = [(body[1] << 8) | body[2], (body[3] << 8) | body[4], body[5]];
      if (width < 1 || height < 1) throw corrupt(`the size is ${width} × ${height}`);
      if (marker >= 0xc9) throw new FormatError('unsupported', name, 'it is packed with arithmetic coding, which is not read. Save it as an ordinary JPEG, or as PNG.');
      if ([0xc3, 0xc5, 0xc6, 0xc7].includes(marker)) throw new FormatError('unsupported', name, `it is of a rare kind (${marker === 0xc3 ? 'lossless' : 'hierarchical'}), which is not read. Save it as an ordinary JPEG, or as PNG.`);
      if (body[0] !== 8) throw new FormatError('unsupported', name, `${body[0]} bits a sample are not read. Save it with 8 bits, or as PNG.`);
      if (![1, 3, 4].includes(channels)) throw new FormatError('unsupported', name, `${channels} channels are not read. Convert it to RGB.`);
      const hasInks = channels === 4;
      if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) throw new FormatError('too-large', name, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read.`);
      return { ...uprightSize({ width, height }, orientation), channels: channels === 1 ? 1 : 3, orientation, space: profile.length > 0 && !hasInks ? spaceOfProfile(joined(profile)) : SRGB, hasInks };
    }
    if (marker === 0xe1 && startsWith(body, 'Exif\0\0')) orientation = exifOrientation(body.subarray(6));
    if (marker === 0xe2 && startsWith(body, 'ICC_PROFILE\0')) profile[body[12] - 1] = body.slice(14);
    at += 2 + length;
  }
}

/** Whether the end is marked behind the last scan: a decoder fills what is missing with grey, without a word. What stands behind the end does not count. */
function hasEnd(bytes: Uint8Array): boolean {
  for (let i = bytes.length - 2; i >= 2; i--) {
    if (bytes[i] !== 0xff) continue;
    if (bytes[i + 1] === 0xd9) return true;
    // The beginning of a scan (or of the file) with no end behind it.
    if (bytes[i + 1] === 0xda || bytes[i + 1] === 0xc4) return false;
  }
  return false;
}

const startsWith = (bytes: Uint8Array, text: string) => [...text].every((char, i) => bytes[i] === char.charCodeAt(0));
const joined = (parts: readonly (Uint8Array | undefined)[]): Uint8Array => {
  const present = parts.filter((part) => part !== undefined);
  const out = new Uint8Array(present.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of present) {
    out.set(part, at);
    at += part.length;
  }
  return out;
};

let ready: Promise<void> | null = null;

/** Bytes of red, green, blue, alpha of a JPEG, as it is stored. Rejects if it cannot be unpacked. */
export async function unpackJpeg(bytes: Uint8Array<ArrayBuffer>, platform: Platform): Promise<{ width: number; height: number; data: Uint8ClampedArray }> {
  ready ??= platform.codec('jpeg-decoder').then((module) => init(module));
  await ready;
  const { width, height, data } = await decode(bytes.buffer, { preserveOrientation: false });
  return { width, height, data: data as unknown as Uint8ClampedArray };
}

/** JPEG of four inks, which the other decoder refuses: red, green and blue by plain subtraction. */
function unpackInks(bytes: Uint8Array): { width: number; height: number; data: Uint8Array } {
  const { width, height, data } = decodeInks(bytes, { useTArray: true, formatAsRGBA: true, tolerantDecoding: false, maxResolutionInMP: MAX_PIXELS / 1e6, maxMemoryUsageInMB: 4096 });
  return { width, height, data };
}

/** One or three planes of bytes, upright. @throws FormatError */
export async function decodeJpeg(source: ByteSource, platform: Platform, allocate: Allocate = plainMemory): Promise<StoredPixels> {
  const { channels, orientation, space, hasInks, ...header } = await readJpegHeader(source);
  const { width, height } = uprightSize(header, orientation);
  const bytes = new Uint8Array(await source.read(0, source.size));
  if (!hasEnd(bytes)) throw new FormatError('truncated', source.name, 'the file ends in the middle of its pixels. It was not written or copied completely; save it again.');
  let pixels: ArrayLike<number>;
  try {
    const image = hasInks ? unpackInks(bytes) : await unpackJpeg(bytes, platform);
    if (image.width !== width || image.height !== height) throw new RangeError(`${image.width} × ${image.height}`);
    pixels = image.data;
  } catch (error) {
    throw failure(error, new FormatError('corrupt', source.name, 'the pixels cannot be unpacked. The file is damaged; save it again.'));
  }
  const color = Array.from({ length: channels }, (_, c): Plane => {
    const data = planeView('u8', orientation === 1 ? allocate(width * height) : new ArrayBuffer(width * height));
    for (let i = 0; i < data.length; i++) data[i] = pixels[i * 4 + c];
    return turnedUpright({ type: 'u8', width, height, data }, orientation, allocate);
  });
  return { color, alpha: null, space };
}
