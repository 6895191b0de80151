/**
 * Rays around lamps: light that the edges of a lens's opening, and dust and scratches on it, bend aside. What a point of light becomes is the squared Fourier transform of the opening,
 * larger for longer waves.
 * @source Fraunhofer diffraction: J. W. Goodman, “Introduction to Fourier Optics”, ch. 4; as glare in pictures: T. Ritschel et al., “Temporal Glare”, Computer Graphics Forum 28(2), 2009
 */
import { latticeNoise } from '../noise.ts';
import { isOpen } from './aperture.ts';
import { transform, transformBack } from './fft.ts';

export interface Opening {
  readonly blades: number;
  /** How far the blades bow out: 0 is a polygon, 1 a circle. */
  readonly roundness: number;
  readonly rotationRadians: number;
  /** How much there is of it, 0…1. */
  readonly dust: number;
  readonly scratches: number;
  readonly seed: number;
}
export interface Streaks extends Opening {
  /** How far colours come apart, 0…1. */
  readonly spectrum: number;
  /** Wider than high so many times. */
  readonly stretch: number;
}

/** Side of the plane that the opening lies in, and its radius there; what is bent farther than `FARTHEST` steps is left out. */
export const [OPENING_SIDE, OPENING_RADIUS] = [512, 64];
const FARTHEST = OPENING_SIDE / 2 - 8;
/** The middle of the pattern is the picture of the lamp itself: it is let in between these distances, in steps. One ring of a round opening is 4 wide. */
const [CORE, WHOLE] = [5, 14];
/** Grains of dust and scratches where there is most. Common practice, no published source. */
const [MOST_DUST, MOST_SCRATCHES] = [160, 14];
/** Wavelengths of each channel in nanometres: from, to, and how many are looked at. */
const BANDS = [[585, 665], [505, 585], [430, 505]] as const;
const [WAVES, MIDDLE_NM] = [4, 550];
/** How much longer the longest wave is than the middle one, as a share. */
const LONGEST = BANDS[0][1] / MIDDLE_NM - 1;
/** A pixel of the kernel is looked at in so many parts each way, at most. */
const MOST_PARTS = 8;
const LAST = OPENING_SIDE - 1;
/** Places of the opening are looked at in so many parts each way. */
const PARTS = 4;

/** How open it is at each place of the plane, 0…1; its middle lies in the middle. */
export function openingPlane({ blades, roundness, rotationRadians, dust, scratches, seed }: Opening): Float64Array {
  const shape = { blades, roundness, rotationRadians };
  const chance = (n: number, what: number) => latticeNoise(n, what, seed);
  // Finer than the plane, so that edges are not of steps.
  const side = 2 * (OPENING_RADIUS + 1) * PARTS;
  const placeOf = (i: number) => (i + 0.5) / PARTS / OPENING_RADIUS - (OPENING_RADIUS + 1) / OPENING_RADIUS;
  const open = new Uint8Array(side * side);
  for (let i = 0; i < open.length; i++) open[i] = isOpen(shape, placeOf(i % side), placeOf(Math.floor(i / side))) ? 1 : 0;
  for (let n = 0; n < Math.round(dust * MOST_DUST); n++) {
    const [x, y, radius] = [(chance(n, 1) - 0.5) * 2, (chance(n, 2) - 0.5) * 2, 0.008 + 0.03 * chance(n, 3) ** 3];
    const [column, row, reach] = [((x + 1) * OPENING_RADIUS + 1) * PARTS, ((y + 1) * OPENING_RADIUS + 1) * PARTS, radius * OPENING_RADIUS * PARTS];
    for (let v = Math.max(0, Math.floor(row - reach)); v <= Math.min(side - 1, row + reach); v++) for (let u = Math.max(0, Math.floor(column - reach)); u <= Math.min(side - 1, column + reach); u++) if (Math.hypot(placeOf(u) - x, placeOf(v) - y) < radius) open[v * side + u] = 0;
  }
  for (let n = 0; n < Math.round(scratches * MOST_SCRATCHES); n++) {
    const angle = chance(n, 4) * Math.PI;
    const [x, y, off, width] = [Math.cos(angle), Math.sin(angle), (chance(n, 5) - 0.5) * 1.6, 0.006 + 0.012 * chance(n, 6)];
    for (let i = 0; i < open.length; i++) if (open[i] === 1 && Math.abs(placeOf(i % side) * y - placeOf(Math.floor(i / side)) * x - off) < width) open[i] = 0;
  }
  const out = new Float64Array(OPENING_SIDE * OPENING_SIDE);
  const first = OPENING_SIDE / 2 - OPENING_RADIUS - 1;
  for (let v = 0; v < side; v++) for (let u = 0; u < side; u++) out[(first + Math.floor(v / PARTS)) * OPENING_SIDE + first + Math.floor(u / PARTS)] += open[v * side + u] / (PARTS * PARTS);
  return out;
}

