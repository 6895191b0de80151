/**
 * Flat ID pictures with antialiased edges: which colours every pixel is mixed of, and to which shares.
 *
 * A pixel of a known colour belongs to it. Any other is a mixture w₁C₁ + w₂C₂ (+ w₃C₃), Σw = 1, w ≥ 0, of colours that lie
 * near it; the fewest colours that explain it are taken (least squares on the simplex). Mixtures are linear in the numbers in
 * which the renderer averaged its samples: stored ones, or the light they stand for. The picture itself tells which.
 * Common practice of colour unmixing, no published source for the limits.
 */
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import { sampleReader } from '../raster/read.ts';
import type { Plane } from '../raster/planes.ts';
import type { Size } from '../raster/region.ts';
import { colorKeyAt, colorOfKey } from './palette-keys.ts';
import { nearestOf, Solver } from './unmix-solver.ts';

/** Which of the known colours makes up most of every pixel (`NOTHING` in places that show none of them), and the exact shares where several do. */
export interface Mixture extends Size {
  readonly index: Uint16Array;
  /** Pixels of several colours, in ascending order. */
  readonly edges: Uint32Array;
  /** How many parts an edge pixel has. */
  readonly each: number;
  /** Colours of each edge pixel. */
  readonly parts: Uint16Array;
  /** Their shares, in 255ths; those of a flat picture sum to 255. */
  readonly shares: Uint8Array;
}

/** Index of pixels that belong to nothing. */
export const NOTHING = 0xffff;

export type MixtureSpace = 'stored' | 'decoded' | 'encoded';

/** Distance at which a colour counts as the known one in pictures that went through a lossy format; D2 of the trade says 32 of 255. */
export const SOFT_TOLERANCE = 32 / 255;
/** What rounding to bytes and a little more may leave unexplained. */
const CLEAN_RESIDUAL = 2 / 255;
const SOFT_RESIDUAL = 12 / 255;
/** Beyond this a mixture with colours from far away is no explanation. */
const FAR_RESIDUAL = 32 / 255;
/** So far around a pixel known colours are looked for first. */
const [CLEAN_REACH, SOFT_REACH] = [2, 4];
/** Neighbours that must carry the same colour in lossy pictures. */
const SOFT_SUPPORT = 4;
/** What colour counts beside brightness in lossy pictures. */
const SOFT_CHROMA = 0.15;
/** Pictures of which less than this share has exactly known colours went through a lossy format. */
const CLEAN_SHARE = 0.5;
const UNKNOWN = NOTHING;
/** A pixel of a flat picture is mixed of so many colours at most. */
const PARTS = 3;
const GRID = 32;
const DETECTION_SAMPLES = 4000;

const same = (value: number) => value;
const transforms: Record<MixtureSpace, (value: number) => number> = { stored: same, decoded: srgbDecode, encoded: srgbEncode };

/**
 * @param planes one or three of equal size; the numbers of a single plane are IDs and do not mix
 * @param keys the known colours (`colorKeyAt`), in the order of the index
 * @param space null finds out in which numbers the colours mix
 * @param isLossy no colour is kept exactly; also told by how few are
 */
export function unmix(planes: readonly Plane[], keys: readonly number[], space: MixtureSpace | null = null, isLossy = false): Mixture {
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
  if (!isLossy && exact >= CLEAN_SHARE * index.length) return unmixer.mixture(space);
  unmixer.takeNearColors();
  return unmixer.mixture('stored');
}

/** The most colours of which triples are tried: more seldom meet, and triples are many. */
const MOST_FOR_TRIPLES = 12;
/** The most colours of a neighbourhood in which thin things are looked for. */
const MOST_FURTHER = 96;

class Unmixer {
  readonly width: number;
  readonly height: number;
  read: readonly ((i: number) => number)[];
  /** The known colours as they are stored, three numbers each. */
  stored: Float64Array;
  readonly count: number;
  /** Which colours lie in each square of the grid and in those around it. */
  #near: readonly Uint16Array[] = [];
  #residual = CLEAN_RESIDUAL;
  #reach = CLEAN_REACH;
  /** Colours found around a pixel. */
  readonly #around = new Uint16Array(128);

