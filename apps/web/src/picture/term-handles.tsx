import { findMask, type Point, type ShapeTerm } from '@tazzel/core';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';
import { Handles, type Place } from './handles.tsx';

/** The points of the open shape, to drag on the picture. */
export function TermHandles() {
  const document = useDocument();
  const { maskSubject, termIndex } = useSession((state) => state);
  const mask = maskSubject.kind === 'mask' ? findMask(document, maskSubject.maskId) : null;
  const term = termIndex === null ? undefined : mask?.terms[termIndex];
  if (!mask || termIndex === null || !term || !('points' in term)) return null;
  return <ShapeHandles key={`${mask.id} ${termIndex}`} term={term} maskId={mask.id} index={termIndex} />;
}

const names: Readonly<Record<ShapeTerm['kind'], readonly string[]>> = { ellipse: ['Centre', 'First half axis', 'Second half axis'], rectangle: ['Centre', 'Middle of a side', 'Middle of the other side'], gradient: ['Full here', 'Nothing here'], polygon: [] };

/** The points of a shape when one of them is moved. */
function moved({ kind, points }: ShapeTerm, point: number, [x, y]: Point): readonly Point[] {
  const has = kind === 'ellipse' || kind === 'rectangle';
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

function ShapeHandles({ term, maskId, index }: { term: ShapeTerm; maskId: string; index: number }) {
  const { viewport } = useWorkspace();
  const actions = useActions();
  const set = (points: readonly Point[], gesture: string) => actions.edit({ type: 'set-term', maskId, index, term: { ...term, points } }, `${maskId} ${index} ${gesture}`);
  const insert = (at: Point, gesture: string) => {
    const { points } = term;
    const distance = (i: number) => {
      const [[ax, ay], [bx, by]] = [points[i], points[(i + 1) % points.length]];
      const length = (bx - ax) ** 2 + (by - ay) ** 2 || 1;
      const t = Math.min(1, Math.max(0, ((at[0] - ax) * (bx - ax) + (at[1] - ay) * (by - ay)) / length));
      return Math.hypot(ax + t * (bx - ax) - at[0], ay + t * (by - ay) - at[1]);
    };
    const nearest = [...points.keys()].reduce((best, i) => (distance(i) < distance(best) ? i : best), 0);
    set(points.toSpliced(nearest + 1, 0, at), gesture);
  };
  return (
    <Handles
      label="Handles of the shape"
      handles={term.points.map((at, i) => ({ label: names[term.kind][i] ?? `Corner ${i + 1}`, at }))}
      outline={(places) => outlineOf(term, places)}
      onMove={(point, to, gesture) => set(moved(term, point, to), gesture)}
      onDoubleClick={(point, gesture) => term.kind === 'polygon' && term.points.length > 3 && set(term.points.toSpliced(point, 1), gesture)}
    >
      {(pointOf, nextGesture) =>
        term.kind === 'polygon' && <path d={outlineOf(term, term.points.map((at) => viewport.cssOf(at)))} className="pointer-events-auto cursor-copy fill-none stroke-transparent [stroke-width:9px]" onDoubleClick={(event) => insert(pointOf(event), nextGesture())} />
      }
    </Handles>
  );
}

/** The shape as a path in CSS pixels. */
function outlineOf(term: ShapeTerm, places: readonly Place[]): string {
  const [c, a, b] = places;
  switch (term.kind) {
    case 'ellipse':
      return `${Array.from({ length: 64 }, (_, i) => {
        const t = (i / 64) * 2 * Math.PI;
        return `${i === 0 ? 'M' : 'L'}${c.x + (a.x - c.x) * Math.cos(t) + (b.x - c.x) * Math.sin(t)} ${c.y + (a.y - c.y) * Math.cos(t) + (b.y - c.y) * Math.sin(t)}`;
      }).join('')}Z`;
    case 'rectangle': {
      const corner = (s: number, t: number) => `${c.x + s * (a.x - c.x) + t * (b.x - c.x)} ${c.y + s * (a.y - c.y) + t * (b.y - c.y)}`;
      return `M${corner(1, 1)}L${corner(-1, 1)}L${corner(-1, -1)}L${corner(1, -1)}Z`;
    }
    default:
      return `M${places.map(({ x, y }) => `${x} ${y}`).join('L')}${term.kind === 'polygon' ? 'Z' : ''}`;
  }
}
