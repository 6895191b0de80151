/** What a drop of elements makes of a document: the size, the base layer, the ID picture that names the materials. */
import type { DocumentCamera } from '../camera/camera.ts';
import type { DocumentSun } from '../sun/sun.ts';
import type { Size } from '../raster/region.ts';
import { coverageMattes } from '../elements/coverage.ts';
import type { Source, TazzelDocument } from '../model/model.ts';
import { applyEdit } from './edits.ts';

const byPreference = (sources: readonly Source[], roles: readonly string[]) =>
  roles.map((role) => sources.find((source) => source.role === role)).find((source) => source !== undefined) ?? null;

/** The element a picture is based on: the beauty, or else the first that shows light. */
export const baseSource = (sources: readonly Source[]): Source | null =>
  byPreference(sources, ['denoised-beauty', 'beauty', 'picture']) ?? sources.find((source) => source.encoding !== 'data') ?? sources[0] ?? null;

/**
 * The pictures that the material schedule is made from: for materials and for objects the flat ID picture, then every coverage matte for what only it
 * holds; RGB mattes where there is neither.
 */
export function scheduleSources(sources: readonly Source[]): Source[] {
  const flat = (['material-id', 'object-id'] as const).flatMap((role) => sources.find((source) => source.role === role) ?? []);
  const found = [...flat, ...coverageMattes(sources)];
  return found.length > 0 ? found : sources.filter((source) => source.role === 'rgb-matte');
}

/** What files say of the place that they show. */
export interface SceneFacts {
  readonly camera?: DocumentCamera | null;
  readonly sun?: DocumentSun | null;
}

/** Adds sources; an empty build-up gets its base layer, on the side of the tone line where its values belong. */
export function addElements(document: TazzelDocument, sources: readonly Source[], facts: SceneFacts = {}): TazzelDocument {
  const added = applyEdit(document, { type: 'add-sources', sources, ...facts });
  const isEmpty = document.buildUp.scene.length === 0 && document.buildUp.picture.length === 0;
  const base = isEmpty ? baseSource(sources) : null;
  return base ? applyEdit(added, { type: 'add-layer', layer: 'element', params: { source: base.id }, zone: 'scene' }) : added;
}

/** A file that was read: how large a picture it describes, and its elements. */
export interface TakenFile {
  readonly name: string;
  readonly size: Size;
  readonly sources: readonly Source[];
}

/** The size of a new document: that of the element it is based on. Null if no file holds an element. */
export function pictureSize(files: readonly TakenFile[]): Size | null {
  const base = baseSource(files.flatMap((file) => file.sources));
  return files.find((file) => base && file.sources.includes(base))?.size ?? null;
}

/** One sentence for each file whose picture is not as large as the document: it is placed at the upper left. */
export const sizeProblems = (size: Size, files: readonly TakenFile[]): string[] =>
  files
    .filter((file) => file.size.width !== size.width || file.size.height !== size.height)
    .map((file) => `${file.name} is ${file.size.width} × ${file.size.height}, the document ${size.width} × ${size.height}: it lies at the upper left. Select it under Elements to scale or move it, or render it at the document’s size.`);
