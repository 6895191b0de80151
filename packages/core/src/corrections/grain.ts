import { luminanceOf, MID_GREY } from '../color/luminance.ts';
import { number } from '../params/number.ts';
import { rememberedLast } from '../remembered.ts';
import { copyAt, FIELD_LEVELS, FIELD_SIDE, fieldAt, withCopies } from '../raster/field.ts';
import { latticeNoise, seededNormal } from '../noise.ts';
import type { Triple } from '../vector.ts';
import { defineCorrection } from './define.ts';

/** Where the field begins; before it stand the numbers of `prepare`. */
const GRAIN_HEAD = 32;
/** Where the mean squares of its copies stand, and of what is met between their numbers. */
const [SQUARES_AT, MET_AT] = [8, 16];
/** Places at which it is found how much is lost between numbers. */
const PLACES = 6000;
/** Stops from mid grey to where shadows and lights are as they say. */
const REACH_STOPS = 4;
/** How far neighbours are alike: grains are round. So soft that it makes no difference whether the field is met at its numbers or between them. In numbers of the field. */
const BLUR = 0.9;
/** Numbers of the field across a grain: so far apart its correlation is a half on either side (2.355 √2 × softness). */
const PER_GRAIN = 3;
/** The field is met twice, the second time turned by this (3 : 4 : 5), so that nobody sees where it repeats. */
const [TURN_COS, TURN_SIN] = [0.8, 0.6];
/** Where other channels read the field, in its own lengths: whole numbers away. */
const APART: readonly (readonly [number, number])[] = [[70 / FIELD_SIDE, 368 / FIELD_SIDE], [299 / FIELD_SIDE, 149 / FIELD_SIDE], [446 / FIELD_SIDE, 234 / FIELD_SIDE]];

/** A field of independent grains, softened a little, mean 0 and mean square 1, with its copies. */
function grainField(seed: number): Float32Array {
  const side = FIELD_SIDE;
  const random = seededNormal(seed);
  const raw = Float64Array.from({ length: side * side }, random);
  const taps = [-3, -2, -1, 0, 1, 2, 3].map((k) => [k, Math.exp(-(k * k) / (2 * BLUR * BLUR))] as const);
  const along = (from: Float64Array, stepX: number, stepY: number) =>
    Float64Array.from(from, (_, i) => taps.reduce((sum, [k, weight]) => sum + weight * from[((((i / side) | 0) + k * stepY + side) % side) * side + (((i % side) + k * stepX + side) % side)], 0));
  const soft = along(along(raw, 1, 0), 0, 1);
  const mean = soft.reduce((sum, value) => sum + value, 0) / soft.length;
  const rms = Math.sqrt(soft.reduce((sum, value) => sum + (value - mean) ** 2, 0) / soft.length);
  return withCopies(Float32Array.from(soft, (value) => (value - mean) / rms));
}

/** How strong the copies of a field are, and how much of that is left between their numbers: 16 numbers. */
function figuresOf(field: Float32Array, seed: number): Float32Array {
  const found = new Float32Array(2 * FIELD_LEVELS);
  for (let level = 0; level < FIELD_LEVELS; level++) {
    const copy = field.subarray(copyAt(level), copyAt(level) + (FIELD_SIDE >> level) ** 2);
    found[level] = copy.reduce((sum, value) => sum + value * value, 0) / copy.length;
    let met = 0;
    for (let n = 0; n < PLACES; n++) met += fieldAt(field, latticeNoise(n, 3, seed), latticeNoise(n, 4, seed), level) ** 2;
    found[FIELD_LEVELS + level] = met / PLACES;
  }
  return found;
}

const grainsOf = rememberedLast(3, (seed) => {
  const field = grainField(seed);
  return { field, figures: figuresOf(field, seed) };
});

/**
 * Grain in density: light is multiplied, so that dark places stay dark, by a factor that varies by stops. It lies in the picture: what is seen smaller is the mean of what is seen larger, at every zoom
 * and in a delivered file alike. The mean of the light stays.
 *
 * Prepared: stops, share in shadows and in lights, share that all channels have in common and share of their own (as amplitudes), one over its size in the field's lengths, texels for a pixel · from 8 on the figures of the copies · from 32 on
 * the field.
 */
