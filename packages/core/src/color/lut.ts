/**
 * What tables of colours (look-up tables) do, as a list of small steps. Files are read into it by the formats; here is what the steps mean.
 * @source Academy S-2014-006, “Common LUT Format”, 2021 (matrix, range, exponents, logarithms, 1D and 3D tables, ASC CDL); tetrahedra: J. M. Kasson et al., “Performing color space conversions with
 * three-dimensional linear interpolation”, Journal of Electronic Imaging 4(3), 1995
 */
import { textToHalves } from '../base64.ts';
import type { Triple } from '../vector.ts';

/** Three rows of four: what is added stands last. */
export interface LutMatrix {
  readonly kind: 'matrix';
  readonly values: readonly number[];
}
/** Numbers are held between two ends; null has none. */
export interface LutRange {
  readonly kind: 'range';
  readonly low: number | null;
  readonly high: number | null;
}
/** Each channel to a power; what is not above 0 stays. */
export interface LutPower {
  readonly kind: 'power';
  readonly values: Triple;
}
/**
 * A power above a break, a line below it, for each channel in turn: at or above `b` (a·x + c)^g · d + e, below it s · x. `values` are a, c, g, d, e, b, s of red, green and blue. All the forms of exponents of the format, there and back.
 */
export interface LutExponent {
  readonly kind: 'exponent';
  readonly values: readonly number[];
  /** What is below 0 is as what is above it, with its sign. */
  readonly isMirrored: boolean;
}
/** A logarithm above a break, a line below it: above `b` k · ln(max(m·x + n, least)) + q, else s · x + t. `values` are m, n, k, q, b, s, t of red, green and blue. */
export interface LutLog {
  readonly kind: 'log';
  readonly values: readonly number[];
}
/** And back: above `b` exp(m·x + n) · k + q, else s · x + t. */
export interface LutAntilog {
  readonly kind: 'antilog';
  readonly values: readonly number[];
}
/** A table for each channel from `low` to `high`, red, green and blue of each entry in turn. */
export interface LutCurve {
  readonly kind: 'curve';
  readonly entries: number;
  readonly low: Triple;
  readonly high: Triple;
  /** Halves in base64. */
  readonly values: string;
}
/** A table for each channel over all 65,536 halves, in the order of their bits; red, green and blue of each in turn. What lies between two halves lies between their entries. */
export interface LutHalves {
  readonly kind: 'halves';
  /** Halves in base64. */
  readonly values: string;
}
/** A table over all colours, red changing first. */
export interface LutCube {
  readonly kind: 'cube';
  readonly side: number;
  readonly low: Triple;
  readonly high: Triple;
  readonly values: string;
}
export type LutStep = LutMatrix | LutRange | LutPower | LutExponent | LutLog | LutAntilog | LutCurve | LutHalves | LutCube;

/** A table of colours as a document keeps it. */
export interface Lut {
  readonly name: string;
  readonly steps: readonly LutStep[];
}

export const NO_LUT: Lut = { name: '', steps: [] };
export const LUT_LIMITS = { steps: 16, entries: 65_536, side: 65, name: 200 } as const;

/** Marks of the steps where they lie packed: the mark, how many numbers follow, and these. */
const MARKS = { matrix: 1, range: 2, power: 3, curve: 4, cube: 5, exponent: 6, log: 7, antilog: 8, halves: 9 } as const;
export const ALL_HALVES = 65_536;
const UNBOUNDED = 3e38;
/** Numbers of each channel of exponents and logarithms. */
const PIECES = 7;
/** The logarithm of what is not above 0. @source the least normal number of single precision, as the format says */
const LEAST = 1.17549435e-38;
const lastExponent = Math.log(UNBOUNDED);

/** Those that were looked at and are sound: they are large, and never changed. */
const sound = new WeakSet<object>();

