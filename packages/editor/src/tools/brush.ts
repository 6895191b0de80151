import { LIMITS, type Point, type Stroke, strokesOf, withinCoordinates } from '@tazzel/core';
import { openTerm } from '../session.ts';
import { type Gesture, panning, type PointerAt, type Tool, type ToolHost } from './define.ts';

/** Points nearer than this to the one before add nothing. */
const LEAST_MOVE_PX = 0.5;
/** A stroke that is still painted is handed over for storing this often. */
const KEEP_MS = 200;

/** Where the last stroke ended, by session: with Shift a click goes on from there. */
const lastPlaces = new WeakMap<object, Point>();

/** One stroke: shown while it is painted, one edit when it is done, handed over for storing as it grows. */
function painting(host: ToolHost, from: PointerAt): Gesture {
  const { session } = host;
  const { brush, maskDisplay } = session.getState();
  const path: number[] = [];
  const stroke: Stroke = { erase: brush.erase !== from.alt, sizePx: brush.sizePx, hardness: brush.hardness, opacity: brush.opacity, flow: brush.flow, spacing: brush.spacing, path };
  let keptAt = from.time;
  const edit = () => {
    const open = openTerm(session.getState());
    return open && { type: 'add-stroke' as const, maskId: open.maskId, termId: open.term.id, stroke: { ...stroke, path: [...path] } };
  };
  const add = ([x, y]: Point, pressure: number) => {
    const n = path.length;
    // A stroke that is full ends by itself: what follows would be lost.
    if (n + 3 > LIMITS.strokeNumbers) return;
    if (n >= 3 && Math.hypot(x - path[n - 3], y - path[n - 2]) < LEAST_MOVE_PX) return;
    path.push(Math.round(withinCoordinates(x) * 10) / 10, Math.round(withinCoordinates(y) * 10) / 10, Math.round(pressure * 100) / 100);
  };
  const done = (isKept: boolean) => {
    host.endStroke(isKept);
    session.actions.set({ unfinished: null });
  };
  if (maskDisplay === 'off') session.actions.set({ maskDisplay: 'hatch' });
  const last = lastPlaces.get(session);
  if (from.shift && last) add(last, from.pressure);
  add(host.placeBehind(from.at), from.pressure);
  host.previewStroke(stroke);
  return {
    move: (places) => {
      for (const { at, pressure } of places) add(host.placeBehind(at), pressure);
      host.previewStroke(stroke);
      const { time } = places[places.length - 1];
      const unfinished = time - keptAt < KEEP_MS ? null : edit();
      if (!unfinished) return;
      keptAt = time;
      session.actions.set({ unfinished });
    },
    release: () => {
      lastPlaces.set(session, [path[path.length - 3], path[path.length - 2]]);
      const finished = edit();
      done(finished !== null && session.actions.edit(finished));
    },
    cancel: () => done(false),
  };
}

export const brush: Tool = {
  id: 'brush',
  label: 'Paint',
  cursor: 'none',
  stages: ['surfaces'],
  press: (host, place) => (isPainted(host) ? painting(host, place) : panning(host, place)),
};

const isPainted = ({ session }: ToolHost): boolean => {
  const open = openTerm(session.getState());
  return open !== null && strokesOf(open.term) !== null;
};
