/**
 * Which single change explains best why the elements do not add up: one left out, there twice, scaled, read in the wrong encoding, missing; the
 * beauty exposed, or with glow.
 *
 * Weighted products of all columns with each other give the squared error of every way to put them together, so the search costs nothing; what it
 * finds is then measured in full. The choice of changes and the limits are common practice, no published source.
 */
import type { Source } from '../model/model.ts';
import type { RebuildSet, RebuildTerm } from './rebuild-set.ts';
import type { RebuildSums } from './rebuild-sums.ts';

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

/** A product of sources, read as their encodings say; those in `flipped` as they do not. */
export const columnOf = (sources: readonly Source[], ids: readonly string[], flipped: readonly string[] = []): RebuildColumn => ({
  factors: ids.map((id) => {
    const source = sources.find((candidate) => candidate.id === id) as Source;
    return { sourceId: id, decode: (source.encoding === 'display') !== flipped.includes(id), scale: source.scale, offset: source.offset };
  }),
});

/** One change that was tried. */
export interface RebuildGuess {
  /** `without`: leave a term out; `double`; `factor`; `encoding`: read it in the other one; `add`: take a spare one in; `exposure`: all of the sum by one factor; `glow`: highlights of the beauty, blurred, on top; `shift`: moved by whole pixels. */
  readonly kind: 'without' | 'double' | 'factor' | 'encoding' | 'add' | 'exposure' | 'glow' | 'shift';
  readonly label: string;
  /** The sources that are changed; of a product its filter and its raw light. */
  readonly sourceIds: readonly string[];
  readonly factor: number;
  /** In pixels of the picture, to where it belongs. */
  readonly shift: { readonly x: number; readonly y: number };
  /** Weights of all columns with the change. */
  readonly weights: readonly number[];
  /** Squared error left, as a share of what there was. */
  readonly left: number;
}

/** All that the search compares. The terms stand first among the columns, each with weight 1 in the sum as it is. */
export interface RebuildSearch {
  readonly target: RebuildColumn;
  readonly columns: readonly RebuildColumn[];
  readonly plain: readonly number[];
  /** Sources read in the other encoding, wherever they take part. */
  readonly flips: readonly { readonly label: string; readonly sourceIds: readonly string[]; readonly weights: readonly number[] }[];
  /** Column of each spare summand, and of each width of glow. */
  readonly spare: readonly number[];
  readonly glow: readonly number[];
}

/** The columns that a search for what is missing or doubled weighs against each other: the terms, what else could be one, and the glow of the beauty. */
export function rebuildSearch({ target, terms, spare }: RebuildSet, sources: readonly Source[]): RebuildSearch {
  const columns = terms.map((term) => columnOf(sources, term.sourceIds));
  const push = (column: RebuildColumn) => columns.push(column) - 1;
  // Each source by itself, and both parts of a product: a filter takes part in several.
  const alone = [...new Set(terms.flatMap(({ sourceIds }) => sourceIds))].map((id) => [id]);
  const pairs = terms.filter(({ sourceIds }) => sourceIds.length > 1).map(({ sourceIds }) => sourceIds);
  const replaced = [...alone, ...pairs].map((flipped) => ({
    flipped,
    places: terms.flatMap(({ sourceIds }, i) => (sourceIds.some((id) => flipped.includes(id)) ? [[i, push(columnOf(sources, sourceIds, flipped))] as const] : [])),
  }));
  const spareColumns = spare.map((term) => push(columnOf(sources, term.sourceIds)));
  const glow = GLOW_WIDTHS.map((_, i) => push({ factors: [{ sourceId: glowId(i), decode: false, scale: 1, offset: 0 }] }));
  const plain: readonly number[] = columns.map((_, i) => (i < terms.length ? 1 : 0));
  const flips = replaced.map(({ flipped, places }) => {
    const weights = [...plain];
    for (const [from, to] of places) [weights[from], weights[to]] = [0, 1];
    return { label: nameOf(flipped, sources), sourceIds: flipped, weights };
  });
  return { target: columnOf(sources, [target.id]), columns, plain, flips, spare: spareColumns, glow };
}

const nameOf = (ids: readonly string[], sources: readonly Source[]) => ids.map((id) => sources.find((source) => source.id === id)?.name ?? id).join(' and ');

/** A gap that is closed to this share is explained. */
export const CLOSED = 0.12;
/** Of glow only the rough shape is known. */
const CLOSED_BY_GLOW = 0.3;
/** Simpler changes are preferred to better-fitting ones up to this ratio: factors fit a little better than anything. */
const SIMPLER = 1.6;

const near = (value: number, wanted: number) => Math.abs(value - wanted) <= 0.025;

/** Changes that close the gap, the most likely first. Empty if none does. */
export function explainGap({ target, terms, spare }: RebuildSet, search: RebuildSearch, sums: RebuildSums): RebuildGuess[] {
  const { plain } = search;
  const before = sums.error(plain);
  if (before === 0) return [];
  const guesses: (RebuildGuess & { rank: number })[] = [];
  const guess = (kind: RebuildGuess['kind'], what: Pick<RebuildTerm, 'label' | 'sourceIds'>, factor: number, weights: readonly number[], rank: number) =>
    guesses.push({ kind, label: what.label, sourceIds: what.sourceIds, factor, shift: { x: 0, y: 0 }, weights, left: sums.error(weights) / before, rank });
  const beauty = { label: target.name, sourceIds: [target.id] };
  for (const [i, term] of terms.entries()) {
    guess('without', term, 0, plain.with(i, 0), 0);
    guess('double', term, 2, plain.with(i, 2), 1);
    const factor = sums.bestFactor(plain, i);
    if (factor !== null && factor > 0.02 && factor < 50 && ![0, 1, 2].some((known) => near(factor, known))) guess('factor', term, factor, plain.with(i, factor), 2);
  }
  for (const flip of search.flips) guess('encoding', flip, 1, flip.weights, flip.sourceIds.length);
  for (const [i, term] of spare.entries()) guess('add', term, 1, plain.with(search.spare[i], 1), 0);
  // The whole sum by one factor: the beauty was exposed after rendering.
  let [own, wanted] = [0, 0];
  for (let i = 0; i < terms.length; i++) {
    wanted += sums.of(i, plain.length);
    for (let j = 0; j < terms.length; j++) own += sums.of(i, j);
  }
  const exposure = wanted / own;
  if (own > 0 && exposure > 0 && !near(exposure, 1)) guess('exposure', beauty, exposure, plain.map((weight) => weight * exposure), 2);
  const glow = sums.bestAdditions(plain, search.glow);
  if (glow.some((weight) => weight > 0)) {
    const weights = [...plain];
    for (const [i, column] of search.glow.entries()) weights[column] = glow[i];
    guess('glow', beauty, 1, weights, 1);
  }
  const closed = guesses.filter(({ left, kind }) => left < (kind === 'glow' ? CLOSED_BY_GLOW : CLOSED)).sort((a, b) => a.left - b.left);
  const best = closed[0]?.left ?? 0;
  // Rounding leaves an error of its own; below it nothing is told apart.
  const alike = (left: number) => left <= Math.max(best * SIMPLER, 1e-6);
  return closed.sort((a, b) => Number(alike(b.left)) - Number(alike(a.left)) || (alike(a.left) ? a.rank - b.rank : 0) || a.left - b.left).map(({ rank: _, ...rest }) => rest);
}
