import { withinCoordinates } from '../limits.ts';
import { clamp, figure, isList, numbersIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A place on the picture. */
export interface PointParam extends ParamHead<'point', readonly [x: number, y: number]> {
  /** Per cent of the picture's sides, or pixels of the full picture. */
  readonly unit: '%' | 'px';
}

export const point = (param: Omit<PointParam, 'kind'>): PointParam => ({ kind: 'point', ...param });

export const pointKind: ParamKind<PointParam> = {
  read: ({ unit }, given) => (isList(given, 2) ? [inside(unit, given[0]), inside(unit, given[1])] : new Unfit('a place, x and y')),
  write: (_, value) => value.join(','),
  parse: (_, text) => numbersIn(text),
  summary: ({ unit }, [x, y]) => `${figure(x, unit === '%' ? 1 : 0)}, ${figure(y, unit === '%' ? 1 : 0)} ${unit}`,
  range: ({ unit }) => (unit === '%' ? 'x and y, 0 … 100 %' : 'x and y in pixels'),
  scaled: ({ unit }, value, { across, down }) => (unit === 'px' ? [inside(unit, value[0] * across), inside(unit, value[1] * down)] : value),
};

function inside(unit: PointParam['unit'], value: number): number {
  return unit === '%' ? clamp(value, 0, 100) : withinCoordinates(value);
}
