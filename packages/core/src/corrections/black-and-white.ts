import { LUMINANCE_SHARES } from '../color/luminance.ts';
import type { Matrix } from '../color/primaries.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { mixed, mixOf } from './matrix.ts';

const weight = (label: string, share: number) => number({ label, unit: '%', min: -200, max: 300, default: Math.round(share * 1000) / 10, step: 1, digits: 1, usual: [0, 100], help: 'What this channel gives to the grey. Greys keep their lightness: the weights count in proportion to their sum.' });

/** Grey of weighted light; greys stay what they are. */
export const blackAndWhite = defineCorrection({
  work: 'points',
  id: 'black-and-white',
  label: 'Black and white',
  summary: 'Takes the colour away, with weights for red, green and blue.',
  group: 'Colour',
  params: {
    redPercent: weight('Red', LUMINANCE_SHARES[0]),
    greenPercent: weight('Green', LUMINANCE_SHARES[1]),
    bluePercent: weight('Blue', LUMINANCE_SHARES[2]),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  actsAtOnce: true,
  isNoOp: () => false,
  prepare: ({ redPercent, greenPercent, bluePercent }) => {
    const sum = redPercent + greenPercent + bluePercent;
    // Weights that take each other out leave the luminance.
    const row = Math.abs(sum) < 1 ? LUMINANCE_SHARES : ([redPercent / sum, greenPercent / sum, bluePercent / sum] as const);
    return mixOf([row, row, row] as Matrix);
  },
  pixel: mixed,
  kernel: 'matrix',
  examples: [{ redPercent: 21.3, greenPercent: 71.5, bluePercent: 7.2 }, { redPercent: 100, greenPercent: 0, bluePercent: 0 }, { redPercent: -50, greenPercent: 50, bluePercent: 0 }],
  source: 'ITU-R BT.709-6 2015, 3.2 (the weights it begins with)',
});
