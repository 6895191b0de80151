import { number } from '../params/number.ts';
import { UNBENT } from '../raster/bend.ts';
import { defineCorrection } from './define.ts';

const percent = (label: string, help: string) => number({ label, unit: '%', min: -2, max: 2, default: 0, step: 0.01, digits: 3, usual: [-0.3, 0.3], help });

/** Red and blue a little larger or smaller than green: what a simple lens does towards the corners, or what undoes it. */
export const colourFringes = defineCorrection({
  work: 'neighbourhood',
  id: 'colour-fringes',
  label: 'Colour fringes',
  summary: 'Red and blue drawn a little larger or smaller than green, more towards the corners; or a photograph’s own fringes undone.',
  group: 'Lens',
  params: {
    redPercent: percent('Red', 'So much farther out than green, as a share of the way from the middle.'),
    bluePercent: percent('Blue', 'So much farther out than green.'),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  // Over everything: elements that lie above would not follow.
  prefers: 'picture',
  detail: 'moves',
  isNoOp: ({ redPercent, bluePercent }) => redPercent === 0 && bluePercent === 0,
  spread: ({ redPercent, bluePercent }, { width, height }) => ({
    kind: 'bend',
    bend: { homography: UNBENT, middle: [width / 2, height / 2], unitPx: Math.hypot(width, height) / 2, radial: [0, 0], isInverse: false, channels: [1 / (1 + redPercent / 100), 1, 1 / (1 + bluePercent / 100)], zoom: 1 },
  }),
  examples: [
    { redPercent: 0, bluePercent: 0 },
    { redPercent: 0.2, bluePercent: -0.1 },
    { redPercent: -1, bluePercent: 1.5 },
  ],
  source: 'Lateral colour as a magnification of its own for each channel: Ray, Applied Photographic Optics; amounts: common practice, no published source',
});
