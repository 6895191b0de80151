import { clamp, isList, numbersIn, type ParamHead, type ParamKind, Unfit } from './define.ts';

export type CurvePoint = readonly [x: number, y: number];

/** A curve from 0…1 to 0…1 through points from left to right; before the first and behind the last it is level. */
export type CurveParam = ParamHead<'curve', readonly CurvePoint[]>;

export const STRAIGHT: readonly CurvePoint[] = [[0, 0], [1, 1]];
export const MOST_CURVE_POINTS = 24;
/** Points lie at least this far apart from left to right. */
export const LEAST_CURVE_STEP = 1 / 512;

export const curve = (param: Omit<CurveParam, 'kind' | 'default'>): CurveParam => ({ kind: 'curve', default: STRAIGHT, ...param });

export const isStraight = (points: readonly CurvePoint[]): boolean => points.length === 2 && points.every(([x, y], i) => x === i && y === i);

export const curveKind: ParamKind<CurveParam> = {
  read: (_, given) => {
    const points = Array.isArray(given) && given.length >= 2 && given.length <= MOST_CURVE_POINTS && given.every((each) => isList(each, 2)) ? (given as number[][]) : null;
    if (!points) return new Unfit(`2 to ${MOST_CURVE_POINTS} points, each x and y`);
    const inside = points.map(([x, y]): CurvePoint => [clamp(x, 0, 1), clamp(y, 0, 1)]);
    return inside.every(([x], i) => i === 0 || x - inside[i - 1][0] >= LEAST_CURVE_STEP - 1e-9) ? inside : new Unfit('points from left to right, none above another');
  },
  write: (_, value) => value.map((point) => point.join(',')).join(' '),
  parse: (_, text) => text.trim().split(/\s+/).map(numbersIn),
  summary: ({ label }, value) => `${label.toLowerCase()} ${isStraight(value) ? 'straight' : `through ${value.length} points`}`,
  range: () => 'points `x,y` from left to right, each 0 … 1',
};

/** A curve with a point more, and where it is; null if there is one as near as points may be, or no room. Values lie within 0…1. */
export function withCurvePoint(points: readonly CurvePoint[], x: number, y: number): { points: readonly CurvePoint[]; at: number } | null {
  if (points.length >= MOST_CURVE_POINTS || points.some(([px]) => Math.abs(px - x) < LEAST_CURVE_STEP)) return null;
  const at = points.filter(([px]) => px < x).length;
  const inside: CurvePoint = [Math.round(x * 1e4) / 1e4, Math.round(Math.min(1, Math.max(0, y)) * 1e4) / 1e4];
  return { points: points.toSpliced(at, 0, inside), at };
}
