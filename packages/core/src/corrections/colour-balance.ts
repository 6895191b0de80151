import { luminosityOf, setLuminosity } from '../blend/non-separable.ts';
import type { Triple } from '../vector.ts';
import { clampUnit } from '../color/srgb.ts';
import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { tones } from '../params/tones.ts';
import { defineCorrection } from './define.ts';
import { looked, tableOf } from './tables.ts';

const STEPS = 256;
/** How far a hundred per cent moves a channel. */
const MOST = 0.3;
const smooth = (t: number) => t * t * (3 - 2 * t);

/** How far a luminosity belongs to shadows, middles and highlights; 1 in sum. Limits are where it belongs to both sides alike. */
export function toneWeights(l: number, shadowsEnd: number, highlightsBegin: number): Triple {
  const shadows = 1 - smooth(clampUnit(l / (2 * shadowsEnd)));
  const highlights = smooth(clampUnit(1 - (1 - l) / (2 * (1 - highlightsBegin))));
  const middles = Math.max(0, 1 - shadows - highlights);
  const sum = shadows + middles + highlights;
  return [shadows / sum, middles / sum, highlights / sum];
}

/** Moves the channels apart, by tones. Prepared: whether the luminosity stays, the number of steps, and what each channel is moved by, over luminosity. */
export const colourBalance = defineCorrection({
  work: 'points',
  id: 'colour-balance',
  label: 'Colour balance',
  summary: 'Warmer, colder, greener: red, green and blue apart for shadows, middles and highlights.',
  group: 'Colour',
  params: {
    red: tones({ label: 'Red', unit: '%', min: -100, max: 100, step: 1, digits: 0, default: [0, 0, 0], help: 'Below 0 it goes towards cyan.' }),
    green: tones({ label: 'Green', unit: '%', min: -100, max: 100, step: 1, digits: 0, default: [0, 0, 0], help: 'Below 0 it goes towards magenta.' }),
    blue: tones({ label: 'Blue', unit: '%', min: -100, max: 100, step: 1, digits: 0, default: [0, 0, 0], help: 'Below 0 it goes towards yellow.' }),
    shadowsPercent: number({ label: 'Shadows to', unit: '%', min: 5, max: 50, default: 25, step: 1, digits: 0, help: 'Where shadows and middles have equal shares.' }),
    highlightsPercent: number({ label: 'Highlights from', unit: '%', min: 50, max: 95, default: 75, step: 1, digits: 0, help: 'Where middles and highlights have equal shares.' }),
    keepsLuminosity: flag({ label: 'Keep how light it is', default: true, help: 'Only the colour changes.' }),
  },
  domain: 'display',
  zones: ['picture'],
  isNoOp: ({ red, green, blue }) => [...red, ...green, ...blue].every((value) => value === 0),
  prepare: ({ red, green, blue, shadowsPercent, highlightsPercent, keepsLuminosity }) => {
    const moved = (by: readonly number[]) => tableOf(STEPS, (l) => toneWeights(l, shadowsPercent / 100, highlightsPercent / 100).reduce((sum, weight, i) => sum + (weight * by[i] * MOST) / 100, 0));
    return Float32Array.from([keepsLuminosity ? 1 : 0, STEPS, ...moved(red), ...moved(green), ...moved(blue)]);
  },
  pixel: (rgb, prepared) => {
    const l = luminosityOf(rgb);
    const moved = [0, 1, 2].map((c) => rgb[c] + looked(prepared, 2 + c * (STEPS + 1), STEPS, l)) as unknown as Triple;
    return prepared[0] === 1 ? setLuminosity(moved, l) : [clampUnit(moved[0]), clampUnit(moved[1]), clampUnit(moved[2])];
  },
  kernel: 'tone-shift',
  examples: [
    { red: [0, 0, 0], green: [0, 0, 0], blue: [0, 0, 0], shadowsPercent: 25, highlightsPercent: 75, keepsLuminosity: true },
    { red: [-20, 0, 30], green: [0, 5, 0], blue: [40, -10, -25], shadowsPercent: 30, highlightsPercent: 60, keepsLuminosity: true },
    { red: [100, 100, 100], green: [0, 0, 0], blue: [-100, 0, 0], shadowsPercent: 50, highlightsPercent: 50, keepsLuminosity: false },
  ],
  source: 'common practice, no published source; W3C Compositing and Blending Level 1, 2024, SetLum and ClipColor (luminosity)',
});
