import encode, { init } from '@jsquash/webp/encode.js';
import { flag, number } from '@tazzel/core';
import { definePictureFormat } from './define.ts';
import { codesOf } from '../bytes.ts';
import { iccProfile } from '../icc-write.ts';
import { xmpPacket } from './notes.ts';
import { author, mustFit, space, title } from './shared.ts';

/** RFC 9649: sides are 14-bit numbers. */
const MOST = 16383;
let ready: Promise<unknown> | null = null;

/** The file with a profile before and notes behind its pixels. @source RFC 9649, 2.7 (extended file format) */
function extended(file: Uint8Array, { width, height, isOpaque }: { width: number; height: number; isOpaque: boolean }, profile: Uint8Array | null, notes: Uint8Array | null): Uint8Array[] {
  if (!profile && !notes) return [file];
  const chunk = (name: string, body: Uint8Array) => [Uint8Array.from([...codesOf(name), ...little(body.length, 4)]), body, new Uint8Array(body.length & 1)];
  // What the encoder made extended already begins with such a head of its own.
  const from = String.fromCharCode(...file.subarray(12, 16)) === 'VP8X' ? 12 + 8 + 10 : 12;
  const pixels = file.subarray(from);
  const flags = (profile ? 32 : 0) | (isOpaque ? 0 : 16) | (notes ? 4 : 0);
  const parts = [...chunk('VP8X', Uint8Array.from([flags, 0, 0, 0, ...little(width - 1, 3), ...little(height - 1, 3)])), ...(profile ? chunk('ICCP', profile) : []), pixels, ...(notes ? chunk('XMP ', notes) : [])];
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  return [Uint8Array.from([...codesOf('RIFF'), ...little(4 + length, 4), ...codesOf('WEBP')]), ...parts];
}
const little = (value: number, bytes: number) => Array.from({ length: bytes }, (_, i) => (value >>> (8 * i)) & 255);

export const webp = definePictureFormat({
  id: 'webp',
  label: 'WebP',
  hint: 'The finished picture, smaller than JPEG, with alpha.',
  endings: ['webp'],
  mimeType: 'image/webp',
  params: {
    lossless: flag({ label: 'Nothing lost', help: 'Every code as it is; larger.', default: false }),
    quality: number({ label: 'Quality', unit: '', min: 1, max: 100, step: 1, digits: 0, default: 90, help: '85 and more look as the picture does.', when: { lossless: false } }),
    space,
    title,
    author,
  },
  pixels: ({ space }) => ({ kind: 'rgba8', space }),
  write: async ({ width, height, pixels, isOpaque }, { lossless, quality, space, title, author }, platform) => {
    mustFit({ width, height }, MOST, 'WebP');
    ready ??= platform.codec('webp-encoder').then((module) => init(module as never));
    await ready;
    const data = new Uint8ClampedArray(new Uint8ClampedArray(pixels, 0, width * height * 4));
    // `exact` keeps the colours under alpha 0; `use_sharp_yuv` weighs halved colour against the edges of light.
    const file = new Uint8Array(await encode({ data, width, height } as never, lossless ? { lossless: 1, quality: 75, exact: 1 } : { quality, use_sharp_yuv: 1 }));
    return extended(file, { width, height, isOpaque }, space === 'srgb' ? null : iccProfile(space), xmpPacket({ title, author }));
  },
});
