/** WebP: the header by ourselves, the pixels by libwebp compiled to WebAssembly. @source RFC 9649: RIFF chunks VP8, VP8L, VP8X, ICCP, EXIF */
import decode, { init } from '@jsquash/webp/decode.js';
import { type Plane, planeView } from '@tazzel/core';
import { type Allocate, type ByteSource, type Platform, plainMemory } from './bytes.ts';
import { failure, FormatError } from './errors.ts';
import { type ColorSpace, SRGB, type StoredPixels, spaceOfProfile } from './icc.ts';
import { exifOrientation, turnedUpright, uprightSize } from './orientation.ts';

export interface WebpHeader {
  readonly width: number;
  readonly height: number;
  readonly hasAlpha: boolean;
  readonly space: ColorSpace;
  /** Exif: 1 upright, 2–8 turned or mirrored. */
  readonly orientation: number;
}

const MAX_CHUNKS = 64;

/** @throws FormatError */
export async function readWebpHeader(source: ByteSource): Promise<WebpHeader> {
  const { name, size } = source;
  const truncated = () => new FormatError('truncated', name, 'the file ends too early. It was not written or copied completely; save it again.');
  let at = 12;
  let header: Omit<WebpHeader, 'space' | 'orientation'> | null = null;
  let space = SRGB;
  let orientation = 1;
  for (let chunk = 0; chunk < MAX_CHUNKS && at + 8 <= size; chunk++) {
    const head = await source.read(at, 8);
    const type = String.fromCharCode(...head.subarray(0, 4));
    const length = new DataView(head.buffer, head.byteOffset, 8).getUint32(4, true);
    if (at + 8 + length > size) throw truncated();
    const body = await source.read(at + 8, Math.min(length, type === 'ICCP' || type === 'EXIF' ? 2 ** 20 : 30));
    const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
    if (type === 'VP8X' && body.length >= 10) {
      if (body[0] & 2) throw new FormatError('unsupported', name, 'moving pictures are not read. Save one picture of it.');
      header = { width: 1 + (view.getUint32(4, true) & 0xffffff), height: 1 + (view.getUint32(6, true) >>> 8), hasAlpha: (body[0] & 16) !== 0 };
    } else if (type === 'VP8 ' && body.length >= 10) header ??= { width: view.getUint16(6, true) & 0x3fff, height: view.getUint16(8, true) & 0x3fff, hasAlpha: false };
    else if (type === 'VP8L' && body.length >= 5) {
      const bits = view.getUint32(1, true);
      header ??= { width: 1 + (bits & 0x3fff), height: 1 + ((bits >>> 14) & 0x3fff), hasAlpha: ((bits >>> 28) & 1) === 1 };
    } else if (type === 'ICCP') space = spaceOfProfile(body);
    else if (type === 'EXIF') orientation = exifOrientation(body[0] === 0x45 ? body.subarray(6) : body);
    at += 8 + length + (length & 1);
  }
  if (!header) throw truncated();
  if (header.width < 1 || header.height < 1) throw new FormatError('corrupt', name, `the size is ${header.width} × ${header.height}. The header is damaged; save the file again.`);
  return { ...header, ...uprightSize(header, orientation), space, orientation };
}

let ready: Promise<unknown> | null = null;

/** Three planes of bytes, and alpha if there is one. @throws FormatError */
export async function decodeWebp(source: ByteSource, platform: Platform, allocate: Allocate = plainMemory): Promise<StoredPixels> {
  const { hasAlpha, space, orientation, ...header } = await readWebpHeader(source);
  const { width, height } = uprightSize(header, orientation);
  ready ??= platform.codec('webp-decoder').then((module) => init(module));
  await ready;
  const bytes = new Uint8Array(await source.read(0, source.size));
  let pixels: Uint8ClampedArray;
  try {
    const image = await decode(bytes.buffer as ArrayBuffer);
    if (image.width !== width || image.height !== height) throw new RangeError(`${image.width} × ${image.height}`);
    pixels = image.data as unknown as Uint8ClampedArray;
  } catch (error) {
    throw failure(error, new FormatError('corrupt', source.name, 'the pixels cannot be unpacked. The file is damaged; save it again.'));
  }
  const plane = (c: number): Plane => {
    const data = planeView('u8', orientation === 1 ? allocate(width * height) : new ArrayBuffer(width * height));
    for (let i = 0; i < width * height; i++) data[i] = pixels[i * 4 + c];
    return turnedUpright({ type: 'u8', width, height, data }, orientation, allocate);
  };
  return { color: [plane(0), plane(1), plane(2)], alpha: hasAlpha ? plane(3) : null, space };
}
