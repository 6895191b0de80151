/** The rebuild check, arranged over the workers: which elements, read at which level, added up strip by strip. */
import { CLOSED, columnOf, explainGap, glowId, levelWithin, type MeasuredGuess, type RebuildFigures, RebuildMeasure, type RebuildPairs, type RebuildSearch, type RebuildSet, type RebuildSplit, RebuildSums, type RebuildVerdict, rebuildSearch, rebuildSets, type Region, type Size, type Source, type SourceView, sizeAtLevel, srgbDecode, stripsOf, type TazzelDocument, verdictOf, verdictSentence } from '@tazzel/core';
import type { ColumnView, RebuildRequest } from './rebuild.ts';
import { Cancelled } from './errors.ts';
import { allDone, PRIORITY, type WorkerPool } from './pool.ts';
import { reducedLevels, type SourceStore } from './source-store.ts';

export interface RebuildOptions {
  readonly split: RebuildSplit;
  readonly pairs?: RebuildPairs;
  readonly signal?: AbortSignal;
  readonly onProgress?: (share: number) => void;
}

export interface RebuildResult {
  readonly set: RebuildSet;
  readonly figures: RebuildFigures;
  readonly verdict: RebuildVerdict;
  /** Changes that close the gap, the most likely first, with what is left after them. */
  readonly guesses: readonly MeasuredGuess[];
  /** Beauties of the set that the sum matches less. */
  readonly others: readonly { readonly label: string; readonly meanError: number }[];
  readonly sentence: string;
  /** 0 if every pixel was compared, n if means of 2ⁿ × 2ⁿ were, because not all elements fit into memory. */
  readonly level: number;
  readonly problems: readonly string[];
}

/** Pixels that the search for an explanation looks at; the verdict looks at all. */
const REBUILD_SAMPLES = 1_000_000;
const REBUILD_GUESSES = 3;
/** Elements of half floats that were summed up exactly differ by less than this from their beauty. Common practice, no published source. */
const isExact = ({ meanError, largestError }: RebuildFigures) => meanError <= 0.003 && largestError <= 0.04;
const GLOW_SIDE = 640;
/** Shifts are looked for up to this many pixels, from a level on at which these are few, in so many samples. */
const [SHIFT_REACH, SHIFT_LEVEL, SHIFT_SAMPLES] = [32, 3, 100_000];

/**
 * Whether the elements add up to the beauty (of several, to the one that they come nearest to), and if not, which change would make them. Null if
 * there is nothing to add up. Elements that cannot be read do not count and are named. @throws Cancelled
 */
export async function checkRebuild(pool: WorkerPool, store: SourceStore, document: TazzelDocument, { split, pairs = 'lit', signal, onProgress }: RebuildOptions): Promise<RebuildResult | null> {
  const problems: string[] = [];
  let sources = document.sources;
  for (;;) {
    const sets = rebuildSets(sources, split, pairs);
    if (sets.length === 0) return null;
    const [{ terms, spare }] = sets;
    const ids = new Set([...sets.map(({ target }) => target.id), ...[...terms, ...spare].flatMap(({ sourceIds }) => sourceIds)]);
    const used = sources.filter(({ id }) => ids.has(id));
    const level = levelThatFits(used, store.budgetBytes);
    const views: Record<string, SourceView> = {};
    const failed = new Set<string>();
    let read = 0;
    await allDone(
      used.map(async (source) => {
        try {
          views[source.id] = await store.view(source, level);
          if (signal?.aborted) throw new Cancelled();
          onProgress?.((0.6 * ++read) / used.length);
        } catch (error) {
          if (error instanceof Cancelled) throw error;
          failed.add(source.id);
          problems.push((error as Error).message);
        }
      }),
    );
    if (failed.size > 0) {
      sources = sources.filter(({ id }) => !failed.has(id));
      continue;
    }
    return { ...(await new RebuildCheck(pool, store, sources, views, level, document.size, signal, onProgress).run(sets)), level, problems };
  }
}

/** One check, with all of its pictures at hand. */
class RebuildCheck {
  readonly #size: Size;

