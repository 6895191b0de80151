import { familyWeights } from '../color/hue-families.ts';
import { LAB_TO_LMS, LMS_TO_LAB, LMS_TO_RGB, linearToOklab, oklabToLinear, RGB_TO_LMS } from '../color/oklab.ts';
import { bands } from '../params/bands.ts';
import { defineCorrection } from './define.ts';
import { looked, tableOf } from './tables.ts';

const STEPS = 1440;
/** Greys belong to no family: colours weaker than this change their light only in part. */
const FULL_CHROMA = 0.06;
const TABLE = 38;

/** Where a direction lies around the circle, from 0 to 1: grows with its angle. The kernel needs no arc tangent for it. */
const roundOf = (a: number, b: number) => {
  const sum = Math.abs(a) + Math.abs(b);
  const share = sum > 0 ? b / sum : 0;
  return (a >= 0 ? (b >= 0 ? share : 4 + share) : 2 - share) / 4;
};
/** Angle of a place around the circle. */
function angleAt(place: number): number {
  const quarter = Math.min(3, Math.floor(place * 4));
  const f = place * 4 - quarter;
  return Math.atan2(...([[f, 1 - f], [1 - f, -f], [-f, f - 1], [f - 1, f]][quarter] as [number, number]));
}

/**
 * Hue, colourfulness and light for each family of hues of OKLab; between two families their numbers pass into each other. Lightness times the cube root of a factor is
 * light times that factor, whatever the colour. Prepared: four matrices, the chroma from which light changes fully, the number of steps, and around the circle of hues fours: the
 * turn (cosine and sine, times the factor of chroma), the factor of lightness, and nothing.
 */
export const hueFamilies = defineCorrection({
  work: 'points',
  id: 'hue-families',
  label: 'Hue families',
  summary: 'Turns, strengthens and lightens single hues: blues down, then reds a little.',
  group: 'Colour',
  params: {
    hueDegrees: bands({ label: 'Hue', unit: '°', min: -60, max: 60, default: 0, step: 1, digits: 0, help: 'Turns the hues of the family around the circle.' }),
    saturationPercent: bands({ label: 'Saturation', unit: '%', min: 0, max: 200, default: 100, step: 1, digits: 0, help: '0 is grey, 100 as it was, 200 twice as colourful.' }),
    rangeDegrees: bands({ label: 'Range', unit: '°', min: -13, max: 13, default: 0, step: 1, digits: 0, help: 'Moves the middle of the family around the circle; its neighbours begin where it ends.' }),
    lightStops: bands({ label: 'Light', unit: 'EV', min: -3, max: 3, default: 0, step: 0.05, digits: 2, help: 'Lightens or darkens the family as more or less light would.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ hueDegrees, saturationPercent, lightStops }) => [...hueDegrees, ...lightStops].every((v) => v === 0) && saturationPercent.every((v) => v === 100),
  prepare: ({ hueDegrees, saturationPercent, rangeDegrees, lightStops }) => {
    const at = (values: readonly number[], place: number) => familyWeights((angleAt(place) * 180) / Math.PI, rangeDegrees).reduce((sum, weight, i) => sum + weight * values[i], 0);
    const around = tableOf(STEPS, (place) => {
      const [turn, chroma] = [(at(hueDegrees, place) * Math.PI) / 180, at(saturationPercent, place) / 100];
      return [Math.cos(turn) * chroma, Math.sin(turn) * chroma, 2 ** (at(lightStops, place) / 3), 0];
    });
    const matrices = [RGB_TO_LMS, LMS_TO_LAB, LAB_TO_LMS, LMS_TO_RGB].flatMap((matrix) => matrix.flat());
    return Float32Array.from([...matrices, FULL_CHROMA, STEPS, ...around.flat()]);
  },
  pixel: (rgb, prepared) => {
    const [lightness, a, b] = linearToOklab(rgb);
    const place = roundOf(a, b);
    const [cosine, sine, light] = [0, 1, 2].map((number) => looked(prepared, TABLE + number, STEPS, place, 4));
    const gain = 1 + Math.min(1, Math.hypot(a, b) / FULL_CHROMA) * (light - 1);
    return oklabToLinear([lightness * gain, (cosine * a - sine * b) * gain, (sine * a + cosine * b) * gain]);
  },
  kernel: 'hue-families',
  examples: [
    { hueDegrees: [0, 0, 0, 0, 0, 0, 0, 0], saturationPercent: [100, 100, 100, 100, 100, 100, 100, 100], rangeDegrees: [0, 0, 0, 0, 0, 0, 0, 0], lightStops: [0, 0, 0, 0, 0, 0, 0, 0] },
    { hueDegrees: [0, 0, 0, 0, 0, 0, 0, 0], saturationPercent: [120, 100, 100, 100, 60, 40, 100, 100], rangeDegrees: [0, 0, 0, 0, 0, 0, 0, 0], lightStops: [0, 0, 0, 0, -0.3, -0.7, 0, 0] },
    { hueDegrees: [20, -10, 5, 30, -30, 60, -60, 0], saturationPercent: [0, 200, 100, 150, 50, 100, 100, 80], rangeDegrees: [-5, 5, 0, 4, -4, 2, 0, 5], lightStops: [1, -1, 0, 0.5, 0, 2, -3, 0] },
  ],
  source: 'B. Ottosson, “A perceptual color space for image processing” (2020); families and their passages: common practice, no published source',
});
