import { encodeHdr } from '../hdr-encode.ts';
import { definePictureFormat } from './define.ts';

export const hdr = definePictureFormat({
  id: 'hdr',
  label: 'Radiance HDR',
  hint: 'Scene light in four bytes a pixel: for programs that read no OpenEXR. No alpha.',
  endings: ['hdr'],
  mimeType: 'image/vnd.radiance',
  params: {},
  pixels: () => ({ kind: 'float' }),
  write: async ({ width, height, pixels }) => encodeHdr({ width, height }, [0, 1, 2].map((c) => new Float32Array(pixels, c * width * height * 4, width * height))),
});
