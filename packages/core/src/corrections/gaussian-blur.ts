import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/**
 * Softens by a Gaussian: every pixel becomes the mean of its surroundings, weighted by their distance. Under the tone line it mixes light,
 * over it picture values. With a mask it can take only from inside it, so that water does not draw in the gravel beside it.
 */
export const gaussianBlur = defineCorrection({
  work: 'neighbourhood',
  id: 'gaussian-blur',
  label: 'Gaussian blur',
  summary: 'Softens by a Gaussian; what lies outside a mask stays out of it.',
  group: 'Detail',
  params: {
    sigmaPx: number({ label: 'Width', unit: 'px', min: 0, max: 1000, default: 0, step: 0.5, digits: 1, usual: [0, 60], help: 'Standard deviation in pixels of the full picture: two thirds of the light come from within it.' }),
    sigmaPercent: number({ label: 'Width by size', unit: '%', min: 0, max: 25, default: 0, step: 0.05, digits: 2, usual: [0, 3], help: 'The same as a share of the picture’s diagonal, added to the width in pixels; it suits pictures of any size.' }),
    staysInside: flag({ label: 'Stays inside its mask', default: true, help: 'With a mask: takes in nothing of what lies outside it.' }),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  isNoOp: ({ sigmaPx, sigmaPercent }) => sigmaPx === 0 && sigmaPercent === 0,
  spread: ({ sigmaPx, sigmaPercent, staysInside }, { width, height }) => ({ kind: 'gaussian', sigmaPx: sigmaPx + (sigmaPercent / 100) * Math.hypot(width, height), staysInside }),
  examples: [{ sigmaPx: 0, sigmaPercent: 0, staysInside: true }, { sigmaPx: 1.5, sigmaPercent: 0, staysInside: true }, { sigmaPx: 40, sigmaPercent: 0, staysInside: false }, { sigmaPx: 0, sigmaPercent: 2, staysInside: true }],
  source: 'R. Szeliski, “Computer Vision: Algorithms and Applications”, 2nd ed. 2022, 3.2 and 3.5; see evaluate/gaussian-phases.ts',
});
