/**
 * Flat ID pictures with antialiased edges: which colours every pixel is mixed of, and to which shares.
 *
 * A pixel of a known colour belongs to it. Any other is a mixture w₁C₁ + w₂C₂ (+ w₃C₃), Σw = 1, w ≥ 0, of colours that lie
 * near it; the fewest colours that explain it are taken (least squares on the simplex). Mixtures are linear in the numbers in
 * which the renderer averaged its samples: stored ones, or the light they stand for. The picture itself tells which.
 * Common practice of colour unmixing, no published source for the limits.
 */
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import { halfToFloat } from '../raster/half.ts';
import type { Plane } from '../raster/planes.ts';
import type { Size } from '../raster/region.ts';
import { colorKeyAt, colorOfKey, type Rgb } from './palette-keys.ts';

/** Which of the known colours makes up most of every pixel, and the exact shares where several do. */
export interface Mixture extends Size {
  readonly index: Uint16Array;
  /** Pixels of several colours, in ascending order. */
  readonly edges: Uint32Array;
  /** Three colours for each edge pixel. */
  readonly parts: Uint16Array;
  /** Their shares, in 255ths; they sum to 255. */
  readonly shares: Uint8Array;
}

export type MixtureSpace = 'stored' | 'decoded' | 'encoded';

/** Distance at which a colour counts as the known one in pictures that went through a lossy format; D2 of the trade says 32 of 255. */
export const SOFT_TOLERANCE = 32 / 255;
/** What rounding to bytes and a little more may leave unexplained. */
const CLEAN_RESIDUAL = 2 / 255;
const SOFT_RESIDUAL = 12 / 255;
/** Pictures of which less than this share has exactly known colours went through a lossy format. */
const CLEAN_SHARE = 0.5;
const UNKNOWN = 0xffff;
const GRID = 32;
const DETECTION_SAMPLES = 4000;

/** Values to compute with, one function for each plane. */
function reader({ type, data }: Plane): (i: number) => number {
  if (type === 'f16') return (i) => halfToFloat(data[i]);
  if (type === 'u8') return (i) => data[i] / 255;
  if (type === 'u16') return (i) => data[i] / 65535;
  return (i) => data[i];
}

const same = (value: number) => value;
const transforms: Record<MixtureSpace, (value: number) => number> = { stored: same, decoded: srgbDecode, encoded: srgbEncode };

interface Found {
  readonly parts: readonly number[];
  readonly shares: readonly number[];
  readonly residual: number;
}

/**
 * @param planes one or three of equal size; the numbers of a single plane are IDs and do not mix
 * @param keys the known colours (`colorKeyAt`), in the order of the index
 * @param space null finds out in which numbers the colours mix
 */
export function unmix(planes: readonly Plane[], keys: readonly number[], space: MixtureSpace | null = null): Mixture {
  const { width, height } = planes[0];
  const index = new Uint16Array(width * height);
  const numberOf = new Map(keys.map((key, i) => [key, i]));
  /** Where each colour is met first. */
  const firstAt = keys.map(() => -1);
  let exact = 0;
  let lastIndex = UNKNOWN;
  const [a, b, c] = planes.map((plane) => plane.data);
  for (let i = 0; i < index.length; i++) {
    // Most pixels are as the one before.
    if (i === 0 || a[i] !== a[i - 1] || (b !== undefined && (b[i] !== b[i - 1] || c[i] !== c[i - 1]))) {
      lastIndex = numberOf.get(colorKeyAt(planes, i)) ?? UNKNOWN;
      if (lastIndex !== UNKNOWN && firstAt[lastIndex] < 0) firstAt[lastIndex] = i;
    }
    index[i] = lastIndex;
    if (lastIndex !== UNKNOWN) exact++;
  }
  const unmixer = new Unmixer(planes, keys, firstAt, index);
  if (exact < CLEAN_SHARE * index.length) unmixer.takeNearColors();
  return unmixer.mixture(space);
}

