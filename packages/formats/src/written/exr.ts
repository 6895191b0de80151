import { choice } from '@tazzel/core';
import { encodeExr } from '../exr/encode.ts';
import { joinExr } from '../exr/join.ts';
import { definePictureFormat } from './define.ts';
import { author, title } from './shared.ts';

export const exr = definePictureFormat({
  id: 'exr',
  label: 'OpenEXR',
  hint: 'Scene light under the tone line: linear, unclamped. Or the picture in linear light, or both with all layers and masks.',
  endings: ['exr'],
  mimeType: 'image/x-exr',
  params: {
    holds: choice({ label: 'Holds', help: 'Parts are pictures of their own in one file: the finished picture, the light, every layer that means something by itself, and all masks.', options: { light: 'Scene light', picture: 'The finished picture', parts: 'All of it, in parts' }, default: 'light' }),
    samples: choice({ label: 'Numbers', help: 'Halves are what pictures need; floats are the same in 32 bits.', options: { half: 'Half', float: 'Float' }, default: 'half' }),
    compression: choice({ label: 'Packing', help: 'All of them lose nothing. ZIP is the usual one, PIZ is smaller for noisy light.', options: { zip: 'ZIP', zips: 'ZIPS', piz: 'PIZ', rle: 'RLE', none: 'None' }, default: 'zip' }),
    title,
    author,
  },
  pixels: ({ holds }) => (holds === 'picture' ? { kind: 'rgba16', space: 'linear' } : { kind: 'float' }),
  several: {
    isWanted: ({ holds }) => holds === 'parts',
    valuesOf: (holds, values) => ({ ...values, holds }),
    join: joinExr,
  },
  write: ({ width, height, pixels, isOpaque }, { holds, samples, compression, title, author }, platform, kernels) => {
    const area = width * height;
    const window = { x: 0, y: 0, width, height };
    const channels = (isOpaque ? ['R', 'G', 'B'] : ['R', 'G', 'B', 'A']).map((name, i) => {
      const plane = holds === 'picture' ? premultiplied(new Uint16Array(pixels, 0, area * 4), i) : new Float32Array(pixels, i * area * 4, area);
      if (samples === 'float') return { name, type: 'f32' as const, data: plane };
      const data = new Uint16Array(area);
      kernels.toHalf(plane, data);
      return { name, type: 'f16' as const, data };
    });
    return encodeExr({ dataWindow: window, displayWindow: window, compression: packings[compression], channels, notes: { software: 'Tazzel', ...(title === '' ? {} : { comments: title }), ...(author === '' ? {} : { owner: author }) } }, platform, kernels);
  },
});

/** One channel of straight codes as light that counts for its alpha, which OpenEXR asks for. */
function premultiplied(codes: Uint16Array, channel: number): Float32Array {
  const plane = new Float32Array(codes.length / 4);
  for (let i = 0; i < plane.length; i++) plane[i] = channel === 3 ? codes[4 * i + 3] / 65535 : (codes[4 * i + channel] * codes[4 * i + 3]) / 65535 ** 2;
  return plane;
}

const packings = { zip: 'ZIP', zips: 'ZIPS', piz: 'PIZ', rle: 'RLE', none: 'NONE' } as const;
