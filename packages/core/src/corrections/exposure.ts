import { luminanceOf, MID_GREY } from '../color/luminance.ts';
import { number } from '../params/number.ts';
import { PERCENTS } from '../raster/measure.ts';
import { defineCorrection } from './define.ts';
import { evenPower, powered } from './power.ts';

/**
 * Brightness as a camera changes it: every stop doubles or halves the light. Then something may be added to it (offset), and it may be raised to a power (gamma), which moves the
 * middle while black and white stay. Unbounded; what is not above 0 is not raised.
 */
export const exposure = defineCorrection({
  work: 'points',
  id: 'exposure',
  label: 'Exposure',
  summary: 'Doubles or halves the light per stop; colours keep their hue and saturation.',
  group: 'Light and tone',
  params: {
    exposureStops: number({ label: 'Exposure', unit: 'EV', min: -10, max: 10, default: 0, step: 0.05, digits: 2, help: '+1 is twice the light, −1 half of it.' }),
    offset: number({ label: 'Offset', unit: '', min: -1, max: 1, default: 0, step: 0.001, digits: 4, usual: [-0.1, 0.1], help: 'Added to the light after it was scaled: lifts or deepens the darks.' }),
    gamma: number({ label: 'Gamma', unit: '', min: 0.1, max: 10, default: 1, step: 0.01, digits: 2, usual: [0.4, 2.5], help: 'Above 1 the middle becomes brighter; black and white stay.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ exposureStops, offset, gamma }) => exposureStops === 0 && offset === 0 && gamma === 1,
  prepare: ({ exposureStops, offset, gamma }) => evenPower({ factor: 2 ** exposureStops, offset, exponent: 1 / gamma }),
  pixel: powered,
  kernel: 'power',
  atHand: ['exposureStops'],
  picks: [{ label: 'Click what should be mid grey', take: (light) => (luminanceOf(light) > 0 ? { exposureStops: Math.log2(MID_GREY / luminanceOf(light)) } : null) }],
  // The geometric mean would need logarithms of every pixel; the median is as steady against lamps and black corners.
  automatic: ({ luminance }) => {
    const middle = luminance[PERCENTS.indexOf(50)];
    return middle > 0 ? { exposureStops: Math.log2(MID_GREY / middle) } : null;
  },
  examples: [{ exposureStops: 0, offset: 0, gamma: 1 }, { exposureStops: 1, offset: 0, gamma: 1 }, { exposureStops: -2.5, offset: 0.01, gamma: 1 }, { exposureStops: -1.7, offset: 0, gamma: 1.4 }, { exposureStops: 3, offset: -0.02, gamma: 0.6 }],
  source: 'ISO 2720:1974: one step of exposure value is a factor of two in light',
});