class Unmixer {
  readonly width: number;
  readonly height: number;
  readonly stored: readonly Rgb[];
  readonly read: (i: number) => Rgb;
  /** Which colours lie in each square of the grid. */
  #near: readonly (readonly number[])[] = [];
  #residual = CLEAN_RESIDUAL;

  constructor(
    readonly planes: readonly Plane[],
    keys: readonly number[],
    firstAt: readonly number[],
    readonly index: Uint16Array,
  ) {
    this.width = planes[0].width;
    this.height = planes[0].height;
    const [r, g, b] = planes.length === 1 ? [planes[0], planes[0], planes[0]].map(reader) : planes.map(reader);
    this.read = (i) => [r(i), g(i), b(i)];
    // The key of a 32-bit float has lost its lower bits.
    this.stored = keys.map((key, k) => (firstAt[k] < 0 ? colorOfKey(planes, key) : this.read(firstAt[k])));
  }

  /** Lossy pictures: a colour near a known one, and much nearer to it than to any other, is that one. */
  takeNearColors(): void {
    this.#residual = SOFT_RESIDUAL;
    const table = new Map<number, number>();
    for (let i = 0; i < this.index.length; i++) {
      if (this.index[i] !== UNKNOWN) continue;
      const rgb = this.read(i);
      const cell = rgb.reduce((sum, v) => sum * 64 + Math.min(63, Math.max(0, Math.floor(v * 64))), 0);
      let nearest = table.get(cell);
      if (nearest === undefined) {
        nearest = nearestOf(rgb, this.stored.keys(), this.stored);
        table.set(cell, nearest);
      }
      if (distance2(rgb, this.stored[nearest]) < (SOFT_TOLERANCE / 2) ** 2) this.index[i] = nearest;
    }
  }

  mixture(space: MixtureSpace | null): Mixture {
    const { width, height, index } = this;
    const unknown: number[] = [];
    for (let i = 0; i < index.length; i++) if (index[i] === UNKNOWN) unknown.push(i);
    const edges = Uint32Array.from(unknown);
    const parts = new Uint16Array(edges.length * 3);
    const shares = new Uint8Array(edges.length * 3);
    if (this.stored.length === 0) return { width, height, index: index.fill(0), edges: new Uint32Array(0), parts: new Uint16Array(0), shares: new Uint8Array(0) };
    this.#near = this.#grid();
    if (this.planes.length === 1) {
      // Numbers of IDs between two others are no mixtures.
      const chosen = unknown.map((i) => this.#nearestAround(i));
      for (const [k, i] of unknown.entries()) index[i] = chosen[k];
      return { width, height, index, edges: new Uint32Array(0), parts: new Uint16Array(0), shares: new Uint8Array(0) };
    }
    const change = transforms[space ?? this.#detect(unknown)];
    const colors = this.stored.map((rgb) => rgb.map(change) as unknown as Rgb);
    const chosen = new Uint16Array(edges.length);
    for (const [k, i] of unknown.entries()) {
      const found = this.#solve(i, change, colors);
      let left = 255;
      for (const [n, part] of found.parts.entries()) {
        const share = n === found.parts.length - 1 ? left : Math.min(left, Math.round(found.shares[n] * 255));
        left -= share;
        parts[k * 3 + n] = part;
        shares[k * 3 + n] = share;
      }
      chosen[k] = found.parts[found.shares.indexOf(Math.max(...found.shares))];
    }
    for (const [k, i] of unknown.entries()) index[i] = chosen[k];
    return { width, height, index, edges, parts, shares };
  }

  /** Known colours among the neighbours of a pixel, `reach` pixels around. */
  #around(i: number, reach: number, into: number[]): number[] {
    const { width, height, index } = this;
    const [x, y] = [i % width, Math.floor(i / width)];
    for (let ny = Math.max(0, y - reach); ny <= Math.min(height - 1, y + reach); ny++) {
      for (let nx = Math.max(0, x - reach); nx <= Math.min(width - 1, x + reach); nx++) {
        const found = index[ny * width + nx];
        if (found !== UNKNOWN && !into.includes(found)) into.push(found);
      }
    }
    return into;
  }

  #grid(): number[][] {
    const across = Math.ceil(this.width / GRID);
    const cells = Array.from({ length: across * Math.ceil(this.height / GRID) }, () => new Set<number>());
    for (let y = 0; y < this.height; y++) {
      for (let x = 0; x < this.width; x++) {
        const found = this.index[y * this.width + x];
        if (found !== UNKNOWN) cells[Math.floor(y / GRID) * across + Math.floor(x / GRID)].add(found);
      }
    }
    const down = cells.length / across;
    return cells.map((_, cell) => {
      const all = new Set<number>();
      const [cx, cy] = [cell % across, Math.floor(cell / across)];
      for (let y = Math.max(0, cy - 1); y <= Math.min(down - 1, cy + 1); y++) for (let x = Math.max(0, cx - 1); x <= Math.min(across - 1, cx + 1); x++) for (const found of cells[y * across + x]) all.add(found);
      return [...all];
    });
  }

