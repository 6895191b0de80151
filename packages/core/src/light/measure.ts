/** What is measured of a light group's own pixels, and what that says of any mix of them: shares of the light, and grain. */
import { LUMINANCE_SHARES, luminanceOf } from '../color/luminance.ts';
import type { Size } from '../raster/region.ts';
import type { Triple } from '../vector.ts';
import { chromatic } from './group.ts';

/** Light of one channel at a pixel of the picture, 0 outside of the element. */
export type ReadChannel = (x: number, y: number) => number;
export type ReadLight = readonly [ReadChannel, ReadChannel, ReadChannel];

/** A part of the picture: mean light and standard deviation of the grain, by channel. */
export interface LightCell {
  readonly mean: Triple;
  readonly noise: Triple;
}
export interface LightMeasure {
  readonly mean: Triple;
  /** The colour that surfaces are lit in, luminance 1; null for what holds no light. */
  readonly own: Triple | null;
  readonly cells: readonly LightCell[];
  /** How far the luminance of each compared pixel is from that of its neighbours, as many for each cell, 0 where pixels are not compared: to be compared with those of other groups. */
  readonly differences: Float32Array;
}

/** All groups of a picture. */
export interface LightMeasures {
  readonly groups: readonly Omit<LightMeasure, 'differences'>[];
  /**
   * Covariances of the groups' grain, as rendered: a matrix of groups for each cell. Samples go to one lamp or another, so that where one group has too much light another has too little: grain of
   * all is less than that of each would tell.
   */
  readonly covariances: Float32Array;
}

const [CELLS_ACROSS, CELLS_DOWN] = [16, 12];
/** Squares in each cell, in rows and columns, in which pixels are compared with their neighbours. */
const [PATCHES, PATCH_SIDE] = [3, 12];
/** Surface colours that differ by more than this are those of another surface. */
const ANOTHER_SURFACE = 0.02;
/** About so many pixels are looked at for means. */
const SAMPLES = 60_000;
/** Surfaces darker than this say nothing of the colour of their light. */
const DARKEST_SURFACE = 0.03;

/**
 * Measures one group at full size, on a grid of pixels: large pictures cost no more than small ones.
 *
 * Grain is what differs from the plane through its neighbours, where all of them show one surface. Without surface colours edges count as grain as well, so it is then an upper estimate.
 * @param filter surface colours without light (diffuse filter): light over surface is the colour of the light itself
 * @source J. Immerkær, “Fast Noise Variance Estimation”, Computer Vision and Image Understanding 64(2), 1996 (difference of two Laplacians; the squares of it instead of their amounts, since noise of renders has long tails)
 */
export function measureLight(light: ReadLight, filter: ReadLight | null, { width, height }: Size): LightMeasure {
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / SAMPLES)));
  const sums = [0, 0, 0];
  const [lit, surface] = [[0, 0, 0], [0, 0, 0]];
  let count = 0;
  for (let y = step >> 1; y < height; y += step) {
    for (let x = step >> 1; x < width; x += step) {
      count++;
      const colors = filter?.map((read) => read(x, y));
      const isSurface = colors !== undefined && Math.min(...colors) > DARKEST_SURFACE;
      for (let c = 0; c < 3; c++) {
        const value = light[c](x, y);
        sums[c] += value;
        if (!isSurface) continue;
        // Least squares of light = colour of the light × surface: dark surfaces weigh little.
        lit[c] += value * colors[c];
        surface[c] += colors[c] ** 2;
      }
    }
  }
  const mean = sums.map((sum) => sum / Math.max(1, count)) as unknown as Triple;
  const raw = lit.map((sum, c) => Math.max(0, sum / surface[c])) as unknown as Triple;
  const seen = mean.map((value) => Math.max(0, value)) as unknown as Triple;
  const compared = Array.from({ length: CELLS_ACROSS * CELLS_DOWN }, (_, i) => cellOf(light, filter, { width, height }, i % CELLS_ACROSS, Math.floor(i / CELLS_ACROSS)));
  const differences = new Float32Array(compared.reduce((length, { apart }) => length + apart.length, 0));
  for (const [i, { apart }] of compared.entries()) differences.set(apart, i * apart.length);
  return { mean, own: (surface[0] > 0 ? chromatic(raw) : null) ?? chromatic(seen), cells: compared.map(({ mean: light, noise }) => ({ mean: light, noise })), differences };
}

