import type { Point } from '@tazzel/core';
import { type KeyboardEvent, type MouseEvent, type PointerEvent, type ReactNode, useRef } from 'react';
import { useViewport, useWorkspace } from '../workspace/context.ts';

export interface Place {
  readonly x: number;
  readonly y: number;
}

export interface Handle {
  readonly label: string;
  /** In pixels of the full picture. */
  readonly at: Point;
  readonly look?: 'square' | 'round';
}

interface HandlesProps {
  /** What they belong to, for screen readers. */
  readonly label: string;
  readonly handles: readonly Handle[];
  /** A path in CSS pixels, drawn so that it is seen on anything. */
  readonly outline: (places: readonly Place[]) => string;
  /** `gesture` is the same for all steps of one drag. */
  readonly onMove: (handle: number, to: Point, gesture: string) => void;
  readonly onDoubleClick?: (handle: number, gesture: string) => void;
  /** More in the drawing; it is given what makes a point of the picture of an event. */
  readonly children?: (pointOf: (event: PointerEvent<Element> | MouseEvent<Element>) => Point, nextGesture: () => string) => ReactNode;
}

const STEP = 1;
const rounded = ([x, y]: Point): Point => [Math.round(x * 10) / 10, Math.round(y * 10) / 10];

/** Points on the picture that are dragged, or moved with the arrow keys (Shift: ten pixels). */
export function Handles({ label, handles, outline, onMove, onDoubleClick, children }: HandlesProps) {
  const { viewport } = useWorkspace();
  useViewport();
  const gesture = useRef(0);
  const drag = useRef<{ handle: number; grip: Point } | null>(null);
  const name = (what: string) => `handles ${label} ${what} ${gesture.current}`;
  const pointOf = (event: PointerEvent<Element> | MouseEvent<Element>): Point => {
    const box = (event.currentTarget.closest('svg') as SVGElement).getBoundingClientRect();
    return rounded(viewport.pointAt(event.clientX - box.left, event.clientY - box.top));
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
      onMove(handle, rounded([x + drag.current.grip[0], y + drag.current.grip[1]]), name('drag'));
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
      onMove(handle, [x + by[0] * factor, y + by[1] * factor], name('keys'));
    },
    onDoubleClick: () => {
      gesture.current++;
      onDoubleClick?.(handle, name('double'));
    },
  });
  const places = handles.map(({ at }) => viewport.cssOf(at));
  const line = outline(places);
  return (
    <svg aria-label={label} className="pointer-events-none absolute inset-0 h-full w-full">
      <g className="fill-none [stroke-width:1px]">
        {(['stroke-black/70 [stroke-width:3px]', 'stroke-white'] as const).map((className) => (
          <path key={className} d={line} className={className} />
        ))}
      </g>
      {children?.(pointOf, () => {
        gesture.current++;
        return name('more');
      })}
      {places.map(({ x, y }, handle) => (
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
