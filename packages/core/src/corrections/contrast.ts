import { luminanceOf, MID_GREY } from '../color/luminance.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { evenPower, powered } from './power.ts';

/** Spreads light about a pivot, which stays: a power of each channel over the pivot. In stops it is a straight line through the pivot. */
export const contrast = defineCorrection({
  work: 'points',
  id: 'contrast',
  label: 'Contrast of light',
  summary: 'Spreads or gathers light about a pivot that stays as it is, in stops.',
  group: 'Light and tone',
  params: {
    contrastPercent: number({ label: 'Contrast', unit: '%', min: -90, max: 200, default: 0, step: 1, digits: 0, usual: [-60, 60], help: '+50 makes one and a half stops of what was one.' }),
    pivot: number({ label: 'Pivot', unit: '', min: 0.001, max: 100, default: MID_GREY, step: 0.01, digits: 3, usual: [0.02, 1], help: 'The light that stays; 0.18 is mid grey.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ contrastPercent }) => contrastPercent === 0,
  prepare: ({ contrastPercent, pivot }) => {
    const exponent = 1 + contrastPercent / 100;
    return evenPower({ factor: pivot ** ((1 - exponent) / exponent), offset: 0, exponent });
  },
  pixel: powered,
  kernel: 'power',
  picks: [{ label: 'Click what should stay', take: (light) => (luminanceOf(light) > 0 ? { pivot: luminanceOf(light) } : null) }],
  examples: [{ contrastPercent: 0, pivot: 0.18 }, { contrastPercent: 40, pivot: 0.18 }, { contrastPercent: -50, pivot: 0.5 }],
  source: 'common practice, no published source: a power about mid grey, as film density over log exposure',
});
