/** The lines from which the camera is found: two pairs of edges, drawn over those of the building. */
import { type Camera, camera, cameraFromLines, cameraOf, CoreError, defaultsOf, type Edge, horizonAt, type Point, type Size, vanishingPoint, viewOfCamera, withHorizon } from '@tazzel/core';
import type { CameraLines, SessionStore } from '../session.ts';
import { type Handle, type HandleSet, linePath } from './define.ts';

/** Where lines lie before they are drawn: as a camera sees two walls that are square to each other, or as usual cameras do. */
export function firstLines({ width, height }: Size, known: Camera | null): CameraLines {
  const view = viewOfCamera(known ?? usual, { width, height });
  const horizon = horizonAt(view, width / 2);
  const middle = Number.isFinite(horizon) ? Math.min(0.7, Math.max(0.3, horizon / height)) * height : height / 2;
  const heading = ((known ?? usual).headingDegrees * Math.PI) / 180;
  // Edges lie on straight lines through the point where all of their direction vanish.
  const edges = (turn: number, from: number, to: number): readonly [Edge, Edge] => {
    const [vx, vy] = vanishingPoint(view, [Math.sin(heading + turn), 0, -Math.cos(heading + turn)]) ?? [turn < 0 ? -width : 2 * width, middle];
    const edge = (off: number): Edge => {
      const start: Point = [from * width, middle + off * height];
      const along = (to * width - start[0]) / (vx - start[0]);
      return [start, [to * width, start[1] + along * (vy - start[1])]];
    };
    return [edge(-0.22), edge(0.22)];
  };
  return { first: edges(-Math.PI / 4, 0.45, 0.12), second: edges(Math.PI / 4, 0.55, 0.88), isUpright: Math.abs((known ?? usual).tiltDegrees) < 0.01 };
}

const usual = defaultsOf(camera) as unknown as Camera;
const knownCamera = (session: SessionStore): Camera | null => {
  const known = session.getState().document.camera;
  return known && cameraOf(known);
};

const NAMES = ['First pair, upper edge', 'First pair, lower edge', 'Second pair, upper edge', 'Second pair, lower edge'];

const edgesOf = ({ first, second }: CameraLines): readonly Edge[] => [...first, ...second];

/** The camera that lines describe, or the sentence that says why none does. */
export function cameraOfLines(session: SessionStore, lines: CameraLines): Camera | string {
  const { document } = session.getState();
  try {
    return cameraFromLines(lines, document.size, knownCamera(session) ?? usual);
  } catch (error) {
    if (error instanceof CoreError) return error.message;
    throw error;
  }
}

/** Other lines, and the camera that follows from them as one step of the history. */
export function setLines(session: SessionStore, lines: CameraLines, gesture?: string): void {
  session.actions.set({ cameraLines: lines });
  const found = cameraOfLines(session, lines);
  if (typeof found !== 'string') session.actions.edit({ type: 'set-camera', params: { ...found }, from: 'lines' }, gesture);
}

export function lineHandles(session: SessionStore): HandleSet | null {
  const { cameraLines, document } = session.getState();
  if (!cameraLines) return null;
  const edges = edgesOf(cameraLines);
  const horizon = horizonLine(session)?.[1] ?? null;
  const ends = edges.flatMap((edge, i) => edge.map((at, end): Handle => ({ label: `${NAMES[i]}, ${end === 0 ? 'one end' : 'other end'}`, at, look: i < 2 ? 'square' : 'round' })));
  return {
    key: 'camera lines',
    label: 'Lines of the camera',
    handles: [...ends, ...(horizon ? [{ label: 'Horizon', at: horizon, look: 'square' as const }] : [])],
    outline: (places) => edges.map((_, i) => linePath([places[i * 2], places[i * 2 + 1]])).join(''),
    move: (handle, to, gesture) => {
      if (handle === ends.length) return setHorizon(session, to[1], gesture);
      const next = edges.map((edge, i) => (i === handle >> 1 ? (edge.with(handle & 1, to) as unknown as Edge) : edge));
      setLines(session, { ...cameraLines, first: [next[0], next[1]], second: [next[2], next[3]] }, `${document.id} ${gesture}`);
    },
  };
}

/** The horizon at a height of the picture; the lines follow. */
function setHorizon(session: SessionStore, y: number, gesture: string): void {
  const { document, cameraLines } = session.getState();
  const isUpright = cameraLines?.isUpright ?? true;
  const moved = withHorizon(knownCamera(session) ?? usual, document.size, y, isUpright);
  if (session.actions.edit({ type: 'set-camera', params: { ...moved }, from: 'lines' }, `${document.id} ${gesture}`)) session.actions.set({ cameraLines: { ...firstLines(document.size, moved), isUpright } });
}

/** Where the horizon crosses the sides of the picture; null without a camera, or where it has none. */
export function horizonLine(session: SessionStore): readonly [Point, Point] | null {
  const { document } = session.getState();
  if (!document.camera) return null;
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const [left, right] = [horizonAt(view, 0), horizonAt(view, document.size.width)];
  return Number.isFinite(left) && Number.isFinite(right) ? [[0, left], [document.size.width, right]] : null;
}
