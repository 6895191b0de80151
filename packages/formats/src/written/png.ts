import { choice } from '@tazzel/core';
import { encodePng } from '../png/encode.ts';
import { definePictureFormat } from './define.ts';
import { dither, dpi } from './shared.ts';

export const png = definePictureFormat({
  id: 'png',
  label: 'PNG',
  hint: 'The finished picture, sRGB, nothing lost.',
  endings: ['png'],
  mimeType: 'image/png',
  params: { bits: choice({ label: 'Bits', help: '16 for more work elsewhere.', options: { '8': '8', '16': '16' }, default: '8' }), dither, dpi },
  pixels: ({ bits, dither }) => ({ kind: bits === '16' ? 'rgba16' : 'rgba8', dither: bits === '8' && dither }),
  write: ({ width, height, pixels }, { bits, dpi }, platform) => encodePng({ width, height, rgba: bits === '16' ? new Uint16Array(pixels) : new Uint8Array(pixels), dpi }, platform),
});