function cellOf(light: ReadLight, filter: ReadLight | null, { width, height }: Size, across: number, down: number): LightCell & { readonly apart: Float32Array } {
  const [left, top] = [Math.floor((across * width) / CELLS_ACROSS), Math.floor((down * height) / CELLS_DOWN)];
  const [cellWidth, cellHeight] = [Math.floor(((across + 1) * width) / CELLS_ACROSS) - left, Math.floor(((down + 1) * height) / CELLS_DOWN) - top];
  // The same in all cells.
  const side = Math.max(1, Math.min(PATCH_SIDE, Math.floor(width / CELLS_ACROSS / PATCHES), Math.floor(height / CELLS_DOWN / PATCHES)));
  // Neighbours of all pixels must lie in the picture.
  const at = (from: number, length: number, place: number, whole: number) => Math.max(1, Math.min(whole - 1 - side, from + Math.round(((length - side) * place) / (PATCHES - 1))));
  const places = Array.from({ length: PATCHES ** 2 }, (_, n) => [at(left, cellWidth, n % PATCHES, width), at(top, cellHeight, Math.floor(n / PATCHES), height)] as const);
  const within = differencesIn(light, filter, places, side);
  const { mean, squares, compared, apart } = within.compared > 0 ? within : differencesIn(light, null, places, side);
  return { mean, noise: squares.map((sum) => Math.sqrt(sum / Math.max(1, compared)) / 6) as unknown as Triple, apart };
}

/** A square of pixels and those around it, read once: neighbours are compared many times. */
function squareOf(read: ReadChannel, x0: number, y0: number, side: number): Float64Array {
  const across = side + 2;
  const out = new Float64Array(across * across);
  for (let y = 0, i = 0; y < across; y++) for (let x = 0; x < across; x++) out[i++] = read(x0 - 1 + x, y0 - 1 + y);
  return out;
}

/** Mean light of some squares, and the squared differences of their pixels from their neighbours, as far as those are of one surface. */
function differencesIn(light: ReadLight, filter: ReadLight | null, places: readonly (readonly [number, number])[], side: number) {
  const [sums, squares] = [[0, 0, 0], [0, 0, 0]];
  const apart = new Float32Array(places.length * side * side);
  const across = side + 2;
  let [compared, at] = [0, 0];
  for (const [x0, y0] of places) {
    const surface = filter?.map((read) => squareOf(read, x0, y0, side));
    const values = light.map((read) => squareOf(read, x0, y0, side));
    for (let y = 1; y <= side; y++) {
      for (let x = 1; x <= side; x++, at++) {
        const i = y * across + x;
        const isCompared = surface === undefined || surface.every((channel) => isOneSurface(channel, i, across));
        if (isCompared) compared++;
        for (let c = 0; c < 3; c++) {
          const v = values[c];
          sums[c] += v[i];
          if (!isCompared) continue;
          const corners = v[i - across - 1] + v[i - across + 1] + v[i + across - 1] + v[i + across + 1];
          const sides = v[i - across] + v[i - 1] + v[i + 1] + v[i + across];
          const difference = corners - 2 * sides + 4 * v[i];
          squares[c] += difference * difference;
          apart[at] += (LUMINANCE_SHARES[c] * difference) / 6;
        }
      }
    }
  }
  const count = places.length * side * side;
  return { mean: sums.map((sum) => sum / count) as unknown as Triple, squares, compared, apart };
}

function isOneSurface(channel: Float64Array, i: number, across: number): boolean {
  const own = channel[i];
  for (let row = i - across; row <= i + across; row += across) for (let k = row - 1; k <= row + 1; k++) if (!(Math.abs(channel[k] - own) <= ANOTHER_SURFACE)) return false;
  return true;
}

