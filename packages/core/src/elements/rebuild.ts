/**
 * Does the sum of the elements equal the beauty? Which elements make up the sum, how far it is off, and which single
 * change explains the gap best.
 *
 * Weighted products of all columns with each other (a Gram matrix) give the squared error of every way to put them
 * together without another look at the pixels, so the search costs nothing; what it finds is then measured in full.
 * The choice of changes and the limits of the verdict are common practice, no published source.
 */
import type { Edit } from '../document/edits.ts';
import type { Source } from '../document/model.ts';
import { srgbEncode } from '../color/srgb.ts';
import { type RoleId, roleLabel } from './roles.ts';
import { wordsOf } from './words.ts';

/** One summand: an element, or a filter multiplied by its raw light. */
export interface RebuildTerm {
  readonly label: string;
  /** One source, or filter and raw. */
  readonly sourceIds: readonly string[];
}

export type RebuildSplit = 'elements' | 'lights';
/** For light that was delivered both ways: as the lit element, or as filter × raw. */
export type RebuildPairs = 'lit' | 'filter-raw';

export interface RebuildSet {
  readonly split: RebuildSplit;
  readonly target: Source;
  readonly terms: readonly RebuildTerm[];
  /** Summands that the set holds and that do not count by themselves. */
  readonly spare: readonly RebuildTerm[];
  /** Kinds of light that usually take part and are not there. */
  readonly missing: readonly RoleId[];
}

interface AdditiveRole {
  readonly role: RoleId;
  readonly filter?: RoleId;
  readonly raw?: RoleId;
  /** Renders of matt scenes do without the rest. */
  readonly usual: boolean;
}

const ADDITIVE: readonly AdditiveRole[] = [
  { role: 'direct-lighting', filter: 'diffuse-filter', raw: 'raw-lighting', usual: true },
  { role: 'gi', filter: 'diffuse-filter', raw: 'raw-gi', usual: true },
  { role: 'reflection', filter: 'reflection-filter', raw: 'raw-reflection', usual: true },
  { role: 'refraction', filter: 'refraction-filter', raw: 'raw-refraction', usual: true },
  { role: 'specular', usual: true },
  { role: 'self-illumination', usual: true },
  { role: 'subsurface', usual: false },
  { role: 'caustics', usual: false },
  { role: 'atmosphere', usual: false },
  { role: 'background', usual: true },
  { role: 'other-light', usual: false },
];

export const isAdditive = (role: RoleId): boolean => role === 'light-group' || ADDITIVE.some((row) => row.role === role || row.raw === role);

/** The finished render that the elements should sum to. A denoised one only if the elements were denoised as well, which nobody says. */
const targetOf = (sources: readonly Source[]): Source | null =>
  sources.find((source) => source.role === 'beauty') ?? sources.find((source) => source.role === 'denoised-beauty') ?? null;

/**
 * What belongs into the sum, by roles and by what the artist said. Null without a beauty, or with nothing to add up.
 * Light from another render of the view (fog) cannot be told by its role: it does not count if the name of its file says so.
 */
export function rebuildSet(sources: readonly Source[], split: RebuildSplit, pairs: RebuildPairs = 'lit'): RebuildSet | null {
  const target = targetOf(sources);
  if (!target) return null;
  const terms: RebuildTerm[] = [];
  const spare: RebuildTerm[] = [];
  const missing: RoleId[] = [];
  const single = (source: Source): RebuildTerm => ({ label: source.name, sourceIds: [source.id] });
  const counts = (source: Source) => source.inSum !== 'out';
  if (split === 'lights') {
    for (const source of sources) if (source.role === 'light-group') (counts(source) ? terms : spare).push(single(source));
  } else {
    for (const { role, filter, raw, usual } of ADDITIVE) {
      const lit = sources.filter((source) => source.role === role);
      const filters = filter ? sources.filter((source) => source.role === filter) : [];
      const raws = raw ? sources.filter((source) => source.role === raw) : [];
      const products = filters.length === 0 ? [] : raws.map((source) => ({ label: `${filters[0].name} × ${source.name}`, sourceIds: [filters[0].id, source.id], raw: source }));
      const litCounts = lit.some(counts);
      const byProduct = products.some((product) => counts(product.raw)) && (!litCounts || pairs === 'filter-raw');
      for (const source of lit) (counts(source) && !(byProduct && source.inSum === 'auto') && (role !== 'atmosphere' || source.inSum === 'in' || comesWith(source, target)) ? terms : spare).push(single(source));
      for (const { raw: source, ...term } of products) (counts(source) && (byProduct || source.inSum === 'in') ? terms : spare).push(term);
      if (usual && lit.length === 0 && products.length === 0) missing.push(role);
    }
    // Elements whose name says nothing may be the light that is missing.
    for (const source of sources) if (source.role === 'picture' && source.encoding !== 'data' && source.colorChannels.length === 3) spare.push(single(source));
  }
  return terms.length === 0 ? null : { split, target, terms, spare, missing };
}

