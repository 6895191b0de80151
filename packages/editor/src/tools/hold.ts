import { cameraOf, cardOf, figureBox, figuresLayerOf, figuresValues, findSource, MOST_POINTS, projected, shareSeen, viewOfCamera } from '@tazzel/core';
import { figureHandles } from '../handles/figures.ts';
import type { SessionStore } from '../session.ts';
import { clickOrPan, type PointerAt, type Tool } from './define.ts';

const meant = (session: SessionStore) => {
  const { document, selectedLayerId } = session.getState();
  return figuresLayerOf(document, selectedLayerId);
};

/** A point of the figure that is seen there, the nearest if several are. It lies where it lay until it is dragged. */
function hold(session: SessionStore, at: PointerAt['at']): void {
  const { document } = session.getState();
  const layer = meant(session);
  const no = session.actions.refuse;
  if (!layer || !document.camera) {
    no('Nothing stands here that could be held. Stand a cut-out up first.');
    return;
  }
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const { figures } = figuresValues(layer);
  const hit = figures
    .flatMap((figure, i) => {
      const source = findSource(document, figure.sourceId);
      const card = source && cardOf(view, figure, figureBox(source));
      const share = card && shareSeen(view, card, figureBox(source), at);
      const depthMetres = card ? (projected(view, card.foot)?.depthMetres ?? 0) : 0;
      return share?.every((value) => value >= 0 && value <= 1) ? [{ i, share, depthMetres }] : [];
    })
    .toSorted((one, other) => one.depthMetres - other.depthMetres)
    .at(0);
  if (!hit) {
    no('No figure of this layer is seen there. Click a place of the photographed thing that you know where it belongs.');
    return;
  }
  const figure = figures[hit.i];
  const points = figure.points ?? [];
  if (points.length >= MOST_POINTS) {
    no(`It is held by ${MOST_POINTS} points, and more cannot be had. Drag those that are there, or let go of them.`);
    return;
  }
  const share = [Math.round(hit.share[0] * 1e5) / 1e5, Math.round(hit.share[1] * 1e5) / 1e5] as const;
  session.actions.edit({ type: 'set-params', layerId: layer.id, params: { figures: figures.with(hit.i, { ...figure, points: [...points, share] }) } });
  if (points.length + 1 === MOST_POINTS) session.actions.set({ tool: 'select' });
}

/** A click takes hold of a photographed thing by a place of it; held places are dragged to where they belong. */
export const holdTool: Tool = {
  id: 'hold',
  label: 'Hold by points',
  cursor: 'crosshair',
  stages: ['entourage'],
  handles: (session) => {
    const layer = meant(session);
    return layer && figureHandles(layer, session, 'point');
  },
  press: (host, place) => clickOrPan(host, place, ({ at }) => hold(host.session, host.placeBehind(at, meant(host.session)?.id))),
};