export const grain = defineCorrection({
  work: 'points',
  id: 'grain',
  label: 'Grain',
  summary: 'Grain as of film, over render and photographs alike: in density, the same at every zoom.',
  group: 'Lens',
  params: {
    amountStops: number({ label: 'Amount', unit: 'EV', min: 0, max: 2, default: 0, step: 0.01, digits: 2, usual: [0, 0.5], help: 'How much light varies in the middle tones: root of the mean square, in stops, of grains seen at their own size.' }),
    sizePx: number({ label: 'Size', unit: 'px', min: 0.5, max: 40, default: 1.5, step: 0.1, digits: 1, byFactors: true, usual: [0.5, 8], help: 'How wide a grain looks, in pixels of the full picture.' }),
    shadowsPercent: number({ label: 'In shadows', unit: '%', min: 0, max: 200, default: 70, step: 5, digits: 0, help: 'As a share of that in the middle tones, four stops below mid grey.' }),
    lightsPercent: number({ label: 'In lights', unit: '%', min: 0, max: 200, default: 35, step: 5, digits: 0, help: 'As a share of that in the middle tones, four stops above mid grey.' }),
    colourPercent: number({ label: 'Colour', unit: '%', min: 0, max: 100, default: 15, step: 5, digits: 0, help: 'How much of it is of each channel by itself: 0 is grey.' }),
    seed: number({ label: 'Seed', unit: '', min: 0, max: 9999, default: 1, step: 1, digits: 0, usual: [0, 100], help: 'Other grains of the same kind.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  prefers: 'picture',
  isPlaced: true,
  isNoOp: ({ amountStops }) => amountStops === 0,
  prepare: ({ amountStops, sizePx, shadowsPercent, lightsPercent, colourPercent, seed }) => {
    const { field, figures } = grainsOf(Math.round(seed));
    const out = new Float32Array(GRAIN_HEAD + field.length);
    const own = colourPercent / 100;
    out.set([amountStops, shadowsPercent / 100, lightsPercent / 100, Math.sqrt(1 - own), Math.sqrt(own), PER_GRAIN / (sizePx * FIELD_SIDE), PER_GRAIN / sizePx]);
    out.set(figures, SQUARES_AT);
    out.set(field, GRAIN_HEAD);
    return out;
  },
  pixel: (rgb, prepared, [x, y], _others, step) => {
    const [amount, shadows, lights, common, own, perField, perSize] = prepared;
    const field = prepared.subarray(GRAIN_HEAD);
    // Grains that are smaller than a pixel are seen as their mean.
    const wanted = Math.min(FIELD_LEVELS - 1, Math.max(0, Math.log2(step * perSize)));
    const level = Math.floor(wanted + 0.5);
    const [px, py] = [x * perField, y * perField];
    const [qx, qy] = [TURN_COS * px - TURN_SIN * py, TURN_SIN * px + TURN_COS * py];
    const at = (u: number, v: number) => fieldAt(field, u, v, level);
    const tone = Math.log2(Math.max(1e-6, luminanceOf(rgb)) / MID_GREY) / REACH_STOPS;
    const t = Math.min(1, Math.abs(tone));
    const stops = amount * (1 + ((tone < 0 ? shadows : lights) - 1) * t * t * (3 - 2 * t));
    const [below, above] = [Math.floor(wanted), Math.min(FIELD_LEVELS - 1, Math.floor(wanted) + 1)];
    const squares = prepared[SQUARES_AT + below] ** (1 - (wanted - below)) * prepared[SQUARES_AT + above] ** (wanted - below);
    // As strong as means over pixels of that width are, not as what is left between the numbers of a copy.
    const whole = Math.sqrt(squares / prepared[MET_AT + level]);
    // Factors that vary evenly in stops are more on the mean than 1.
    const even = (Math.LN2 / 2) * stops * stops * squares;
    const grey = common * Math.SQRT1_2 * (at(px, py) + at(qx, qy));
    return rgb.map((value, c) => value * 2 ** (stops * whole * (grey + (own > 0 ? own * at(qx + APART[c][0], qy + APART[c][1]) : 0)) - even)) as unknown as Triple;
  },
  kernel: 'grain',
  examples: [
    { amountStops: 0, sizePx: 1.5, shadowsPercent: 70, lightsPercent: 35, colourPercent: 15, seed: 1 },
    { amountStops: 0.3, sizePx: 1, shadowsPercent: 100, lightsPercent: 100, colourPercent: 0, seed: 2 },
    { amountStops: 0.8, sizePx: 3.3, shadowsPercent: 40, lightsPercent: 0, colourPercent: 60, seed: 7 },
  ],
  source: 'common practice, no published source (factors in density, as film has them)',
});
