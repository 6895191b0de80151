import type { Triple } from '../vector.ts';
import { clamp, figure, isList, numbersIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A direction in the axes of what it is compared with; its length does not count. */
export type DirectionParam = ParamHead<'direction', Triple>;

export const direction = (param: Omit<DirectionParam, 'kind'>): DirectionParam => ({ kind: 'direction', ...param });

export const directionKind: ParamKind<DirectionParam> = {
  read: (_, given) => (isList(given, 3) ? (given.map((v) => clamp(v, -1, 1)) as unknown as Triple) : new Unfit('a direction, x, y and z')),
  write: (_, value) => value.join(','),
  parse: (_, text) => numbersIn(text),
  summary: (_, value) => value.map((v) => figure(v, 2)).join(' '),
  range: () => 'x, y, z, each −1 … 1',
};
