/** Figures on the picture: each is moved along its ground by its foot, and made taller by its top; photographed ones by the points that they are held by, and their eye level. */
import { cameraOf, type Card, cardOf, FIGURE_METRES, figureBox, figuresValues, findSource, groundAt, heldAt, heightTo, type PictureLayer, type PlacedFigure, placeOn, type Point, projected, type Region, seenOf, shareSeen, viewOfCamera } from '@tazzel/core';
import type { SessionStore } from '../session.ts';
import { crossPath, type Handle, type HandleSet, linePath, tenths } from './define.ts';

/** So many have a handle for their height, too; more would hide the picture. */
const MOST_WITH_TOPS = 8;

type What = 'foot' | 'top' | 'point' | 'level' | 'level-end';
interface Grip {
  readonly i: number;
  readonly card: Card;
  readonly box: Region;
  readonly what: What;
  readonly nth: number;
  readonly label: string;
  readonly at: Point;
}

/** Its eye level from its left edge to its right one. */
const levelOf = ({ eyeLevel }: PlacedFigure): readonly Point[] => (eyeLevel === undefined ? [] : [[0, eyeLevel], [1, eyeLevel]]);

/** @param only the points that figures are held by, when others would be in the way */
export function figureHandles(layer: PictureLayer, session: SessionStore, only?: 'point'): HandleSet | null {
  const { document } = session.getState();
  if (!document.camera) return null;
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const { figures } = figuresValues(layer);
  const hasTops = figures.length <= MOST_WITH_TOPS;
  const points = figures.flatMap((figure, i): Grip[] => {
    const source = findSource(document, figure.sourceId);
    const card = source && cardOf(view, figure, figureBox(source));
    if (!source || !card) return [];
    const box = figureBox(source);
    const top = projected(view, placeOn(card, [card.footPx[0], box.y + figure.top * box.height]));
    const name = figures.length === 1 ? source.name : `${source.name}, ${i + 1}`;
    const made = (what: What, label: string, at: Point | null, nth = 0): Grip[] => (at ? [{ i, card, box, what, nth, label: `${label} ${name}`, at }] : []);
    const all = [
      ...made('foot', 'Foot of', figure.at),
      ...(hasTops && top ? made('top', 'Height of', [top.x, top.y]) : []),
      ...(figure.points ?? []).flatMap((point, nth) => made('point', `Point ${nth + 1} of`, seenOf(view, card, box, point), nth)),
      ...levelOf(figure).flatMap((share, nth) => made(nth === 0 ? 'level' : 'level-end', nth === 0 ? 'Eye level of' : 'Right end of the eye level of', seenOf(view, card, box, share))),
    ];
    return only ? all.filter(({ what }) => what === only) : all;
  });
  if (points.length === 0) return null;
  const change = (i: number, patch: Partial<PlacedFigure>, gesture: string) => void session.actions.edit({ type: 'set-params', layerId: layer.id, params: { figures: figures.with(i, { ...figures[i], ...patch }) } }, gesture);
  return {
    key: layer.id,
    layerId: layer.id,
    label: 'Handles of the figures',
    handles: points.map(({ label, at, what }): Handle => ({ label, at, look: what === 'foot' || what === 'point' ? 'round' : 'square' })),
    // Nothing lies over the figures themselves but the level that a camera looked along.
    outline: (places) => points.map(({ what }, k) => (what === 'foot' ? crossPath(places[k], 10) : what === 'point' ? crossPath(places[k], 5) : what === 'level' ? linePath([places[k], places[k + 1]]) : '')).join(''),
    move: (handle, to, gesture) => {
      const { i, what, card, box, nth } = points[handle];
      if (what === 'foot') {
        // Above the horizon it has no ground to stand on: it stays where it was.
        if (groundAt(view, to[0], to[1], figures[i].groundMetres)) change(i, { at: [tenths(to[0]), tenths(to[1])] }, gesture);
        return;
      }
      if (what === 'point') {
        const held = figures[i].points ?? [];
        const seen = held.map((point, k) => (k === nth ? to : seenOf(view, card, box, point)));
        // Where it would fold, or stand in the sky, it stays.
        const placed = seen.every((place) => place !== null) ? heldAt(view, figures[i], box, held, seen.map((place) => place ?? to)) : null;
        if (placed) change(i, placed, gesture);
        return;
      }
      if (what === 'level' || what === 'level-end') {
        const share = shareSeen(view, card, box, to);
        if (share) change(i, { eyeLevel: Math.round(share[1] * 1e4) / 1e4 }, gesture);
        return;
      }
      const metres = heightTo(view, card.foot, to);
      if (metres !== null) change(i, { heightMetres: Math.min(FIGURE_METRES[1], Math.max(FIGURE_METRES[0], Math.round(metres * 1000) / 1000)) }, gesture);
    },
  };
}
