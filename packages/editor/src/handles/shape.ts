import { type Point, termSpec } from '@tazzel/core';
import { openTerm, type SessionStore } from '../session.ts';
import { type HandleSet, linePath, nearestPiece } from './define.ts';

type Points = readonly Point[];

/** The points of a shape when one of them is moved. */
function moved(type: string, points: Points, point: number, [x, y]: Point): Points {
  const has = type === 'ellipse' || type === 'rectangle';
  // The centre takes the axes with it; the two half axes stay at right angles.
  if (has && point === 0) return points.map(([px, py]) => [px + x - points[0][0], py + y - points[0][1]]);
  if (has) {
    const other = 3 - point;
    const [cx, cy] = points[0];
    const length = Math.hypot(points[other][0] - cx, points[other][1] - cy);
    const [dx, dy] = [x - cx, y - cy];
    const own = Math.hypot(dx, dy) || 1;
    const turned: Point = point === 1 ? [cx - (dy / own) * length, cy + (dx / own) * length] : [cx + (dy / own) * length, cy - (dx / own) * length];
    return points.map((old, i) => (i === point ? [x, y] : i === other ? turned : old));
  }
  return points.map((old, i) => (i === point ? [x, y] : old));
}

function outlineOf(type: string, places: Points): string {
  const [c, a, b] = places;
  if (type === 'ellipse') {
    const rim = Array.from({ length: 64 }, (_, i): Point => {
      const t = (i / 64) * 2 * Math.PI;
      return [c[0] + (a[0] - c[0]) * Math.cos(t) + (b[0] - c[0]) * Math.sin(t), c[1] + (a[1] - c[1]) * Math.cos(t) + (b[1] - c[1]) * Math.sin(t)];
    });
    return linePath(rim, true);
  }
  if (type === 'rectangle') {
    const corner = (s: number, t: number): Point => [c[0] + s * (a[0] - c[0]) + t * (b[0] - c[0]), c[1] + s * (a[1] - c[1]) + t * (b[1] - c[1])];
    return linePath([corner(1, 1), corner(-1, 1), corner(-1, -1), corner(1, -1)], true);
  }
  return linePath(places, places.length > 2);
}

/** Where along a closed line of points a new one belongs. */
const placeAmong = (points: Points, at: Point): number => nearestPiece(points.map((from, i) => [from, points[(i + 1) % points.length]] as const), at) + 1;

/** The points of the open line of a mask, if it is a shape. */
export function shapeHandles(session: SessionStore): HandleSet | null {
  const open = openTerm(session.getState());
  if (!open) return null;
  const { maskId, term } = open;
  const [name, param] = Object.entries(termSpec(term.type).params).find(([, { kind }]) => kind === 'places') ?? [];
  const points = (name ? (term.params[name] ?? []) : []) as Points;
  if (!name || param?.kind !== 'places' || points.length < param.least) return null;
  const set = (next: Points, gesture: string) => session.actions.edit({ type: 'set-params', maskId, termId: term.id, params: { [name]: next } }, `${maskId} ${term.id} ${gesture}`);
  const isOpenEnded = param.most > param.least;
  return {
    key: `${maskId} ${term.id}`,
    label: 'Handles of the shape',
    handles: points.map((at, i) => ({ label: param.names[i] ?? `Corner ${i + 1}`, at })),
    outline: (places) => outlineOf(term.type, places),
    move: (handle, to, gesture) => set(moved(term.type, points, handle, to), gesture),
    ...(isOpenEnded
      ? {
          doubleClick: (handle: number, gesture: string) => void (points.length > param.least && set(points.toSpliced(handle, 1), gesture)),
          insert: (at: Point, gesture: string) => void (points.length < param.most && set(points.toSpliced(placeAmong(points, at), 0, at), gesture)),
        }
      : {}),
  };
}
