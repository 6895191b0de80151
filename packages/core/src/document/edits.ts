/**
 * All changes to a document. An edit is plain data; `applyEdit` is pure: the old document is untouched and shares every
 * part that did not change, so keeping old documents is a cheap undo history. What can be done stands by nouns in edits/.
 */
import { CoreError } from '../errors.ts';
import { type CorrectionEdit, correctionEdits } from './edits/corrections.ts';
import type { Handlers } from './edits/define.ts';
import { type DeliveryEdit, deliveryEdits } from './edits/deliveries.ts';
import { type DocumentEdit, documentEdits } from './edits/document.ts';
import { type FigureEdit, figureEdits } from './edits/figures.ts';
import { type LayerEdit, layerEdits } from './edits/layers.ts';
import { type LightEdit, lightEdits } from './edits/light.ts';
import { type MaskEdit, maskEdits } from './edits/masks.ts';
import { type MaterialEdit, materialEdits } from './edits/materials.ts';
import { type ParamEdit, paramEdits } from './edits/params.ts';
import { type RenderEdit, renderEdits } from './edits/renders.ts';
import { type SceneEdit, sceneEdits } from './edits/scene.ts';
import { type SchemeEdit, schemeEdits } from './edits/schemes.ts';
import { type StateEdit, stateEdits } from './edits/states.ts';
import { type SurfaceEdit, surfaceEdits } from './edits/surfaces.ts';
import { type SourceEdit, sourceEdits } from './edits/sources.ts';
import { type TrailEdit, trailEdits } from './edits/trails.ts';
import type { Layer, TazzelDocument } from '../model/model.ts';
import { findLayer } from '../model/query.ts';
import { recorded } from './schemes.ts';
import { unsoundness } from './sound.ts';

export type Edit = DocumentEdit | SourceEdit | MaterialEdit | MaskEdit | LayerEdit | CorrectionEdit | SceneEdit | ParamEdit | StateEdit | SchemeEdit | DeliveryEdit | SurfaceEdit | LightEdit | FigureEdit | TrailEdit | RenderEdit;
export type EditOf<T extends Edit['type']> = Extract<Edit, { type: T }>;

const handlers: Handlers<Edit> = { ...documentEdits, ...sourceEdits, ...materialEdits, ...maskEdits, ...layerEdits, ...correctionEdits, ...sceneEdits, ...paramEdits, ...stateEdits, ...schemeEdits, ...deliveryEdits, ...surfaceEdits, ...lightEdits, ...figureEdits, ...trailEdits, ...renderEdits };

/** What an edit is called in the history. */
export const editLabel = (edit: Edit): string => (edit.type === 'build' ? edit.name : handlers[edit.type].label);

/**
 * Applies an edit. What comes out can be stored and is read back the same.
 * @throws CoreError `edit-refused`, `unknown-operation` or `bad-parameter`; the document is then unchanged.
 */
export function applyEdit(document: TazzelDocument, edit: Edit): TazzelDocument {
  if (!Object.hasOwn(handlers, edit.type)) throw new CoreError('edit-refused', `There is no edit “${String((edit as { type: unknown }).type)}”.`);
  const handler = handlers[edit.type] as { label: string; concernsAllSchemes?: boolean; apply: (document: TazzelDocument, edit: never) => TazzelDocument };
  const lock = lockAgainst(document, edit);
  if (lock) throw new CoreError('edit-refused', `“${lock.name}” is locked. Unlock it first.`);
  let changed: TazzelDocument;
  try {
    const made = handler.apply(document, edit as never);
    changed = handler.concernsAllSchemes ? made : recorded(document, made);
  } catch (error) {
    if (error instanceof CoreError) throw error;
    throw new CoreError('edit-refused', `“${handler.label}” was asked for with something that does not belong there (${error instanceof Error ? error.message : String(error)}). Nothing was changed.`);
  }
  const problem = changed === document ? null : unsoundness(changed);
  if (problem) throw new CoreError('edit-refused', `“${handler.label}” was not done, because the document could not be saved any more. ${problem}`);
  return changed;
}

/** The locked layer that an edit would change something of, or of what lies in it; null if there is none. */
function lockAgainst(document: TazzelDocument, edit: Edit): Layer | null {
  const place = 'layerId' in edit && typeof edit.layerId === 'string' ? findLayer(document, edit.layerId) : null;
  if (!place || edit.type === 'duplicate-layer') return null;
  // Looking at the picture without it is no change of it, and whoever locks can unlock.
  if (edit.type === 'set-layer' && Object.keys(edit.patch ?? {}).every((key) => key === 'locked' || key === 'visible')) return null;
  const around = place.groupIds.flatMap((id) => findLayer(document, id)?.layer ?? []);
  return [place.layer, ...around].find(({ locked }) => locked) ?? null;
}

export const editTypes = Object.keys(handlers) as readonly Edit['type'][];
