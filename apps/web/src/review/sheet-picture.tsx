import type { Page, PagePicture, Remark } from '@tazzel/review';
import { Maximize, Minus, Plus } from 'lucide-react';
import { type PointerEvent as ReactPointerEvent, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { IconButton } from '../ui/button.tsx';
import { type Box, fitted, placeAt, type SheetView, thinned, zoomed } from './sheet.ts';

/** What a press in the picture does: move it, put the pin of a new remark, or draw. */
export type SheetTool = 'move' | 'pin' | 'draw';
export interface Draft {
  readonly place: { readonly x: number; readonly y: number };
  readonly marks: readonly (readonly number[])[];
}

interface SheetPictureProps {
  readonly page: Page;
  readonly addressOf: (picture: PagePicture) => string | null;
  /** What it is compared with. */
  readonly other: { readonly picture: PagePicture; readonly label: string } | null;
  readonly showing: 'picture' | 'other' | 'wipe';
  readonly remarks: readonly Remark[];
  readonly selectedId: string | null;
  readonly onSelect: (remarkId: string | null) => void;
  readonly tool: SheetTool;
  readonly draft: Draft | null;
  readonly onPlace: (place: Draft['place']) => void;
  readonly onMark: (mark: readonly number[]) => void;
}

/** A press that moves less than this is a click. */
const CLICK_PX = 5;
const pathOf = (mark: readonly number[]) => mark.map((value, i) => `${i === 0 ? 'M' : i % 2 === 0 ? 'L' : ' '}${(value * 100).toFixed(2)}`).join('');

/** A published picture to look at closely: fitted, zoomed by wheel, keys or two fingers, with pins and drawn lines that stay in their place. */
export function SheetPicture({ page, addressOf, other, showing, remarks, selectedId, onSelect, tool, draft, onPlace, onMark }: SheetPictureProps) {
  const host = useRef<HTMLDivElement>(null);
  const [field, setField] = useState<Box | null>(null);
  /** Null is fitted, also when the window changes. */
  const [moved, setMoved] = useState<SheetView | null>(null);
  const [wipeAt, setWipeAt] = useState(0.5);
  const [line, setLine] = useState<readonly { x: number; y: number }[]>([]);
  const [isGone, setGone] = useState(false);
  const picture = { width: page.width, height: page.height };
  const view = moved ?? (field ? fitted(picture, field) : null);

  useLayoutEffect(() => {
    const element = host.current as HTMLDivElement;
    const measure = () => setField({ width: element.clientWidth, height: element.clientHeight });
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // Another page, another picture: as a whole again.
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is the change that counts
  useEffect(() => {
    setMoved(null);
    setGone(false);
  }, [page.name, page.picture.hash]);

  const zoom = (factor: number, around?: { x: number; y: number }, by?: { x: number; y: number }) => {
    if (!field) return;
    setMoved((now) => zoomed(now ?? fitted(picture, field), picture, field, factor, around ?? { x: field.width / 2, y: field.height / 2 }, by));
  };
  const zoomNow = useRef(zoom);
  zoomNow.current = zoom;
  useEffect(() => {
    const element = host.current as HTMLDivElement;
    // React listens to wheels passively, and the page would scroll or zoom along.
    const turned = (event: WheelEvent) => {
      event.preventDefault();
      const { left, top } = element.getBoundingClientRect();
      zoomNow.current(2 ** (-event.deltaY / (event.ctrlKey ? 100 : 400)), { x: event.clientX - left, y: event.clientY - top });
    };
    element.addEventListener('wheel', turned, { passive: false });
    return () => element.removeEventListener('wheel', turned);
  }, []);

  const pointers = useRef(new Map<number, { x: number; y: number }>());
  const travelled = useRef(0);
  const pointOf = (event: ReactPointerEvent) => {
    const { left, top } = (host.current as HTMLDivElement).getBoundingClientRect();
    return { x: event.clientX - left, y: event.clientY - top };
  };
  const down = (event: ReactPointerEvent) => {
    if (event.button !== 0 || (event.target as HTMLElement).closest('button, [role=slider]')) return;
    host.current?.setPointerCapture(event.pointerId);
    if (pointers.current.size === 0) travelled.current = 0;
    pointers.current.set(event.pointerId, pointOf(event));
    const place = view && placeAt(view, picture, pointOf(event));
    setLine(tool === 'draw' && place && pointers.current.size === 1 ? [place] : []);
  };
  const move = (event: ReactPointerEvent) => {
    const before = pointers.current.get(event.pointerId);
    if (!before || !view) return;
    const now = pointOf(event);
    const [dx, dy] = [now.x - before.x, now.y - before.y];
    travelled.current += Math.hypot(dx, dy);
    pointers.current.set(event.pointerId, now);
    const [second] = [...pointers.current].filter(([id]) => id !== event.pointerId).map(([, point]) => point);
    if (second) {
      // Two fingers: what lies between them stays between them.
      const spread = Math.hypot(now.x - second.x, now.y - second.y) / Math.max(1, Math.hypot(before.x - second.x, before.y - second.y));
      setLine([]);
      zoom(spread, { x: (before.x + second.x) / 2, y: (before.y + second.y) / 2 }, { x: dx / 2, y: dy / 2 });
    } else if (tool === 'draw') {
      const place = placeAt(view, picture, now);
      if (place) setLine((points) => [...points, place]);
    } else if (travelled.current > CLICK_PX) zoom(1, { x: 0, y: 0 }, { x: dx, y: dy });
  };
  const up = (event: ReactPointerEvent) => {
    if (!pointers.current.delete(event.pointerId) || !view) return;
    if (tool === 'draw') {
      if (line.length > 1) onMark(thinned(line));
      setLine([]);
    } else if (travelled.current <= CLICK_PX && pointers.current.size === 0 && event.type === 'pointerup') {
      const place = placeAt(view, picture, pointOf(event));
      if (tool === 'pin' && place) onPlace(place);
      else onSelect(null);
    }
  };
  const keys: Readonly<Record<string, () => void>> = {
    '+': () => zoom(1.5),
    '=': () => zoom(1.5),
    '-': () => zoom(1 / 1.5),
    '0': () => setMoved(null),
    ArrowLeft: () => zoom(1, undefined, { x: 60, y: 0 }),
    ArrowRight: () => zoom(1, undefined, { x: -60, y: 0 }),
    ArrowUp: () => zoom(1, undefined, { x: 0, y: 60 }),
    ArrowDown: () => zoom(1, undefined, { x: 0, y: -60 }),
  };

  const across = other && showing === 'wipe' ? wipeAt : showing === 'other' && other ? 0 : 1;
  const lines: readonly { readonly key: string; readonly marks: readonly (readonly number[])[]; readonly isStrong: boolean }[] = [
    ...remarks.map((remark) => ({ key: remark.id, marks: remark.marks, isStrong: remark.id === selectedId })),
    ...(draft ? [{ key: 'draft', marks: draft.marks, isStrong: true }] : []),
    ...(line.length > 1 ? [{ key: 'line', marks: [line.flatMap(({ x, y }) => [x, y])], isStrong: true }] : []),
  ];
  return (
    <div
      ref={host}
      role="application"
      aria-label={`Picture: ${page.name}`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: keys zoom and move it
      tabIndex={0}
      data-testid="sheet"
      className={`relative min-h-0 flex-1 touch-none overflow-hidden bg-field select-none ${tool === 'move' ? 'cursor-grab active:cursor-grabbing' : 'cursor-crosshair'}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onDoubleClick={() => tool === 'move' && setMoved((now) => (now === null && field ? zoomed(fitted(picture, field), picture, field, 1 / fitted(picture, field).scale, { x: field.width / 2, y: field.height / 2 }) : null))}
      onKeyDown={(event) => {
        const act = event.target === event.currentTarget ? keys[event.key] : undefined;
        if (!act || event.ctrlKey || event.metaKey) return;
        event.preventDefault();
        act();
      }}
    >
      {view && (
        <div className="absolute top-0 left-0 origin-top-left" style={{ width: page.width * view.scale, height: page.height * view.scale, transform: `translate(${view.x}px, ${view.y}px)` }}>
          {other && across < 1 && <img src={addressOf(other.picture) ?? undefined} alt={`${page.name}: ${other.label}`} draggable={false} className="absolute inset-0 h-full w-full" />}
          {across > 0 && <img src={addressOf(page.picture) ?? undefined} alt={page.name} draggable={false} className="absolute inset-0 h-full w-full" style={across < 1 ? { clipPath: `inset(0 0 0 ${100 * (1 - across)}%)` } : undefined} onError={() => setGone(true)} onLoad={() => setGone(false)} />}
          <svg aria-hidden="true" viewBox="0 0 100 100" preserveAspectRatio="none" className="pointer-events-none absolute inset-0 h-full w-full overflow-visible">
            {lines.flatMap(({ key, marks, isStrong }) =>
              marks.map((mark, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: lines are only added at the end
                <g key={`${key} ${i}`} fill="none" strokeLinecap="round" strokeLinejoin="round">
                  <path d={pathOf(mark)} className="stroke-black/70" strokeWidth={isStrong ? 5 : 4} vectorEffect="non-scaling-stroke" />
                  <path d={pathOf(mark)} className={isStrong ? 'stroke-white' : 'stroke-white/70'} strokeWidth={isStrong ? 2.5 : 1.5} vectorEffect="non-scaling-stroke" />
                </g>
              )),
            )}
          </svg>
          {other && showing === 'wipe' && (
            <p className="pointer-events-none absolute inset-x-0 top-0 flex justify-between gap-4 p-1 text-[11px]">
              <bdi className="truncate bg-panel/80 px-1">{other.label}</bdi>
              <bdi className="truncate bg-panel/80 px-1">{page.name}</bdi>
            </p>
          )}
          {other && showing === 'wipe' && <Wipe at={1 - across} host={host} onChange={(at) => setWipeAt(1 - at)} />}
          {remarks.map((remark) => (
            <Pin key={remark.id} place={remark.place} isOn={remark.id === selectedId} isDone={remark.resolved} label={`Remark ${remark.number}: ${remark.text.slice(0, 80)}`} onPress={() => onSelect(remark.id === selectedId ? null : remark.id)}>
              {remark.number}
            </Pin>
          ))}
          {draft && (
            <Pin place={draft.place} isOn isDone={false} label="Place of the new remark" onPress={() => undefined}>
              +
            </Pin>
          )}
        </div>
      )}
      {isGone && <p className="absolute inset-x-0 top-1/2 mx-auto w-fit border border-ink bg-sheet px-3 py-2">The picture could not be loaded. Check the connection, and reload the page.</p>}
      <div className="absolute right-2 bottom-2 flex border border-rule bg-panel">
        <IconButton label="Zoom out" className="!size-8" onClick={() => zoom(1 / 1.5)}>
          <Minus size={15} aria-hidden />
        </IconButton>
        <IconButton label="Whole picture" className="!size-8" onClick={() => setMoved(null)}>
          <Maximize size={14} aria-hidden />
        </IconButton>
        <IconButton label="Zoom in" className="!size-8" onClick={() => zoom(1.5)}>
          <Plus size={15} aria-hidden />
        </IconButton>
      </div>
    </div>
  );
}

interface PinProps {
  readonly place: Draft['place'];
  readonly isOn: boolean;
  readonly isDone: boolean;
  readonly label: string;
  readonly onPress: () => void;
  readonly children: React.ReactNode;
}
/** A flag whose foot stands on the place. */
export const Pin = ({ place, isOn, isDone, label, onPress, children }: PinProps) => (
  <button
    type="button"
    aria-label={label}
    aria-pressed={isOn}
    onClick={onPress}
    className={`figure absolute flex h-6 min-w-6 -translate-y-full items-center justify-center border-l-2 px-1 text-[12px] leading-none before:absolute before:-inset-2 ${isOn ? 'z-10 border-accent bg-accent text-on-accent' : isDone ? 'border-ink bg-panel/70 text-faint line-through' : 'border-ink bg-sheet text-ink'}`}
    style={{ left: `${100 * place.x}%`, top: `${100 * place.y}%` }}
  >
    {children}
  </button>
);

/** The line between two pictures. */
function Wipe({ at, host, onChange }: { at: number; host: React.RefObject<HTMLDivElement | null>; onChange: (at: number) => void }) {
  const set = (value: number) => onChange(Math.min(1, Math.max(0, value)));
  const drag = (event: ReactPointerEvent<HTMLDivElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const { left, width } = (event.currentTarget.parentElement as HTMLElement).getBoundingClientRect();
    set((event.clientX - left) / width);
    event.stopPropagation();
  };
  return (
    <div
      role="slider"
      aria-label="Line between the two pictures"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * at)}
      tabIndex={0}
      className="absolute top-0 bottom-0 z-10 w-6 -translate-x-1/2 cursor-ew-resize before:absolute before:inset-y-0 before:left-1/2 before:w-0.5 before:-translate-x-1/2 before:bg-white before:shadow-[0_0_0_1px_#0008] after:absolute after:top-1/2 after:left-1/2 after:size-5 after:-translate-1/2 after:border after:border-ink after:bg-sheet"
      style={{ left: `${100 * at}%` }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        event.stopPropagation();
      }}
      onPointerMove={drag}
      onPointerUp={() => host.current?.focus()}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        event.stopPropagation();
        set(at + by);
      }}
    />
  );
}
