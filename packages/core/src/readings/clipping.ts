import { luminanceOf } from '../color/luminance.ts';
import type { Triple } from '../vector.ts';
import { defineReading } from './define.ts';

/** What the last and the first code of eight bits stand for. */
const WHITE = 1 - 0.5 / 255;
const BLACK = 0.5 / 255;
const STRIPE_PX = 6;
const DARK: Triple = [0.1, 0.1, 0.1];
const BLACK_SIGN: Triple = [0.1, 0.55, 0.95];

/** Where channels have reached an end of the picture's range and hold no drawing any more; everything else is dimmed. */
export const clipping = defineReading({
  id: 'clipping',
  label: 'Clipping',
  summary: 'Where the picture is white or black at the end of its range, by channels.',
  of: 'picture',
  pixel: (rgb, [x, y]) => {
    const isWhite = rgb.map((value) => value >= WHITE);
    const isStriped = Math.floor((x + y) / STRIPE_PX) % 2 === 0;
    if (isWhite.some(Boolean)) {
      if (isWhite.every(Boolean)) return isStriped ? [1, 1, 1] : DARK;
      return isWhite.map((each) => (each ? 1 : 0.15)) as unknown as Triple;
    }
    if (rgb.every((value) => value <= BLACK)) return isStriped ? BLACK_SIGN : DARK;
    const value = 0.12 + 0.4 * luminanceOf(rgb);
    return [value, value, value];
  },
  legend: [
    { color: [1, 1, 1], label: 'white (striped)' },
    { color: [1, 0.15, 0.15], label: 'red at its end' },
    { color: [0.15, 1, 0.15], label: 'green' },
    { color: [0.15, 0.15, 1], label: 'blue' },
    { color: BLACK_SIGN, label: 'black (striped)' },
  ],
  source: 'common practice, no published source: the codes 0 and 255 of a file of eight bits',
});
