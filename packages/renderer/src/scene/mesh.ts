/** A scene's shapes as one list of triangles. */
import { CylinderGeometry, Matrix4, Quaternion, SphereGeometry, Vector3 } from 'three';
import { RenderError } from '../errors.ts';
import { latticeNoise } from '@tazzel/core';
import { Growing } from './growing.ts';
import { crownLeaves, trunkSegments } from './tree.ts';
import type { SceneDescription, Shape, Triple } from './model.ts';

/** Planes of triangles in scene order; nine numbers each for corners and normals. */
export interface TriangleList {
  readonly corners: Float32Array;
  readonly normals: Float32Array;
  readonly material: Uint16Array;
  readonly object: Uint16Array;
  /** Bits 1, 2, 4: whether the edge opposite to corner 0, 1, 2 is one of the model's edges, not a diagonal. */
  readonly edges: Uint8Array;
}

/** With their tree a million take a third of a gigabyte while they are made ready. */
export const MAX_TRIANGLES = 5_000_000;
const ALL_EDGES = 7;

const floats = (length: number) => new Float32Array(length);

class Builder {
  readonly corners: Growing<Float32Array>;
  readonly normals: Growing<Float32Array>;
  readonly material: Growing<Uint16Array>;
  readonly object: Growing<Uint16Array>;
  readonly edges: Growing<Uint8Array>;
  #material = 0;
  #object = 0;

  /** `most` is how many triangles will come at most. */
  constructor(most: number) {
    this.corners = new Growing(floats, most * 9);
    this.normals = new Growing(floats, most * 9);
    this.material = new Growing((length) => new Uint16Array(length), most);
    this.object = new Growing((length) => new Uint16Array(length), most);
    this.edges = new Growing((length) => new Uint8Array(length), most);
  }

  begin(material: number, object: number): void {
    this.#material = material;
    this.#object = object;
  }

