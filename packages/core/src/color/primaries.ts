/** RGB spaces by the chromaticities of their primaries and white, and matrices between them. */
import { multiply } from './oklab.ts';
import type { Triple } from '../vector.ts';

/** CIE 1931 x, y. */
export type Chromaticity = readonly [number, number];
export interface Primaries {
  readonly red: Chromaticity;
  readonly green: Chromaticity;
  readonly blue: Chromaticity;
  readonly white: Chromaticity;
}

const D65: Chromaticity = [0.3127, 0.329];
/** @source IEC 61966-2-1 and ITU-R BT.709 */
export const REC709: Primaries = { red: [0.64, 0.33], green: [0.3, 0.6], blue: [0.15, 0.06], white: D65 };
/** @source SMPTE EG 432-1 primaries with D65 */
export const DISPLAY_P3: Primaries = { red: [0.68, 0.32], green: [0.265, 0.69], blue: [0.15, 0.06], white: D65 };
/** @source IEC 61966-2-5 (opRGB) */
export const OPRGB: Primaries = { red: [0.64, 0.33], green: [0.21, 0.71], blue: [0.15, 0.06], white: D65 };

export type Matrix = readonly [Triple, Triple, Triple];

const toXyz = ([x, y]: Chromaticity): Triple => [x / y, 1, (1 - x - y) / y];
const columns = (a: Triple, b: Triple, c: Triple): Matrix => [
  [a[0], b[0], c[0]],
  [a[1], b[1], c[1]],
  [a[2], b[2], c[2]],
];
/** Matrix product a · b, three rows each. */
export const timesMatrix = (a: Matrix, b: Matrix): Matrix => {
  const column = (i: number) => multiply(a, [b[0][i], b[1][i], b[2][i]]);
  return columns(column(0), column(1), column(2));
};

/** The inverse by cofactors; a singular matrix gives infinities or NaN. */
export function invertMatrix([[a, b, c], [d, e, f], [g, h, i]]: Matrix): Matrix {
  const determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const row = (x: number, y: number, z: number): Triple => [x / determinant, y / determinant, z / determinant];
  return [row(e * i - f * h, c * h - b * i, b * f - c * e), row(f * g - d * i, a * i - c * g, c * d - a * f), row(d * h - e * g, b * g - a * h, a * e - b * d)];
}

/** Linear RGB to XYZ with Y = 1 for white. @source SMPTE RP 177:1993 */
export function rgbToXyz({ red, green, blue, white }: Primaries): Matrix {
  // z may be negative (AP0), so the primaries are not divided by y.
  const full = ([x, y]: Chromaticity): Triple => [x, y, 1 - x - y];
  const base = columns(full(red), full(green), full(blue));
  const [r, g, b] = multiply(invertMatrix(base), toXyz(white));
  return base.map((row) => [row[0] * r, row[1] * g, row[2] * b]) as unknown as Matrix;
}

/** @source Bradford: K. M. Lam 1985; ICC.1:2010 annex E */
const BRADFORD: Matrix = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];

/** XYZ under one white to XYZ under another. */
export function adaptation(from: Chromaticity, to: Chromaticity): Matrix {
  const [before, after] = [multiply(BRADFORD, toXyz(from)), multiply(BRADFORD, toXyz(to))];
  const scaled = BRADFORD.map((row, i) => row.map((value) => (value * after[i]) / before[i])) as unknown as Matrix;
  return timesMatrix(invertMatrix(BRADFORD), scaled);
}

/** Linear RGB of one space to linear RGB of another, whites adapted. */
export const rgbToRgb = (from: Primaries, to: Primaries): Matrix => timesMatrix(invertMatrix(rgbToXyz(to)), timesMatrix(adaptation(from.white, to.white), rgbToXyz(from)));

/** The matrix to linear Rec. 709, or null if the space is that one within the rounding of its figures. */
export function toRec709(from: Primaries): Matrix | null {
  const same = (['red', 'green', 'blue', 'white'] as const).every((name) => from[name].every((value, i) => Math.abs(value - REC709[name][i]) < 0.0015));
  return same ? null : rgbToRgb(from, REC709);
}
