import { figuresLayerOf, figuresValues, isFigures, layersInOrder, type Point, standingAt } from '@tazzel/core';
import type { HeldFigure } from '../session.ts';
import { clickOrPan, type Tool, type ToolHost } from './define.ts';
import { surfaceHeight } from './ground.ts';

/** Stands a figure up at a place, on what is seen there: the ground, a stair, an upper floor. Returns why not, as a sentence. */
export async function standUp(host: Pick<ToolHost, 'session' | 'valuesAt'>, { figure, sources, apart = false }: HeldFigure, at: Point): Promise<string | null> {
  const { document } = host.session.getState();
  const stood = standingAt(document, figure, at, await surfaceHeight(host, document, at));
  if (typeof stood === 'string') return stood;
  const { selectedLayerId, document: now } = host.session.getState();
  const fresh = sources.filter(({ id }) => !now.sources.some((source) => source.id === id));
  const { actions, getState } = host.session;
  if (!actions.edit({ type: 'add-figures', figures: [stood], sources: fresh, ...(apart ? { apart } : {}), ...(selectedLayerId ? { layerId: selectedLayerId } : {}) })) return null;
  // What was stood up is at hand: its handles, and what it has beside its place.
  const layer = layersInOrder(getState().document).map((place) => place.layer).filter(isFigures).findLast((each) => figuresValues(each).figures.at(-1)?.sourceId === stood.sourceId);
  if (layer) actions.selectLayer(layer.id);
  return null;
}

/** A click stands up what is in the hand; with Shift it stays there for another one. */
export const stand: Tool = {
  id: 'stand',
  label: 'Stand up',
  cursor: 'crosshair',
  stages: ['entourage'],
  // Nothing that is dragged lies where somebody is to stand.
  handles: () => null,
  press: (host, place) =>
    clickOrPan(host, place, ({ at: shown, shift }) => {
      const { figureInHand, document, selectedLayerId } = host.session.getState();
      const at = host.placeBehind(shown, figuresLayerOf(document, selectedLayerId)?.id);
      if (!figureInHand || !host.pixelAt(at)) return;
      void standUp(host, figureInHand, at).then((problem) => {
        if (problem) host.session.actions.refuse(problem);
        else if (!shift) host.session.actions.set({ tool: 'select', figureInHand: null });
      });
    }),
};
