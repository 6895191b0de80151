/** From black: something is hidden everywhere and painted in where it is wanted. */
import { type Edit, findLayer, newTerm, PAINTED_LAYERS, strokesOf } from '@tazzel/core';
import type { SessionStore } from './session.ts';

/** Gives a layer or a correction of its chain a mask in which nothing is selected yet, and takes the brush for it. One step of the history; false if it was refused. */
export function paintIn(session: SessionStore, layerId: string, correctionId?: string): boolean {
  const { document } = session.getState();
  const layer = findLayer(document, layerId)?.layer;
  const link = layer && 'chain' in layer ? layer.chain.find(({ id }) => id === correctionId) : undefined;
  if (!layer || (correctionId !== undefined && !link)) return false;
  const gesture = `paint in ${layerId} ${correctionId ?? ''} ${document.masks.length}`;
  const name = `${layer.name}, painted in`.slice(-200);
  if (!session.actions.edit({ type: 'add-mask', name, terms: [newTerm('paint', 'add', document)] }, gesture)) return false;
  const made = session.getState().document.masks.at(-1);
  if (!made) return false;
  const mask = { maskId: made.id, inverted: false, enabled: true };
  const used = session.actions.edit(correctionId === undefined ? { type: 'set-layer', layerId, patch: { mask } } : { type: 'set-chain-correction', layerId, correctionId, patch: { mask } }, gesture);
  if (!used) {
    session.actions.undo();
    return false;
  }
  session.actions.showMask(made.id);
  session.actions.openTerm(made.terms[0].id, 'brush');
  return true;
}

/** Adds something that is seen where it is painted (its mask comes last), and takes the brush for it; false if it was refused. */
export function paintWith(session: SessionStore, edit: Edit): boolean {
  if (!session.actions.edit(edit)) return false;
  const mask = session.getState().document.masks.at(-1);
  const term = mask?.terms.find((line) => strokesOf(line) !== null);
  if (!mask || !term) return false;
  const painted = edit.type === 'paint-layer' ? PAINTED_LAYERS[edit.what] : null;
  if (painted && 'brush' in painted) session.actions.set({ brush: { ...session.getState().brush, ...painted.brush } });
  session.actions.showMask(mask.id);
  session.actions.openTerm(term.id, 'brush');
  return true;
}
