import { LAB_TO_LMS, LMS_TO_LAB, LMS_TO_RGB, multiply, RGB_TO_LMS } from '../color/oklab.ts';
import type { Triple } from '../vector.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/**
 * Turns the hue and scales the chroma of OKLab at constant lightness.
 *
 * Both act on the cone responses' cube roots as one 3×3 matrix, Lab⁻¹ · turn-and-scale · Lab, so a pixel is: matrix,
 * cube root, matrix, cube, matrix. Prepared are the three matrices row by row (27 numbers). Unbounded linear light in and out; colours may leave the gamut and are then negative
 * in a channel, which the tone line clips.
 */
export const hueSaturation = defineCorrection({
  work: 'points',
  id: 'hue-saturation',
  label: 'Hue and saturation',
  summary: 'Turns hues and changes how colourful they are; lightness stays.',
  group: 'Colour',
  params: {
    hueDegrees: number({ label: 'Hue', unit: '°', min: -180, max: 180, default: 0, step: 1, digits: 0, help: 'Turns every hue around the circle.' }),
    saturationPercent: number({ label: 'Saturation', unit: '%', min: 0, max: 200, default: 100, step: 1, digits: 0, help: '0 is grey, 100 as it was, 200 twice as colourful.' }),
  },
  atHand: ['hueDegrees', 'saturationPercent'],
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ hueDegrees, saturationPercent }) => hueDegrees === 0 && saturationPercent === 100,
  prepare: ({ hueDegrees, saturationPercent }) => {
    const angleRad = (hueDegrees * Math.PI) / 180;
    const c = (saturationPercent / 100) * Math.cos(angleRad);
    const s = (saturationPercent / 100) * Math.sin(angleRad);
    const column = (basis: Triple) => {
      const [lightness, a, b] = multiply(LMS_TO_LAB, basis);
      return multiply(LAB_TO_LMS, [lightness, c * a - s * b, s * a + c * b]);
    };
    const [x, y, z] = [column([1, 0, 0]), column([0, 1, 0]), column([0, 0, 1])];
    const turn = [x[0], y[0], z[0], x[1], y[1], z[1], x[2], y[2], z[2]];
    return Float32Array.from([...RGB_TO_LMS.flat(), ...turn, ...LMS_TO_RGB.flat()]);
  },
  pixel: (rgb, prepared) => {
    const matrix = (at: number): Triple[] => [0, 3, 6].map((row) => [prepared[at + row], prepared[at + row + 1], prepared[at + row + 2]]);
    const [l, m, s] = multiply(matrix(0), rgb);
    const turned = multiply(matrix(9), [Math.cbrt(l), Math.cbrt(m), Math.cbrt(s)]);
    return multiply(matrix(18), [turned[0] ** 3, turned[1] ** 3, turned[2] ** 3]);
  },
  kernel: 'oklab-matrix',
  examples: [
    { hueDegrees: 0, saturationPercent: 100 },
    { hueDegrees: 0, saturationPercent: 0 },
    { hueDegrees: 90, saturationPercent: 100 },
    { hueDegrees: -35, saturationPercent: 160 },
  ],
  source: 'B. Ottosson, “A perceptual color space for image processing” (2020): hue and chroma of OKLab in polar form, as in CSS Color 4 (OKLCh)',
});