/** The last one: while amount and reach are set, the opening stays. */
let known: { readonly of: string; readonly pattern: Float64Array } = { of: '', pattern: new Float64Array(0) };

/** How much light is bent by so many steps to the side and down: the squared transform; steps below 0 lie at the far end. */
export function patternOf({ blades, roundness, rotationRadians, dust, scratches, seed }: Opening): Float64Array {
  const opening = { blades, roundness, rotationRadians, dust, scratches, seed };
  const of = JSON.stringify(opening);
  if (known.of === of) return known.pattern;
  const [re, im] = [openingPlane(opening), new Float64Array(OPENING_SIDE * OPENING_SIDE)];
  transform(re, im, OPENING_SIDE, OPENING_SIDE);
  known = { of, pattern: re.map((value, i) => value * value + im[i] * im[i]) };
  return known.pattern;
}

/** The pattern between its steps, without its middle and what is bent too far. */
function bentTo(pattern: Float64Array, u: number, v: number): number {
  const distance = Math.hypot(u, v);
  if (distance <= CORE || distance >= FARTHEST) return 0;
  const [left, top] = [Math.floor(u), Math.floor(v)];
  const [fx, fy] = [u - left, v - top];
  const [x0, x1] = [left & LAST, (left + 1) & LAST];
  const [y0, y1] = [(top & LAST) * OPENING_SIDE, ((top + 1) & LAST) * OPENING_SIDE];
  const upper = pattern[y0 + x0] + (pattern[y0 + x1] - pattern[y0 + x0]) * fx;
  const value = upper + (pattern[y1 + x0] + (pattern[y1 + x1] - pattern[y1 + x0]) * fx - upper) * fy;
  const t = Math.min(1, (distance - CORE) / (WHOLE - CORE));
  return value * t * t * (3 - 2 * t);
}

/**
 * What a point becomes, for one channel: (2 × reach + 1)² numbers that sum to 1, its middle in the middle.
 * @param reachPx where it ends for waves of the middle, in pixels
 */
export function streakKernel(pattern: Float64Array, { spectrum, stretch }: Streaks, channel: number, reachPx: number): StreakKernel {
  const reach = Math.max(1, Math.ceil(reachPx * (1 + LONGEST * spectrum)));
  const side = 2 * reach + 1;
  const values = new Float64Array(side * side);
  const [from, to] = BANDS[channel];
  let sum = 0;
  for (let wave = 0; wave < WAVES; wave++) {
    const length = from + ((to - from) * (wave + 0.5)) / WAVES;
    // Longer waves are bent farther: fewer steps of the pattern lie on a pixel.
    const steps = (FARTHEST / reachPx) * (MIDDLE_NM / (MIDDLE_NM + (length - MIDDLE_NM) * spectrum));
    // A pixel is the mean of what of the pattern falls on it.
    const parts = Math.min(MOST_PARTS, Math.ceil(steps));
    // Opposite sides are the same: half of it is looked at.
    for (let y = -reach; y <= 0; y++) {
      for (let x = -reach; x <= (y < 0 ? reach : 0); x++) {
        let seen = 0;
        for (let k = 0; k < parts * parts; k++) seen += bentTo(pattern, ((x + ((k % parts) + 0.5) / parts - 0.5) * steps) / stretch, (y + (Math.floor(k / parts) + 0.5) / parts - 0.5) * steps);
        const share = seen / (parts * parts);
        values[(y + reach) * side + x + reach] += share;
        sum += share;
        if (x === 0 && y === 0) continue;
        values[(reach - y) * side + reach - x] += share;
        sum += share;
      }
    }
  }
  // A reach of hardly a pixel has no pattern: the light stays.
  if (sum === 0) values[reach * side + reach] = 1;
  else for (let i = 0; i < values.length; i++) values[i] /= sum;
  return { reach, values };
}