  constructor(
    readonly pool: WorkerPool,
    readonly store: SourceStore,
    readonly sources: readonly Source[],
    readonly views: Readonly<Record<string, SourceView>>,
    readonly level: number,
    readonly pictureSize: Size,
    readonly signal: AbortSignal | undefined,
    readonly onProgress: (share: number) => void = () => undefined,
  ) {
    this.#size = sizeAtLevel(pictureSize, level);
  }

  async run(sets: readonly RebuildSet[]): Promise<Omit<RebuildResult, 'level' | 'problems'>> {
    const compared = [];
    for (const set of sets) {
      const search = rebuildSearch(set, this.sources);
      compared.push({ set, search, figures: (await this.#measured(set, search, this.views, [search.plain]))[0] });
    }
    compared.sort((a, b) => a.figures.meanError - b.figures.meanError);
    const [{ set, search, figures }, ...rest] = compared;
    const others = rest.map((other) => ({ label: other.set.target.name, meanError: other.figures.meanError }));
    this.onProgress(0.7);
    // Where no pixel is off there is nothing to explain; the search would be most of the work.
    const guesses = isExact(figures) ? [] : await this.#explained(set, search, figures);
    this.onProgress(1);
    return { set, figures, verdict: verdictOf(figures, guesses.length > 0), guesses, sentence: verdictSentence(set, figures, guesses, others), others };
  }

  async #explained(set: RebuildSet, search: RebuildSearch, figures: RebuildFigures): Promise<MeasuredGuess[]> {
    const views = { ...this.views, ...(await glowViews(this.pool, this.store, set, this.level)) };
    const sums = new RebuildSums(search.columns.length);
    const step = Math.max(1, Math.round((this.#size.width * this.#size.height) / REBUILD_SAMPLES));
    await this.#eachStrip(async (region) => sums.merge(await this.pool.run('rebuild-sums', { ...this.#columns(set, search), views, region, step }, this.#options)));
    this.onProgress(0.8);
    const guesses = explainGap(set, search, sums).slice(0, REBUILD_GUESSES);
    const closed = await this.#measured(set, search, views, guesses.map(({ weights }) => weights));
    this.onProgress(0.9);
    // Small things count as well: a lamp is a few pixels, and no average shows that it is missing.
    const helps = (after: RebuildFigures) => after.meanError < figures.meanError / 2 || (figures.largestError > 0.05 && after.largestError < figures.largestError / 2);
    const found = guesses.map((guess, i) => ({ ...guess, figures: closed[i] })).filter((guess) => helps(guess.figures));
    if (found.length > 0) return found;
    const shifted = await this.#shifted(set, search);
    return shifted && helps(shifted.figures) ? [shifted] : [];
  }

  /**
   * The source, or the beauty, that lies some pixels off. Searched from small pictures to large ones, so that a shift of some dozens of pixels is
   * found with few comparisons. Only at full size is a shift known to the pixel.
   */
  async #shifted(set: RebuildSet, search: RebuildSearch): Promise<MeasuredGuess | null> {
    if (this.level > 0) return null;
    const columns = search.columns.slice(0, set.terms.length);
    const coarsest = Math.min(SHIFT_LEVEL, reducedLevels(this.#size));
    const ids = [set.target.id, ...new Set(set.terms.flatMap(({ sourceIds }) => sourceIds))];
    let best: { id: string; shift: { x: number; y: number }; left: number } | null = null;
    const places = new Map(ids.map((id) => [id, { x: 0, y: 0 }]));
    for (let level = coarsest; level >= 0; level--) {
      const views = Object.fromEntries(await Promise.all([...new Set(columns.concat(search.target).flatMap(({ factors }) => factors.map(({ sourceId }) => sourceId)))].map(async (id) => [id, await this.store.view(this.sources.find((source) => source.id === id) as Source, level)] as const)));
      const size = sizeAtLevel(this.pictureSize, level);
      const reach = level === coarsest ? SHIFT_REACH >> level : 1;
      const step = Math.max(1, Math.round((size.width * size.height) / SHIFT_SAMPLES));
      const errors: { id: string; shift: { x: number; y: number }; left: number }[] = [];
      await allDone(
        ids.map(async (sourceId) => {
          const { x, y } = places.get(sourceId) as { x: number; y: number };
          const around = Array.from({ length: (2 * reach + 1) ** 2 }, (_, i) => ({ x: 2 * x + (i % (2 * reach + 1)) - reach, y: 2 * y + Math.floor(i / (2 * reach + 1)) - reach }));
          const shifts = [{ x: 0, y: 0 }, ...around];
          // What a shift brings in from outside of the picture is not known.
          const margin = Math.max(...shifts.map((shift) => Math.max(Math.abs(shift.x), Math.abs(shift.y))));
          const region = { x: margin, y: margin, width: Math.max(1, size.width - 2 * margin), height: Math.max(1, size.height - 2 * margin) };
          const found = await this.pool.run('rebuild-shifts', { ...this.#columns(set, search), columns, views, region, sourceId, shifts, step }, this.#options);
          const nearest = found.indexOf(Math.min(...found));
          places.set(sourceId, shifts[nearest]);
          errors.push({ id: sourceId, shift: shifts[nearest], left: found[0] === 0 ? 1 : found[nearest] / found[0] });
        }),
      );
      best = errors.reduce((a, b) => (b.left < a.left ? b : a));
    }
    if (!best || best.left > CLOSED || (best.shift.x === 0 && best.shift.y === 0)) return null;
    const { id, shift, left } = best;
    const view = this.views[id];
    const views = { ...this.views, [id]: { ...view, x: view.x + shift.x, y: view.y + shift.y } };
    const [figures] = await this.#measured(set, search, views, [search.plain]);
    const source = this.sources.find((candidate) => candidate.id === id) as Source;
    return { kind: 'shift', label: source.name, sourceIds: [id], factor: 1, shift, weights: search.plain, left, figures };
  }

  async #measured(set: RebuildSet, search: RebuildSearch, views: Readonly<Record<string, ColumnView>>, weights: readonly (readonly number[])[]): Promise<RebuildFigures[]> {
    if (weights.length === 0) return [];
    const measures = weights.map(() => new RebuildMeasure());
    await this.#eachStrip(async (region) => {
      const parts = await this.pool.run('rebuild-figures', { ...this.#columns(set, search), views, region, weights }, this.#options);
      for (const [i, part] of parts.entries()) measures[i].merge(part);
    });
    return measures.map((measure) => measure.figures());
  }

  get #options() {
    return { signal: this.signal, priority: PRIORITY.output };
  }

  async #eachStrip(work: (region: Region) => Promise<void>): Promise<void> {
    await allDone(stripsOf(this.#size, Math.max(1, Math.ceil(this.#size.height / (this.pool.size * 4)))).map(work));
  }

  #columns({ target: source }: RebuildSet, { target, columns }: RebuildSearch): Pick<RebuildRequest, 'target' | 'columns' | 'ceiling'> {
    // Beauties of integers end at white, whatever light was above it.
    const isInteger = ['u8', 'u16'].includes(this.views[source.id].color[0].type);
    const white = source.scale + source.offset;
    return { target, columns, ceiling: isInteger ? (source.encoding === 'display' ? srgbDecode(white) : white) : Number.POSITIVE_INFINITY };
  }
}

/** Blurred highlights of the beauty, at a size that is small and fine enough for them. */
async function glowViews(pool: WorkerPool, store: SourceStore, { target }: RebuildSet, level: number): Promise<Record<string, ColumnView>> {
  const full = await store.view(target, level);
  const small = await store.view(target, Math.max(level, levelWithin(target, GLOW_SIDE)));
  const glow = await pool.run('glow', { color: small.color, factor: columnOf([target], [target.id]).factors[0] });
  const { width, height } = full.color[0];
  return Object.fromEntries(glow.map((color, i) => [glowId(i), { color, x: full.x, y: full.y, spread: { width, height } }]));
}

/** The finest level at which all of the sources fit into memory together. */
function levelThatFits(sources: readonly Source[], budgetBytes: number): number {
  const bytes = sources.reduce((sum, source) => sum + source.width * source.height * (source.colorChannels.length + 1) * 2, 0);
  return Math.max(0, Math.ceil(Math.log2(bytes / budgetBytes) / 2));
}
