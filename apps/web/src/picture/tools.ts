/** What a press on the picture does besides selecting: painting strokes, picking values for a term. */
import { chainOf, completeParams, correctionById, type CurvePoint, enteringDocument, findLayer, findMask, isCorrectionId, LIMITS, luminosityOf, monotoneCurve, type MaskTerm, type Point, sourceOf, srgbDecode, srgbEncode, type Stroke, termSpec, withinCoordinates } from '@tazzel/core';
import { type PointerEvent, useRef } from 'react';
import { withPoint } from '../fields/curve-fields.tsx';
import type { Workspace } from '../workspace/context.ts';

/** The line of the shown mask that is open. */
export function openTerm({ session }: Pick<Workspace, 'session'>): { maskId: string; index: number; term: MaskTerm } | null {
  const { document, maskSubject, termIndex } = session.getState();
  if (maskSubject.kind !== 'mask' || termIndex === null) return null;
  const term = findMask(document, maskSubject.maskId)?.terms[termIndex];
  return term ? { maskId: maskSubject.maskId, index: termIndex, term } : null;
}

/** A mouse has no pressure and says a half; it paints with all of it. */
const pressureOf = (event: { pointerType: string; pressure: number }) => (event.pointerType === 'mouse' || event.pressure === 0 ? 1 : event.pressure);
/** Points nearer than this to the one before add nothing. */
const LEAST_MOVE_PX = 0.5;

export interface Painting {
  begin(event: PointerEvent<HTMLCanvasElement>, at: { x: number; y: number }): void;
  go(event: globalThis.PointerEvent, canvas: HTMLElement): void;
  end(): void;
  cancel(): void;
  isPainting(): boolean;
}

/** A stroke that is still painted is handed over for storing this often. */
const KEEP_MS = 200;

/** Strokes of the brush: shown while they are painted, one edit each when they are done, stored as they grow. */
export function usePainting({ session, viewport }: Workspace): Painting {
  const stroke = useRef<{ stroke: Stroke; path: number[]; keptAt: number } | null>(null);
  const last = useRef<Point | null>(null);
  const editOf = ({ stroke: { path, ...brush } }: { stroke: Stroke }, { maskId, index }: { maskId: string; index: number }) => ({ type: 'add-stroke' as const, maskId, index, stroke: { ...brush, path: [...path] } });
  const keep = (now: number) => {
    const open = openTerm({ session });
    if (!stroke.current || !open || now - stroke.current.keptAt < KEEP_MS) return;
    stroke.current.keptAt = now;
    session.actions.set({ unfinished: editOf(stroke.current, open) });
  };
  const add = ([x, y]: Point, pressure: number) => {
    const { path } = stroke.current as { path: number[] };
    const n = path.length;
    // A stroke that is full ends by itself: what follows would be lost.
    if (n + 3 > LIMITS.strokeNumbers) return;
    if (n >= 3 && Math.hypot(x - path[n - 3], y - path[n - 2]) < LEAST_MOVE_PX) return;
    path.push(Math.round(withinCoordinates(x) * 10) / 10, Math.round(withinCoordinates(y) * 10) / 10, Math.round(pressure * 100) / 100);
  };
  return {
    isPainting: () => stroke.current !== null,
    begin: (event, at) => {
      const { brush, maskDisplay } = session.getState();
      if (openTerm({ session })?.term.kind !== 'paint') return;
      if (maskDisplay === 'off') session.actions.set({ maskDisplay: 'hatch' });
      const path: number[] = [];
      stroke.current = { path, keptAt: event.timeStamp, stroke: { erase: brush.erase !== event.altKey, sizePx: brush.sizePx, hardness: brush.hardness, opacity: brush.opacity, flow: brush.flow, spacing: brush.spacing, path } };
      if (event.shiftKey && last.current) add(last.current, pressureOf(event));
      add(viewport.pointAt(at.x, at.y), pressureOf(event));
      viewport.previewStroke(stroke.current.stroke);
    },
    go: (event, canvas) => {
      if (!stroke.current) return;
      const box = canvas.getBoundingClientRect();
      const all = event.getCoalescedEvents?.() ?? [];
      for (const each of all.length > 0 ? all : [event]) add(viewport.pointAt(each.clientX - box.left, each.clientY - box.top), pressureOf(each));
      viewport.previewStroke(stroke.current.stroke);
      keep(event.timeStamp);
    },
    end: () => {
      const open = openTerm({ session });
      const done = stroke.current;
      stroke.current = null;
      if (!done || !open) {
        session.actions.set({ unfinished: null });
        return viewport.endStroke(false);
      }
      const { path } = done;
      last.current = [path[path.length - 3], path[path.length - 2]];
      viewport.endStroke(session.actions.edit(editOf(done, open)));
      session.actions.set({ unfinished: null });
    },
    cancel: () => {
      if (stroke.current) viewport.endStroke(false);
      stroke.current = null;
      session.actions.set({ unfinished: null });
    },
  };
}

