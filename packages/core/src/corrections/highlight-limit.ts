import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/** How far above white the end lies at a limit of one half, in white. */
const LOOSE = 0.1;

/**
 * Brings burnt parts back: light from a knee on is held below an end that it never reaches. As the limit is lowered the knee sinks to black and the end from without bounds to
 * white. The brightest channel is held, the others keep their proportion to it, so that colours keep their hue and never turn grey. Prepared: the knee, and one over the way
 * from it to the end.
 */
export const highlightLimit = defineCorrection({
  work: 'points',
  id: 'highlight-limit',
  label: 'Highlight limit',
  summary: 'Brings back what is burnt: bright light is held below white, with its colour.',
  group: 'Light and tone',
  params: {
    limitPercent: number({ label: 'Limit', unit: '%', min: 0, max: 100, default: 100, step: 1, digits: 0, help: 'Lower brings back what is burnt: light above this share of white is held. At 0 all of it is held, and the picture loses its contrast.' }),
    whiteStops: number({ label: 'White', unit: 'EV', min: -3, max: 6, default: 0, step: 0.1, digits: 2, help: 'What is held comes down to this, in stops above the white of the picture.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ limitPercent }) => limitPercent === 100,
  prepare: ({ limitPercent, whiteStops }) => {
    const [white, limit] = [2 ** whiteStops, limitPercent / 100];
    const knee = limit * white;
    return Float32Array.of(knee, limit === 1 ? 0 : 1 / (white + (white * LOOSE * limit) / (1 - limit) - knee));
  },
  pixel: (rgb, [knee, inverse]) => {
    const most = Math.max(...rgb);
    const over = most - knee;
    if (!(over > 0)) return rgb;
    const gain = (knee + over / (1 + over * inverse)) / most;
    return [rgb[0] * gain, rgb[1] * gain, rgb[2] * gain];
  },
  kernel: 'highlight-limit',
  examples: [{ limitPercent: 100, whiteStops: 0 }, { limitPercent: 60, whiteStops: 0 }, { limitPercent: 0, whiteStops: 0 }, { limitPercent: 30, whiteStops: 1.5 }],
  source: 'E. Reinhard et al., “Photographic Tone Reproduction for Digital Images”, SIGGRAPH 2002, eq. 3, above a knee; on the brightest channel by common practice',
});
