import { LIMITS, withinCoordinates } from '../limits.ts';
import { type Growth, isList, type ParamHead, type ParamKind, Unfit } from './define.ts';

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

/** One after the other, as they are read, written and scaled: shared with lines of several. */
export const isPlaces = (given: unknown): given is [number, number][] => Array.isArray(given) && given.length <= LIMITS.points && given.every((place) => isList(place, 2));
export const placesKept = (given: readonly (readonly [number, number])[]): readonly Place[] => given.map(([x, y]) => [withinCoordinates(x), withinCoordinates(y)] as const);
export const placesText = (value: readonly Place[]): string => value.map((place) => place.join(',')).join(' ');
export const placesIn = (text: string): number[][] => text.trim().split(/\s+/).map((place) => place.split(',').map(Number));
export const placesScaled = (value: readonly Place[], { across, down }: Growth): readonly Place[] => placesKept(value.map(([x, y]) => [x * across, y * down]));

const EXPECTED = `places, x and y each, at most ${LIMITS.points}`;

export const placesKind: ParamKind<PlacesParam> = {
  read: (_, given) => (isPlaces(given) ? placesKept(given) : new Unfit(EXPECTED)),
  write: (_, value) => placesText(value),
  parse: (_, text) => (text.trim() === '' ? [] : placesIn(text)),
  summary: (_, value) => `${value.length} points`,
  range: ({ least, most }) => (least === most ? `${least} places, x and y in pixels` : `${least} to ${most} places, x and y in pixels`),
  scaled: (_, value, by) => placesScaled(value, by),
  fault: ({ least, most }) => (least >= 1 && least <= most && most <= LIMITS.points ? null : 'the number of places must be one that a document holds'),
};
