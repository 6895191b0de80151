/**
 * Takes the noise out of one plane of light: a wavelet filter that looks at what the surfaces are like (colour, normal,
 * depth) and how uncertain each pixel is, so that edges of things and clear edges of light stay.
 * @source Dammertz et al., "Edge-avoiding À-Trous Wavelet Transform", HPG 2010; variance guidance after Schied et al., HPG 2017
 */
import { type FilmMemory, samplesAt } from './film.ts';
import { momentName, PATHS } from './slots.ts';

export interface DenoiseRequest {
  readonly film: FilmMemory;
  /** Slot whose light is cleaned. */
  readonly slot: string;
  /** Where the means go: as many planes as the slot has channels. */
  readonly out: readonly Float32Array[];
}

const ITERATIONS = 5;
/** Three by three: a third of the work of the B3 spline, and no more error on the scenes of the tests. */
const KERNEL = [1 / 2, 1 / 4];
const CENTER = KERNEL[0] * KERNEL[0];
const LUMA = [0.2126, 0.7152, 0.0722];
/** How many standard deviations still count as the same light. */
const LIGHT_WIDTH = 1.2;
/** How many standard deviations the result may be away from what was rendered. */
const MOST_DEVIATIONS = 1.5;
/** Cosine between normals from which surfaces count as different. Its 16th power weighs nothing. */
const LEAST_FACING = 0.4;
const COLOR_WIDTH = 0.12;
const DEPTH_WIDTH = 0.03;
/** Standard error in proportion to the light from which a bright pixel is doubted. */
const UNCERTAIN = 0.3;
/** Where a surface is darker than this, its colour is not divided out. */
const LEAST_FILTER = 0.02;
/** Light whose texture is the surface's own colour. */
const IS_MATT = new Set<string>(['direct-lighting', 'gi', 'shadow']);
/** Known without noise. */
const IS_CLEAR = new Set<string>(['background', 'self-illumination']);

export function denoise({ film, slot, out }: DenoiseRequest): void {
  const { plan, planes } = film;
  const { width, height } = plan;
  const area = width * height;
  const samples = new Float32Array(area);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) samples[y * width + x] = samplesAt(film, x, y);
  const mean = (name: string) => (planes[name] ?? []).map((sums) => sums.map((sum, i) => (samples[i] > 0 ? sum / samples[i] : 0)));
  const source = mean(slot);
  const isDark = planes[slot].every((sums) => sums.every((sum) => sum === 0));
  if (isDark || IS_CLEAR.has(slot)) {
    for (const [c, plane] of out.entries()) plane.set(source[c]);
    return;
  }
  const filter = mean('diffuse-filter');
  const normals = unitVectors(mean('normals'));
  const depth = mean('depth')[0] ?? new Float32Array(area);
  const isMatt = IS_MATT.has(slot) || !(PATHS as readonly string[]).includes(slot);
  const divisor = source.map((_, c) => (isMatt && filter.length === 3 && source.length === 3 ? filter[c].map((v) => (v > LEAST_FILTER ? v : 1)) : null));
  let from = source.map((plane, c) => (divisor[c] ? plane.map((v, i) => v / (divisor[c] as Float32Array)[i]) : plane));
  let variance = pixelVariance(film, slot, source, samples, divisor);
  if (from.length === 3) limitSpecks(from, variance, width, height);
  const rendered = from;
  const doubt = new Float32Array(area);
  blurDeviation(variance, doubt, width, height);
  const guides: Guides = { width, height, depth, normals: normals.length === 3 ? normals : null, colors: filter.length === 3 ? filter : null, colorWeight: (isMatt ? 0.4 : 1) / (COLOR_WIDTH * COLOR_WIDTH) };
  const light = new Float32Array(area);
  const scale = new Float32Array(area);
  const total = new Float32Array(area);
  for (let iteration = 0; iteration < ITERATIONS; iteration++) {
    blurDeviation(variance, scale, width, height);
    for (let i = 0; i < area; i++) {
      light[i] = from.length === 3 ? LUMA[0] * from[0][i] + LUMA[1] * from[1][i] + LUMA[2] * from[2][i] : from[0][i];
      scale[i] = 1 / (LIGHT_WIDTH * scale[i] + 1e-4 + 1e-3 * Math.abs(light[i]));
    }
    const into = from.map((plane) => plane.map((v) => v * CENTER));
    const nextVariance = variance.map((v) => v * CENTER * CENTER);
    total.fill(CENTER);
    for (let dy = -1; dy <= 1; dy++) for (let dx = -1; dx <= 1; dx++) if (dx !== 0 || dy !== 0) gather(guides, dx, dy, 1 << iteration, light, scale, total, from, into, variance, nextVariance);
    for (const plane of into) for (let i = 0; i < area; i++) plane[i] /= total[i];
    for (let i = 0; i < area; i++) nextVariance[i] /= total[i] * total[i];
    from = into;
    variance = nextVariance;
  }
  for (const [c, plane] of out.entries()) {
    const factor = divisor[c];
    for (let i = 0; i < area; i++) {
      // What was rendered is believed as far as it is certain.
      const span = MOST_DEVIATIONS * doubt[i];
      const value = Math.min(rendered[c][i] + span, Math.max(rendered[c][i] - span, from[c][i]));
      plane[i] = factor ? value * factor[i] : value;
    }
  }
}