  constructor(
    readonly planes: readonly Plane[],
    keys: readonly number[],
    firstAt: readonly number[],
    readonly index: Uint16Array,
  ) {
    this.width = planes[0].width;
    this.height = planes[0].height;
    this.read = [0, 1, 2].map((c) => sampleReader(planes[Math.min(c, planes.length - 1)]));
    this.count = keys.length;
    this.stored = new Float64Array(keys.length * 3);
    // The key of a 32-bit float has lost its lower bits.
    for (const [k, key] of keys.entries()) this.stored.set(firstAt[k] < 0 ? colorOfKey(planes, key) : this.read.map((channel) => channel(firstAt[k])), k * 3);
  }

  /** Lossy pictures: a colour near a known one is that one; what is between is told by brightness more than by colour. */
  takeNearColors(): void {
    this.#residual = SOFT_RESIDUAL;
    const all = Uint16Array.from({ length: this.count }, (_, i) => i);
    const table = new Int32Array(64 ** 3).fill(-1);
    const cellOf = (v: number) => Math.min(63, Math.max(0, Math.floor(v * 64)));
    const [red, green, blue] = this.read;
    for (let i = 0; i < this.index.length; i++) {
      if (this.index[i] !== UNKNOWN) continue;
      const [r, g, b] = [red(i), green(i), blue(i)];
      const cell = (cellOf(r) * 64 + cellOf(g)) * 64 + cellOf(b);
      if (table[cell] < 0) table[cell] = nearestOf(r, g, b, all, all.length, this.stored);
      const k = table[cell] * 3;
      if ((r - this.stored[k]) ** 2 + (g - this.stored[k + 1]) ** 2 + (b - this.stored[k + 2]) ** 2 < (SOFT_TOLERANCE / 2) ** 2) this.index[i] = table[cell];
    }
    if (this.planes.length === 1) return;
    if (this.index.reduce((sum, value) => sum + Number(value !== UNKNOWN), 0) >= CLEAN_SHARE * this.index.length) this.#keepSupported();
    this.#weighBrightness();
    this.#reach = SOFT_REACH;
  }