/** Null if it is one; words that go on “expected …” otherwise. */
export function lutFault(given: unknown): string | null {
  if (typeof given === 'object' && given !== null && sound.has(given)) return null;
  const lut = given as Lut | null;
  if (typeof lut !== 'object' || lut === null || typeof lut.name !== 'string' || lut.name.length > LUT_LIMITS.name || !Array.isArray(lut.steps) || lut.steps.length > LUT_LIMITS.steps) return `a name and at most ${LUT_LIMITS.steps} steps`;
  const isNumbers = (list: unknown, count: number) => Array.isArray(list) && list.length === count && list.every((value) => typeof value === 'number' && Number.isFinite(value));
  const isSpan = ({ low, high }: { low: unknown; high: unknown }) => isNumbers(low, 3) && isNumbers(high, 3) && (low as number[]).every((value, i) => value < (high as number[])[i]);
  const holds = (values: unknown, count: number) => typeof values === 'string' && textToHalves(values)?.length === count;
  for (const step of lut.steps as readonly LutStep[]) {
    const isFit =
      step?.kind === 'matrix' ? isNumbers(step.values, 12)
      : step?.kind === 'range' ? [step.low, step.high].every((end) => end === null || Number.isFinite(end))
      : step?.kind === 'power' ? isNumbers(step.values, 3)
      : step?.kind === 'exponent' ? isNumbers(step.values, 3 * PIECES) && typeof step.isMirrored === 'boolean'
      : step?.kind === 'log' || step?.kind === 'antilog' ? isNumbers(step.values, 3 * PIECES)
      : step?.kind === 'curve' ? Number.isInteger(step.entries) && step.entries >= 2 && step.entries <= LUT_LIMITS.entries && isSpan(step) && holds(step.values, step.entries * 3)
      : step?.kind === 'halves' ? holds(step.values, ALL_HALVES * 3)
      : step?.kind === 'cube' ? Number.isInteger(step.side) && step.side >= 2 && step.side <= LUT_LIMITS.side && isSpan(step) && holds(step.values, step.side ** 3 * 3)
      : false;
    if (!isFit) return 'steps of a table of colours';
  }
  sound.add(lut);
  return null;
}

function packedStep(step: LutStep): ArrayLike<number> {
  if (step.kind === 'matrix') return [MARKS.matrix, 12, ...step.values];
  if (step.kind === 'range') return [MARKS.range, 2, step.low ?? -UNBOUNDED, step.high ?? UNBOUNDED];
  if (step.kind === 'power') return [MARKS.power, 3, ...step.values];
  if (step.kind === 'exponent') return [MARKS.exponent, 3 * PIECES + 1, ...step.values, step.isMirrored ? 1 : 0];
  if (step.kind === 'log' || step.kind === 'antilog') return [MARKS[step.kind], 3 * PIECES, ...step.values];
  const table = textToHalves(step.values) ?? new Float32Array();
  const count = step.kind === 'curve' ? step.entries : step.kind === 'cube' ? step.side : 0;
  const head = step.kind === 'halves' ? [MARKS.halves, table.length] : [MARKS[step.kind], 7 + table.length, count, ...step.low, ...step.high.map((high, i) => (count - 1) / (high - step.low[i]))];
  const whole = new Float32Array(head.length + table.length);
  whole.set(head);
  whole.set(table, head.length);
  return whole;
}

/** Everything as one list of numbers, as the kernels want it: how many steps, then each with its mark, its length and its numbers. */
export function packedLut({ steps }: Lut): Float32Array {
  const parts = steps.map(packedStep);
  const packed = new Float32Array(1 + parts.reduce((sum, part) => sum + part.length, 0));
  packed[0] = steps.length;
  let at = 1;
  for (const part of parts) {
    packed.set(part, at);
    at += part.length;
  }
  return packed;
}

