import { arrayMove } from '@dnd-kit/sortable';
import type { TazzelDocument, Zone } from '@tazzel/core';

/** The divider is an item of the row like the cards, so layers can be dragged over it. */
export const TONE_LINE = 'tone-line';

export const idsInOrder = ({ buildUp }: TazzelDocument): string[] => [...buildUp.scene.map((layer) => layer.id), TONE_LINE, ...buildUp.picture.map((layer) => layer.id)];

/** Where a dragged layer ends up: everything before the tone line is scene light. Null if it stays where it was. */
export function placeAfterDrag(document: TazzelDocument, layerId: string, overId: string): { zone: Zone; index: number } | null {
  const ids = idsInOrder(document);
  const [from, to] = [ids.indexOf(layerId), ids.indexOf(overId)];
  if (from < 0 || to < 0 || from === to) return null;
  const moved = arrayMove(ids, from, to);
  const line = moved.indexOf(TONE_LINE);
  const at = moved.indexOf(layerId);
  return at < line ? { zone: 'scene', index: at } : { zone: 'picture', index: at - line - 1 };
}
