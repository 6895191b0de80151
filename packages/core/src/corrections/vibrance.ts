import { LAB_TO_LMS, linearToOklab, LMS_TO_LAB, LMS_TO_RGB, oklabToLinear, RGB_TO_LMS } from '../color/oklab.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/** Chroma at which half of the change is left: that of brick. */
const HALF = 0.08;

/** Makes faint colours stronger (or weaker) and leaves strong ones nearly alone, at constant lightness and hue of OKLab. Prepared: four matrices, the amount, where half of it is left. */
export const vibrance = defineCorrection({
  work: 'points',
  id: 'vibrance',
  label: 'Vibrance',
  summary: 'Strengthens faint colours and spares those that are strong already.',
  group: 'Colour',
  params: {
    amountPercent: number({ label: 'Vibrance', unit: '%', min: -100, max: 200, default: 0, step: 1, digits: 0, usual: [-100, 100], help: 'What greys gain of their colour; strong colours gain less.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ amountPercent }) => amountPercent === 0,
  prepare: ({ amountPercent }) => Float32Array.from([...[RGB_TO_LMS, LMS_TO_LAB, LAB_TO_LMS, LMS_TO_RGB].flatMap((matrix) => matrix.flat()), amountPercent / 100, HALF]),
  pixel: (rgb, prepared) => {
    const [lightness, a, b] = linearToOklab(rgb);
    const gain = 1 + (prepared[36] * prepared[37]) / (prepared[37] + Math.hypot(a, b));
    return oklabToLinear([lightness, a * gain, b * gain]);
  },
  kernel: 'vibrance',
  examples: [{ amountPercent: 0 }, { amountPercent: 60 }, { amountPercent: -100 }, { amountPercent: 200 }],
  source: 'B. Ottosson, “A perceptual color space for image processing” (2020); the falling share: common practice, no published source',
});
