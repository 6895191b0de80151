/** How an element is looked at alone: numbers that are no colours in a range found from the picture; what is empty with a reason. Common practice, no published source. */
import type { Source } from '../model/model.ts';
import type { Measure } from '../raster/measure.ts';
import { type RoleId, roleKeepsValues, roleSaysHowFar } from './roles.ts';

export interface ElementLook {
  /** shown = scale × value + offset */
  readonly scale: number;
  readonly offset: number;
  /** What black and white stand for, or why nothing is seen; null if there is nothing to say. */
  readonly sentence: string | null;
}

/** The largest half, and what renderers write where nothing is, are no distance. */
const BEYOND = 65_000;

const reasons: Partial<Readonly<Record<RoleId, string>>> = {
  atmosphere: 'the scene has no fog, or it was rendered without it',
  background: 'no sky or environment is in view',
  refraction: 'nothing in view lets light through',
  'raw-refraction': 'nothing in view lets light through',
  'refraction-filter': 'nothing in view lets light through',
  reflection: 'nothing in view mirrors',
  'raw-reflection': 'nothing in view mirrors',
  'reflection-filter': 'nothing in view mirrors',
  specular: 'no lamp is seen as a highlight; light that comes from the sky alone makes none',
  'self-illumination': 'nothing in view glows by itself; lamps behind glass belong to refraction',
  subsurface: 'no material in view scatters light inside itself',
  caustics: 'no light was thrown by glass or mirrors, or that was not computed',
  'light-group': 'these lamps were off, or their light does not reach what is in view',
  shadow: 'nothing stands in the way of light',
  'raw-shadow': 'nothing stands in the way of light',
  gi: 'indirect light was not computed',
  'raw-gi': 'indirect light was not computed',
};

const figure = (value: number) => (Math.abs(value) >= 100 ? value.toFixed(0) : value.toPrecision(3)).replace('-', '−');

/** @param measure of its values as they are, unclamped; null means it is shown as it is */
export function elementLook({ role, encoding }: Pick<Source, 'role' | 'encoding'>, measure: Measure): ElementLook | null {
  const channels = [measure.red, measure.green, measure.blue];
  const [min, max] = [Math.min(...channels.map((each) => each.min)), Math.max(...channels.map((each) => each.max))];
  if (min === 0 && max === 0) return { scale: 1, offset: 0, sentence: `It is empty: ${reasons[role] ?? 'nothing of that kind is in view'}.` };
  if (encoding !== 'data' || roleKeepsValues(role) || role === 'alpha') return null;
  if (role === 'normals') return { scale: 0.5, offset: 0.5, sentence: 'Directions: −1 is black, 1 white' };
  // The outermost thousandth may be a stray sample; what is infinitely far says nothing of the range.
  const low = Math.min(...channels.map(({ percentiles }) => percentiles[0]));
  const high = Math.max(...channels.map(({ percentiles }) => percentiles.findLast((value) => value < BEYOND) ?? percentiles[0]));
  if (!(high > low)) return { scale: 1, offset: 0, sentence: `All of it is ${figure(low)}.` };
  const unit = roleSaysHowFar(role) || role === 'position' ? ' m' : '';
  return { scale: 1 / (high - low), offset: -low / (high - low), sentence: `${figure(low)}${unit} is black, ${figure(high)}${unit} white` };
}
