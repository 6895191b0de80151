import { LIMITS } from '../limits.ts';
import { type ParamHead, type ParamKind, Unfit } from './define.ts';
import { isPlaces, type Place, placesIn, placesKept, placesScaled, placesText } from './places.ts';

/** Lines drawn on the picture, each through places one after the other. A line that is only begun has one place. */
export type PathsParam = ParamHead<'paths', readonly (readonly Place[])[]>;
export const paths = (param: Omit<PathsParam, 'kind' | 'default'>): PathsParam => ({ kind: 'paths', default: [], ...param });

const MOST_PATHS = 40;
const EXPECTED = `lines of places, x and y each: at most ${MOST_PATHS} of ${LIMITS.points}`;
const isPath = (given: unknown): given is [number, number][] => isPlaces(given) && given.length > 0;

export const pathsKind: ParamKind<PathsParam> = {
  read: (_, given) => (Array.isArray(given) && given.length <= MOST_PATHS && given.every(isPath) ? given.map(placesKept) : new Unfit(EXPECTED)),
  write: (_, value) => value.map(placesText).join('; '),
  parse: (_, text) => (text.trim() === '' ? [] : text.split(';').map(placesIn)),
  summary: (_, value) => (value.length === 1 ? 'one line' : `${value.length} lines`),
  range: () => 'lines of places, x and y in pixels: `x,y x,y; x,y x,y`',
  scaled: (_, value, by) => value.map((path) => placesScaled(path, by)),
};
