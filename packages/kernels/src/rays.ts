/** Rays through one tree of triangles, in memory of its own. The layout of nodes and blocks is described in assembly/rays.ts. */
import type { KernelExports } from './exports.ts';

export const RAY_NODE_BYTES = 128;
export const RAY_BLOCK_BYTES = 160;
export const RAY_BLOCKS_IN_LEAF = 7;
/** Triangles that one shadow ray can pass. */
const MOST_PASSED = 256;
/** Entries of the stack: three for each level. */
const STACK_ENTRIES = 512;
const PAGE = 65_536;

export class RayKernel {
  /** Triangles that the last shadow ray passed. */
  readonly passed: Int32Array;
  readonly #walk: KernelExports['ray_walk'];
  readonly #nodes: number;
  readonly #blocks: number;
  readonly #work: number;
  readonly #out: number;

  /** @param module compiled from kernels.wasm. Main threads of browsers refuse to build this; workers do not. */
  constructor(module: WebAssembly.Module, nodes: ArrayBufferLike, blocks: ArrayBufferLike) {
    const bytes = 1024 + STACK_ENTRIES * 8 + MOST_PASSED * 4 + nodes.byteLength + blocks.byteLength;
    const memory = new WebAssembly.Memory({ initial: 4 + Math.ceil(bytes / PAGE), maximum: 65536 });
    const exports = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as KernelExports;
    this.#walk = exports.ray_walk;
    this.#work = Math.ceil(exports.heapStart() / 128) * 128;
    this.#out = this.#work + 128 + STACK_ENTRIES * 8;
    this.#nodes = this.#out + MOST_PASSED * 4;
    this.#blocks = this.#nodes + nodes.byteLength;
    new Uint8Array(memory.buffer).set(new Uint8Array(nodes), this.#nodes);
    new Uint8Array(memory.buffer).set(new Uint8Array(blocks), this.#blocks);
    this.passed = new Int32Array(memory.buffer, this.#out, MOST_PASSED);
  }

  /** The nearest triangle between two distances, −1 for none. Calculates in single precision. */
  nearest(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, near: number, far: number): number {
    return this.#walk(this.#nodes, this.#blocks, this.#work, this.#out, MOST_PASSED, ox, oy, oz, dx, dy, dz, near, far, false);
  }

  /** −2 if something opaque is in the way, else how many triangles in `passed` were met. */
  passage(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, near: number, far: number): number {
    return this.#walk(this.#nodes, this.#blocks, this.#work, this.#out, MOST_PASSED, ox, oy, oz, dx, dy, dz, near, far, true);
  }
}