/** Takes what lies at a pixel as the colour, the direction or the depth of the open term. */
export async function pickForTerm({ engine, session }: Workspace, pixel: { x: number; y: number } | null): Promise<void> {
  const open = openTerm({ session });
  if (!pixel || !open || !('sourceId' in open.term)) return;
  const { document } = session.getState();
  const { term } = open;
  const source = term.layerId === null ? sourceOf(term, document, termSpec(term.kind).reads?.roles ?? []) : null;
  const values = source ? await engine.valuesAt(source, pixel.x, pixel.y) : null;
  const params = { ...term.params };
  if (term.kind === 'colour') {
    const codes = source && values ? [0, 1, 2].map((c) => values[Math.min(c, values.length - 1)]).map((v) => (source.encoding === 'linear' ? srgbEncode(v) : v) * 255) : (await engine.probe(document, pixel.x, pixel.y, 0)).codes;
    const color = codes.slice(0, 3).map((code) => srgbDecode(Math.min(255, Math.max(0, Math.round(code))) / 255));
    Object.assign(params, { color, at: [pixel.x, pixel.y] });
  } else if (term.kind === 'facing' && values && Math.hypot(...values) > 0.2) {
    const length = Math.hypot(...values);
    Object.assign(params, { direction: values.map((v) => Math.round((v / length) * 1000) / 1000) });
  } else if (term.kind === 'depth' && values) {
    const { nearMetres, farMetres } = completeParams(termSpec(term.kind), term.params) as { nearMetres: number; farMetres: number };
    const half = (farMetres - nearMetres) / 2;
    Object.assign(params, { nearMetres: Math.max(0, values[0] - half), farMetres: values[0] + half });
  } else return;
  session.actions.edit({ type: 'set-term', maskId: open.maskId, index: open.index, term: { ...term, params } });
  session.actions.set({ tool: 'select' });
}

/** Sets a point of the open curve at the value that a pixel brings to its correction. */
export async function pointOfCurve({ engine, session }: Workspace, pixel: { x: number; y: number } | null): Promise<void> {
  const { document, selectedLayerId, selectedCorrectionId, openCurve } = session.getState();
  const layer = selectedLayerId ? findLayer(document, selectedLayerId)?.layer : null;
  const link = layer ? chainOf(layer).find(({ id }) => id === selectedCorrectionId) : undefined;
  const use = link ?? (layer?.kind === 'correction' ? layer.correction : null);
  if (!pixel || !layer || !use || !isCorrectionId(use.type)) return;
  const spec = correctionById(use.type);
  const curves = Object.keys(spec.params).filter((name) => spec.params[name].kind === 'curve');
  const name = curves.includes(openCurve) ? openCurve : curves[0];
  if (!name) return;
  const { codes } = await engine.probe(enteringDocument(document, layer.id, link?.id ?? null), pixel.x, pixel.y, 0);
  const [red, green, blue] = codes.map((code) => Math.min(1, Math.max(0, code / 255)));
  const x = { red, green, blue }[name] ?? luminosityOf([red, green, blue]);
  const points = completeParams(spec, use.params)[name] as readonly CurvePoint[];
  const added = withPoint(points, x, monotoneCurve(points)(x));
  if (added) session.actions.edit({ type: 'set-params', layerId: layer.id, ...(link ? { correctionId: link.id } : {}), params: { [name]: added.points } });
}
