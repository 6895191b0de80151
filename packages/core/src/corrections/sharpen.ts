import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { unsharp } from './unsharp.ts';

/** Adds again what a blurred picture lacks. In stops of light, so that colours stay and dark and light sides of an edge gain alike. */
export const sharpen = defineCorrection({
  work: 'neighbourhood',
  id: 'sharpen',
  label: 'Sharpen',
  summary: 'Strengthens the finest contrast; weak differences, such as noise, can be left out.',
  group: 'Detail',
  params: {
    amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 300, default: 0, step: 1, digits: 0, usual: [0, 150], help: 'How much of what is finer than the radius is added.' }),
    radiusPx: number({ label: 'Radius', unit: 'px', min: 0.3, max: 50, default: 1, step: 0.1, digits: 1, usual: [0.3, 5], help: 'Standard deviation of the blur, in pixels of the full picture.' }),
    thresholdStops: number({ label: 'Leave out below', unit: 'EV', min: 0, max: 1, default: 0, step: 0.01, digits: 2, usual: [0, 0.3], help: 'Differences smaller than this stay as they are: noise, and even surfaces.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ amountPercent }) => amountPercent === 0,
  spread: ({ amountPercent, radiusPx, thresholdStops }) => unsharp(amountPercent / 100, radiusPx, thresholdStops),
  examples: [
    { amountPercent: 0, radiusPx: 1, thresholdStops: 0 },
    { amountPercent: 80, radiusPx: 1, thresholdStops: 0.02 },
    { amountPercent: 300, radiusPx: 12, thresholdStops: 0 },
  ],
  source: 'common practice (unsharp masking), no published source; the blur: R. Szeliski, “Computer Vision: Algorithms and Applications”, 2nd ed. 2022, 3.2',
});