  #inGrid(i: number): readonly number[] {
    const [x, y] = [i % this.width, Math.floor(i / this.width)];
    const found = this.#near[Math.floor(y / GRID) * Math.ceil(this.width / GRID) + Math.floor(x / GRID)];
    return found.length > 0 ? found : [...this.stored.keys()];
  }

  #nearestAround(i: number): number {
    const near = this.#around(i, 1, []);
    return nearestOf(this.read(i), near.length > 0 ? near : this.#inGrid(i), this.stored);
  }

  /** In which numbers pixels between exactly two colours lie on the line between them. */
  #detect(unknown: readonly number[]): MixtureSpace {
    const candidates: readonly MixtureSpace[] = ['stored', this.planes[0].type === 'u8' || this.planes[0].type === 'u16' ? 'decoded' : 'encoded'];
    const step = Math.max(1, Math.floor(unknown.length / DETECTION_SAMPLES));
    const sums = [0, 0];
    for (let k = 0; k < unknown.length; k += step) {
      const near = this.#around(unknown[k], 1, []);
      if (near.length !== 2 || distance2(this.stored[near[0]], this.stored[near[1]]) < 0.04) continue;
      const rgb = this.read(unknown[k]);
      for (const [n, space] of candidates.entries()) {
        const at = (v: Rgb) => v.map(transforms[space]) as unknown as Rgb;
        // Outliers are third colours; they say nothing.
        sums[n] += Math.min(0.01, solvePair(at(rgb), at(this.stored[near[0]]), at(this.stored[near[1]])).residual);
      }
    }
    return sums[1] < sums[0] ? candidates[1] : 'stored';
  }

  #solve(i: number, change: (value: number) => number, colors: readonly Rgb[]): Found {
    const rgb = this.read(i).map(change) as unknown as Rgb;
    const enough = this.#residual ** 2;
    const near: number[] = [];
    let best: Found | null = null;
    const take = (found: Found) => {
      if (best === null || found.residual < best.residual) best = found;
    };
    for (const reach of [1, 2]) {
      const before = near.length;
      this.#around(i, reach, near);
      if (reach > 1 && near.length === before) continue;
      best = bestPair(rgb, near, near, colors, best);
      if (best && best.residual <= enough) return best;
      if (near.length > 2) {
        const triple = bestTriple(rgb, near, colors);
        if (triple && triple.residual <= enough && triple.residual < (best?.residual ?? 1) / 4) return triple;
      }
    }
    // Thin things never show their own colour here: one of the neighbourhood's.
    const further = this.#inGrid(i);
    best = bestPair(rgb, near.length > 0 ? near : further, further, colors, best);
    if (best && best.residual <= enough) return best;
    const triple = near.length > 0 && near.length + further.length < 24 ? bestTriple(rgb, [...new Set([...near, ...further])], colors) : null;
    if (triple) take(triple.residual < (best?.residual ?? 1) / 4 ? triple : (best ?? triple));
    return best ?? { parts: [nearestOf(rgb, further, colors)], shares: [1], residual: 0 };
  }
}

