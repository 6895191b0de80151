import { MID_GREY } from '../color/luminance.ts';
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import { number } from '../params/number.ts';
import type { ParamValues } from '../params/table.ts';
import { defineTone } from './define.ts';

const stops = (label: string, min: number, max: number, initial: number, help: string) => number({ label, unit: 'EV', min, max, default: initial, step: 0.1, digits: 2, help });
const percent = (label: string, initial: number, help: string) => number({ label, unit: '%', min: 0, max: 100, default: initial, step: 1, digits: 0, help });

const params = {
  exposureStops: stops('Exposure', -6, 6, 0, 'Of the light before the curve.'),
  slope: number({ label: 'Slope', unit: '', min: 0.04, max: 0.4, default: 0.16, step: 0.005, digits: 3, help: 'How steep the middle is: shares of the picture’s range for each stop of light.' }),
  blackStops: stops('Black', -14, -2, -8, 'Light that becomes black, in stops from mid grey.'),
  toePercent: percent('Toe', 70, 'How softly shadows run out: at 0 in a straight line, at 100 level.'),
  whiteStops: stops('White', 1, 14, 5, 'Light that becomes white, in stops from mid grey.'),
  shoulderPercent: percent('Shoulder', 80, 'How softly highlights run out: at 0 in a straight line, at 100 level.'),
};

/** Picture values of mid grey: where the curve is held. */
const MIDDLE = srgbEncode(MID_GREY);

/**
 * A cubic from the middle (with its slope) to an end, over 0…1. Slopes beyond three times the mean one would turn it back, and are held there.
 * @source F. N. Fritsch, R. E. Carlson, “Monotone Piecewise Cubic Interpolation”, SIAM Journal on Numerical Analysis 17(2), 1980
 */
function passage(rise: number, length: number, slope: number, softness: number): (t: number) => number {
  const mean = rise / length;
  const [from, to] = [Math.min(3, slope / mean), Math.min(3, 1 - softness / 100)];
  return (t) => rise * (from * (t ** 3 - 2 * t ** 2 + t) + (3 * t ** 2 - 2 * t ** 3) + to * (t ** 3 - t ** 2));
}

type Values = ParamValues<typeof params>;

/** Picture values 0…1 over stops from mid grey. */
function valueAt({ slope, blackStops, toePercent, whiteStops, shoulderPercent }: Values): (stops: number) => number {
  const up = passage(1 - MIDDLE, whiteStops, slope, shoulderPercent);
  const down = passage(MIDDLE, -blackStops, slope, toePercent);
  return (at) => (at >= whiteStops ? 1 : at <= blackStops ? 0 : at >= 0 ? MIDDLE + up(at / whiteStops) : MIDDLE - down(at / blackStops));
}

/** By how much a parameter changes so that the curve passes through a value: bisected, since it moves evenly with it. */
function solved(least: number, most: number, value: number, at: (param: number) => number): number {
  let [low, high] = [least, most];
  const rises = at(most) >= at(least);
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2;
    if (at(middle) < value === rises) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** A curve by hand: black, toe, slope, shoulder and white, over stops of light, held at mid grey. */
export const toeShoulder = defineTone({
  id: 'toe-shoulder',
  label: 'Toe and shoulder',
  summary: 'A film curve by hand: black, toe, slope, shoulder and white are handles on its drawing.',
  params,
  curve: (values) => {
    const value = valueAt(values);
    return (light) => (light > 0 ? srgbDecode(value(Math.log2(light / MID_GREY) + values.exposureStops)) : 0);
  },
  handles: [
    { label: 'Black', at: ({ blackStops, exposureStops }) => [blackStops - exposureStops, 0], drag: ({ exposureStops }, [x]) => ({ blackStops: x + exposureStops }) },
    {
      label: 'Toe',
      at: (values) => [values.blackStops / 2 - values.exposureStops, valueAt(values)(values.blackStops / 2)],
      drag: (values, [, y]) => ({ toePercent: solved(0, 100, y, (toePercent) => valueAt({ ...values, toePercent })(values.blackStops / 2)) }),
    },
    {
      label: 'Slope',
      at: (values) => [1 - values.exposureStops, valueAt(values)(1)],
      drag: (values, [, y]) => ({ slope: solved(0.04, 0.4, y, (slope) => valueAt({ ...values, slope })(1)) }),
    },
    {
      label: 'Shoulder',
      at: (values) => [(values.whiteStops * 2) / 3 - values.exposureStops, valueAt(values)((values.whiteStops * 2) / 3)],
      drag: (values, [, y]) => ({ shoulderPercent: solved(0, 100, y, (shoulderPercent) => valueAt({ ...values, shoulderPercent })((values.whiteStops * 2) / 3)) }),
    },
    { label: 'White', at: ({ whiteStops, exposureStops }) => [whiteStops - exposureStops, 1], drag: ({ exposureStops }, [x]) => ({ whiteStops: x + exposureStops }) },
  ],
  examples: [
    { exposureStops: 0, slope: 0.16, blackStops: -8, toePercent: 70, whiteStops: 5, shoulderPercent: 80 },
    { exposureStops: 0.5, slope: 0.3, blackStops: -4, toePercent: 0, whiteStops: 3, shoulderPercent: 100 },
    { exposureStops: -1, slope: 0.06, blackStops: -12, toePercent: 100, whiteStops: 10, shoulderPercent: 0 },
  ],
  source: 'F. N. Fritsch, R. E. Carlson, SIAM Journal on Numerical Analysis 17(2), 1980 (the cubics); the parts of a film curve: common practice, no published source',
});