interface Guides {
  readonly width: number;
  readonly height: number;
  readonly depth: Float32Array;
  readonly normals: readonly Float32Array[] | null;
  readonly colors: readonly Float32Array[] | null;
  readonly colorWeight: number;
}

/** Adds the neighbours in one direction to every pixel: one pass over memory for each, not twenty-four jumps for each pixel. */
function gather({ width, height, depth, normals, colors, colorWeight }: Guides, dx: number, dy: number, step: number, light: Float32Array, scale: Float32Array, total: Float32Array, from: readonly Float32Array[], into: readonly Float32Array[], variance: Float32Array, nextVariance: Float32Array): void {
  const kernel = KERNEL[Math.abs(dx)] * KERNEL[Math.abs(dy)];
  const depthWidth = DEPTH_WIDTH * Math.max(1, step * 0.5);
  const offset = (dy * width + dx) * step;
  const [n0, n1, n2] = normals ?? [depth, depth, depth];
  const [c0, c1, c2] = colors ?? [depth, depth, depth];
  const [r, g, b] = [from[0], from[1] ?? from[0], from[2] ?? from[0]];
  const [toR, toG, toB] = into;
  const isColored = from.length === 3;
  const left = Math.max(0, -dx * step);
  const right = width - Math.max(0, dx * step);
  const bottom = height - Math.max(0, dy * step);
  for (let y = Math.max(0, -dy * step); y < bottom; y++) {
    for (let i = y * width + left, end = y * width + right; i < end; i++) {
      const q = i + offset;
      const here = depth[i];
      const there = depth[q];
      let weight = kernel;
      if (normals !== null && (here > 0 || there > 0)) {
        const facing = n0[i] * n0[q] + n1[i] * n1[q] + n2[i] * n2[q];
        if (facing < LEAST_FACING) continue;
        const second = facing * facing;
        const fourth = second * second;
        const eighth = fourth * fourth;
        weight *= eighth * eighth;
      }
      let unlike = Math.abs(light[i] - light[q]) * scale[i] + Math.abs(here - there) / (depthWidth * (here + there) + 1e-6);
      if (colors !== null) {
        const a0 = c0[i] - c0[q];
        const a1 = c1[i] - c1[q];
        const a2 = c2[i] - c2[q];
        unlike += colorWeight * (a0 * a0 + a1 * a1 + a2 * a2);
      }
      if (unlike > 12) continue;
      // e^−x by its series, which is enough for a weight.
      weight /= 1 + unlike * (1 + unlike * (1 / 2 + unlike * (1 / 6 + unlike * (1 / 24 + unlike * (1 / 120)))));
      total[i] += weight;
      nextVariance[i] += weight * weight * variance[q];
      toR[i] += weight * r[q];
      if (isColored) {
        toG[i] += weight * g[q];
        toB[i] += weight * b[q];
      }
    }
  }
}

