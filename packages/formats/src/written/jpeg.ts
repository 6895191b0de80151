import encode, { init } from '@jsquash/jpeg/encode.js';
import { choice, number } from '@tazzel/core';
import { definePictureFormat } from './define.ts';
import { codesOf } from '../bytes.ts';
import { iccProfile } from '../icc-write.ts';
import { xmpPacket } from './notes.ts';
import { author, dpi, mustFit, space, title } from './shared.ts';

/** ITU-T T.81: sides are 16-bit numbers. */
const MOST = 65535;
/** Not halved in either direction: colour stays as sharp as light. */
const FULL_COLOUR = { auto_subsample: false, chroma_subsample: 1 };
let ready: Promise<void> | null = null;

/** One application segment. @source ICC.1:2010 annex B.4 (profile in APP2, first of one), ISO 16684-3 (XMP in APP1) */
function segment(marker: number, name: string, body: Uint8Array): Uint8Array[] {
  const length = 2 + name.length + body.length;
  return [Uint8Array.of(0xff, marker, length >> 8, length & 255, ...codesOf(name)), body];
}

export const jpeg = definePictureFormat({
  id: 'jpeg',
  label: 'JPEG',
  hint: 'The finished picture, small, for mail and the web. Colour at full resolution; white where there is nothing.',
  endings: ['jpg', 'jpeg'],
  mimeType: 'image/jpeg',
  params: { quality: number({ label: 'Quality', unit: '', min: 1, max: 100, step: 1, digits: 0, default: 92, help: '90 and more look as the picture does; below 75 blocks begin to show.' }), passes: choice({ label: 'Order', help: 'In passes a slow page shows it coarse first; it is a few percent smaller, and takes twice as long to write.', options: { one: 'Row by row', several: 'In passes' }, default: 'one' }), space, dpi, title, author },
  pixels: ({ space }) => ({ kind: 'rgba8', space }),
  write: async ({ width, height, pixels }, { quality, passes, space, dpi, title, author }, platform) => {
    mustFit({ width, height }, MOST, 'JPEG');
    ready ??= platform.codec('jpeg-encoder').then((module) => init(module));
    await ready;
    const rgba = new Uint8ClampedArray(new Uint8ClampedArray(pixels, 0, width * height * 4));
    for (let i = 0; i < rgba.length; i += 4) {
      const alpha = rgba[i + 3] / 255;
      if (alpha < 1) for (let c = 0; c < 3; c++) rgba[i + c] = rgba[i + c] * alpha + 255 * (1 - alpha);
      rgba[i + 3] = 255;
    }
    const file = new Uint8Array(await encode({ data: rgba, width, height } as never, { quality, progressive: passes === 'several', ...FULL_COLOUR }));
    // The encoder begins with a JFIF segment (ISO/IEC 10918-5): units (1: per inch), then dots across and down.
    if (dpi > 0) file.set([1, dpi >> 8, dpi & 255, dpi >> 8, dpi & 255], 13);
    const notes = xmpPacket({ title, author });
    const segments = [...segment(0xe2, 'ICC_PROFILE\0\u0001\u0001', iccProfile(space)), ...(notes ? segment(0xe1, 'http://ns.adobe.com/xap/1.0/\0', notes) : [])];
    // Behind that first one.
    const behind = 4 + ((file[4] << 8) | file[5]);
    return [file.subarray(0, behind), ...segments, file.subarray(behind)];
  },
});
