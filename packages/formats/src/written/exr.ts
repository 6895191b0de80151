import { choice } from '@tazzel/core';
import { encodeExr } from '../exr/encode.ts';
import { definePictureFormat } from './define.ts';
import { author, title } from './shared.ts';

export const exr = definePictureFormat({
  id: 'exr',
  label: 'OpenEXR',
  hint: 'Scene light under the tone line: linear, unclamped.',
  endings: ['exr'],
  mimeType: 'image/x-exr',
  params: {
    samples: choice({ label: 'Numbers', help: 'Halves are what pictures need; floats are the same in 32 bits.', options: { half: 'Half', float: 'Float' }, default: 'half' }),
    compression: choice({ label: 'Packing', help: 'All of them lose nothing. ZIP is the usual one, PIZ is smaller for noisy light.', options: { zip: 'ZIP', zips: 'ZIPS', piz: 'PIZ', rle: 'RLE', none: 'None' }, default: 'zip' }),
    title,
    author,
  },
  pixels: () => ({ kind: 'float' }),
  write: ({ width, height, pixels, isOpaque }, { samples, compression, title, author }, platform, kernels) => {
    const area = width * height;
    const window = { x: 0, y: 0, width, height };
    const channels = (isOpaque ? ['R', 'G', 'B'] : ['R', 'G', 'B', 'A']).map((name, i) => {
      const plane = new Float32Array(pixels, i * area * 4, area);
      if (samples === 'float') return { name, type: 'f32' as const, data: plane };
      const data = new Uint16Array(area);
      kernels.toHalf(plane, data);
      return { name, type: 'f16' as const, data };
    });
    return encodeExr({ dataWindow: window, displayWindow: window, compression: packings[compression], channels, notes: { software: 'Tazzel', ...(title === '' ? {} : { comments: title }), ...(author === '' ? {} : { owner: author }) } }, platform, kernels);
  },
});

const packings = { zip: 'ZIP', zips: 'ZIPS', piz: 'PIZ', rle: 'RLE', none: 'NONE' } as const;
