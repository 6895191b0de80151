import { choice } from '@tazzel/core';
import { iccProfile } from '../icc-write.ts';
import { encodeTiff, mustFitTiff, type TiffSamples } from '../tiff/encode.ts';
import { definePictureFormat, type FinishedPicture } from './define.ts';
import { author, dither, dpi, spaceOrLight, title } from './shared.ts';

export const tiff = definePictureFormat({
  id: 'tiff',
  label: 'TIFF',
  hint: 'The finished picture for print and layout; with 32 bits the scene light.',
  endings: ['tif', 'tiff'],
  mimeType: 'image/tiff',
  params: {
    bits: choice({ label: 'Bits', help: '8 or 16 hold the finished picture, 32 the scene light under the tone line in floats, always linear.', options: { '8': '8', '16': '16', '32': '32, light' }, default: '16' }),
    compression: choice({ label: 'Packing', help: 'None of them loses anything. Deflate is the smallest; old programs rather read LZW, or what is not packed.', options: { deflate: 'Deflate', lzw: 'LZW', none: 'None' }, default: 'deflate' }),
    layout: choice({ label: 'Layout', help: 'Tiles are for programs that show parts of very large pictures; strips are read by all.', options: { strips: 'Strips', tiles: 'Tiles' }, default: 'strips' }),
    space: spaceOrLight,
    dither,
    dpi,
    title,
    author,
  },
  pixels: ({ bits, dither, space }) => (bits === '32' ? { kind: 'float' } : { kind: bits === '16' ? 'rgba16' : 'rgba8', dither: bits === '8' && dither, space }),
  write: async (picture, { bits, compression, layout, dpi, space, title, author }, platform) => {
    const { width, height, isOpaque } = picture;
    mustFitTiff(picture, (isOpaque ? 3 : 4) * (Number(bits) / 8));
    return encodeTiff({ width, height, samples: bits === '32' ? interleaved(picture) : straight(picture, bits === '16'), channels: isOpaque ? 3 : 4, isPremultiplied: bits === '32', packing: compression, isTiled: layout === 'tiles', dpi, profile: iccProfile(bits === '32' ? 'linear' : space), title, author }, platform);
  },
});

function straight({ width, height, pixels, isOpaque }: FinishedPicture, isWide: boolean): TiffSamples {
  const count = width * height;
  const rgba = isWide ? new Uint16Array(pixels, 0, count * 4) : new Uint8Array(pixels, 0, count * 4);
  if (!isOpaque) return rgba;
  const rgb = isWide ? new Uint16Array(count * 3) : new Uint8Array(count * 3);
  for (let from = 0, to = 0; from < rgba.length; from += 4) for (let c = 0; c < 3; c++) rgb[to++] = rgba[from + c];
  return rgb;
}

function interleaved({ width, height, pixels, isOpaque }: FinishedPicture): Float32Array {
  const area = width * height;
  const channels = isOpaque ? 3 : 4;
  const planes = new Float32Array(pixels, 0, area * 4);
  const out = new Float32Array(area * channels);
  for (let c = 0; c < channels; c++) for (let i = 0; i < area; i++) out[i * channels + c] = planes[c * area + i];
  return out;
}
