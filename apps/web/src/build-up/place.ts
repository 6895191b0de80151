import { findLayer, type LayerPlace, type TazzelDocument, type Zone } from '@tazzel/core';

/** The divider is an item of the row like the cards, so layers can be dragged over it. */
export const TONE_LINE = 'tone-line';

export const idsInOrder = (places: readonly LayerPlace[]): string[] => {
  const ids = (zone: Zone) => places.filter((place) => place.zone === zone).map(({ layer }) => layer.id);
  return [...ids('scene'), TONE_LINE, ...ids('picture')];
};

/**
 * Where a dragged layer ends up: beside the card it was let go on, in the same group; everything before the tone line is
 * scene light. Null if it stays where it was, or would lie inside itself.
 */
export function placeAfterDrag(document: TazzelDocument, shown: readonly LayerPlace[], layerId: string, overId: string): { zone: Zone; index: number; groupId?: string } | null {
  const ids = idsInOrder(shown);
  const [from, to] = [ids.indexOf(layerId), ids.indexOf(overId)];
  if (from < 0 || to < 0 || from === to) return null;
  const forwards = from < to;
  if (overId === TONE_LINE) return forwards ? { zone: 'picture', index: 0 } : { zone: 'scene', index: document.buildUp.scene.length };
  const over = findLayer(document, overId);
  const own = findLayer(document, layerId);
  if (!over || !own || over.groupIds.includes(layerId)) return null;
  const groupId = over.groupIds.at(-1);
  // Behind a group that is spread out lie its own layers first.
  const isSpread = over.layer.kind === 'group' && ids.includes(over.layer.layers[0]?.id);
  if (forwards && isSpread) return { zone: over.zone, index: 0, groupId: over.layer.id };
  const beside = own.zone === over.zone && own.groupIds.at(-1) === groupId;
  // Taking it out moves what follows one place towards the base.
  const index = over.index + (forwards ? 1 : 0) - (beside && own.index < over.index ? 1 : 0);
  return { zone: over.zone, index, ...(groupId === undefined ? {} : { groupId }) };
}
