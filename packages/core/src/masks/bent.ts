/** Coverage over a picture that was bent since: it goes along. */
import { type Bend, placeBehind } from '../raster/bend.ts';
import type { Plane } from '../raster/planes.ts';

/** Places are bent this far from one another, and in between lie on straight lines: no lens bends them by a hundredth of a pixel there. */
const MESH = 8;
/** A plane of coverage at a level, as it lies once the picture is bent. Beyond it its outermost pixels go on. */
export function bentCoverage(plane: Plane, bends: readonly Bend[], level: number): Plane {
  const { width, height, data } = plane;
  const scale = 2 ** level;
  const [across, down] = [Math.ceil(width / MESH) + 1, Math.ceil(height / MESH) + 1];
  const mesh = Array.from({ length: across * down }, (_, i) => placeBehind(bends, [((i % across) * MESH + 0.5) * scale, (Math.floor(i / across) * MESH + 0.5) * scale]));
  const [u, v] = [0, 1].map((axis) => Float64Array.from(mesh, (place) => place[axis] / scale - 0.5));
  const out = plane.type === 'u8' ? new Uint8Array(width * height) : new Uint16Array(width * height);
  for (let y = 0, i = 0; y < height; y++) {
    const fy = (y % MESH) / MESH;
    for (let x = 0; x < width; x++, i++) {
      const fx = (x % MESH) / MESH;
      const k = Math.floor(y / MESH) * across + Math.floor(x / MESH);
      const between = (of: Float64Array) => (of[k] * (1 - fx) + of[k + 1] * fx) * (1 - fy) + (of[k + across] * (1 - fx) + of[k + across + 1] * fx) * fy;
      const [px, py] = [Math.min(width - 1, Math.max(0, between(u))), Math.min(height - 1, Math.max(0, between(v)))];
      const [left, top] = [Math.floor(px), Math.floor(py)];
      const [wx, wy] = [px - left, py - top];
      const right = left + 1 < width ? 1 : 0;
      const below = top + 1 < height ? width : 0;
      const at = top * width + left;
      out[i] = (data[at] * (1 - wx) + data[at + right] * wx) * (1 - wy) + (data[at + below] * (1 - wx) + data[at + below + right] * wx) * wy + 0.5;
    }
  }
  return { ...plane, data: out };
}
