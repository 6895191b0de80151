/**
 * The tree over a scene's triangles. three-mesh-bvh builds it with two children a node; it is folded to four children, as
 * the ray kernel walks it. All of it lies in shared memory.
 * @source Wald, Benthin, Boulos 2008, "Getting Rid of Packets" (folding)
 */
import { RAY_BLOCK_BYTES, RAY_BLOCKS_IN_LEAF, RAY_NODE_BYTES } from '@tazzel/kernels';
import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH, SAH } from 'three-mesh-bvh';
import { Growing } from '../scene/growing.ts';
import type { TriangleList } from '../scene/mesh.ts';

export interface TriangleTree {
  /** For the ray kernel; see there. */
  readonly nodes: ArrayBufferLike;
  readonly blocks: ArrayBufferLike;
  /** In the order of the leaves. Nine numbers each: corner 0, edge to corner 1, edge to corner 2. */
  readonly triangles: Float32Array;
  readonly normals: Float32Array;
  readonly material: Uint16Array;
  readonly object: Uint16Array;
  readonly edges: Uint8Array;
}

export function buildTree(list: TriangleList, letsLightPass: (material: number, object: number) => boolean, allocate: (bytes: number) => ArrayBufferLike): TriangleTree {
  const count = list.material.length;
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(list.corners, 3));
  const places = new Uint32Array(count * 3);
  for (let i = 0; i < places.length; i++) places[i] = i;
  geometry.setIndex(new BufferAttribute(places, 1));
  const bvh = new MeshBVH(geometry, { strategy: SAH, targetLeafSize: 4, maxDepth: 60 });
  const { roots, index } = MeshBVH.serialize(bvh, { cloneBuffers: false });
  const order = index as Uint32Array;
  const triangles = new Float32Array(allocate(count * 36));
  const normals = new Float32Array(allocate(count * 36));
  const material = new Uint16Array(allocate(count * 2));
  const object = new Uint16Array(allocate(count * 2));
  const edges = new Uint8Array(allocate(count));
  for (let t = 0; t < count; t++) {
    const from = order[t * 3] / 3;
    for (let k = 0; k < 3; k++) {
      const corner = list.corners[from * 9 + k];
      triangles[t * 9 + k] = corner;
      triangles[t * 9 + 3 + k] = list.corners[from * 9 + 3 + k] - corner;
      triangles[t * 9 + 6 + k] = list.corners[from * 9 + 6 + k] - corner;
    }
    normals.set(list.normals.subarray(from * 9, from * 9 + 9), t * 9);
    material[t] = list.material[from];
    object[t] = list.object[from];
    edges[t] = list.edges[from];
  }
  geometry.dispose();
  const folded = new Folder(roots[0], triangles, (t) => letsLightPass(material[t], object[t]));
  return { nodes: copied(folded.nodes, allocate), blocks: copied(folded.blocks, allocate), triangles, normals, material, object, edges };
}

const words = (length: number) => new Int32Array(Math.ceil(length));

function copied(grown: Growing<Int32Array>, allocate: (bytes: number) => ArrayBufferLike): ArrayBufferLike {
  const target = allocate(grown.length * 4);
  new Int32Array(target).set(grown.done());
  return target;
}

const LEAF = 0xffff;
const BINARY_WORDS = 8;
/** Where an empty child lies: no ray gets there. */
const NOWHERE = 1e30;
const LANES = 4;
const PASSES = 0x80000000;

interface Child {
  /** Bounds: low x, y, z, high x, y, z. */
  readonly bounds: readonly number[];
  readonly code: () => number;
}

/** Reads a tree as three-mesh-bvh serialises it, 32 bytes a node. */
class Folder {
  /** Bit patterns of 32-bit words. */
  readonly nodes = new Growing(words, 1024);
  readonly blocks: Growing<Int32Array>;
  readonly #floats: Float32Array;
  readonly #words: Uint32Array;
  readonly #halves: Uint16Array;
  readonly #triangles: Int32Array;
  readonly #passes: (triangle: number) => boolean;
  readonly #bits = new Int32Array(1);
  readonly #float = new Float32Array(this.#bits.buffer);

