import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/** Drawn out along a direction, as what moves is while the shutter is open: each pixel is the mean of those that pass it. */
export const motionBlur = defineCorrection({
  work: 'neighbourhood',
  id: 'motion-blur',
  label: 'Motion blur',
  summary: 'Drawn out along a direction, as what moves in a long exposure: leaves, clouds, or water up and down.',
  group: 'Lens',
  params: {
    lengthPx: number({ label: 'Length', unit: 'px', min: 0, max: 4000, default: 0, step: 1, digits: 1, usual: [0, 200], help: 'How far it moves while the shutter is open, in pixels of the full picture.' }),
    lengthPercent: number({ label: 'Length by size', unit: '%', min: 0, max: 100, default: 0, step: 0.1, digits: 2, usual: [0, 10], help: 'The same as a share of the picture’s width, added to the length in pixels.' }),
    angleDegrees: number({ label: 'Direction', unit: '°', min: -90, max: 90, default: 0, step: 1, digits: 0, help: '0 is to the side, 90 up and down; clockwise.' }),
    staysInside: flag({ label: 'Stays inside its mask', default: true, help: 'With a mask: takes in nothing of what lies outside it.' }),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  detail: 'softens',
  isNoOp: ({ lengthPx, lengthPercent }) => lengthPx === 0 && lengthPercent === 0,
  spread: ({ lengthPx, lengthPercent, angleDegrees, staysInside }, { width }) => {
    const length = lengthPx + (lengthPercent / 100) * width;
    const angle = (angleDegrees * Math.PI) / 180;
    return { kind: 'drift', way: [length * Math.cos(angle), length * Math.sin(angle)], staysInside };
  },
  examples: [
    { lengthPx: 0, lengthPercent: 0, angleDegrees: 0, staysInside: true },
    { lengthPx: 12, lengthPercent: 0, angleDegrees: 30, staysInside: true },
    { lengthPx: 0, lengthPercent: 4, angleDegrees: 90, staysInside: false },
  ],
  source: 'R. Gonzalez, R. Woods, “Digital Image Processing”, 4th ed. 2018, 5.6: uniform linear motion while the shutter is open',
});