/** One colour by a packed table: the definition of what the kernels do. NaN counts as the low end of a table. */
export function lutColor(rgb: Triple, packed: ArrayLike<number>): Triple {
  let color = rgb;
  for (let step = 0, at = 1; step < packed[0]; step++) {
    const [mark, length, first] = [packed[at], packed[at + 1], at + 2];
    if (mark === MARKS.matrix) color = [0, 4, 8].map((row) => packed[first + row] * color[0] + packed[first + row + 1] * color[1] + packed[first + row + 2] * color[2] + packed[first + row + 3]) as unknown as Triple;
    else if (mark === MARKS.range) color = color.map((value) => Math.min(packed[first + 1], Math.max(packed[first], value))) as unknown as Triple;
    else if (mark === MARKS.power) color = color.map((value, c) => (value > 0 ? value ** packed[first + c] : value)) as unknown as Triple;
    else if (mark === MARKS.exponent) color = color.map((value, c) => raised(value, packed, first + c * PIECES, packed[first + 3 * PIECES] === 1)) as unknown as Triple;
    else if (mark === MARKS.log || mark === MARKS.antilog) color = color.map((value, c) => logged(value, packed, first + c * PIECES, mark === MARKS.antilog)) as unknown as Triple;
    else if (mark === MARKS.halves) color = color.map((value, c) => byHalves(value, packed, first + c)) as unknown as Triple;
    else {
      const count = packed[first];
      const places = color.map((value, c) => {
        const place = (value - packed[first + 1 + c]) * packed[first + 4 + c];
        return place > 0 ? Math.min(count - 1, place) : 0;
      });
      color = mark === MARKS.curve ? curved(places, packed, first + 7, count) : cubed(places, packed, first + 7, count);
    }
    at += 2 + length;
  }
  return color;
}

function raised(value: number, p: ArrayLike<number>, at: number, isMirrored: boolean): number {
  const sign = isMirrored && value < 0 ? -1 : 1;
  const x = value * sign;
  return sign * (x >= p[at + 5] ? Math.max(0, x * p[at] + p[at + 1]) ** p[at + 2] * p[at + 3] + p[at + 4] : x * p[at + 6]);
}

function logged(x: number, p: ArrayLike<number>, at: number, isBack: boolean): number {
  if (!(x > p[at + 4])) return x * p[at + 5] + p[at + 6];
  const inside = x * p[at] + p[at + 1];
  return (isBack ? Math.exp(Math.min(lastExponent, inside)) : Math.log(Math.max(LEAST, inside))) * p[at + 2] + p[at + 3];
}

const [bits, number] = ((buffer) => [new Uint32Array(buffer), new Float32Array(buffer)] as const)(new ArrayBuffer(4));
/** The largest half, by its bits; those of minus begin at 32768. */
const LAST_HALF = 31743;

/** Between the entries of the two halves about it; what is no number is 0, and what is beyond the halves is the last of them. */
function byHalves(value: number, table: ArrayLike<number>, first: number): number {
  number[0] = Math.min(65504, Math.abs(value) || 0);
  // From the least normal half on, 2⁻¹⁴, the bits above the thirteenth are its bits; below it halves lie evenly.
  const code = bits[0] - 0x38000000;
  const place = code >= 0x800000 ? (code >>> 13) + (code & 8191) / 8192 : number[0] * 2 ** 24;
  const whole = Math.min(LAST_HALF - 1, Math.floor(place));
  const at = first + 3 * (whole + (value < 0 ? 32768 : 0));
  return table[at] + (place - whole) * (table[at + 3] - table[at]);
}

const curved = (places: readonly number[], table: ArrayLike<number>, first: number, count: number): Triple =>
  places.map((place, c) => {
    const whole = Math.min(count - 2, Math.floor(place));
    const from = table[first + whole * 3 + c];
    return from + (place - whole) * (table[first + whole * 3 + 3 + c] - from);
  }) as unknown as Triple;

/** From the corner where all three are least to that where all are most, over the axes in the order of how far the colour lies along them. */
function cubed(places: readonly number[], table: ArrayLike<number>, first: number, side: number): Triple {
  const whole = places.map((place) => Math.min(side - 2, Math.floor(place)));
  const share = places.map((place, c) => place - whole[c]);
  const strides = [3, 3 * side, 3 * side * side];
  const corner = first + whole[0] * strides[0] + whole[1] * strides[1] + whole[2] * strides[2];
  const order = [0, 1, 2].sort((a, b) => share[b] - share[a] || a - b);
  const out = [table[corner], table[corner + 1], table[corner + 2]];
  let at = corner;
  for (const axis of order) {
    const next = at + strides[axis];
    for (let c = 0; c < 3; c++) out[c] += share[axis] * (table[next + c] - table[at + c]);
    at = next;
  }
  return out as unknown as Triple;
}
