import { luminanceOf } from '../color/luminance.ts';
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import { defineReading } from './define.ts';

/** The picture by its luminance alone: whether light and dark hold it together without colours. */
export const grey = defineReading({
  id: 'grey',
  label: 'Grey',
  summary: 'Luminance alone, without colours.',
  of: 'picture',
  pixel: ([r, g, b]) => {
    const value = srgbEncode(luminanceOf([srgbDecode(r), srgbDecode(g), srgbDecode(b)]));
    return [value, value, value];
  },
  legend: [],
  source: 'ITU-R BT.709-6, 2015, 3.2 (luminance)',
});
