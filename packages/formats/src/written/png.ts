import { choice } from '@tazzel/core';
import { encodePng } from '../png/encode.ts';
import { definePictureFormat } from './define.ts';
import { author, dither, dpi, spaceOrLight, title } from './shared.ts';

export const png = definePictureFormat({
  id: 'png',
  label: 'PNG',
  hint: 'The finished picture, nothing lost.',
  endings: ['png'],
  mimeType: 'image/png',
  params: {
    bits: choice({ label: 'Bits', help: '16 for more work elsewhere.', options: { '8': '8', '16': '16' }, default: '8' }),
    space: spaceOrLight,
    dither,
    dpi,
    title,
    author,
  },
  pixels: ({ bits, dither, space }) => ({ kind: bits === '16' ? 'rgba16' : 'rgba8', dither: bits === '8' && dither, space }),
  write: ({ width, height, pixels }, { bits, dpi, space, title, author }, platform) => encodePng({ width, height, rgba: bits === '16' ? new Uint16Array(pixels) : new Uint8Array(pixels), dpi, space, notes: { Title: title, Author: author } }, platform),
});
