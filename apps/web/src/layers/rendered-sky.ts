import { elementValues, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import type { QueryClient } from '@tanstack/react-query';
import { fetchAnswer, questions } from '../answers.ts';

/** The elements that tell of the sky that was rendered; null if one is missing. */
export function renderedSkyElements({ sources }: TazzelDocument) {
  const [background, alpha] = (['background', 'alpha'] as const).map((role) => sources.find((source) => source.role === role));
  return background && alpha ? { background, alpha } : null;
}

/** The mean light of the sky that was rendered, where alpha leaves it open; null if none is seen, or nothing tells of it. */
export async function renderedSkyLight(document: TazzelDocument, client: QueryClient, engine: Engine): Promise<readonly [number, number, number] | null> {
  const elements = renderedSkyElements(document);
  if (!elements) return null;
  const of = (source: typeof elements.background) => fetchAnswer(client, engine, questions.measure(elementValues(document, source), {}, 'light'), new AbortController().signal);
  const [light, covered] = await Promise.all([of(elements.background), of(elements.alpha)]);
  const sky = 1 - (covered?.red.mean ?? 1);
  return light && sky > 0.001 ? [light.red.mean / sky, light.green.mean / sky, light.blue.mean / sky] : null;
}
