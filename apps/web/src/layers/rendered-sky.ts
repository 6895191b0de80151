import { elementValues, type KeptValues, type PictureLayer, pictureOfSky, skyOfDocument, skyValuesOf, type TazzelDocument } from '@tazzel/core';
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

/** The mean light of a sky where it is seen now. */
export async function shownSkyLight(document: TazzelDocument, layer: PictureLayer, client: QueryClient, engine: Engine): Promise<readonly [number, number, number] | null> {
  const own = await fetchAnswer(client, engine, questions.measure(document, { only: layer.id }, 'light'), new AbortController().signal);
  return own && own.pixels > 0 ? [own.red.mean, own.green.mean, own.blue.mean] : null;
}

/** What a sky in reflections has to know of the skies of a document; null if none is seen in its render. */
export async function mirroredSkyParams(document: TazzelDocument, client: QueryClient, engine: Engine): Promise<KeptValues | null> {
  const sky = skyOfDocument(document);
  const old = await renderedSkyLight(document, client, engine);
  if (!sky || !old) return null;
  const isPicture = pictureOfSky(skyValuesOf(sky.params)) !== null;
  const hasNormals = document.sources.some(({ role }) => role === 'normals');
  const fresh = isPicture ? await shownSkyLight(document, sky, client, engine) : null;
  return { takes: isPicture || !hasNormals ? 'mean' : 'direction', old, ...(fresh ? { fresh } : {}) };
}
