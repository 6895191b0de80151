import { number } from '../params/number.ts';
import { point } from '../params/point.ts';
import { defineCorrection } from './define.ts';

/** Sharp along a line, softer away from it: soft top and bottom, or as a tilted lens does it. */
export const tiltBlur = defineCorrection({
  work: 'neighbourhood',
  id: 'tilt-blur',
  label: 'Tilt blur',
  summary: 'Sharp along a line, softer away from it: top and bottom step back, or a whole looks like a model.',
  group: 'Lens',
  params: {
    sigmaPercent: number({ label: 'Width', unit: '%', min: 0, max: 5, default: 0, step: 0.02, digits: 2, usual: [0, 1], help: 'How far it is softened in the end: standard deviation as a share of the picture’s diagonal.' }),
    centre: point({ label: 'Centre', unit: '%', default: [50, 50], help: 'A place on the sharp line, from the upper left corner of the picture.' }),
    angleDegrees: number({ label: 'Turned', unit: '°', min: -90, max: 90, default: 0, step: 1, digits: 0, help: 'The sharp line: 0 is level, clockwise.' }),
    sharpPercent: number({ label: 'Sharp to', unit: '%', min: 0, max: 100, default: 20, step: 1, digits: 0, help: 'So far from the line nothing is softened, as a share of the picture’s height.' }),
    fadePercent: number({ label: 'Fades over', unit: '%', min: 1, max: 150, default: 35, step: 1, digits: 0, help: 'How long it takes from there to the full width, as a share of the height.' }),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  detail: 'softens',
  isNoOp: ({ sigmaPercent }) => sigmaPercent === 0,
  spread: ({ sigmaPercent, centre, angleDegrees, sharpPercent, fadePercent }, { width, height }) => {
    const angle = (angleDegrees * Math.PI) / 180;
    const begins = (sharpPercent / 100) * height;
    return { kind: 'graded', sigmaPx: (sigmaPercent / 100) * Math.hypot(width, height), middle: [(centre[0] / 100) * width, (centre[1] / 100) * height], across: [-Math.sin(angle), Math.cos(angle)], begins, full: begins + (fadePercent / 100) * height };
  },
  examples: [
    { sigmaPercent: 0, centre: [50, 50], angleDegrees: 0, sharpPercent: 20, fadePercent: 35 },
    { sigmaPercent: 1.2, centre: [50, 55], angleDegrees: 0, sharpPercent: 15, fadePercent: 30 },
    { sigmaPercent: 3, centre: [30, 60], angleDegrees: 35, sharpPercent: 0, fadePercent: 80 },
  ],
  source: 'common practice, no published source; Gaussians: see evaluate/gaussian-phases.ts',
});
