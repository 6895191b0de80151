/** Building parts as shapes: walls with openings, glazed bays, tilted slabs. */
import type { Shape, Triple } from '../model.ts';

export const box = (x0: number, y0: number, z0: number, x1: number, y1: number, z1: number): Shape => ({ kind: 'box', min: [Math.min(x0, x1), Math.min(y0, y1), Math.min(z0, z1)], max: [Math.max(x0, x1), Math.max(y0, y1), Math.max(z0, z1)] });
export const rod = (from: Triple, to: Triple, radius: number, sides = 10, endRadius = radius): Shape => ({ kind: 'cylinder', from, to, radius, endRadius, sides });

const plus = (...all: readonly Triple[]): Triple => [0, 1, 2].map((c) => all.reduce((sum, one) => sum + one[c], 0)) as unknown as Triple;
const times = (a: Triple, by: number): Triple => [a[0] * by, a[1] * by, a[2] * by];

/** A box that leans: a corner and three edges. */
export function slab(corner: Triple, u: Triple, v: Triple, w: Triple): Shape {
  const zero: Triple = [0, 0, 0];
  const corners = Array.from({ length: 8 }, (_, i) => plus(corner, i & 1 ? u : zero, i & 2 ? v : zero, i & 4 ? w : zero));
  const det = u[0] * (v[1] * w[2] - v[2] * w[1]) - u[1] * (v[0] * w[2] - v[2] * w[0]) + u[2] * (v[0] * w[1] - v[1] * w[0]);
  const faces = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 4, 6, 2], [1, 3, 7, 5], [0, 1, 5, 4], [2, 6, 7, 3]].map((face) => (det < 0 ? face.toReversed() : face));
  return { kind: 'mesh', positions: corners.flat(), indices: faces.flatMap(([a, b, c, d]) => [a, b, c, a, c, d]) };
}

/** A convex outline (x, y), anticlockwise seen from +z, as a body from z0 to z1. */
export function prism(outline: readonly (readonly [number, number])[], z0: number, z1: number): Shape {
  const n = outline.length;
  const positions = [z0, z1].flatMap((z) => outline.flatMap(([x, y]) => [x, y, z]));
  const indices: number[] = [];
  for (let i = 1; i + 1 < n; i++) indices.push(n, n + i, n + i + 1, 0, i + 1, i);
  for (let i = 0; i < n; i++) {
    const k = (i + 1) % n;
    indices.push(i, k, n + k, i, n + k, n + i);
  }
  return { kind: 'mesh', positions, indices };
}

export interface Opening {
  readonly from: number;
  readonly to: number;
  readonly low: number;
  readonly high: number;
}

/** A straight wall along x or z, in upright pieces around its openings. `near` and `far` are its two faces. */
export function wall(along: 'x' | 'z', from: number, to: number, near: number, far: number, low: number, high: number, openings: readonly Opening[] = []): Shape[] {
  const piece = (a: number, b: number, y0: number, y1: number): Shape[] => (b - a < 1e-6 || y1 - y0 < 1e-6 ? [] : [along === 'x' ? box(a, y0, near, b, y1, far) : box(near, y0, a, far, y1, b)]);
  const sorted = [...openings].sort((a, b) => a.from - b.from);
  let at = from;
  const pieces: Shape[] = [];
  for (const opening of sorted) {
    pieces.push(...piece(at, opening.from, low, high), ...piece(opening.from, opening.to, low, opening.low), ...piece(opening.from, opening.to, opening.high, high));
    at = opening.to;
  }
  return [...pieces, ...piece(at, to, low, high)];
}

/** Frame and bars of a window in an opening; its pane lies in the middle of the frame. */
export function glazing(along: 'x' | 'z', at: number, { from, to, low, high }: Opening, columns: number, rows: readonly number[], frame = 0.06): { bars: Shape[]; pane: Shape } {
  const depth = 0.05;
  const bar = (a: number, b: number, y0: number, y1: number): Shape => (along === 'x' ? box(a, y0, at - depth, b, y1, at + depth) : box(at - depth, y0, a, at + depth, y1, b));
  const bars = [bar(from, from + frame, low, high), bar(to - frame, to, low, high), bar(from + frame, to - frame, low, low + frame), bar(from + frame, to - frame, high - frame, high)];
  for (let i = 1; i < columns; i++) {
    const x = from + ((to - from) * i) / columns;
    bars.push(bar(x - frame * 0.35, x + frame * 0.35, low + frame, high - frame));
  }
  for (const y of rows) bars.push(bar(from + frame, to - frame, y - frame * 0.35, y + frame * 0.35));
  const pane: Shape = along === 'x' ? { kind: 'quad', corner: [from, low, at], u: [to - from, 0, 0], v: [0, high - low, 0] } : { kind: 'quad', corner: [at, low, to], u: [0, 0, from - to], v: [0, high - low, 0] };
  return { bars, pane };
}

/** A pitched roof plane from its eaves to its ridge, with upstanding seams across. */
export function roofPlane(eaves: Triple, along: Triple, up: Triple, thick: number, seamMetres: number): Shape[] {
  const size = (a: Triple) => Math.hypot(...a);
  const normal: Triple = [along[1] * up[2] - along[2] * up[1], along[2] * up[0] - along[0] * up[2], along[0] * up[1] - along[1] * up[0]];
  const away = times(normal, (normal[1] < 0 ? -1 : 1) / size(normal));
  const seams = Math.round(size(along) / seamMetres);
  const width = times(along, 0.018 / size(along));
  const shapes = [slab(eaves, along, up, times(away, thick))];
  for (let i = 0; i <= seams; i++) shapes.push(slab(plus(eaves, times(along, Math.min(i / seams, 1 - 0.018 / size(along))), times(away, thick)), width, up, times(away, 0.035)));
  return shapes;
}