/** Fog is often rendered apart, and then says so in the name of its file. */
function comesWith({ file }: Source, target: Source): boolean {
  const speaksOfFog = (name: string) => wordsOf(name).some((word) => ['fog', 'mist', 'haze'].includes(word));
  return file.hash === target.file.hash || !speaksOfFog(file.name) || speaksOfFog(target.file.name);
}

/** How the numbers of a column are read: factors are multiplied. */
export interface RebuildColumn {
  readonly factors: readonly { readonly sourceId: string; readonly decode: boolean; readonly scale: number; readonly offset: number }[];
}

/**
 * Light around the brightest parts, as a lens or a finishing effect of the renderer adds it to the beauty alone. Its shape is not known:
 * a sum of Gaussians of these widths (standard deviations, as shares of the picture's longer side) comes near enough to tell it.
 */
export const GLOW_WIDTHS = [0.004, 0.016, 0.064] as const;
/** Light above this glows. */
export const GLOW_FROM = 1;
/** Stands for a source in `RebuildColumn`: highlights of the target, blurred by one of the widths. */
export const glowId = (i: number): string => `glow ${i}`;

export interface RebuildColumns {
  readonly target: RebuildColumn;
  readonly columns: readonly RebuildColumn[];
}

/** A product of sources, read as their encodings say, or (`other`) as they do not. */
export const columnOf = (sources: readonly Source[], ids: readonly string[], other = false): RebuildColumn => ({
  factors: ids.map((id) => {
    const source = sources.find((candidate) => candidate.id === id) as Source;
    return { sourceId: id, decode: (source.encoding === 'display') !== other, scale: source.scale, offset: source.offset };
  }),
});

/** All columns that the search compares: the terms, the terms read in the other encoding, what is spare, glow. */
export function rebuildColumns({ target, terms, spare }: RebuildSet, sources: readonly Source[]): RebuildColumns {
  return {
    target: columnOf(sources, [target.id]),
    columns: [...terms.map((term) => columnOf(sources, term.sourceIds)), ...terms.map((term) => columnOf(sources, term.sourceIds, true)), ...spare.map((term) => columnOf(sources, term.sourceIds)), ...GLOW_WIDTHS.map((_, i) => ({ factors: [{ sourceId: glowId(i), decode: false, scale: 1, offset: 0 }] }))],
  };
}

/** Below this light, errors are no longer measured against the pixel's own value: no screen would show them. */
const DARKEST = 1 / 64;