const distance2 = (a: Rgb, b: Rgb) => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;

function nearestOf(rgb: Rgb, among: Iterable<number>, colors: readonly Rgb[]): number {
  let best = 0;
  let least = Number.POSITIVE_INFINITY;
  for (const candidate of among) {
    const distance = distance2(rgb, colors[candidate]);
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

/** The share of `a` in a mixture of two, and how far the mixture stays from the colour (squared). */
function solvePair(rgb: Rgb, a: Rgb, b: Rgb): { share: number; residual: number } {
  const [dx, dy, dz] = [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
  const length = dx * dx + dy * dy + dz * dz;
  const share = length === 0 ? 1 : Math.min(1, Math.max(0, ((rgb[0] - b[0]) * dx + (rgb[1] - b[1]) * dy + (rgb[2] - b[2]) * dz) / length));
  const residual = (rgb[0] - b[0] - share * dx) ** 2 + (rgb[1] - b[1] - share * dy) ** 2 + (rgb[2] - b[2] - share * dz) ** 2;
  return { share, residual };
}

function bestPair(rgb: Rgb, first: readonly number[], second: readonly number[], colors: readonly Rgb[], before: Found | null): Found | null {
  let best = before;
  for (const a of first) {
    for (const b of second) {
      if (a === b || (first === second && b < a)) continue;
      const { share, residual } = solvePair(rgb, colors[a], colors[b]);
      if (best === null || residual < best.residual) best = { parts: [a, b], shares: [share, 1 - share], residual };
    }
  }
  return best;
}

/** Three colours, all with a share above 0; null if no three surround the colour. */
function bestTriple(rgb: Rgb, among: readonly number[], colors: readonly Rgb[]): Found | null {
  let best: Found | null = null;
  for (let i = 0; i < among.length; i++) {
    for (let j = i + 1; j < among.length; j++) {
      for (let k = j + 1; k < among.length; k++) {
        const [a, b, c] = [colors[among[i]], colors[among[j]], colors[among[k]]];
        const u: Rgb = [a[0] - c[0], a[1] - c[1], a[2] - c[2]];
        const v: Rgb = [b[0] - c[0], b[1] - c[1], b[2] - c[2]];
        const p: Rgb = [rgb[0] - c[0], rgb[1] - c[1], rgb[2] - c[2]];
        const [uu, uv, vv, up, vp] = [dot(u, u), dot(u, v), dot(v, v), dot(u, p), dot(v, p)];
        const determinant = uu * vv - uv * uv;
        if (determinant < 1e-9) continue;
        const s = (up * vv - vp * uv) / determinant;
        const t = (vp * uu - up * uv) / determinant;
        if (s < 0 || t < 0 || s + t > 1) continue;
        const residual = (p[0] - s * u[0] - t * v[0]) ** 2 + (p[1] - s * u[1] - t * v[1]) ** 2 + (p[2] - s * u[2] - t * v[2]) ** 2;
        if (best === null || residual < best.residual) best = { parts: [among[i], among[j], among[k]], shares: [s, t, 1 - s - t], residual };
      }
    }
  }
  return best;
}

const dot = (a: Rgb, b: Rgb) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** The share of each known colour in the whole picture. */
export function areasOf({ index, edges, parts, shares }: Mixture, count: number): Float64Array {
  const areas = new Float64Array(count);
  for (const value of index) areas[value]++;
  for (const [k, i] of edges.entries()) {
    areas[index[i]]--;
    for (let n = 0; n < 3; n++) areas[parts[k * 3 + n]] += shares[k * 3 + n] / 255;
  }
  return areas.map((area) => area / Math.max(1, index.length));
}

