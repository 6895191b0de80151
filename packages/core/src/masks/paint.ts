import { digest } from '../digest.ts';
import { type Size, sizeAtLevel } from '../raster/region.ts';
import { flag } from '../params/flag.ts';
import { type Stroke, strokes } from '../params/strokes.ts';
import { defineTerm } from './define.ts';

/** Coverage of a dab at a distance from its centre, both in radii: full up to the hardness, a smooth fall to the rim. */
export function dabCoverage(radii: number, hardness: number): number {
  if (radii >= 1) return 0;
  if (radii <= hardness) return 1;
  const t = (1 - radii) / (1 - hardness);
  return t * t * (3 - 2 * t);
}

/** Where the dabs of a stroke lie: along its path, a share of the diameter apart. Pressure makes them smaller and fainter. */
export function dabsOf({ path, sizePx, spacing }: Stroke): { x: number; y: number; pressure: number }[] {
  const dabs: { x: number; y: number; pressure: number }[] = [];
  if (path.length < 3) return dabs;
  const step = Math.max(0.5, sizePx * Math.max(0.02, spacing), lengthOf(path) / MOST_DABS);
  dabs.push({ x: path[0], y: path[1], pressure: path[2] });
  let left = step;
  for (let i = 3; i + 2 < path.length; i += 3) {
    const [x0, y0, p0, x1, y1, p1] = path.slice(i - 3, i + 3);
    const length = Math.hypot(x1 - x0, y1 - y0);
    let at = left;
    while (at <= length) {
      const t = at / length;
      dabs.push({ x: x0 + t * (x1 - x0), y: y0 + t * (y1 - y0), pressure: p0 + t * (p1 - p0) });
      at += step;
    }
    left = at - length;
  }
  return dabs;
}

/** More dabs than a hand makes: a path that runs far beyond the picture and back gets them further apart. */
const MOST_DABS = 500_000;

function lengthOf(path: readonly number[]): number {
  let length = 0;
  for (let i = 3; i + 2 < path.length; i += 3) length += Math.hypot(path[i] - path[i - 3], path[i + 1] - path[i - 2]);
  return length;
}

/** How far around its path a stroke reaches, in pixels of the full picture: left, top, right, bottom. */
export function strokeBounds({ path, sizePx }: Stroke): [number, number, number, number] {
  const bounds: [number, number, number, number] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (let i = 0; i + 2 < path.length; i += 3) {
    bounds[0] = Math.min(bounds[0], path[i] - sizePx / 2);
    bounds[1] = Math.min(bounds[1], path[i + 1] - sizePx / 2);
    bounds[2] = Math.max(bounds[2], path[i] + sizePx / 2);
    bounds[3] = Math.max(bounds[3], path[i + 1] + sizePx / 2);
  }
  return bounds;
}

/**
 * One stroke on a plane of coverage, in place. Dabs add up within the stroke up to its opacity; the stroke is then laid over what
 * was there, or taken away from it.
 *
 * @param plane width × height, 0…1, at a level
 */