  triangle(a: Triple, b: Triple, c: Triple, edges = ALL_EDGES, normals?: readonly [Triple, Triple, Triple]): void {
    const ux = b[0] - a[0];
    const uy = b[1] - a[1];
    const uz = b[2] - a[2];
    const vx = c[0] - a[0];
    const vy = c[1] - a[1];
    const vz = c[2] - a[2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const size = Math.hypot(nx, ny, nz);
    // A triangle without area is never seen.
    if (!(size > 1e-14)) return;
    this.corners.push(...a, ...b, ...c);
    if (normals) this.normals.push(...normals[0], ...normals[1], ...normals[2]);
    else for (let i = 0; i < 3; i++) this.normals.push(nx / size, ny / size, nz / size);
    this.material.push(this.#material);
    this.object.push(this.#object);
    this.edges.push(edges);
  }

  /** Corners in turn; the diagonal from the first to the third is no edge. */
  quad(a: Triple, b: Triple, c: Triple, d: Triple): void {
    this.triangle(a, b, c, 1 | 4);
    this.triangle(a, c, d, 1 | 2);
  }
}

const plus = (a: Triple, b: Triple): Triple => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];

type Of<K extends Shape['kind']> = Extract<Shape, { kind: K }>;

const makers: { readonly [K in Shape['kind']]: (shape: Of<K>, into: Builder) => void } = {
  box({ min, max, turnDegrees = 0 }, into) {
    const center = [(min[0] + max[0]) / 2, (min[2] + max[2]) / 2];
    const cos = Math.cos((turnDegrees * Math.PI) / 180);
    const sin = Math.sin((turnDegrees * Math.PI) / 180);
    const at = (i: number): Triple => {
      const x = (i & 1 ? max[0] : min[0]) - center[0];
      const z = (i & 4 ? max[2] : min[2]) - center[1];
      return turnDegrees === 0 ? [i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2]] : [center[0] + x * cos + z * sin, i & 2 ? max[1] : min[1], center[1] - x * sin + z * cos];
    };
    for (const [a, b, c, d] of [[0, 2, 3, 1], [4, 5, 7, 6], [0, 4, 6, 2], [1, 3, 7, 5], [0, 1, 5, 4], [2, 6, 7, 3]]) into.quad(at(a), at(b), at(c), at(d));
  },
  quad({ corner, u, v }, into) {
    into.quad(corner, plus(corner, u), plus(plus(corner, u), v), plus(corner, v));
  },
  cylinder({ from, to, radius, endRadius = radius, sides }, into) {
    const axis = new Vector3(to[0] - from[0], to[1] - from[1], to[2] - from[2]);
    const geometry = new CylinderGeometry(endRadius, radius, axis.length(), sides);
    const turn = new Quaternion().setFromUnitVectors(new Vector3(0, 1, 0), axis.clone().normalize());
    const middle = new Vector3((from[0] + to[0]) / 2, (from[1] + to[1]) / 2, (from[2] + to[2]) / 2);
    addGeometry(geometry, new Matrix4().compose(middle, turn, new Vector3(1, 1, 1)), into, sides > 6);
  },
  sphere({ center, radius, sides }, into) {
    addGeometry(new SphereGeometry(radius, sides, Math.max(3, Math.round(sides / 2))), new Matrix4().makeTranslation(...center), into, true);
  },
  trunk({ at, height, seed }, into) {
    for (const { from, to, radius, endRadius } of trunkSegments(at, height, seed)) makers.cylinder({ kind: 'cylinder', from, to, radius, endRadius, sides: radius > 0.03 ? 8 : 5 }, into);
  },
  crown({ at, height, seed, leaves, leafMetres }, into) {
    crownLeaves(at, height, seed, leaves, leafMetres, (a, b, c, d) => into.quad(a, b, c, d));
  },
  blades({ min, max, count, height, widthMetres, seed }, into) {
    for (let i = 0; i < count; i++) {
      const random = (k: number) => latticeNoise(i, seed, k);
      const x = min[0] + (max[0] - min[0]) * random(1);
      const z = min[2] + (max[2] - min[2]) * random(2);
      const tall = height * (0.45 + 0.55 * random(3));
      const angle = random(4) * Math.PI * 2;
      const lean = tall * 0.45 * random(5);
      const half = widthMetres / 2;
      const [dx, dz] = [Math.cos(angle) * half, Math.sin(angle) * half];
      const bend: Triple = [x - (dz / half) * lean * 0.35, min[1] + tall * 0.6, z + (dx / half) * lean * 0.35];
      const tip: Triple = [x - (dz / half) * lean, min[1] + tall, z + (dx / half) * lean];
      const [left, right]: Triple[] = [[x - dx, min[1], z - dz], [x + dx, min[1], z + dz]];
      const [midLeft, midRight]: Triple[] = [[bend[0] - dx * 0.7, bend[1], bend[2] - dz * 0.7], [bend[0] + dx * 0.7, bend[1], bend[2] + dz * 0.7]];
      into.quad(left, right, midRight, midLeft);
      into.triangle(midLeft, midRight, tip);
    }
  },
  books({ from, to, height, depth, seed }, into) {
    const run: Triple = [to[0] - from[0], to[1] - from[1], to[2] - from[2]];
    const total = Math.hypot(...run);
    const step: Triple = [run[0] / total, run[1] / total, run[2] / total];
    for (let at = 0, i = 0; at < total; i++) {
      const width = 0.018 + 0.04 * latticeNoise(i, seed, 1);
      if (at + width > total) break;
      const tall = height * (0.66 + 0.3 * latticeNoise(i, seed, 2));
      const inset = 0.25 * latticeNoise(i, seed, 3);
      // Gaps where books are lent out.
      if (latticeNoise(Math.floor(i / 5), seed, 4) > 0.16) {
        const foot: Triple = [from[0] + step[0] * at + depth[0] * inset, from[1], from[2] + step[2] * at + depth[2] * inset];
        const across: Triple = [step[0] * width * 0.94, 0, step[2] * width * 0.94];
        const back: Triple = [depth[0] * (1 - inset), 0, depth[2] * (1 - inset)];
        bar(foot, across, back, tall, into);
      }
      at += width;
    }
  },
  mesh({ positions, indices }, into) {
    const at = (i: number): Triple => [positions[indices[i] * 3], positions[indices[i] * 3 + 1], positions[indices[i] * 3 + 2]];
    for (let i = 0; i < indices.length; i += 3) into.triangle(at(i), at(i + 1), at(i + 2));
  },
};

/** An upright bar over a parallelogram. */
function bar(foot: Triple, u: Triple, v: Triple, height: number, into: Builder): void {
  // Seen from above, u to v must turn clockwise for the sides to face outwards.
  const [a, b] = u[0] * v[2] - u[2] * v[0] > 0 ? [u, v] : [v, u];
  const base = [foot, plus(foot, a), plus(plus(foot, a), b), plus(foot, b)];
  const top = base.map((p): Triple => [p[0], p[1] + height, p[2]]);
  for (let i = 0; i < 4; i++) {
    const k = (i + 1) % 4;
    into.quad(base[k], base[i], top[i], top[k]);
  }
  into.quad(top[3], top[2], top[1], top[0]);
}

function addGeometry(geometry: CylinderGeometry | SphereGeometry, matrix: Matrix4, into: Builder, smooth: boolean): void {
  geometry.applyMatrix4(matrix);
  const position = geometry.getAttribute('position');
  const normal = geometry.getAttribute('normal');
  const index = geometry.getIndex();
  if (!index) return;
  const corner = (i: number): Triple => [position.getX(i), position.getY(i), position.getZ(i)];
  const direction = (i: number): Triple => [normal.getX(i), normal.getY(i), normal.getZ(i)];
  for (let i = 0; i < index.count; i += 3) {
    const [a, b, c] = [index.getX(i), index.getX(i + 1), index.getX(i + 2)];
    into.triangle(corner(a), corner(b), corner(c), ALL_EDGES, smooth ? [direction(a), direction(b), direction(c)] : undefined);
  }
  geometry.dispose();
}

const distance = (a: Triple, b: Triple) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** Triangles that a shape is made of at most. */
const counts: { readonly [K in Shape['kind']]: (shape: Of<K>) => number } = {
  box: () => 12,
  quad: () => 2,
  cylinder: ({ sides }) => sides * 4,
  sphere: ({ sides }) => sides * Math.max(3, Math.round(sides / 2)) * 2,
  trunk: ({ height }) => (7 + 2 * Math.round(14 + height * 3)) * 8 * 4,
  crown: ({ leaves }) => leaves * 2,
  blades: ({ count }) => count * 3,
  books: ({ from, to }) => Math.ceil(distance(from, to) / 0.018) * 10,
  mesh: ({ indices }) => indices.length / 3,
};

/** How many triangles a scene has at most, before any is made. @throws RenderError `too-large` */
export function countTriangles(scene: SceneDescription): number {
  let total = 0;
  for (const { name, shapes } of scene.objects) {
    for (const shape of shapes) total += (counts[shape.kind] as (shape: Shape) => number)(shape);
    if (total > MAX_TRIANGLES) throw new RenderError('too-large', `The scene has more than ${MAX_TRIANGLES / 1e6} million triangles (at the object “${name}”). Use fewer leaves, blades, sides or objects.`);
  }
  return total;
}

/** @throws RenderError `too-large` before anything is built, `bad-scene` if there is nothing to see */
export function trianglesOf(scene: SceneDescription): TriangleList {
  const numberOf = new Map(scene.materials.map(({ name }, i) => [name, i]));
  const builder = new Builder(countTriangles(scene));
  for (const [object, { material, shapes }] of scene.objects.entries()) {
    builder.begin(numberOf.get(material) as number, object);
    for (const shape of shapes) (makers[shape.kind] as (shape: Shape, into: Builder) => void)(shape, builder);
  }
  if (builder.material.length === 0) throw new RenderError('bad-scene', 'The scene cannot be rendered: no object has a surface. Give at least one shape an extent.');
  return { corners: builder.corners.done(), normals: builder.normals.done(), material: builder.material.done(), object: builder.object.done(), edges: builder.edges.done() };
}
