import { cardKey, elementLook, elementValues, findSource, type Source } from '@tazzel/core';
import type { CommandHost, SelectMode, StageId } from '@tazzel/editor';
import { useQuery } from '@tanstack/react-query';
import { type PointerEvent, useEffect, useRef, useState } from 'react';
import { useStore } from 'zustand';
import { useActions, useDocument, useSession, useViewport, useWorkspace } from '../workspace/context.ts';
import { BrushCircle } from './brush-circle.tsx';
import { LayerHandles } from './layer-handles.tsx';
import { PictureBar } from './picture-bar.tsx';
import { TermHandles } from './term-handles.tsx';
import { pickForTerm, pointOfCurve, usePainting } from './tools.ts';

/** A press that moved less than this is a click. */
const CLICK_PIXELS = 4;
const PAN_STEP = 60;

export function PictureView({ stage, host }: { stage: StageId; host: CommandHost }) {
  const { viewport, pointer, session } = useWorkspace();
  const canvas = useRef<HTMLCanvasElement>(null);
  const press = useRef<{ x: number; y: number; moved: boolean } | null>(null);
  const [grabbing, setGrabbing] = useState(false);
  const document = useDocument();
  const compare = useSession((state) => state.compare);
  const lookAt = useSession((state) => state.lookAt);
  const viewedSourceId = useSession((state) => state.viewedSourceId);
  const viewed = viewedSourceId === null ? null : findSource(document, viewedSourceId);
  const surfaces = stage === 'surfaces';
  const tool = useSession((state) => (surfaces || state.tool === 'curve' ? state.tool : 'select'));
  const workspace = useWorkspace();
  const painting = usePainting(workspace);
  const { settled } = useViewport();

  useEffect(() => viewport.attach(canvas.current as HTMLCanvasElement), [viewport]);
  useEffect(() => {
    // React attaches wheel listeners passively, and then the page would zoom as well.
    const element = canvas.current as HTMLCanvasElement;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      if (event.shiftKey) viewport.panBy(-event.deltaY - event.deltaX, 0);
      else viewport.zoomAt(2 ** (-event.deltaY / (event.ctrlKey ? 60 : 240)), event.offsetX, event.offsetY);
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [viewport]);
  useEffect(() => {
    if (!surfaces) session.actions.set({ hoveredMaterialId: null, tool: 'select' });
  }, [surfaces, session]);

  const place = (event: PointerEvent<HTMLCanvasElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const hover = (event: PointerEvent<HTMLCanvasElement>) => {
    const at = place(event);
    pointer.move(viewport.pixelAt(at.x, at.y), at, viewport.level);
    if (!surfaces) return;
    const hovered = tool === 'select' ? (pointer.getState().material?.id ?? null) : null;
    if (hovered !== session.getState().hoveredMaterialId) session.actions.set({ hoveredMaterialId: hovered });
  };

  return (
    <section aria-label="Picture" className="flex min-h-0 min-w-0 flex-1 flex-col">
      <PictureBar host={host} />
      <div className="relative min-h-0 flex-1 bg-field">
        {/* A picture that is looked at and pointed into; its name says which keys it takes. */}
        {/* biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: the canvas takes keys of its own */}
        <canvas
          ref={canvas}
          role="application"
          aria-label={`The picture of ${document.name}. Arrow keys move it, plus and minus zoom.`}
          tabIndex={0}
          data-testid="picture"
          data-settled={settled}
          className={`absolute inset-0 h-full w-full touch-none -outline-offset-2 ${grabbing ? 'cursor-grabbing' : tool === 'brush' ? 'cursor-none' : surfaces || tool === 'curve' ? 'cursor-crosshair' : 'cursor-default'}`}
          onPointerDown={(event) => {
            if (event.button > 1) return;
            event.currentTarget.setPointerCapture(event.pointerId);
            if (tool === 'brush' && event.button === 0) {
              painting.begin(event, place(event));
              return;
            }
            press.current = { x: event.clientX, y: event.clientY, moved: false };
          }}
          onPointerMove={(event) => {
            if (painting.isPainting()) {
              painting.go(event.nativeEvent, event.currentTarget);
              pointer.move(viewport.pixelAt(place(event).x, place(event).y), place(event), viewport.level);
              return;
            }
            const start = press.current;
            if (start && (start.moved || Math.hypot(event.clientX - start.x, event.clientY - start.y) >= CLICK_PIXELS)) {
              if (!start.moved) setGrabbing(true);
              viewport.panBy(event.clientX - start.x, event.clientY - start.y);
              press.current = { x: event.clientX, y: event.clientY, moved: true };
            }
            hover(event);
          }}
          onPointerUp={(event) => {
            if (painting.isPainting()) {
              painting.end();
              return;
            }
            const wasClick = press.current !== null && !press.current.moved && event.button === 0;
            press.current = null;
            setGrabbing(false);
            if (!wasClick) return;
            const at = place(event);
            if (tool === 'curve') void pointOfCurve(workspace, viewport.pixelAt(at.x, at.y));
            if (!surfaces) return;
            if (tool === 'pick') void pickForTerm(workspace, viewport.pixelAt(at.x, at.y));
            else session.actions.selectMaterial(pointer.getState().material?.id ?? null, modeOf(event));
          }}
          onPointerCancel={() => {
            painting.cancel();
            press.current = null;
            setGrabbing(false);
          }}
          onPointerLeave={() => {
            pointer.move(null, null, 0);
            session.actions.set({ hoveredMaterialId: null });
          }}
          onKeyDown={(event) => {
            // Up and down go from element to element while one is looked at.
            if (viewed && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) return;
            const by = { ArrowLeft: [PAN_STEP, 0], ArrowRight: [-PAN_STEP, 0], ArrowUp: [0, PAN_STEP], ArrowDown: [0, -PAN_STEP] }[event.key];
            if (!by) return;
            event.preventDefault();
            viewport.panBy(by[0], by[1]);
          }}
        />
        {surfaces && tool === 'select' && <HoverName />}
        {surfaces && <TermHandles />}
        {stage === 'build-up' && compare === 'off' && !viewed && !lookAt && <LayerHandles />}
        {tool === 'brush' && <BrushCircle />}
        {compare === 'wipe' && <WipeHandle />}
        {compare !== 'off' && <Corner>{compare === 'before' ? 'Before: the base as rendered' : 'Before │ after'}</Corner>}
        {viewed ? <ElementCorner key={viewed.id} source={viewed} /> : lookAt && <Corner>{lookAt.label}</Corner>}
        {compare === 'off' && !viewed && !lookAt && <MaskCorner />}
        {document.sources.length === 0 && <p className="pointer-events-none absolute inset-0 grid place-items-center text-white">Drop the files of a render here.</p>}
      </div>
    </section>
  );
}

const Corner = ({ children }: { children: React.ReactNode }) => <div className="pointer-events-none absolute top-2 left-2 border border-ink bg-sheet px-2 py-0.5">{children}</div>;

/** Which element is looked at, in which range, or why nothing is seen of it. */
function ElementCorner({ source }: { source: Source }) {
  const { engine, session } = useWorkspace();
  const document = useDocument();
  const look = useSession((state) => state.elementLook);
  const values = elementValues(document, source);
  const { data } = useQuery({ queryKey: ['look', document.id, source.role, cardKey(values, {})], queryFn: async ({ signal }) => elementLook(source, await engine.measure(values, { scale: 'light', signal })), gcTime: 60_000, staleTime: Number.POSITIVE_INFINITY, retry: false });
  useEffect(() => {
    if (data !== undefined) session.actions.set({ elementLook: data && { ...data, sourceId: source.id } });
  }, [data, session, source.id]);
  return (
    <Corner>
      Element: {source.name}
      {look?.sourceId === source.id && look.sentence && <span className="text-faint"> · {look.sentence}</span>}
    </Corner>
  );
}

/** Says why no mask is seen where one was asked for. */
function MaskCorner() {
  const { viewport } = useWorkspace();
  const asked = useSession((state) => state.maskDisplay !== 'off');
  // Selection and document decide what is shown; the viewport knows how.
  useSession((state) => state);
  return asked && viewport.shownMask === null ? <Corner>No mask here: select a masked layer, a mask or a material</Corner> : null;
}

/** Shift adds to what is selected, Alt takes away, Ctrl does whichever changes something. */
const modeOf = (event: { shiftKey: boolean; altKey: boolean; ctrlKey: boolean; metaKey: boolean }): SelectMode => (event.shiftKey ? 'add' : event.altKey ? 'remove' : event.ctrlKey || event.metaKey ? 'toggle' : 'only');
const MODE_SIGNS: Readonly<Record<SelectMode, string>> = { only: '', add: '+', remove: '−', toggle: '±' };

/** Which way a click would select just now. */
function useSelectMode(): SelectMode {
  const [mode, setMode] = useState<SelectMode>('only');
  useEffect(() => {
    const follow = (event: KeyboardEvent) => setMode(modeOf(event));
    const forget = () => setMode('only');
    window.addEventListener('keydown', follow);
    window.addEventListener('keyup', follow);
    window.addEventListener('blur', forget);
    return () => {
      window.removeEventListener('keydown', follow);
      window.removeEventListener('keyup', follow);
      window.removeEventListener('blur', forget);
    };
  }, []);
  return mode;
}

/** The name of the material at the pointer, and what a click would do. */
function HoverName() {
  const mode = useSelectMode();
  const { pointer } = useWorkspace();
  const { at, material } = useStore(pointer);
  if (!at || !material) return null;
  return (
    <div className="pointer-events-none absolute border border-ink bg-sheet px-1.5 whitespace-nowrap" style={{ left: at.x + 14, top: at.y + 16 }}>
      {mode !== 'only' && <span className="figure mr-1.5 font-medium">{MODE_SIGNS[mode]}</span>}
      <span className="figure mr-1.5">{material.tag}</span>
      {material.name === material.tag ? '' : material.name}
    </div>
  );
}

function WipeHandle() {
  const { viewport } = useWorkspace();
  const actions = useActions();
  const wipeAt = useSession((state) => state.wipeAt);
  useViewport();
  const { left, width } = viewport.span;
  const set = (at: number) => actions.set({ wipeAt: Math.min(1, Math.max(0, at)) });
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Wipe between before and after"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(wipeAt * 100)}
      className="absolute inset-y-0 w-4 -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: left + width * wipeAt }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        const field = event.currentTarget.parentElement as HTMLElement;
        set((event.clientX - field.getBoundingClientRect().left - left) / width);
      }}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        set(wipeAt + by * (event.shiftKey ? 5 : 1));
      }}
    >
      <div className="mx-auto h-full w-px bg-white shadow-[0_0_0_1px_rgb(0_0_0/0.6)]" />
      <div className="absolute top-1/2 left-1/2 h-7 w-3 -translate-x-1/2 -translate-y-1/2 border border-black bg-white" />
    </div>
  );
}