export function paintStroke(plane: Float32Array, width: number, height: number, stroke: Stroke, level: number): void {
  const scale = 1 / 2 ** level;
  const bounds = strokeBounds(stroke);
  const [left, top] = [Math.max(0, Math.floor(bounds[0] * scale) - 1), Math.max(0, Math.floor(bounds[1] * scale) - 1)];
  const [right, bottom] = [Math.min(width, Math.ceil(bounds[2] * scale) + 1), Math.min(height, Math.ceil(bounds[3] * scale) + 1)];
  if (right <= left || bottom <= top) return;
  const own = new Float32Array((right - left) * (bottom - top));
  for (const { x, y, pressure } of dabsOf(stroke)) {
    // Half a pixel at least: a thinner brush paints fainter, not nothing.
    const radius = Math.max(0.5, (stroke.sizePx / 2) * scale * (0.3 + 0.7 * pressure));
    const flow = stroke.flow * pressure * Math.min(1, (stroke.sizePx / 2) * scale * 2);
    const [cx, cy] = [x * scale, y * scale];
    for (let py = Math.max(top, Math.floor(cy - radius)); py < Math.min(bottom, cy + radius + 1); py++) {
      for (let px = Math.max(left, Math.floor(cx - radius)); px < Math.min(right, cx + radius + 1); px++) {
        // The rim of a hard brush is a pixel wide.
        const away = Math.hypot(px + 0.5 - cx, py + 0.5 - cy);
        const coverage = stroke.hardness >= 1 ? Math.min(1, Math.max(0, radius - away + 0.5)) : dabCoverage(away / radius, stroke.hardness);
        if (coverage === 0) continue;
        const i = (py - top) * (right - left) + px - left;
        own[i] += (1 - own[i]) * flow * coverage;
      }
    }
  }
  for (let py = top; py < bottom; py++) {
    for (let px = left; px < right; px++) {
      const painted = own[(py - top) * (right - left) + px - left] * stroke.opacity;
      const i = py * width + px;
      plane[i] = stroke.erase ? plane[i] * (1 - painted) : plane[i] + (1 - plane[i]) * painted;
    }
  }
}

/**
 * Strokes painted one after the other on a plane of a picture's size at a level: on what was there before them, or on an empty (or filled) one.
 * Painting some now and the rest later gives the same numbers.
 *
 * @param base width × height, 0…1; it is not changed
 */
export function paintedPlane(strokes: readonly Stroke[], filled: boolean, size: Size, level: number, base: Float32Array | null, allocate: (byteLength: number) => ArrayBufferLike = (bytes) => new ArrayBuffer(bytes)): Float32Array {
  const plane = new Float32Array(allocate(size.width * size.height * 4));
  if (base) plane.set(base);
  else if (filled) plane.fill(1);
  for (const stroke of strokes) paintStroke(plane, size.width, size.height, stroke, level);
  return plane;
}

const keysOfStrokes = new WeakMap<readonly Stroke[], Map<string, readonly string[]>>();
const keyOfStroke = new WeakMap<Stroke, string>();

/** The identity of a stroke: strokes are long and never change. */
export function strokeKey(stroke: Stroke): string {
  const known = keyOfStroke.get(stroke) ?? digest(JSON.stringify(stroke));
  keyOfStroke.set(stroke, known);
  return known;
}

/** The identity of what is painted after none of the strokes, after the first, and so on, on something that `begin` names. */
export function paintKeys(strokes: readonly Stroke[], begin: string): readonly string[] {
  const known = keysOfStrokes.get(strokes) ?? new Map<string, readonly string[]>();
  keysOfStrokes.set(strokes, known);
  let keys = known.get(begin);
  if (!keys) {
    const made = [digest(begin)];
    for (const stroke of strokes) made.push(digest(made[made.length - 1] + strokeKey(stroke)));
    keys = made;
    known.set(begin, keys);
  }
  return keys;
}

/** Painted by hand; strokes are kept as strokes. */
export const paint = defineTerm({
  id: 'paint',
  label: 'Paint',
  summary: 'Painted by hand with a brush; every stroke stays one and can be taken back.',
  params: {
    filled: flag({ label: 'Filled', default: false, help: 'Whether everything is painted over to begin with.' }),
    strokes: strokes({ label: 'Strokes', help: 'Painted on the picture.' }),
  },
  reads: null,
  areShares: false,
  isSmooth: true,
  needs: () => [],
  problem: (values) => (values.strokes.length === 0 && !values.filled ? 'Nothing is painted yet. Choose the brush and paint on the picture.' : null),
  prepare: (values, inputs) => {
    const size = sizeAtLevel(inputs.size, inputs.level);
    const plane = paintedPlane(values.strokes, values.filled, size, inputs.level, null);
    return (y, out) => out.set(plane.subarray(y * size.width, (y + 1) * size.width));
  },
  source: 'common practice, no published source',
});
