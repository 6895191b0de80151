import { findSource, type Source } from '@tazzel/core';
import { type CommandHost, modeOf, type SelectMode, type StageId, type Tool, toolById } from '@tazzel/editor';
import { type PointerEvent, useEffect, useRef, useState } from 'react';
import { useStore } from 'zustand';
import { questions, useAnswer } from '../answers.ts';
import { FirstJob } from '../help/first-job.tsx';
import { stageById } from '../stages/registry.ts';
import { useActions, useDocument, usePart, useSession, useViewport, useWorkspace } from '../workspace/context.ts';
import { Corner } from './corner.tsx';
import { BrushCircle } from './brush-circle.tsx';
import { Handles } from './handles.tsx';
import { PictureBar } from './picture-bar.tsx';
import { CompareCorner, Legend, SoloCorner, Thumbnail } from './looking.tsx';
import { Samplers } from './samplers.tsx';
import { useHeldTool, useTool } from './use-tool.ts';

const PAN_STEP = 60;

export function PictureView({ stage, host }: { stage: StageId; host: CommandHost }) {
  const isEmpty = usePart(({ sources }) => sources.length === 0);
  const compare = useSession((state) => state.compare);
  const lookAt = useSession((state) => state.lookAt);
  const viewed = useSession(({ viewedSourceId, document }) => (viewedSourceId === null ? null : findSource(document, viewedSourceId)));
  const { pointsAtMaterials, Overlay } = stageById[stage];
  const tool = useHeldTool(stage);
  const isPlain = compare === 'off' && !viewed && !lookAt;
  return (
    <section aria-label="Picture" data-drop="picture" className="flex min-h-0 min-w-0 flex-1 flex-col">
      <PictureBar host={host} />
      <div className="relative min-h-0 flex-1 bg-field">
        <Canvas stage={stage} />
        {pointsAtMaterials && tool.id === 'select' && <HoverName />}
        {isPlain && Overlay && <Overlay />}
        {(isPlain || pointsAtMaterials) && <StageHandles stage={stage} own={tool.handles} />}
        {tool.cursor === 'none' && <BrushCircle />}
        {compare === 'wipe' && <WipeHandle />}
        {compare !== 'off' && <CompareCorner compare={compare} />}
        {viewed ? <ElementCorner key={viewed.id} source={viewed} /> : lookAt && <Corner>{lookAt.label}</Corner>}
        {isPlain && <MaskCorner />}
        <Legend />
        <Samplers />
        <Thumbnail />
        <SoloCorner />
        <FirstJob stage={stage} />
        {isEmpty && <p className="pointer-events-none absolute inset-0 grid place-items-center text-white">Drop the files of a render here.</p>}
      </div>
    </section>
  );
}

/** A picture that is looked at and pointed into; its name says which keys it takes. */
function Canvas({ stage }: { stage: StageId }) {
  const { viewport, pointer, session } = useWorkspace();
  const canvas = useRef<HTMLCanvasElement>(null);
  const name = usePart((document) => document.name);
  const settled = useViewport((state) => state.settled);
  const { pointsAtMaterials } = stageById[stage];
  const { tool, isMoving, on } = useTool(stage);

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
  // What was held in one stage is put away in the next, unless it is known there.
  useEffect(() => session.actions.set({ hoveredMaterialId: null, tool: toolById(session.getState().tool).stages?.includes(stage) ? session.getState().tool : 'select', cameraLines: null }), [stage, session]);

  const hover = (event: PointerEvent<HTMLCanvasElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const at = { x: event.clientX - box.left, y: event.clientY - box.top };
    viewport.lensAt(at);
    const place = viewport.pointAt(at.x, at.y);
    pointer.move(viewport.pixelOf(place), viewport.pixelOf(viewport.placeBehind(place)), at, viewport.level);
    if (!pointsAtMaterials) return;
    const hovered = tool.id === 'select' ? (pointer.getState().material?.id ?? null) : null;
    if (hovered !== session.getState().hoveredMaterialId) session.actions.set({ hoveredMaterialId: hovered });
  };
  const cursor = isMoving ? 'cursor-grabbing' : tool.cursor === 'none' ? 'cursor-none' : pointsAtMaterials || tool.cursor === 'crosshair' ? 'cursor-crosshair' : 'cursor-default';
  return (
    // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: the canvas takes keys of its own
    <canvas
      ref={canvas}
      role="application"
      aria-label={`The picture of ${name}. Arrow keys move it, plus and minus zoom.`}
      tabIndex={0}
      data-testid="picture"
      data-settled={settled}
      className={`absolute inset-0 h-full w-full touch-none -outline-offset-2 ${cursor}`}
      {...on}
      onPointerMove={(event) => {
        on.onPointerMove?.(event);
        hover(event);
      }}
      onPointerLeave={() => {
        viewport.lensAt(null);
        pointer.move(null, null, null, 0);
        session.actions.set({ hoveredMaterialId: null });
      }}
      onKeyDown={(event) => {
        // Up and down go from element to element while one is looked at.
        if (session.getState().viewedSourceId !== null && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) return;
        const by = { ArrowLeft: [PAN_STEP, 0], ArrowRight: [-PAN_STEP, 0], ArrowUp: [0, PAN_STEP], ArrowDown: [0, -PAN_STEP] }[event.key];
        if (!by) return;
        event.preventDefault();
        viewport.panBy(by[0], by[1]);
      }}
    />
  );
}

/** The handles of the tool that is held, or of the stage. */
function StageHandles({ stage, own }: { stage: StageId; own: Tool['handles'] }) {
  const { session } = useWorkspace();
  const make = own ?? stageById[stage].handles;
  // Selection and document decide which there are: where there were none and are none, nothing is drawn.
  useSession((state) => (make(session) === null ? null : state));
  const set = make(session);
  return set && <Handles key={set.key} set={set} />;
}

/** Which element is looked at, in which range, or why nothing is seen of it. */
function ElementCorner({ source }: { source: Source }) {
  const { session } = useWorkspace();
  const document = useDocument();
  const look = useSession((state) => state.elementLook);
  const { data } = useAnswer(questions.look(document, source));
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
  // Selection and document decide what is shown; the viewport knows how.
  const isMissing = useSession((state) => state.maskDisplay !== 'off' && viewport.shownMask === null);
  return isMissing ? <Corner>No mask here: select a masked layer, a mask or a material</Corner> : null;
}

const MODE_SIGNS: Readonly<Record<SelectMode, string>> = { only: '', add: '+', remove: '−', toggle: '±' };

/** Which way a click would select just now. */
function useSelectMode(): SelectMode {
  const [mode, setMode] = useState<SelectMode>('only');
  useEffect(() => {
    const follow = (event: KeyboardEvent) => setMode(modeOf({ shift: event.shiftKey, alt: event.altKey, control: event.ctrlKey || event.metaKey }));
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
