import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { evenPower, powered } from './power.ts';

/** White for black in display values: a shadow element that is white where shadow is becomes one that darkens. */
export const invert = defineCorrection({
  work: 'points',
  id: 'invert',
  label: 'Invert',
  summary: 'Exchanges light and dark, as a photographic negative does.',
  group: 'Light and tone',
  params: {
    amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 100, default: 100, step: 1, digits: 0, help: '100 is the full negative, 50 an even grey.' }),
  },
  domain: 'display',
  zones: ['picture'],
  actsAtOnce: true,
  isNoOp: ({ amountPercent }) => amountPercent === 0,
  prepare: ({ amountPercent }) => evenPower({ factor: 1 - amountPercent / 50, offset: amountPercent / 100, exponent: 1 }),
  pixel: powered,
  kernel: 'power',
  examples: [{ amountPercent: 100 }, { amountPercent: 0 }, { amountPercent: 30 }],
  source: 'common practice, no published source: v becomes 1 − v',
});
