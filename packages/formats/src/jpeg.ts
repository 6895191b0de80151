/** JPEG: the header and orientation by ourselves, the pixels by mozjpeg compiled to WebAssembly. @source ITU-T T.81 (markers), Exif 2.3 (orientation), ICC.1 annex B (profiles in APP2) */
import decode, { init } from '@jsquash/jpeg/decode.js';
import { type Plane, planeView } from '@tazzel/core';
import { type Allocate, type ByteSource, MAX_PIXELS, MAX_SIDE, type Platform, plainMemory } from './bytes.ts';
import { failure, FormatError } from './errors.ts';
import { type ColorSpace, SRGB, type StoredPixels, spaceOfProfile } from './icc.ts';

export interface JpegHeader {
  /** As it is shown, turned upright. */
  readonly width: number;
  readonly height: number;
  readonly channels: 1 | 3;
  /** Exif: 1 upright, 2–8 turned or mirrored. */
  readonly orientation: number;
  readonly space: ColorSpace;
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
      if (channels !== 1 && channels !== 3) throw new FormatError('unsupported', name, `${channels} channels (CMYK) are not read. Convert it to RGB.`);
      if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) throw new FormatError('too-large', name, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read.`);
      const upright = orientation < 5 ? { width, height } : { width: height, height: width };
      return { ...upright, channels, orientation, space: profile.length > 0 ? spaceOfProfile(joined(profile)) : SRGB };
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

/** Tag 274 of the first directory; 1 if there is none, or none that makes sense. */
function exifOrientation(tiff: Uint8Array): number {
  if (tiff.length < 14) return 1;
  const view = new DataView(tiff.buffer, tiff.byteOffset, tiff.byteLength);
  const little = view.getUint16(0) === 0x4949;
  const directory = view.getUint32(4, little);
  if (directory + 2 > tiff.length) return 1;
  const count = view.getUint16(directory, little);
  for (let i = 0; i < count && directory + 14 + i * 12 <= tiff.length; i++) {
    const at = directory + 2 + i * 12;
    if (view.getUint16(at, little) !== 274) continue;
    const value = view.getUint16(at + 8, little);
    return value >= 1 && value <= 8 ? value : 1;
  }
  return 1;
}

let ready: Promise<void> | null = null;

/** One or three planes of bytes, upright. @throws FormatError */
export async function decodeJpeg(source: ByteSource, platform: Platform, allocate: Allocate = plainMemory): Promise<StoredPixels> {
  const { width, height, channels, orientation, space } = await readJpegHeader(source);
  ready ??= platform.codec('jpeg').then((module) => init(module));
  await ready;
  const bytes = new Uint8Array(await source.read(0, source.size));
  if (!hasEnd(bytes)) throw new FormatError('truncated', source.name, 'the file ends in the middle of its pixels. It was not written or copied completely; save it again.');
  let pixels: Uint8ClampedArray;
  try {
    const image = await decode(bytes.buffer as ArrayBuffer, { preserveOrientation: false });
    const [w, h] = orientation < 5 ? [width, height] : [height, width];
    if (image.width !== w || image.height !== h) throw new RangeError(`${image.width} × ${image.height}`);
    pixels = image.data as unknown as Uint8ClampedArray;
  } catch (error) {
    throw failure(error, new FormatError('corrupt', source.name, 'the pixels cannot be unpacked. The file is damaged; save it again.'));
  }
  const color = Array.from({ length: channels }, (): Plane => ({ type: 'u8', width, height, data: planeView('u8', allocate(width * height)) }));
  const stored = orientation < 5 ? width : height;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const [sx, sy] = storedPlace(orientation, x, y, width, height);
      const from = (sy * stored + sx) * 4;
      for (let c = 0; c < channels; c++) color[c].data[y * width + x] = pixels[from + c];
    }
  }
  return { color, alpha: null, space };
}

/** Where a pixel of the upright picture is stored. @source Exif 2.3, tag 274 */
function storedPlace(orientation: number, x: number, y: number, width: number, height: number): [number, number] {
  switch (orientation) {
    case 2:
      return [width - 1 - x, y];
    case 3:
      return [width - 1 - x, height - 1 - y];
    case 4:
      return [x, height - 1 - y];
    case 5:
      return [y, x];
    case 6:
      return [y, width - 1 - x];
    case 7:
      return [height - 1 - y, width - 1 - x];
    case 8:
      return [height - 1 - y, x];
    default:
      return [x, y];
  }
}