  /** Pixels that few of their neighbours agree with were near a colour by chance: a smear, or the ripples of an edge. */
  #keepSupported(): void {
    const { width, height, index } = this;
    const before = index.slice();
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        const own = before[i];
        if (own === UNKNOWN) continue;
        let support = -1;
        for (let ny = Math.max(0, y - 1); ny <= Math.min(height - 1, y + 1); ny++) {
          for (let at = ny * width + Math.max(0, x - 1); at <= ny * width + Math.min(width - 1, x + 1); at++) if (before[at] === own) support++;
        }
        if (support < SOFT_SUPPORT) index[i] = UNKNOWN;
      }
    }
  }

  /** From here on pixels and colours are compared by brightness, and a little by colour: lossy formats keep colour at half the resolution. */
  #weighBrightness(): void {
    const [red, green, blue] = this.read;
    const brightness = (r: number, g: number, b: number) => 0.299 * r + 0.587 * g + 0.114 * b;
    // Luma and differences as JFIF defines them.
    const weighed = [brightness, (r: number, g: number, b: number) => SOFT_CHROMA * 0.564 * (b - brightness(r, g, b)), (r: number, g: number, b: number) => SOFT_CHROMA * 0.713 * (r - brightness(r, g, b))];
    const { stored, count } = this;
    this.stored = Float64Array.from({ length: count * 3 }, (_, at) => weighed[at % 3](stored[at - (at % 3)], stored[at - (at % 3) + 1], stored[at - (at % 3) + 2]));
    this.read = weighed.map((of) => (i: number) => of(red(i), green(i), blue(i)));
  }

  mixture(space: MixtureSpace | null): Mixture {
    const { width, height, index } = this;
    const none = { edges: new Uint32Array(0), each: PARTS, parts: new Uint16Array(0), shares: new Uint8Array(0) };
    if (this.count === 0) return { width, height, index: index.fill(0), ...none };
    this.#near = this.#grid();
    // Where no known colour is far and wide, nothing can be said.
    const isEdge = (i: number) => index[i] === UNKNOWN && this.#inGrid(i).length > 0;
    let length = 0;
    for (let i = 0; i < index.length; i++) if (isEdge(i)) length++;
    const edges = new Uint32Array(length);
    for (let i = 0, k = 0; k < length; i++) if (isEdge(i)) edges[k++] = i;
    // Decided from what is known for sure, and only then written, so that no pixel depends on the order.
    const chosen = new Uint16Array(length);
    if (this.planes.length === 1) {
      // Numbers of IDs between two others are no mixtures.
      for (let k = 0; k < length; k++) chosen[k] = this.#nearestAround(edges[k]);
      for (let k = 0; k < length; k++) index[edges[k]] = chosen[k];
      return { width, height, index, ...none };
    }
    const parts = new Uint16Array(length * 3);
    const shares = new Uint8Array(length * 3);
    const change = transforms[space ?? this.#detect(edges)];
    const solver = new Solver(change === same ? this.stored : this.stored.map(change));
    for (let k = 0; k < length; k++) {
      this.#solve(edges[k], change, solver);
      const { a, b, c, shareA, shareB } = solver;
      const first = Math.min(255, Math.round(shareA * 255));
      const second = Math.min(255 - first, Math.round(shareB * 255));
      parts[k * 3] = a;
      parts[k * 3 + 1] = b;
      parts[k * 3 + 2] = c;
      shares[k * 3] = first;
      shares[k * 3 + 1] = second;
      shares[k * 3 + 2] = 255 - first - second;
      const third = 1 - shareA - shareB;
      chosen[k] = shareA >= shareB && shareA >= third ? a : shareB >= third ? b : c;
    }
    for (let k = 0; k < length; k++) index[edges[k]] = chosen[k];
    return { width, height, index, edges, each: PARTS, parts, shares };
  }

  /** Known colours up to `reach` pixels around a pixel, added to the first `found` of `#around`; returns how many there are then. */
  #look(i: number, reach: number, found: number): number {
    const { width, height, index } = this;
    const into = this.#around;
    const x = i % width;
    const y = Math.floor(i / width);
    const left = Math.max(0, x - reach);
    const right = Math.min(width - 1, x + reach);
    let count = found;
    for (let ny = Math.max(0, y - reach); ny <= Math.min(height - 1, y + reach); ny++) {
      for (let at = ny * width + left; at <= ny * width + right; at++) {
        const value = index[at];
        if (value === UNKNOWN) continue;
        let k = 0;
        while (k < count && into[k] !== value) k++;
        if (k === count) into[count++] = value;
      }
    }
    return count;
  }

  #grid(): Uint16Array[] {
    const { width, height, index } = this;
    const across = Math.ceil(width / GRID);
    const down = Math.ceil(height / GRID);
    const cells = Array.from({ length: across * down }, () => new Set<number>());
    for (let y = 0; y < height; y++) {
      const row = Math.floor(y / GRID) * across;
      let last = UNKNOWN;
      for (let x = 0; x < width; x++) {
        const found = index[y * width + x];
        if (found === last && x % GRID !== 0) continue;
        last = found;
        if (found !== UNKNOWN) cells[row + Math.floor(x / GRID)].add(found);
      }
    }
    return cells.map((_, cell) => {
      const all = new Set<number>();
      const [cx, cy] = [cell % across, Math.floor(cell / across)];
      for (let y = Math.max(0, cy - 1); y <= Math.min(down - 1, cy + 1); y++) for (let x = Math.max(0, cx - 1); x <= Math.min(across - 1, cx + 1); x++) for (const found of cells[y * across + x]) all.add(found);
      return Uint16Array.from(all);
    });
  }

  #inGrid(i: number): Uint16Array {
    const x = i % this.width;
    const y = Math.floor(i / this.width);
    return this.#near[Math.floor(y / GRID) * Math.ceil(this.width / GRID) + Math.floor(x / GRID)];
  }

  #nearestAround(i: number): number {
    const found = this.#look(i, 1, 0);
    const [r, g, b] = this.read.map((channel) => channel(i));
    const further = this.#inGrid(i);
    return found > 0 ? nearestOf(r, g, b, this.#around, found, this.stored) : nearestOf(r, g, b, further, further.length, this.stored);
  }

  /** In which numbers pixels between exactly two colours lie on the line between them. */
  #detect(edges: Uint32Array): MixtureSpace {
    const other = this.planes[0].type === 'u8' || this.planes[0].type === 'u16' ? 'decoded' : 'encoded';
    const solvers = (['stored', other] as const).map((space) => ({ change: transforms[space], solver: new Solver(this.stored.map(transforms[space])), off: 0 }));
    const step = Math.max(1, Math.floor(edges.length / DETECTION_SAMPLES));
    const two = this.#around;
    for (let k = 0; k < edges.length; k += step) {
      if (this.#look(edges[k], 1, 0) !== 2 || this.#distance2(two[0], two[1]) < 0.04) continue;
      const [r, g, b] = this.read.map((channel) => channel(edges[k]));
      for (const entry of solvers) {
        entry.solver.begin(entry.change(r), entry.change(g), entry.change(b));
        entry.solver.pairs(two, 2, two, 2);
        // Outliers are third colours; they say nothing.
        entry.off += Math.min(0.01, entry.solver.residual);
      }
    }
    return solvers[1].off < solvers[0].off ? other : 'stored';
  }

  #distance2(a: number, b: number): number {
    const { stored } = this;
    return (stored[a * 3] - stored[b * 3]) ** 2 + (stored[a * 3 + 1] - stored[b * 3 + 1]) ** 2 + (stored[a * 3 + 2] - stored[b * 3 + 2]) ** 2;
  }

  #solve(i: number, change: (value: number) => number, solver: Solver): void {
    const enough = this.#residual ** 2;
    solver.begin(change(this.read[0](i)), change(this.read[1](i)), change(this.read[2](i)));
    const near = this.#around;
    let found = 0;
    for (let reach = 1; reach <= this.#reach; reach++) {
      const before = found;
      found = this.#look(i, reach, found);
      if (reach > 1 && found === before) continue;
      solver.pairs(near, found, near, found);
      if (solver.residual <= enough) return;
      if (found > 2 && solver.triples(near, Math.min(found, MOST_FOR_TRIPLES), enough)) return;
    }
    // Thin things never show their own colour here: one of the neighbourhood's.
    const further = this.#inGrid(i);
    const few = further.length <= MOST_FURTHER;
    if (found > 0 && few) solver.pairs(near, found, further, further.length);
    else if (few) solver.pairs(further, further.length, further, further.length);
    if (solver.residual <= enough) return;
    if (further.length <= MOST_FOR_TRIPLES) solver.triples(further, further.length, enough);
    // A colour that nothing known explains is some small thing of its own: far places are no part of it.
    if (solver.residual > FAR_RESIDUAL ** 2 && found > 0) solver.take(nearestOf(solver.r, solver.g, solver.blue, near, found, solver.colors));
    if (solver.residual === Number.POSITIVE_INFINITY) solver.take(nearestOf(solver.r, solver.g, solver.blue, further, further.length, solver.colors));
  }
}

/** The share of each known colour in the whole picture. */
export function areasOf({ index, edges, each, parts, shares }: Mixture, count: number): Float64Array {
  const areas = new Float64Array(count);
  for (const value of index) areas[value]++;
  for (const [k, i] of edges.entries()) {
    areas[index[i]]--;
    for (let n = k * each; n < (k + 1) * each; n++) areas[parts[n]] += shares[n] / 255;
  }
  return areas.map((area) => area / Math.max(1, index.length));
}