/** What a point becomes: (2 × reach + 1)² numbers, the same on opposite sides of the middle. */
export interface StreakKernel {
  readonly reach: number;
  readonly values: Float64Array;
}

const powerOver = (least: number): number => 2 ** Math.ceil(Math.log2(least));

/**
 * Planes spread by a kernel each; beyond their sides the outermost pixels go on. What is no number counts as 0.
 * Two at a time are transformed as one of complex numbers: transforms of kernels like these are real, and the two come apart by their symmetry.
 */
export function spreadBy(planes: readonly Float32Array[], width: number, height: number, kernels: readonly StreakKernel[]): Float32Array[] {
  const reach = Math.max(...kernels.map((kernel) => kernel.reach));
  const [across, down] = [powerOver(width + 2 * reach), powerOver(height + 2 * reach)];
  const fill = (to: Float64Array, plane: Float32Array) => {
    for (let y = 0; y < height + 2 * reach; y++) {
      const row = Math.min(height - 1, Math.max(0, y - reach)) * width;
      for (let x = 0; x < width + 2 * reach; x++) {
        const value = plane[row + Math.min(width - 1, Math.max(0, x - reach))];
        to[y * across + x] = Number.isFinite(value) ? value : 0;
      }
    }
  };
  const centred = (to: Float64Array, { reach: own, values }: StreakKernel) => {
    const side = 2 * own + 1;
    for (let y = -own; y <= own; y++) for (let x = -own; x <= own; x++) to[((y + down) % down) * across + ((x + across) % across)] = values[(y + own) * side + x + own];
  };
  const pairs = Array.from({ length: Math.ceil(planes.length / 2) }, (_, k) => [2 * k, 2 * k + 1].filter((n) => n < planes.length));
  return pairs.flatMap((pair) => {
    const [re, im, first, second] = Array.from({ length: 4 }, () => new Float64Array(across * down));
    for (const [k, n] of pair.entries()) {
      fill(k === 0 ? re : im, planes[n]);
      centred(k === 0 ? first : second, kernels[n]);
    }
    transform(re, im, across, down);
    transform(first, second, across, down);
    for (let y = 0; y < down; y++) {
      for (let x = 0; x < across; x++) {
        const i = y * across + x;
        const j = ((down - y) % down) * across + ((across - x) % across);
        if (j < i) continue;
        const [a, b, c, d] = [re[i], im[i], re[j], im[j]];
        // The one is (z(i) + z̄(j)) / 2, the other (z(i) − z̄(j)) / 2i.
        const [oneX, oneY, otherX, otherY] = [(a + c) / 2, (b - d) / 2, (b + d) / 2, (c - a) / 2];
        const [by, byOther] = [first[i], second[i]];
        re[i] = oneX * by - otherY * byOther;
        im[i] = oneY * by + otherX * byOther;
        re[j] = oneX * by + otherY * byOther;
        im[j] = otherX * byOther - oneY * by;
      }
    }
    transformBack(re, im, across, down);
    return pair.map((_, k) => {
      const from = k === 0 ? re : im;
      return Float32Array.from({ length: width * height }, (__, i) => from[(Math.floor(i / width) + reach) * across + (i % width) + reach]);
    });
  });
}
