/**
 * The pixels of a coverage matte, packed: a matte comes as pairs of floats, hash and coverage, six of them at 4500 × 3000 being 650 MB; but
 * most pixels are wholly one thing.
 * @source Cryptomatte specification 1.2: pairs in descending order of coverage, hashes as the bits of 32-bit floats
 */
import { CoreError } from '../errors.ts';
import type { Plane } from '../raster/planes.ts';
import { sampleReader } from '../raster/read.ts';
import { areasOf, type Mixture, NOTHING } from './unmix.ts';

/** Mixtures of hashes: index and parts count in the order of `hashes`. What no hash covers has no share. */
export interface CoverageShares extends Mixture {
  readonly hashes: Uint32Array;
}

/** Pixels covered by more than this by their first hash are wholly its. */
const WHOLE = 1 - 0.5 / 255;

/** The bits of 32-bit floats as the whole numbers that hashes are. @throws CoreError `bad-coverage` for numbers that a program has rounded */
function bitsOf({ data, type }: Plane): Uint32Array {
  if (type === 'f32') return new Uint32Array(data.buffer, data.byteOffset, data.length);
  if (type === 'u32') return data as Uint32Array;
  throw new CoreError('bad-coverage', 'It holds no coverage: mattes are 32-bit floats that no program has filtered. Save it again, without changing it.');
}

interface Pair {
  readonly ids: Uint32Array;
  readonly coverage: (i: number) => number;
}
const pairsOf = (planes: readonly Plane[]): Pair[] => [[0, 1], [2, 3]].filter(([, coverage]) => coverage < planes.length).map(([id, coverage]) => ({ ids: bitsOf(planes[id]), coverage: sampleReader(planes[coverage]) }));

/** Numbers of hashes in the order in which they are met. Those beyond what an index can count are nothing. */
class Numbers {
  readonly #numbers: Map<number, number>;
  #last = 0;
  #lastNumber = NOTHING;
  constructor(known: Uint32Array = new Uint32Array(0)) {
    this.#numbers = new Map(Array.from(known, (hash, i) => [hash, i]));
  }
  of(hash: number): number {
    // Neighbours mostly carry the same.
    if (hash === this.#last) return this.#lastNumber;
    let number = hash === 0 ? NOTHING : this.#numbers.get(hash);
    if (number === undefined) {
      number = this.#numbers.size < NOTHING ? this.#numbers.size : NOTHING;
      if (number !== NOTHING) this.#numbers.set(hash, number);
    }
    this.#last = hash;
    this.#lastNumber = number;
    return number;
  }
  all(): Uint32Array {
    return Uint32Array.from(this.#numbers.keys());
  }
}

/**
 * The first source of a matte: its two pairs. `addCoverage` puts those of the others in, one source after the other, so that they need not be
 * held together.
 * @param sources of how many sources the matte consists
 * @throws CoreError `bad-coverage`
 */
export function beginCoverage(planes: readonly Plane[], sources: number): CoverageShares {
  const { width, height } = planes[0];
  const [first, ...others] = pairsOf(planes);
  const index = new Uint16Array(width * height);
  const numbers = new Numbers();
  let length = 0;
  for (let i = 0; i < index.length; i++) {
    const share = first.coverage(i);
    index[i] = share > 0 ? numbers.of(first.ids[i]) : NOTHING;
    if (share > 0 && share < WHOLE) length++;
  }
  const each = sources * 2;
  const edges = new Uint32Array(length);
  for (let i = 0, k = 0; k < length; i++) {
    const share = first.coverage(i);
    if (share > 0 && share < WHOLE) edges[k++] = i;
  }
  const shares = { width, height, index, edges, each, parts: new Uint16Array(length * each).fill(NOTHING), shares: new Uint8Array(length * each) };
  for (const [n, pair] of [first, ...others].entries()) put(shares, pair, n, numbers);
  return { ...shares, hashes: numbers.all() };
}

/** Puts the pairs of the source `place` (from 1) of a matte in; parts and shares are written in place. @throws CoreError `bad-coverage` */
export function addCoverage(known: CoverageShares, planes: readonly Plane[], place: number): CoverageShares {
  const numbers = new Numbers(known.hashes);
  for (const [n, pair] of pairsOf(planes).entries()) put(known, pair, place * 2 + n, numbers);
  return { ...known, hashes: numbers.all() };
}

function put({ edges, each, parts, shares }: Mixture, { ids, coverage }: Pair, n: number, numbers: Numbers): void {
  for (let k = 0; k < edges.length; k++) {
    const share = Math.round(Math.min(1, coverage(edges[k])) * 255);
    // Not a number is nothing.
    if (!(share > 0)) continue;
    parts[k * each + n] = numbers.of(ids[edges[k]]);
    shares[k * each + n] = share;
  }
}

export interface CoveredId {
  readonly hash: number;
  /** Share of the picture. */
  readonly area: number;
}

/** All hashes of a matte with the share of the picture that each covers, the largest first. */
export function coveredIds(coverage: CoverageShares): CoveredId[] {
  const areas = areasOf(coverage, coverage.hashes.length);
  return Array.from(coverage.hashes, (hash, i) => ({ hash, area: areas[i] })).sort((a, b) => b.area - a.area);
}

/** A row counts as the same thing if this much of it carries one hash. */
const SAME_SHARE = 0.8;

/** For each colour of an ID picture the hash that most of it carries; null where no hash does. */
export function hashesOfColors(index: Uint16Array, count: number, coverage: CoverageShares): (number | null)[] {
  if (coverage.index.length !== index.length) return Array.from({ length: count }, () => null);
  const votes = Array.from({ length: count }, () => new Map<number, number>());
  for (let i = 0; i < index.length; i++) {
    const own = votes[index[i]];
    own?.set(coverage.index[i], (own.get(coverage.index[i]) ?? 0) + 1);
  }
  return votes.map((own) => {
    const total = [...own.values()].reduce((a, b) => a + b, 0);
    const [number, most] = [...own].reduce((best, entry) => (entry[1] > best[1] ? entry : best), [NOTHING, 0]);
    return number !== NOTHING && most >= total * SAME_SHARE ? coverage.hashes[number] : null;
  });
}
