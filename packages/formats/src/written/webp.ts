import encode, { init } from '@jsquash/webp/encode.js';
import { flag, number } from '@tazzel/core';
import { definePictureFormat } from './define.ts';
import { mustFit } from './shared.ts';

/** RFC 9649: sides are 14-bit numbers. */
const MOST = 16383;
let ready: Promise<unknown> | null = null;

export const webp = definePictureFormat({
  id: 'webp',
  label: 'WebP',
  hint: 'The finished picture, smaller than JPEG, with alpha.',
  endings: ['webp'],
  mimeType: 'image/webp',
  params: {
    lossless: flag({ label: 'Nothing lost', help: 'Every code as it is; larger.', default: false }),
    quality: number({ label: 'Quality', unit: '', min: 1, max: 100, step: 1, digits: 0, default: 90, help: '85 and more look as the picture does.', when: { lossless: false } }),
  },
  pixels: () => ({ kind: 'rgba8' }),
  write: async ({ width, height, pixels }, { lossless, quality }, platform) => {
    mustFit({ width, height }, MOST, 'WebP');
    ready ??= platform.codec('webp-encoder').then((module) => init(module as never));
    await ready;
    const data = new Uint8ClampedArray(new Uint8ClampedArray(pixels, 0, width * height * 4));
    // `exact` keeps the colours under alpha 0; `use_sharp_yuv` weighs halved colour against the edges of light.
    return [new Uint8Array(await encode({ data, width, height } as never, lossless ? { lossless: 1, quality: 75, exact: 1 } : { quality, use_sharp_yuv: 1 }))];
  },
});
