import encode, { init } from '@jsquash/jpeg/encode.js';
import { number } from '@tazzel/core';
import { definePictureFormat } from './define.ts';
import { dpi, mustFit } from './shared.ts';

/** ITU-T T.81: sides are 16-bit numbers. */
const MOST = 65535;
/** Not halved in either direction: colour stays as sharp as light. */
const FULL_COLOUR = { auto_subsample: false, chroma_subsample: 1 };
let ready: Promise<void> | null = null;

export const jpeg = definePictureFormat({
  id: 'jpeg',
  label: 'JPEG',
  hint: 'The finished picture, small, for mail and the web. Colour at full resolution; white where there is nothing.',
  endings: ['jpg', 'jpeg'],
  mimeType: 'image/jpeg',
  params: { quality: number({ label: 'Quality', unit: '', min: 1, max: 100, step: 1, digits: 0, default: 92, help: '90 and more look as the picture does; below 75 blocks begin to show.' }), dpi },
  pixels: () => ({ kind: 'rgba8' }),
  write: async ({ width, height, pixels }, { quality, dpi }, platform) => {
    mustFit({ width, height }, MOST, 'JPEG');
    ready ??= platform.codec('jpeg-encoder').then((module) => init(module));
    await ready;
    const rgba = new Uint8ClampedArray(new Uint8ClampedArray(pixels, 0, width * height * 4));
    for (let i = 0; i < rgba.length; i += 4) {
      const alpha = rgba[i + 3] / 255;
      if (alpha < 1) for (let c = 0; c < 3; c++) rgba[i + c] = rgba[i + c] * alpha + 255 * (1 - alpha);
      rgba[i + 3] = 255;
    }
    const file = new Uint8Array(await encode({ data: rgba, width, height } as never, { quality, ...FULL_COLOUR }));
    // The encoder begins with a JFIF segment (ISO/IEC 10918-5): units (1: per inch), then dots across and down.
    if (dpi > 0) file.set([1, dpi >> 8, dpi & 255, dpi >> 8, dpi & 255], 13);
    return [file];
  },
});
