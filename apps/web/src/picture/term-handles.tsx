import { findMask, type Point, type ShapeTerm } from '@tazzel/core';
import { type PointerEvent, useRef } from 'react';
import { useActions, useDocument, useSession, useViewport, useWorkspace } from '../workspace/context.ts';

/** The points of the open shape, to drag on the picture. */
export function TermHandles() {
  const document = useDocument();
  const { maskSubject, termIndex } = useSession((state) => state);
  const mask = maskSubject.kind === 'mask' ? findMask(document, maskSubject.maskId) : null;
  const term = termIndex === null ? undefined : mask?.terms[termIndex];
  if (!mask || termIndex === null || !term || !('points' in term)) return null;
  return <Handles key={`${mask.id} ${termIndex}`} term={term} maskId={mask.id} index={termIndex} />;
}

const STEP = 1;
const names: Readonly<Record<ShapeTerm['kind'], readonly string[]>> = { ellipse: ['Centre', 'First half axis', 'Second half axis'], rectangle: ['Centre', 'Middle of a side', 'Middle of the other side'], gradient: ['Full here', 'Nothing here'], polygon: [] };

function Handles({ term, maskId, index }: { term: ShapeTerm; maskId: string; index: number }) {
  const { viewport } = useWorkspace();
  const actions = useActions();
  useViewport();
  const gesture = useRef(0);
  const drag = useRef<{ point: number; from: Point } | null>(null);
  const css = (point: Point) => viewport.cssOf(point);
  const set = (points: readonly Point[], name: string) => actions.edit({ type: 'set-term', maskId, index, term: { ...term, points } }, `handles ${maskId} ${index} ${name} ${gesture.current}`);
  const moved = (point: number, [x, y]: Point): readonly Point[] => {
    const { points } = term;
    const has = term.kind === 'ellipse' || term.kind === 'rectangle';
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
  };
  const rounded = ([x, y]: Point): Point => [Math.round(x * 10) / 10, Math.round(y * 10) / 10];
  const pointOf = (event: PointerEvent<Element> | React.MouseEvent<Element>): Point => {
    const box = (event.currentTarget.closest('svg') as SVGElement).getBoundingClientRect();
    return rounded(viewport.pointAt(event.clientX - box.left, event.clientY - box.top));
  };
  const onPoint = (point: number) => ({
    onPointerDown: (event: PointerEvent<SVGGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      gesture.current++;
      drag.current = { point, from: term.points[point] };
    },
    onPointerMove: (event: PointerEvent<SVGGElement>) => {
      if (drag.current?.point === point) set(moved(point, pointOf(event)), 'drag');
    },
    onPointerUp: () => {
      drag.current = null;
    },
    onKeyDown: (event: React.KeyboardEvent) => {
      const by = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      const factor = event.shiftKey ? 10 : 1;
      const [x, y] = term.points[point];
      set(moved(point, [x + by[0] * factor, y + by[1] * factor]), 'keys');
    },
    onDoubleClick: () => {
      if (term.kind !== 'polygon' || term.points.length <= 3) return;
      gesture.current++;
      set(term.points.toSpliced(point, 1), 'corner');
    },
  });
  const places = term.points.map(css);
  const insert = (event: React.MouseEvent<SVGElement>) => {
    if (term.kind !== 'polygon') return;
    const at = pointOf(event);
    const { points } = term;
    const distance = (i: number) => {
      const [[ax, ay], [bx, by]] = [points[i], points[(i + 1) % points.length]];
      const length = (bx - ax) ** 2 + (by - ay) ** 2 || 1;
      const t = Math.min(1, Math.max(0, ((at[0] - ax) * (bx - ax) + (at[1] - ay) * (by - ay)) / length));
      return Math.hypot(ax + t * (bx - ax) - at[0], ay + t * (by - ay) - at[1]);
    };
    const nearest = [...points.keys()].reduce((best, i) => (distance(i) < distance(best) ? i : best), 0);
    gesture.current++;
    set(points.toSpliced(nearest + 1, 0, at), 'corner');
  };
  return (
    <svg aria-label="Handles of the shape" className="pointer-events-none absolute inset-0 h-full w-full">
      <g className="fill-none [stroke-width:1px]">
        {(['stroke-black/70 [stroke-width:3px]', 'stroke-white'] as const).map((className) => (
          <path key={className} d={outlineOf(term, places)} className={className} />
        ))}
      </g>
      {term.kind === 'polygon' && <path d={outlineOf(term, places)} className="pointer-events-auto cursor-copy fill-none stroke-transparent [stroke-width:9px]" onDoubleClick={insert} />}
      {places.map(({ x, y }, point) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: points have no identity but their place
        // biome-ignore lint/a11y/useSemanticElements: a shape's point on the picture, moved with the pointer or the arrow keys
        <g key={point} role="button" tabIndex={0} aria-label={names[term.kind][point] ?? `Corner ${point + 1}`} className="pointer-events-auto cursor-move touch-none outline-none focus-visible:[&>rect]:fill-accent" {...onPoint(point)}>
          <circle cx={x} cy={y} r={12} className="fill-transparent" />
          <rect x={x - 4} y={y - 4} width={8} height={8} className="fill-white stroke-black" />
        </g>
      ))}
    </svg>
  );
}

/** The shape as a path in CSS pixels. */
function outlineOf(term: ShapeTerm, places: readonly { x: number; y: number }[]): string {
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
