import { cutRegion, isPart, partOfRegion, type Region } from '@tazzel/core';
import { type PointerEvent, useRef } from 'react';
import { useDocument, useViewport, useWorkspace } from '../workspace/context.ts';
import { choose, useChoices } from './choices.ts';

/** Which sides of the part move with the pointer: −1 the left or upper one, 1 the other, 0 neither; null moves all of it. */
type Grip = readonly [across: -1 | 0 | 1, down: -1 | 0 | 1] | null;
const GRIPS: readonly (readonly [grip: Exclude<Grip, null>, cursor: string, name: string])[] = [
  [[-1, -1], 'cursor-nwse-resize', 'Upper left'],
  [[1, -1], 'cursor-nesw-resize', 'Upper right'],
  [[-1, 1], 'cursor-nesw-resize', 'Lower left'],
  [[1, 1], 'cursor-nwse-resize', 'Lower right'],
];
const LEAST_PX = 8;

/** A region with some of its sides, or all of it, moved by pixels of the picture; it stays within the picture and keeps a size. */
export function draggedRegion({ x, y, width, height }: Region, grip: Grip, dx: number, dy: number, size: { readonly width: number; readonly height: number }): Region {
  const along = (from: number, length: number, side: number, which: -1 | 0 | 1, by: number): readonly [number, number] => {
    const least = Math.min(LEAST_PX, side);
    if (which === -1) {
      const begin = Math.min(from + length - least, Math.max(0, Math.round(from + by)));
      return [begin, from + length - begin];
    }
    return which === 1 ? [from, Math.min(side - from, Math.max(least, Math.round(length + by)))] : [from, length];
  };
  if (grip === null) return { x: Math.min(size.width - width, Math.max(0, Math.round(x + dx))), y: Math.min(size.height - height, Math.max(0, Math.round(y + dy))), width, height };
  const [[left, across], [top, down]] = [along(x, width, size.width, grip[0], dx), along(y, height, size.height, grip[1], dy)];
  return { x: left, y: top, width: across, height: down };
}

/** What is cut off the picture when it is delivered; a part of its own is dragged by its corners, or as a whole. */
export function CutFrame() {
  const { viewport } = useWorkspace();
  const { size } = useDocument();
  const { cut } = useChoices();
  const began = useRef<{ readonly region: Region; readonly at: readonly [number, number] } | null>(null);
  useViewport();
  if (!cut) return null;
  const path = (x: number, y: number, width: number, height: number) => {
    const [from, to] = [viewport.cssOf([x, y]), viewport.cssOf([x + width, y + height])];
    return `M${from.x} ${from.y}H${to.x}V${to.y}H${from.x}Z`;
  };
  const region = cutRegion(size, cut);
  const { x, y, width, height } = region;
  const part = path(x, y, width, height);
  const pointed = (event: PointerEvent<Element>) => {
    const { left, top } = (event.currentTarget.closest('[data-cut]') as Element).getBoundingClientRect();
    return viewport.pointAt(event.clientX - left, event.clientY - top);
  };
  const gripped = (grip: Grip) => ({
    onPointerDown: (event: PointerEvent<Element>) => {
      if (event.button !== 0) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      began.current = { region, at: pointed(event) };
    },
    onPointerMove: (event: PointerEvent<Element>) => {
      if (!began.current || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
      const [px, py] = pointed(event);
      const { region: from, at } = began.current;
      choose({ cut: partOfRegion(size, draggedRegion(from, grip, px - at[0], py - at[1], size)) });
    },
    onLostPointerCapture: () => {
      began.current = null;
    },
  });
  return (
    <div data-cut className="pointer-events-none absolute inset-0 overflow-hidden" data-testid="cut-frame">
      <svg aria-hidden="true" className="absolute inset-0 h-full w-full">
        <path d={`${path(0, 0, size.width, size.height)}${part}`} fillRule="evenodd" className="fill-black/60" />
        <path d={part} className={`stroke-white ${isPart(cut) ? 'pointer-events-auto cursor-move fill-transparent' : 'fill-none'}`} strokeWidth={1} {...(isPart(cut) ? gripped(null) : {})} />
      </svg>
      {isPart(cut) &&
        GRIPS.map(([grip, cursor, name]) => {
          const at = viewport.cssOf([grip[0] < 0 ? x : x + width, grip[1] < 0 ? y : y + height]);
          return <div key={name} title={`${name} corner of the part`} className={`pointer-events-auto absolute size-3 -translate-1/2 touch-none border border-black bg-white ${cursor}`} style={{ left: at.x, top: at.y }} {...gripped(grip)} />;
        })}
    </div>
  );
}
