import { luminosityOf, setLuminosity } from '../blend/non-separable.ts';
import type { Triple } from '../vector.ts';
import { monotoneCurve } from '../color/monotone.ts';
import { curve, type CurvePoint, isStraight } from '../params/curve.ts';
import { defineCorrection } from './define.ts';
import { looked, tableOf } from './tables.ts';

const STEPS = 1024;

/**
 * Picture values by drawn curves: each channel by its own, then by the one for all, then the luminosity of the result by the last, which leaves hue and
 * colourfulness as far as they fit between black and white. Prepared: whether luminosity has a curve, the number of steps, four tables.
 */
export const curves = defineCorrection({
  work: 'points',
  id: 'curves',
  label: 'Curves',
  summary: 'Lightens and darkens by drawn curves, for all, for each channel, for luminosity.',
  group: 'Light and tone',
  params: {
    all: curve({ label: 'All', help: 'All three channels alike; colours become stronger where it is steep.' }),
    red: curve({ label: 'Red', help: 'The red channel alone.' }),
    green: curve({ label: 'Green', help: 'The green channel alone.' }),
    blue: curve({ label: 'Blue', help: 'The blue channel alone.' }),
    luminosity: curve({ label: 'Luminosity', help: 'How light colours are; hue and colourfulness stay.' }),
  },
  domain: 'display',
  zones: ['picture'],
  isNoOp: (params) => Object.values(params).every(isStraight),
  prepare: ({ all, red, green, blue, luminosity }) => {
    const last = monotoneCurve(all);
    const channel = (points: readonly CurvePoint[]) => {
      const own = monotoneCurve(points);
      return tableOf(STEPS, (x) => last(own(x)));
    };
    return Float32Array.from([isStraight(luminosity) ? 0 : 1, STEPS, ...channel(red), ...channel(green), ...channel(blue), ...tableOf(STEPS, monotoneCurve(luminosity))]);
  },
  pixel: (rgb, prepared) => {
    const at = (table: number, x: number) => looked(prepared, 2 + table * (STEPS + 1), STEPS, x);
    const drawn: Triple = [at(0, rgb[0]), at(1, rgb[1]), at(2, rgb[2])];
    return prepared[0] === 0 ? drawn : setLuminosity(drawn, at(3, luminosityOf(drawn)));
  },
  kernel: 'curves',
  examples: [
    { all: [[0, 0], [1, 1]], red: [[0, 0], [1, 1]], green: [[0, 0], [1, 1]], blue: [[0, 0], [1, 1]], luminosity: [[0, 0], [1, 1]] },
    { all: [[0, 0], [0.25, 0.18], [0.75, 0.84], [1, 1]], red: [[0, 0], [1, 1]], green: [[0, 0], [1, 1]], blue: [[0, 0.05], [0.5, 0.5], [1, 0.9]], luminosity: [[0, 0], [1, 1]] },
    { all: [[0, 0], [1, 1]], red: [[0, 1], [1, 0]], green: [[0.1, 0], [0.9, 1]], blue: [[0, 0], [1, 1]], luminosity: [[0, 0.1], [0.4, 0.6], [1, 1]] },
  ],
  source: 'M. Steffen, Astronomy and Astrophysics 239, 1990 (curve); W3C Compositing and Blending Level 1, 2024, SetLum and ClipColor (luminosity)',
});