function unitVectors(planes: Float32Array[]): Float32Array[] {
  for (let i = 0; i < (planes[0]?.length ?? 0); i++) {
    const size = Math.hypot(planes[0][i], planes[1][i], planes[2][i]) || 1;
    for (const plane of planes) plane[i] /= size;
  }
  return planes;
}

/** Rare bright paths leave specks: an uncertain pixel is not left brighter than the brightest but one of its neighbours. */
function limitSpecks(planes: Float32Array[], variance: Float32Array, width: number, height: number): void {
  const sources = planes.map((plane) => plane.slice());
  const lights = (i: number) => LUMA[0] * sources[0][i] + LUMA[1] * sources[1][i] + LUMA[2] * sources[2][i];
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const own = lights(i);
      if (!(Math.sqrt(variance[i]) > UNCERTAIN * own)) continue;
      let first = 0;
      let second = 0;
      for (let dy = -1; dy <= 1; dy++) {
        for (let dx = -1; dx <= 1; dx++) {
          if (dx === 0 && dy === 0) continue;
          const other = lights(i + dy * width + dx);
          if (other > first) {
            second = first;
            first = other;
          } else if (other > second) second = other;
        }
      }
      if (own > second && own > 0) for (const [c, plane] of planes.entries()) plane[i] = (sources[c][i] * second) / own;
    }
  }
}

/** Variance of each pixel's mean, of the light as it is filtered. */
function pixelVariance(film: FilmMemory, slot: string, source: readonly Float32Array[], samples: Float32Array, divisor: readonly (Float32Array | null)[]): Float32Array<ArrayBuffer> {
  const variance = new Float32Array(samples.length);
  const squares = film.planes[momentName(slot === 'shadow' ? 'direct-lighting' : slot)]?.[0];
  const base = slot === 'shadow' ? (film.planes['direct-lighting'] ?? []) : null;
  for (let i = 0; i < variance.length; i++) {
    const n = samples[i];
    if (n < 2) {
      variance[i] = 1;
      continue;
    }
    if (source.length === 1) {
      // A share of open directions: each sample says yes or no.
      const p = Math.min(1, Math.max(0, source[0][i]));
      variance[i] = Math.max(p * (1 - p), 0.25 / n) / n;
      continue;
    }
    const value = (c: number) => (base ? base[c][i] / n : source[c][i]);
    const light = LUMA[0] * value(0) + LUMA[1] * value(1) + LUMA[2] * value(2);
    const spread = Math.max(0, (squares ? squares[i] / n : light * light) - light * light) / (n - 1);
    const f = divisor[0] ? LUMA[0] * (divisor[0] as Float32Array)[i] + LUMA[1] * (divisor[1] as Float32Array)[i] + LUMA[2] * (divisor[2] as Float32Array)[i] : 1;
    variance[i] = spread / (f * f);
  }
  return variance;
}

/** Standard deviation from variances smoothed over 3 × 3 pixels: single estimates are noisy themselves. */
function blurDeviation(variance: Float32Array, out: Float32Array, width: number, height: number): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let sum = 0;
      let weight = 0;
      for (let dy = -1; dy <= 1; dy++) {
        const qy = y + dy;
        if (qy < 0 || qy >= height) continue;
        for (let dx = -1; dx <= 1; dx++) {
          const qx = x + dx;
          if (qx < 0 || qx >= width) continue;
          const w = (dx === 0 ? 2 : 1) * (dy === 0 ? 2 : 1);
          sum += w * variance[qy * width + qx];
          weight += w;
        }
      }
      out[y * width + x] = Math.sqrt(sum / weight);
    }
  }
}
