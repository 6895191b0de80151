import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/** Brightness as a camera changes it: every stop doubles or halves the light. Unbounded; negatives are scaled alike. */
export const exposure = defineCorrection({
  work: 'points',
  id: 'exposure',
  label: 'Exposure',
  summary: 'Doubles or halves the light per stop; colours keep their hue and saturation.',
  group: 'Light and tone',
  params: {
    exposureStops: number({ label: 'Exposure', unit: 'EV', min: -10, max: 10, default: 0, step: 0.05, digits: 2, help: '+1 is twice the light, −1 half of it.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ exposureStops }) => exposureStops === 0,
  prepare: ({ exposureStops }) => Float32Array.of(2 ** exposureStops),
  pixel: ([r, g, b], [factor]) => [r * factor, g * factor, b * factor],
  kernel: 'scale',
  examples: [{ exposureStops: 0 }, { exposureStops: 1 }, { exposureStops: -2.5 }, { exposureStops: 10 }],
  source: 'ISO 2720:1974: one step of exposure value is a factor of two in light',
});