  constructor(binary: ArrayBuffer, triangles: Float32Array, passes: (triangle: number) => boolean) {
    this.#floats = new Float32Array(binary);
    this.#words = new Uint32Array(binary);
    this.#halves = new Uint16Array(binary);
    this.#triangles = new Int32Array(triangles.buffer, triangles.byteOffset, triangles.length);
    this.#passes = passes;
    // A leaf holds about half as many triangles as it has room for.
    this.blocks = new Growing(words, (triangles.length / 9) * (RAY_BLOCK_BYTES / 4 / LANES) * 1.6);
    this.#node(this.#isLeaf(0) ? [this.#child(0)] : this.#fold(0));
  }

  #isLeaf(node: number): boolean {
    return this.#halves[node * 2 + 15] === LEAF;
  }

  /** Children of a node, the largest of them replaced by its own until there are four. */
  #fold(node: number): Child[] {
    const found = [node + BINARY_WORDS, node + this.#words[node + 6] * BINARY_WORDS];
    while (found.length < LANES) {
      let largest = -1;
      for (const [i, one] of found.entries()) if (!this.#isLeaf(one) && (largest < 0 || this.#surface(one) > this.#surface(found[largest]))) largest = i;
      if (largest < 0) break;
      const open = found[largest];
      found.splice(largest, 1, open + BINARY_WORDS, open + this.#words[open + 6] * BINARY_WORDS);
    }
    return found.map((one) => this.#child(one));
  }

  #surface(node: number): number {
    const f = this.#floats;
    const [x, y, z] = [f[node + 3] - f[node], f[node + 4] - f[node + 1], f[node + 5] - f[node + 2]];
    return x * y + y * z + z * x;
  }

  #child(node: number): Child {
    const bounds = Array.from(this.#floats.subarray(node, node + 6));
    if (!this.#isLeaf(node)) return { bounds, code: () => this.#node(this.#fold(node)) };
    return { bounds, code: () => this.#leaf(bounds, this.#words[node + 6], this.#halves[node * 2 + 14]) };
  }

  /** Leaves that are too full become nodes whose children share their bounds. */
  #leaf(bounds: readonly number[], first: number, count: number): number {
    const most = RAY_BLOCKS_IN_LEAF * LANES;
    if (count > most) {
      const part = Math.ceil(count / LANES);
      const children: Child[] = [];
      for (let at = 0; at < count; at += part) children.push({ bounds, code: () => this.#leaf(bounds, first + at, Math.min(part, count - at)) });
      return this.#node(children);
    }
    const block = this.blocks.length / (RAY_BLOCK_BYTES / 4);
    for (let at = 0; at < count; at += LANES) {
      for (let k = 0; k < 9; k++) for (let lane = 0; lane < LANES; lane++) this.blocks.push(at + lane < count ? this.#triangles[(first + at + lane) * 9 + k] : 0);
      for (let lane = 0; lane < LANES; lane++) this.blocks.push(at + lane < count ? first + at + lane + (this.#passes(first + at + lane) ? PASSES : 0) : 0);
    }
    return ~(block * 8 + Math.ceil(count / LANES));
  }

  #node(children: readonly Child[]): number {
    const index = this.nodes.length / (RAY_NODE_BYTES / 4);
    const start = this.nodes.length;
    for (const axis of [0, 1, 2]) for (const side of [0, 3]) for (let lane = 0; lane < LANES; lane++) this.nodes.push(this.#pattern(children[lane]?.bounds[axis + side] ?? NOWHERE));
    for (let i = 0; i < RAY_NODE_BYTES / 4 - 24; i++) this.nodes.push(0);
    for (const [lane, child] of children.entries()) this.nodes.set(start + 24 + lane, child.code());
    return index;
  }

  #pattern(value: number): number {
    this.#float[0] = value;
    return this.#bits[0];
  }
}