/** Products of columns, each pixel weighted by 1 / light²: a squared relative error. */
export class RebuildSums {
  /** (columns + 1)², row by row; the last column is the target. */
  readonly products: Float64Array;
  readonly #size: number;
  constructor(columnCount: number, products?: Float64Array) {
    this.#size = columnCount + 1;
    this.products = products ?? new Float64Array(this.#size ** 2);
  }

  /** `columns[i][c]`: channel c of column i; the target stands last. Linear light. */
  add(columns: readonly (readonly Float32Array[])[], count: number): void {
    const size = this.#size;
    const values = new Float64Array(size);
    for (let c = 0; c < 3; c++) {
      for (let p = 0; p < count; p++) {
        for (let i = 0; i < size; i++) values[i] = columns[i][c][p];
        const weight = 1 / Math.max(Math.abs(values[size - 1]), DARKEST);
        for (let i = 0; i < size; i++) values[i] *= weight;
        for (let i = 0; i < size; i++) {
          const v = values[i];
          if (v === 0) continue;
          for (let j = i; j < size; j++) this.products[i * size + j] += v * values[j];
        }
      }
    }
  }

  merge(other: Float64Array): void {
    for (let i = 0; i < other.length; i++) this.products[i] += other[i];
  }

  /** Product of columns i and j, in any order. */
  of(i: number, j: number): number {
    return this.products[Math.min(i, j) * this.#size + Math.max(i, j)];
  }

  /** Squared error of Σ weight × column against the target. */
  error(weights: readonly number[]): number {
    const target = this.#size - 1;
    const used = [...weights, -1].flatMap((weight, i) => (weight === 0 ? [] : [[i === weights.length ? target : i, weight] as const]));
    let sum = 0;
    for (const [i, a] of used) for (const [j, b] of used) sum += a * b * this.of(i, j);
    return Math.max(0, sum);
  }

  /** The factor of column i that brings the rest of a sum closest to the target; null if the column is empty. */
  bestFactor(weights: readonly number[], i: number): number | null {
    const own = this.of(i, i);
    if (own <= 0) return null;
    let wanted = this.of(i, this.#size - 1);
    for (const [j, weight] of weights.entries()) if (j !== i && weight !== 0) wanted -= weight * this.of(i, j);
    return wanted / own;
  }

  /** Factors of some columns, none below 0, that together bring a sum closest to the target (least squares). */
  bestAdditions(weights: readonly number[], columns: readonly number[]): number[] {
    const target = this.#size - 1;
    let used = columns.map((_, k) => k).filter((k) => this.of(columns[k], columns[k]) > 0);
    while (used.length > 0) {
      const matrix = used.map((k) => [...used.map((l) => this.of(columns[k], columns[l])), this.of(columns[k], target) - weights.reduce((sum, weight, j) => sum + (weight === 0 ? 0 : weight * this.of(columns[k], j)), 0)]);
      const found = solve(matrix);
      const negative = found ? used.filter((_, i) => found[i] < 0) : used;
      if (found && negative.length === 0) return columns.map((_, k) => (used.includes(k) ? found[used.indexOf(k)] : 0));
      used = used.filter((k) => !negative.includes(k));
    }
    return columns.map(() => 0);
  }
}

/** Solves rows of coefficients with the right side last, by elimination with pivots; null if they do not decide it. */
function solve(rows: number[][]): number[] | null {
  const n = rows.length;
  for (let i = 0; i < n; i++) {
    const pivot = rows.slice(i).reduce((best, row, k) => (Math.abs(row[i]) > Math.abs(rows[best][i]) ? i + k : best), i);
    [rows[i], rows[pivot]] = [rows[pivot], rows[i]];
    if (Math.abs(rows[i][i]) < 1e-12) return null;
    for (let k = 0; k < n; k++) {
      if (k === i) continue;
      const factor = rows[k][i] / rows[i][i];
      for (let c = i; c <= n; c++) rows[k][c] -= factor * rows[i][c];
    }
  }
  return rows.map((row, i) => row[n] / row[i]);
}

/** How far a sum is from the beauty. Errors are relative to the beauty's light, at least 1/64. */
export interface RebuildFigures {
  readonly meanError: number;
  readonly largestError: number;
  /** Where the largest error lies, in pixels of the picture. */
  readonly largestAt: { readonly x: number; readonly y: number };
  /** Share of the pixels that are off by more than a twentieth. */
  readonly shareOff: number;
  /** Mean and largest absolute log2 of sum ÷ beauty, where both are light. */
  readonly meanStops: number;
  readonly largestStops: number;
  /** Of the display-encoded pictures, peak 1; infinite if they are equal. */
  readonly psnrDb: number;
  /** Mean of sum − beauty over mean of beauty: below 0 something is missing, above 0 something is there twice. */
  readonly bias: number;
}

const OFF = 0.05;

/** Figures of one sum, gathered span by span and merged. */
export class RebuildMeasure {
  /** count, error sum, largest, x, y, off, stops, stops count, largest stops, squared display error, difference, beauty */
  readonly values = new Float64Array(12);

  add(sum: readonly Float32Array[], target: readonly Float32Array[], count: number, place: { x: number; y: number; width: number }): void {
    const v = this.values;
    for (let p = 0; p < count; p++) {
      let error = 0;
      let stops = 0;
      for (let c = 0; c < 3; c++) {
        const s = sum[c][p];
        const b = target[c][p];
        v[11] += b;
        const difference = s - b;
        if (difference === 0) continue;
        error = Math.max(error, Math.abs(difference) / Math.max(Math.abs(b), DARKEST));
        stops = Math.max(stops, Math.abs(Math.log2(Math.max(s, DARKEST) / Math.max(b, DARKEST))));
        v[9] += (srgbEncode(s) - srgbEncode(b)) ** 2;
        v[10] += difference;
      }
      v[0]++;
      v[1] += error;
      v[6] += stops;
      if (error > OFF) v[5]++;
      if (stops > v[8]) v[8] = stops;
      if (error > v[2]) {
        v[2] = error;
        v[3] = place.x + (p % place.width);
        v[4] = place.y + Math.floor(p / place.width);
      }
    }
  }

  merge(other: Float64Array): void {
    const v = this.values;
    if (other[2] > v[2]) for (const i of [2, 3, 4]) v[i] = other[i];
    v[8] = Math.max(v[8], other[8]);
    for (const i of [0, 1, 5, 6, 9, 10, 11]) v[i] += other[i];
  }

  figures(): RebuildFigures {
    const v = this.values;
    const pixels = Math.max(1, v[0]);
    return {
      meanError: v[1] / pixels,
      largestError: v[2],
      largestAt: { x: v[3], y: v[4] },
      shareOff: v[5] / pixels,
      meanStops: v[6] / pixels,
      largestStops: v[8],
      psnrDb: v[9] === 0 ? Number.POSITIVE_INFINITY : -10 * Math.log10(v[9] / (3 * pixels)),
      bias: v[11] === 0 ? 0 : v[10] / v[11],
    };
  }
}

export type RebuildVerdict = 'adds-up' | 'nearly' | 'off';

/** A gap that one change closes is no rounding, however small it is. */
export function verdictOf({ meanError, shareOff, largestError }: RebuildFigures, guesses: readonly RebuildGuess[]): RebuildVerdict {
  if (guesses.length > 0) return meanError <= 0.005 && largestError <= 0.25 ? 'nearly' : 'off';
  if (meanError <= 0.005 && shareOff <= 0.0001) return 'adds-up';
  return meanError <= 0.03 && shareOff <= 0.1 ? 'nearly' : 'off';
}

/** One change that was tried. */
export interface RebuildGuess {
  /** `without`: leave a term out; `double`; `factor`; `encoding`: read it in the other one; `add`: take a spare one in; `exposure`: all of the sum by one factor; `glow`: highlights of the beauty, blurred, on top. */
  readonly kind: 'without' | 'double' | 'factor' | 'encoding' | 'add' | 'exposure' | 'glow';
  readonly label: string;
  readonly sourceIds: readonly string[];
  readonly factor: number;
  /** Weights of all columns with the change. */
  readonly weights: readonly number[];
  /** Squared error left, as a share of what there was. */
  readonly left: number;
}

/** A gap that is closed to this share is explained. */
const CLOSED = 0.12;
/** Of glow only the rough shape is known. */
const CLOSED_BY_GLOW = 0.3;
/** Simpler changes are preferred to better-fitting ones up to this ratio: factors fit a little better than anything. */
const SIMPLER = 1.6;

const near = (value: number, wanted: number) => Math.abs(value - wanted) <= 0.025;

/** Changes that close the gap, the most likely first. Empty if none does. */
export function explainGap(set: RebuildSet, sums: RebuildSums): RebuildGuess[] {
  const { terms, spare } = set;
  const n = terms.length;
  const plain = [...terms.map(() => 1), ...terms.map(() => 0), ...spare.map(() => 0), ...GLOW_WIDTHS.map(() => 0)];
  const before = sums.error(plain);
  if (before === 0) return [];
  const guesses: (RebuildGuess & { rank: number })[] = [];
  const guess = (kind: RebuildGuess['kind'], term: RebuildTerm | null, factor: number, weights: readonly number[], rank: number) =>
    guesses.push({ kind, label: term?.label ?? set.target.name, sourceIds: term?.sourceIds ?? [set.target.id], factor, weights, left: sums.error(weights) / before, rank });
  for (const [i, term] of terms.entries()) {
    guess('without', term, 0, plain.with(i, 0), 0);
    guess('double', term, 2, plain.with(i, 2), 1);
    guess('encoding', term, 1, plain.with(i, 0).with(n + i, 1), 1);
    const factor = sums.bestFactor(plain, i);
    if (factor !== null && factor > 0.02 && factor < 50 && ![0, 1, 2].some((known) => near(factor, known))) guess('factor', term, factor, plain.with(i, factor), 2);
  }
  for (const [i, term] of spare.entries()) guess('add', term, 1, plain.with(2 * n + i, 1), 0);
  // The whole sum by one factor: the beauty was exposed after rendering.
  let [own, wanted] = [0, 0];
  for (let i = 0; i < n; i++) {
    wanted += sums.of(i, plain.length);
    for (let j = 0; j < n; j++) own += sums.of(i, j);
  }
  const exposure = wanted / own;
  if (own > 0 && exposure > 0 && !near(exposure, 1)) guess('exposure', null, exposure, plain.map((weight) => weight * exposure), 2);
  const glow = sums.bestAdditions(plain, GLOW_WIDTHS.map((_, i) => 2 * n + spare.length + i));
  if (glow.some((weight) => weight > 0)) guess('glow', null, 1, [...plain.slice(0, -GLOW_WIDTHS.length), ...glow], 1);
  const closed = guesses.filter(({ left, kind }) => left < (kind === 'glow' ? CLOSED_BY_GLOW : CLOSED)).sort((a, b) => a.left - b.left);
  const best = closed[0]?.left ?? 0;
  // Rounding leaves an error of its own; below it nothing is told apart.
  const alike = (left: number) => left <= Math.max(best * SIMPLER, 1e-6);
  return closed.sort((a, b) => Number(alike(b.left)) - Number(alike(a.left)) || (alike(a.left) ? a.rank - b.rank : 0) || a.left - b.left).map(({ rank: _, ...rest }) => rest);
}

const percent = (share: number) => `${(100 * share).toLocaleString('en', { maximumSignificantDigits: 2 })} %`;

/** What a change says, as a sentence. */
export function guessSentence({ kind, label, factor }: RebuildGuess): string {
  switch (kind) {
    case 'without':
      return `Without ${label} the sum fits: the beauty does not contain it, or another element contains it as well.`;
    case 'double':
      return `With ${label} taken twice the sum fits: it was saved at half its light, or a second one like it is missing.`;
    case 'factor':
      return `With ${label} times ${factor.toFixed(3)} the sum fits: it was saved ${factor < 1 ? 'brighter' : 'darker'} than it took part in the beauty (by a factor of ${(1 / factor).toFixed(3)}).`;
    case 'encoding':
      return `With ${label} read in the other encoding the sum fits: display values were taken for light, or light for display values.`;
    case 'add':
      return `With ${label} in the sum it fits.`;
    case 'glow':
      return `With glow around the lights the sum fits: ${label} contains it already, and no element does. Render the beauty without glow, or build from the elements and add it last.`;
    default:
      return `The beauty is ${factor > 1 ? 'brighter' : 'darker'} than the sum everywhere, by ${Math.abs(Math.log2(factor)).toFixed(2)} stops: it was exposed after rendering.`;
  }
}

/** The edits that make a change, for one click; empty if it can only be made by rendering or saving again. */
export function guessEdits({ kind, sourceIds, factor }: RebuildGuess, sources: readonly Source[]): Edit[] {
  const last = sources.find((source) => source.id === sourceIds[sourceIds.length - 1]);
  if (!last) return [];
  const patch = (values: Extract<Edit, { type: 'set-source' }>['patch']): Edit[] => [{ type: 'set-source', sourceId: last.id, patch: values }];
  switch (kind) {
    case 'without':
      return patch({ inSum: 'out' });
    case 'add':
      return patch(last.role === 'picture' ? { role: 'other-light', inSum: 'in' } : { inSum: 'in' });
    case 'double':
    case 'factor':
      return last.encoding === 'linear' ? patch({ scale: last.scale * factor, offset: last.offset * factor }) : [];
    case 'encoding':
      return patch({ encoding: last.encoding === 'display' ? 'linear' : 'display' });
    case 'glow':
      return [];
    default:
      return last.encoding === 'linear' ? patch({ scale: last.scale / factor, offset: last.offset / factor }) : [];
  }
}

/** The verdict in words. */
export function verdictSentence(set: RebuildSet, figures: RebuildFigures, guesses: readonly RebuildGuess[]): string {
  const what = set.split === 'lights' ? `The ${set.terms.length} light groups` : `The ${set.terms.length} elements`;
  const verdict = verdictOf(figures, guesses);
  if (verdict === 'adds-up') return `${what} add up to ${set.target.name}: on average they differ by ${percent(figures.meanError)}.`;
  const how = figures.bias < -0.0005 ? `too dark by ${percent(-figures.bias)}` : figures.bias > 0.0005 ? `too bright by ${percent(figures.bias)}` : 'off in places';
  if (guesses.length > 0) return `${what} ${verdict === 'nearly' ? 'nearly' : 'do not'} add up to ${set.target.name}: the sum is ${how}. ${guessSentence(guesses[0])}`;
  if (verdict === 'nearly' && (set.missing.length === 0 || figures.bias > -0.0005)) return `${what} nearly add up to ${set.target.name}: on average they differ by ${percent(figures.meanError)}, which is normal with some materials.`;
  const missing = set.missing.map((role) => roleLabel(role).toLowerCase());
  const why =
    figures.bias > 0.002 ? 'Something is in it twice.'
    : set.split === 'lights' ? 'A light group, the rest group or the environment is missing.'
    : missing.length > 0 ? `What is missing may be ${missing.join(' or ')}: no element has that role.`
    : 'No single element explains it.';
  return `${what} do not ${verdict === 'nearly' ? 'quite ' : ''}add up to ${set.target.name}: the sum is ${how}. ${why}`;
}
