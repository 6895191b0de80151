import { LIMITS, withinCoordinates } from '../limits.ts';
import { isList, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A place on the picture, in pixels of its full size. */
export type Place = readonly [x: number, y: number];

/** Places that are drawn on the picture one after the other: the points of a shape. */
export interface PlacesParam extends ParamHead<'places', readonly Place[]> {
  readonly least: number;
  readonly most: number;
  /** What each is called; those beyond are corners. */
  readonly names: readonly string[];
}

export const places = (param: Omit<PlacesParam, 'kind' | 'default' | 'names'> & { names?: readonly string[] }): PlacesParam => ({ kind: 'places', default: [], names: [], ...param });

const EXPECTED = `places, x and y each, at most ${LIMITS.points}`;

export const placesKind: ParamKind<PlacesParam> = {
  read: (_, given) => (Array.isArray(given) && given.length <= LIMITS.points && given.every((place) => isList(place, 2)) ? given.map(([x, y]) => [withinCoordinates(x), withinCoordinates(y)] as const) : new Unfit(EXPECTED)),
  write: (_, value) => value.map((place) => place.join(',')).join(' '),
  parse: (_, text) => (text.trim() === '' ? [] : text.trim().split(/\s+/).map((place) => place.split(',').map(Number))),
  summary: (_, value) => `${value.length} points`,
  range: ({ least, most }) => (least === most ? `${least} places, x and y in pixels` : `${least} to ${most} places, x and y in pixels`),
  scaled: (_, value, { across, down }) => value.map(([x, y]) => [withinCoordinates(x * across), withinCoordinates(y * down)] as const),
  fault: ({ least, most }) => (least >= 1 && least <= most && most <= LIMITS.points ? null : 'the number of places must be one that a document holds'),
};
