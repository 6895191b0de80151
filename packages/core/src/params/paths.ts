import { LIMITS, withinCoordinates } from '../limits.ts';
import { isList, type ParamHead, type ParamKind, Unfit } from './define.ts';
import type { Place } from './places.ts';

/** Lines drawn on the picture, each through places one after the other. A line that is only begun has one place. */
export type PathsParam = ParamHead<'paths', readonly (readonly Place[])[]>;
export const paths = (param: Omit<PathsParam, 'kind' | 'default'>): PathsParam => ({ kind: 'paths', default: [], ...param });

export const MOST_PATHS = 40;
const EXPECTED = `lines of places, x and y each: at most ${MOST_PATHS} of ${LIMITS.points}`;
const isPath = (given: unknown): given is [number, number][] => Array.isArray(given) && given.length > 0 && given.length <= LIMITS.points && given.every((place) => isList(place, 2));

export const pathsKind: ParamKind<PathsParam> = {
  read: (_, given) => (Array.isArray(given) && given.length <= MOST_PATHS && given.every(isPath) ? given.map((path) => path.map(([x, y]) => [withinCoordinates(x), withinCoordinates(y)] as const)) : new Unfit(EXPECTED)),
  write: (_, value) => value.map((path) => path.map((place) => place.join(',')).join(' ')).join('; '),
  parse: (_, text) => (text.trim() === '' ? [] : text.split(';').map((path) => path.trim().split(/\s+/).map((place) => place.split(',').map(Number)))),
  summary: (_, value) => (value.length === 1 ? 'one line' : `${value.length} lines`),
  range: () => 'lines of places, x and y in pixels: `x,y x,y; x,y x,y`',
  scaled: (_, value, { across, down }) => value.map((path) => path.map(([x, y]) => [withinCoordinates(x * across), withinCoordinates(y * down)] as const)),
};
