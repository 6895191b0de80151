/** Renders that were in a document before: kept whole, to be looked at and brought back. */
import type { EarlierRender, Source, TazzelDocument } from '../model/model.ts';

/** The elements that a document has with an earlier render in the place of the present one: what only the present one has stays. */
export function sourcesWith({ sources }: TazzelDocument, render: EarlierRender): readonly Source[] {
  const before = new Map(render.sources.map((source) => [source.id, source]));
  const present = new Set(sources.map(({ id }) => id));
  return [...sources.map((source) => before.get(source.id) ?? source), ...render.sources.filter(({ id }) => !present.has(id))];
}

/** The document as it looks with an earlier render under its build-up. */
export const documentWith = (document: TazzelDocument, render: EarlierRender): TazzelDocument => ({ ...document, sources: sourcesWith(document, render), materials: render.materials.length > 0 ? render.materials : document.materials, size: render.size, camera: render.camera, sun: render.sun });
