/** The rebuild check, arranged over the workers: which elements, read at which level, added up strip by strip. */
import { columnOf, explainGap, glowId, type RebuildFigures, type RebuildGuess, RebuildMeasure, type RebuildPairs, type RebuildSet, type RebuildSplit, RebuildSums, type RebuildVerdict, rebuildColumns, rebuildSet, type Size, type Source, type SourceView, sizeAtLevel, stripsOf, type TazzelDocument, verdictOf, verdictSentence } from '@tazzel/core';
import type { ColumnView } from './rebuild.ts';
import { Cancelled } from './errors.ts';
import { allDone, PRIORITY, type WorkerPool } from './pool.ts';
import type { SourceStore } from './source-store.ts';

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
  readonly guesses: readonly (RebuildGuess & { readonly figures: RebuildFigures })[];
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

/**
 * Whether the elements add up to the beauty, and if not, which change would make them. Null if there is nothing to add
 * up. Elements that cannot be read do not count and are named. @throws Cancelled
 */
export async function checkRebuild(pool: WorkerPool, store: SourceStore, document: TazzelDocument, { split, pairs = 'lit', signal, onProgress }: RebuildOptions): Promise<RebuildResult | null> {
  const problems: string[] = [];
  let sources = document.sources;
  for (;;) {
    const set = rebuildSet(sources, split, pairs);
    if (!set) return null;
    const ids = new Set([set.target, ...[...set.terms, ...set.spare].flatMap(({ sourceIds }) => sources.filter(({ id }) => sourceIds.includes(id)))].map(({ id }) => id));
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
    return { ...(await measure(pool, set, sources, views, () => glowViews(pool, store, set, level), sizeAtLevel(document.size, level), signal, onProgress)), level, problems };
  }
}

async function measure(pool: WorkerPool, set: RebuildSet, sources: readonly Source[], elements: Record<string, ColumnView>, glow: () => Promise<Record<string, ColumnView>>, size: Size, signal?: AbortSignal, onProgress?: (share: number) => void): Promise<Omit<RebuildResult, 'level' | 'problems'>> {
  const specs = rebuildColumns(set, sources);
  const options = { signal, priority: PRIORITY.output };
  const strips = stripsOf(size, Math.max(1, Math.ceil(size.height / (pool.size * 4))));
  const plain = specs.columns.map((_, i) => (i < set.terms.length ? 1 : 0));
  let views = elements;
  const measured = async (weights: readonly (readonly number[])[]) => {
    const measures = weights.map(() => new RebuildMeasure());
    await allDone(
      strips.map(async (region) => {
        const parts = await pool.run('rebuild-figures', { ...specs, views, region, weights }, options);
        for (const [i, part] of parts.entries()) measures[i].merge(part);
      }),
    );
    return measures.map((measure) => measure.figures());
  };
  const [figures] = await measured([plain]);
  onProgress?.(0.7);
  // Where no pixel is off there is nothing to explain; the search would be most of the work.
  if (isExact(figures)) return { set, figures, verdict: verdictOf(figures, []), guesses: [], sentence: verdictSentence(set, figures, []) };
  views = { ...elements, ...(await glow()) };
  const step = Math.max(1, Math.round((size.width * size.height) / REBUILD_SAMPLES));
  const sums = new RebuildSums(specs.columns.length);
  await allDone(strips.map(async (region) => sums.merge(await pool.run('rebuild-sums', { ...specs, views, region, step }, options))));
  onProgress?.(0.9);
  const guesses = explainGap(set, sums).slice(0, REBUILD_GUESSES);
  const closed = await measured(guesses.map(({ weights }) => weights));
  onProgress?.(1);
  // Small things count as well: a lamp is a few pixels, and no average shows that it is missing.
  const helps = (after: RebuildFigures) => after.meanError < figures.meanError / 2 || (figures.largestError > 0.05 && after.largestError < figures.largestError / 2);
  const found = guesses.map((guess, i) => ({ ...guess, figures: closed[i] })).filter((guess) => helps(guess.figures));
  return { set, figures, verdict: verdictOf(figures, found), guesses: found, sentence: verdictSentence(set, figures, found) };
}

/** Blurred highlights of the beauty, at a size that is small and fine enough for them. */
async function glowViews(pool: WorkerPool, store: SourceStore, { target }: RebuildSet, level: number): Promise<Record<string, ColumnView>> {
  const full = await store.view(target, level);
  const small = await store.view(target, Math.max(level, Math.ceil(Math.log2(Math.max(target.width, target.height) / GLOW_SIDE))));
  const glow = await pool.run('glow', { color: small.color, factor: columnOf([target], [target.id]).factors[0] });
  const { width, height } = full.color[0];
  return Object.fromEntries(glow.map((color, i) => [glowId(i), { color, x: full.x, y: full.y, spread: { width, height } }]));
}

/** The finest level at which all of the sources fit into memory together. */
function levelThatFits(sources: readonly Source[], budgetBytes: number): number {
  const bytes = sources.reduce((sum, source) => sum + source.width * source.height * (source.colorChannels.length + 1) * 2, 0);
  return Math.max(0, Math.ceil(Math.log2(bytes / budgetBytes) / 2));
}
