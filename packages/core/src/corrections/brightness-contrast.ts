import { number } from '../params/number.ts';
import type { Triple } from '../vector.ts';
import { defineCorrection } from './define.ts';
import { looked, tableOf } from './tables.ts';

const STEPS = 1024;
/** How steep or bent 100 % are: factors of the exponent. */
const [STEEPEST, MOST_BENT] = [2.5, 3];

/** Perlin's bias: black and white stay, the middle moves. */
const bias = (x: number, amount: number) => x ** (MOST_BENT ** -amount);
/** Perlin's gain: black, middle and white stay, the slope in the middle changes. */
const gain = (x: number, amount: number) => {
  const exponent = STEEPEST ** amount;
  return x < 0.5 ? (2 * x) ** exponent / 2 : 1 - (2 - 2 * x) ** exponent / 2;
};

/** Picture values made brighter or darker, then steeper or flatter in the middle; black and white stay and nothing is cut off. */
export const brightnessContrast = defineCorrection({
  work: 'points',
  id: 'brightness-contrast',
  label: 'Brightness and contrast',
  summary: 'Moves the middle and spreads it; black and white stay, so that nothing is cut off.',
  group: 'Light and tone',
  params: {
    brightnessPercent: number({ label: 'Brightness', unit: '%', min: -100, max: 100, default: 0, step: 1, digits: 0, help: 'Moves the middle; black and white stay.' }),
    contrastPercent: number({ label: 'Contrast', unit: '%', min: -100, max: 100, default: 0, step: 1, digits: 0, help: 'Above 0 the middle becomes steeper, the ends flatter.' }),
  },
  domain: 'display',
  zones: ['picture'],
  isNoOp: ({ brightnessPercent, contrastPercent }) => brightnessPercent === 0 && contrastPercent === 0,
  prepare: ({ brightnessPercent, contrastPercent }) => {
    const table = tableOf(STEPS, (x) => gain(bias(x, brightnessPercent / 100), contrastPercent / 100));
    return Float32Array.from([0, STEPS, ...table, ...table, ...table, ...tableOf(STEPS, (x) => x)]);
  },
  pixel: (rgb, prepared) => [0, 1, 2].map((c) => looked(prepared, 2 + c * (STEPS + 1), STEPS, rgb[c])) as unknown as Triple,
  kernel: 'curves',
  examples: [{ brightnessPercent: 0, contrastPercent: 0 }, { brightnessPercent: 30, contrastPercent: 20 }, { brightnessPercent: -100, contrastPercent: 100 }, { brightnessPercent: 10, contrastPercent: -80 }],
  source: 'K. Perlin and E. Hoffert, “Hypertexture”, SIGGRAPH 1989: bias and gain',
});