/** A group without what is a group of its own: the light of the sky without the sky that is seen, which has no grain worth mentioning. */
export const withoutPart = (whole: LightMeasure, part: LightMeasure): LightMeasure => {
  const less = (a: Triple, b: Triple): Triple => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
  return { ...whole, mean: less(whole.mean, part.mean), cells: whole.cells.map(({ mean, noise }, i) => ({ mean: less(mean, part.cells[i].mean), noise })) };
};

/** What was measured of each group by itself, put together. */
export function joinedMeasures(groups: readonly LightMeasure[]): LightMeasures {
  const cells = groups[0]?.cells.length ?? 0;
  const each = (groups[0]?.differences.length ?? 0) / Math.max(1, cells);
  const covariances = new Float32Array(cells * groups.length ** 2);
  for (let cell = 0; cell < cells; cell++) {
    for (let g = 0; g < groups.length; g++) {
      for (let h = 0; h <= g; h++) {
        const [a, b] = [groups[g].differences, groups[h].differences];
        let [sum, count] = [0, 0];
        for (let i = cell * each; i < (cell + 1) * each; i++) {
          sum += a[i] * b[i];
          if (a[i] !== 0 || b[i] !== 0) count++;
        }
        const value = count > 0 ? sum / count : 0;
        covariances[(cell * groups.length + g) * groups.length + h] = value;
        covariances[(cell * groups.length + h) * groups.length + g] = value;
      }
    }
  }
  return { groups: groups.map(({ mean, own, cells: parts }) => ({ mean, own, cells: parts })), covariances };
}

export interface MixFigures {
  /** Shares of the picture's light, 0…1, in the order of the groups. */
  readonly shares: readonly number[];
  /** Grain that each group brings by itself, as a share of the light that is seen where it lies. */
  readonly noise: readonly number[];
  /** Of all together. */
  readonly totalNoise: number;
}

/** Darker than this share of the mean, a part of the picture is black and shows no grain. */
const BLACK = 0.05;

/** What a mix will look like, from what was measured of its groups: nothing is drawn for it. Grain is the root of the mean square over parts of the picture. */
export function mixFigures({ groups, covariances }: LightMeasures, gains: readonly Triple[]): MixFigures {
  const lit = ([r, g, b]: Triple, gain: Triple) => LUMINANCE_SHARES[0] * r * gain[0] + LUMINANCE_SHARES[1] * g * gain[1] + LUMINANCE_SHARES[2] * b * gain[2];
  const light = groups.map(({ mean }, g) => Math.max(0, lit(mean, gains[g])));
  const whole = light.reduce((sum, value) => sum + value, 0);
  const count = groups[0]?.cells.length ?? 0;
  const squares = groups.map(() => 0);
  // Asked anew at each step of a slider: nothing is allocated for a cell.
  const scale = new Float64Array(groups.length);
  let total = 0;
  for (let i = 0; i < count; i++) {
    let seen = 0;
    for (let g = 0; g < groups.length; g++) seen += lit(groups[g].cells[i].mean, gains[g]);
    const shown = Math.max(seen, BLACK * whole);
    if (!(shown > 0)) continue;
    for (let g = 0; g < groups.length; g++) {
      const { noise } = groups[g].cells[i];
      // Channels of one sample are bright or dark together: their deviations add up.
      const deviation = lit(noise, gains[g]) / shown;
      const asRendered = luminanceOf(noise);
      scale[g] = asRendered > 0 ? deviation / asRendered : 0;
      squares[g] += deviation ** 2;
    }
    for (let g = 0, at = i * groups.length ** 2; g < groups.length; g++) for (let h = 0; h < groups.length; h++, at++) total += covariances[at] * scale[g] * scale[h];
  }
  const over = (sum: number) => Math.sqrt(Math.max(0, sum) / Math.max(1, count));
  return { shares: light.map((value) => (whole > 0 ? value / whole : 0)), noise: squares.map(over), totalNoise: over(total) };
}
