import { luminosityOf } from '../blend/non-separable.ts';
import { srgbEncode } from '../color/srgb.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import type { Triple } from '../vector.ts';
import { defineCorrection } from './define.ts';
import { looked, tableOf } from './tables.ts';

const STEPS = 256;
const tone = (label: string, initial: Triple) => color({ label, of: 'surface', default: initial, help: 'Tones in between are mixed of their neighbours, as they look.' });

/** Picture values take colours by how light they are: from one colour over another to a third. Prepared: the amount, the number of steps, three tables over luminosity. */
export const toneColours = defineCorrection({
  work: 'points',
  id: 'tone-colours',
  label: 'Colours by tone',
  summary: 'Gives shadows, middles and highlights colours of their own; tones the picture.',
  group: 'Colour',
  params: {
    amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 100, default: 0, step: 1, digits: 0, help: 'How much of the colours is mixed in. With the blend “colour” the picture keeps its tones.' }),
    shadows: tone('Shadows', [0.004, 0.006, 0.014]),
    middles: tone('Middles', [0.21, 0.19, 0.17]),
    highlights: tone('Highlights', [1, 0.96, 0.88]),
    middlePercent: number({ label: 'Middle at', unit: '%', min: 5, max: 95, default: 50, step: 1, digits: 0, help: 'Which tone is the middle.' }),
  },
  domain: 'display',
  zones: ['picture'],
  isNoOp: ({ amountPercent }) => amountPercent === 0,
  prepare: ({ amountPercent, shadows, middles, highlights, middlePercent }) => {
    const at = middlePercent / 100;
    const table = (c: number) => {
      const [low, middle, high] = [shadows[c], middles[c], highlights[c]].map(srgbEncode);
      return tableOf(STEPS, (x) => (x < at ? low + (middle - low) * (x / at) : middle + (high - middle) * ((x - at) / (1 - at))));
    };
    return Float32Array.from([amountPercent / 100, STEPS, ...table(0), ...table(1), ...table(2)]);
  },
  pixel: (rgb, prepared) => {
    const l = luminosityOf(rgb);
    return [0, 1, 2].map((c) => rgb[c] + prepared[0] * (looked(prepared, 2 + c * (STEPS + 1), STEPS, l) - rgb[c])) as unknown as Triple;
  },
  kernel: 'ramp',
  examples: [
    { amountPercent: 0, shadows: [0, 0, 0], middles: [0.2, 0.2, 0.2], highlights: [1, 1, 1], middlePercent: 50 },
    { amountPercent: 100, shadows: [0, 0.01, 0.05], middles: [0.3, 0.2, 0.15], highlights: [1, 0.9, 0.7], middlePercent: 40 },
    { amountPercent: 35, shadows: [0, 0, 0.1], middles: [0.2, 0.2, 0.2], highlights: [1, 1, 0.8], middlePercent: 70 },
  ],
  source: 'common practice, no published source; W3C Compositing and Blending Level 1, 2024, Lum',
});
