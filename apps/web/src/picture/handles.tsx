import type { Point } from '@tazzel/core';
import type { HandleSet } from '@tazzel/editor';
import { type KeyboardEvent, type MouseEvent, type PointerEvent, useRef } from 'react';
import { useViewport, useWorkspace } from '../workspace/context.ts';

const STEP = 1;
const rounded = ([x, y]: Point): Point => [Math.round(x * 10) / 10, Math.round(y * 10) / 10];

/** Points on the picture that are dragged, or moved with the arrow keys (Shift: ten pixels). */
export function Handles({ set: { layerId, label, handles, outline, move, doubleClick, insert } }: { set: HandleSet }) {
  const { viewport } = useWorkspace();
  useViewport();
  const gesture = useRef(0);
  const drag = useRef<{ handle: number; grip: Point } | null>(null);
  const name = (what: string) => `handles ${label} ${what} ${gesture.current}`;
  const pointOf = (event: PointerEvent<Element> | MouseEvent<Element>): Point => {
    const box = (event.currentTarget.closest('svg') as SVGElement).getBoundingClientRect();
    return rounded(viewport.placeBehind(viewport.pointAt(event.clientX - box.left, event.clientY - box.top), layerId));
  };
  const on = (handle: number) => ({
    onPointerDown: (event: PointerEvent<SVGGElement>) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      gesture.current++;
      // Where a handle is taken beside its middle, it does not jump there.
      const [x, y] = pointOf(event);
      const { at } = handles[handle];
      drag.current = { handle, grip: [at[0] - x, at[1] - y] };
    },
    onPointerMove: (event: PointerEvent<SVGGElement>) => {
      if (drag.current?.handle !== handle) return;
      const [x, y] = pointOf(event);
      move(handle, rounded([x + drag.current.grip[0], y + drag.current.grip[1]]), name('drag'));
    },
    onPointerUp: () => {
      drag.current = null;
    },
    onKeyDown: (event: KeyboardEvent) => {
      const by = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      const factor = event.shiftKey ? 10 : 1;
      const [x, y] = handles[handle].at;
      move(handle, [x + by[0] * factor, y + by[1] * factor], name('keys'));
    },
    onDoubleClick: () => {
      gesture.current++;
      doubleClick?.(handle, name('double'));
    },
  });
  const places = handles.map(({ at }): Point => {
    const { x, y } = viewport.cssOf(viewport.placeSeen(at, layerId));
    return [x, y];
  });
  const line = outline(places);
  return (
    <svg aria-label={label} className="pointer-events-none absolute inset-0 h-full w-full">
      <SeenLine path={line} />
      {insert && (
        <path
          d={line}
          className="pointer-events-auto cursor-copy fill-none stroke-transparent [stroke-width:9px]"
          onDoubleClick={(event) => {
            gesture.current++;
            insert(pointOf(event), name('more'));
          }}
        />
      )}
      {places.map(([x, y], handle) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: points have no identity but their place
        // biome-ignore lint/a11y/useSemanticElements: a point on the picture, moved with the pointer or the arrow keys
        <g key={handle} role="button" tabIndex={0} aria-label={handles[handle].label} className="pointer-events-auto cursor-move touch-none outline-none focus-visible:[&>*:last-child]:fill-accent" {...on(handle)}>
          <circle cx={x} cy={y} r={12} className="fill-transparent" />
          {handles[handle].look === 'round' ? <circle cx={x} cy={y} r={5} className="fill-white stroke-black" /> : <rect x={x - 4} y={y - 4} width={8} height={8} className="fill-white stroke-black" />}
        </g>
      ))}
    </svg>
  );
}

/** A path that is seen on anything. */
export const SeenLine = ({ path, dashed = false }: { path: string; dashed?: boolean }) => (
  <g className="fill-none [stroke-width:1px]">
    {(['stroke-black/70 [stroke-width:3px]', 'stroke-white'] as const).map((className) => (
      <path key={className} d={path} className={`${className} ${dashed ? '[stroke-dasharray:7_5]' : ''}`} />
    ))}
  </g>
);
