/**
 * Ray queries without allocation. The kernel finds the triangle in single precision; where exactly it is met is worked out
 * again in double precision, so that places far from the origin stay sharp.
 * @source Möller, Trumbore 1997
 */
import { RayKernel } from '@tazzel/kernels';
import type { TriangleTree } from './bvh.ts';

export class RayQueries {
  readonly tree: TriangleTree;
  /** Distance along the ray, in lengths of its direction. */
  t = 0;
  triangle = -1;
  /** Weights of corners 1 and 2 in the hit. */
  u = 0;
  v = 0;
  readonly #kernel: RayKernel;

  /** @param module the compiled kernels */
  constructor(tree: TriangleTree, module: WebAssembly.Module) {
    this.tree = tree;
    this.#kernel = new RayKernel(module, tree.nodes, tree.blocks);
  }

  /** The first hit between `near` and `far`; false if there is none. Triangles have two sides. */
  nearest(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, near: number, far: number): boolean {
    const triangle = this.#kernel.nearest(ox, oy, oz, dx, dy, dz, near, far);
    if (triangle < 0) return false;
    const { triangles } = this.tree;
    const at = triangle * 9;
    const [e1x, e1y, e1z] = [triangles[at + 3], triangles[at + 4], triangles[at + 5]];
    const [e2x, e2y, e2z] = [triangles[at + 6], triangles[at + 7], triangles[at + 8]];
    const px = dy * e2z - dz * e2y;
    const py = dz * e2x - dx * e2z;
    const pz = dx * e2y - dy * e2x;
    const inverse = 1 / (e1x * px + e1y * py + e1z * pz);
    const tx = ox - triangles[at];
    const ty = oy - triangles[at + 1];
    const tz = oz - triangles[at + 2];
    const qx = ty * e1z - tz * e1y;
    const qy = tz * e1x - tx * e1z;
    const qz = tx * e1y - ty * e1x;
    this.triangle = triangle;
    this.u = (tx * px + ty * py + tz * pz) * inverse;
    this.v = (dx * qx + dy * qy + dz * qz) * inverse;
    this.t = (e2x * qx + e2y * qy + e2z * qz) * inverse;
    return true;
  }

  /**
   * Whether light can travel from `near` to `far`. `pass` is called for each triangle on the way that may let light through,
   * in no order; false ends the walk.
   */
  passage(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, near: number, far: number, pass: (triangle: number) => boolean): boolean {
    const count = this.#kernel.passage(ox, oy, oz, dx, dy, dz, near, far);
    if (count < 0) return false;
    for (let i = 0; i < count; i++) if (!pass(this.#kernel.passed[i])) return false;
    return true;
  }
}
