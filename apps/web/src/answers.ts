/**
 * What the interface asks the engine, and the one cache of its answers. A question is known by everything its answer depends on, so that what was answered once
 * is there at once, also for another part of the interface. Tiles of the picture and values under the pointer are no answers: they pass by.
 */
import { cardKey, elementDocument, type ElementLook, elementLook, elementValues, findMask, groupsOf, levelWithin, type Mask, maskKey, type Material, type MaskUse, type Measure, type PlanOptions, type RebuildPairs, type RebuildSplit, type Scale, type Scopes, type Size, sizeAtLevel, type Source, sourceIdentity, type TazzelDocument } from '@tazzel/core';
import type { Engine, MeasuredLights, PixelValues, RebuildResult } from '@tazzel/engine';
import { type QueryClient, type UseQueryResult, useQuery } from '@tanstack/react-query';
import { withProgress } from './notices.tsx';
import { useWorkspace } from './workspace/context.ts';

export interface Question<T> {
  /** Begins with a word for what is asked. */
  readonly key: readonly (string | number | boolean | null)[];
  readonly ask: (engine: Engine, signal: AbortSignal) => Promise<T>;
}

export interface SmallPicture {
  readonly size: Size;
  readonly rgba: Uint8ClampedArray<ArrayBuffer>;
}

/** Longest side of a mask as a small picture, in pixels. */
const MASK_SIDE = 128;
/** And of a picture beside others. */
const BESIDE_SIDE = 720;

export const questions = {
  /** The picture of a card: a layer alone, or everything up to it. */
  card: (document: TazzelDocument, options: PlanOptions): Question<SmallPicture> => ({ key: ['card', document.id, cardKey(document, options)], ask: (engine, signal) => engine.card(document, options, signal) }),
  /** The whole picture, as large as beside others. */
  beside: (document: TazzelDocument): Question<SmallPicture> => ({ key: ['beside', document.id, cardKey(document, {})], ask: (engine, signal) => engine.card(document, {}, signal, BESIDE_SIDE) }),
  /** How an element is shown so that something is seen of it: a range for numbers, and why it is empty. Null shows it as it is. */
  look: (document: TazzelDocument, source: Source): Question<ElementLook | null> => {
    const values = elementValues(document, source);
    return { key: ['look', document.id, source.role, cardKey(values, {})], ask: async (engine, signal) => elementLook(source, await engine.measure(values, { scale: 'light', signal })) };
  },
  /** An element as a small picture, numbers in the range that is found in them. */
  element: (document: TazzelDocument, source: Source): Question<SmallPicture> => ({
    key: ['element', document.id, source.role, source.encoding, sourceIdentity(source), document.size.width, document.size.height],
    // Light is shown as it is: only numbers have a range to be found.
    ask: async (engine, signal) => engine.card(elementDocument(document, source, source.encoding === 'data' ? await questions.look(document, source).ask(engine, signal) : null), {}, signal),
  }),
  /** A mask as a small matte. */
  maskPicture: (document: TazzelDocument, mask: Mask): Question<SmallPicture> => ({
    key: ['mask picture', document.id, maskKey(document, mask)],
    ask: async (engine, signal) => {
      const level = levelWithin(document.size, MASK_SIDE);
      const size = sizeAtLevel(document.size, level);
      return { size, rgba: await engine.maskPicture(document, mask, level, { x: 0, y: 0, ...size }, { inverted: false, matte: true }, signal) };
    },
  }),
  /** What is wrong with a mask, as far as only its files tell. */
  maskProblems: (document: TazzelDocument, mask: Mask, level: number): Question<Awaited<ReturnType<Engine['mask']>>['problems']> => ({ key: ['mask problems', document.id, maskKey(document, mask), level], ask: async (engine) => (await engine.mask(document, mask, level)).problems }),
  /** How light is spread in a picture, within a mask if wanted. */
  measure: (document: TazzelDocument, options: PlanOptions, scale: Scale, mask: MaskUse | null = null): Question<Measure> => {
    const recipe = mask && findMask(document, mask.maskId);
    return { key: ['measure', document.id, cardKey(document, options), recipe && mask ? `${maskKey(document, recipe)} ${mask.inverted}` : '', scale], ask: (engine, signal) => engine.measure(document, { options, scale, mask, signal }) };
  },
  /** What is watched at a pixel. */
  sample: (document: TazzelDocument, x: number, y: number): Question<PixelValues> => ({ key: ['sample', document.id, x, y, cardKey(document, {})], ask: (engine, signal) => engine.probe(document, x, y, 0, { signal }) }),
  /** What is measured of the light groups: whatever they are set to. */
  lights: (document: TazzelDocument): Question<MeasuredLights> => ({
    key: ['lights', document.id, document.size.width, document.size.height, ...[...groupsOf(document), ...document.sources.filter(({ role }) => role === 'diffuse-filter').slice(0, 1)].map((source) => `${source.id} ${sourceIdentity(source)}`)],
    ask: (engine, signal) => engine.measureLights(document, signal),
  }),
  /** Waveforms and vectorscopes of the picture. */
  scopes: (document: TazzelDocument, scale: Scale): Question<Scopes> => ({ key: ['scopes', document.id, cardKey(document, {}), scale], ask: (engine, signal) => engine.scopes(document, scale, signal) }),
  /** Where a material is seen through glass or in mirrors. */
  behind: (document: TazzelDocument, material: Material): Question<Awaited<ReturnType<Engine['seenBehind']>>> => ({ key: ['behind', document.id, material.id, document.sources.map(({ file }) => file.hash).join()], ask: (engine) => engine.seenBehind(document, material) }),
  /** Whether the elements sum to the beauty: only what the sum depends on is asked, names and findings do not matter. */
  rebuild: (document: TazzelDocument, split: RebuildSplit, pairs: RebuildPairs): Question<RebuildResult | null> => ({
    key: ['rebuild', document.id, split, pairs, JSON.stringify(document.sources.map(({ id, role, encoding, inSum, scale, offset, file, part, x, y, fit }) => [id, role, encoding, inSum, scale, offset, file.hash, part, x, y, fit]))],
    ask: (engine) => withProgress('Adding up the elements', (report, signal) => engine.checkRebuild(document, { split, pairs, signal, onProgress: (share) => report(share, split === 'lights' ? 'light groups' : 'elements') })),
  }),
};

/** What is answered stays while it is looked at, and for a while after. */
const KEPT = { staleTime: Number.POSITIVE_INFINITY, gcTime: 60_000, retry: false } as const;

interface AnswerOptions<T> {
  /** Whether an answer to an earlier question stands in until this one is there. */
  readonly keeps?: (earlier: Question<T>['key']) => boolean;
}

/** Null asks nothing. */
export function useAnswer<T>(question: Question<T> | null, { keeps = () => false }: AnswerOptions<T> = {}): UseQueryResult<T> {
  const { engine } = useWorkspace();
  return useQuery<T>({ queryKey: question?.key ?? ['nothing'], queryFn: ({ signal }) => (question as Question<T>).ask(engine, signal), enabled: question !== null, ...KEPT, placeholderData: (before, query) => (query && keeps(query.queryKey as Question<T>['key']) ? (before as T) : undefined) as never });
}

/** For those that draw without React. Who withdraws gets nothing; the answer may still come and be kept. */
export async function fetchAnswer<T>(client: QueryClient, engine: Engine, { key, ask }: Question<T>, signal: AbortSignal): Promise<T | null> {
  const answer = await client.fetchQuery({ queryKey: key, queryFn: (context) => ask(engine, context.signal), ...KEPT });
  return signal.aborted ? null : answer;
}
