/** Figures on the picture: each is moved along its ground by its foot, and made taller by its top. */
import { cameraOf, cardOf, FIGURE_METRES, figureBox, figuresValues, findSource, groundAt, heightTo, type PictureLayer, type PlacedFigure, placeOn, type Point, projected, viewOfCamera } from '@tazzel/core';
import type { SessionStore } from '../session.ts';
import { crossPath, type Handle, type HandleSet, tenths } from './define.ts';

/** So many have a handle for their height, too; more would hide the picture. */
const MOST_WITH_TOPS = 8;

export function figureHandles(layer: PictureLayer, session: SessionStore): HandleSet | null {
  const { document } = session.getState();
  if (!document.camera) return null;
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const { figures } = figuresValues(layer);
  const hasTops = figures.length <= MOST_WITH_TOPS;
  const points = figures.flatMap((figure, i) => {
    const source = findSource(document, figure.sourceId);
    const card = source && cardOf(view, figure, figureBox(source));
    if (!source || !card) return [];
    const box = figureBox(source);
    const top = projected(view, placeOn(card, [card.footPx[0], box.y + figure.top * box.height]));
    const name = figures.length === 1 ? source.name : `${source.name}, ${i + 1}`;
    const foot = { i, card, what: 'foot' as const, label: `Foot of ${name}`, at: figure.at };
    return hasTops && top ? [foot, { i, card, what: 'top' as const, label: `Height of ${name}`, at: [top.x, top.y] as Point }] : [foot];
  });
  if (points.length === 0) return null;
  const change = (i: number, patch: Partial<PlacedFigure>, gesture: string) => void session.actions.edit({ type: 'set-params', layerId: layer.id, params: { figures: figures.with(i, { ...figures[i], ...patch }) } }, gesture);
  return {
    key: layer.id,
    label: 'Handles of the figures',
    handles: points.map(({ label, at, what }): Handle => ({ label, at, look: what === 'foot' ? 'round' : 'square' })),
    // Nothing lies over the figures themselves.
    outline: (places) => points.map(({ what }, k) => (what === 'foot' ? crossPath(places[k], 10) : '')).join(''),
    move: (handle, to, gesture) => {
      const { i, what, card } = points[handle];
      if (what === 'foot') {
        // Above the horizon it has no ground to stand on: it stays where it was.
        if (groundAt(view, to[0], to[1], figures[i].groundMetres)) change(i, { at: [tenths(to[0]), tenths(to[1])] }, gesture);
        return;
      }
      const metres = heightTo(view, card.foot, to);
      if (metres !== null) change(i, { heightMetres: Math.min(FIGURE_METRES[1], Math.max(FIGURE_METRES[0], Math.round(metres * 1000) / 1000)) }, gesture);
    },
  };
}
