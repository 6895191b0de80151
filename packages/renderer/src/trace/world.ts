/** A scene made ready for rays: what workers get, and what they build of it. */
import { kelvinToLinearSrgb, type Sky, skyOf, sunDirection, sunLux } from '@tazzel/core';
import { filtered, type Lamp, lampOf } from '../light/lamps.ts';
import { type Painter, painterOf } from '../paint/patterns.ts';
import { trianglesOf } from '../scene/mesh.ts';
import { lightGroups, type MaterialDescription, type ObjectDescription, REST_GROUP, type SceneDescription, type Triple } from '../scene/model.ts';
import { widthOf } from '../surface/microfacets.ts';
import { buildTree, type TriangleTree } from './bvh.ts';
import { RayQueries } from './queries.ts';

export const LAMP_MATERIAL = 'Lamps';

/** Can be posted to workers; the tree lies in shared memory. */
export interface PackedScene {
  /** With the lamps' own material and objects behind those of the scene, and without the shapes that the tree is made of. */
  readonly scene: SceneDescription;
  readonly tree: TriangleTree;
  /** The first object that is a lamp; lamp of each such object. */
  readonly firstLamp: number;
  readonly lampOfObject: readonly number[];
}

/** Shadow rays ask these how much; everything else ends them. */
const LETS_LIGHT_PASS: readonly string[] = ['thin-glass', 'solid-glass', 'water', 'luminous'];

export function packScene(scene: SceneDescription, allocate: (bytes: number) => ArrayBufferLike): PackedScene {
  const lampOfObject: number[] = [];
  const objects: ObjectDescription[] = [...scene.objects];
  const taken = new Set(objects.map(({ name }) => name));
  for (const [i, lamp] of scene.lamps.entries()) {
    if (lamp.kind === 'web') continue;
    let name = lamp.name;
    for (let k = 2; taken.has(name); k++) name = `${lamp.name} ${k}`;
    taken.add(name);
    objects.push({ name, material: LAMP_MATERIAL, shapes: [lamp.kind === 'sphere' ? { kind: 'sphere', center: lamp.center, radius: lamp.radius, sides: 24 } : { kind: 'quad', corner: lamp.corner, u: lamp.u, v: lamp.v }] });
    lampOfObject.push(i);
  }
  const needsMaterial = lampOfObject.length > 0 && !scene.materials.some(({ name }) => name === LAMP_MATERIAL);
  const number = Math.max(0, ...scene.materials.map((material) => material.number)) + 1;
  const lampMaterial: MaterialDescription = { name: LAMP_MATERIAL, number, idColor: null, surface: { kind: 'matt', paint: { pattern: 'flat', color: [0.6, 0.6, 0.6] } } };
  const complete: SceneDescription = { ...scene, materials: needsMaterial ? [...scene.materials, lampMaterial] : scene.materials, objects };
  // Shapes are triangles from here on: what travels to the workers and to the interface does without them.
  const named: SceneDescription = { ...complete, objects: complete.objects.map((object) => ({ ...object, shapes: [] })) };
  return { scene: named, tree: buildTree(trianglesOf(complete), (material, object) => object >= scene.objects.length || LETS_LIGHT_PASS.includes(complete.materials[material].surface.kind), allocate), firstLamp: scene.objects.length, lampOfObject };
}

export const KIND = { matt: 0, coated: 1, metal: 2, leaf: 3, pane: 4, body: 5, luminous: 6 } as const;

/** A material with its numbers worked out. */
export interface Substance {
  readonly kind: (typeof KIND)[keyof typeof KIND];
  readonly painter: Painter | null;
  readonly color: Triple;
  readonly ior: number;
  /** Width of the microfacet distribution; 0 for a perfect mirror. */
  readonly width: number;
  readonly through: number;
  readonly waveMetres: number;
  readonly waveSlope: number;
  readonly group: number;
}

function substanceOf({ surface }: MaterialDescription, groups: readonly string[]): Substance {
  const base: Substance = { kind: KIND.matt, painter: null, color: [0, 0, 0], ior: 1.5, width: 0, through: 0, waveMetres: 1, waveSlope: 0, group: 0 };
  switch (surface.kind) {
    case 'matt':
      return { ...base, painter: painterOf(surface.paint) };
    case 'coated':
      return { ...base, kind: KIND.coated, painter: painterOf(surface.paint), ior: surface.ior, width: surface.roughness === 0 ? 0 : widthOf(surface.roughness) };
    case 'metal':
      return { ...base, kind: KIND.metal, color: surface.color, width: surface.roughness === 0 ? 0 : widthOf(surface.roughness) };
    case 'leaf':
      return { ...base, kind: KIND.leaf, painter: painterOf(surface.paint), through: surface.through };
    case 'thin-glass':
      return { ...base, kind: KIND.pane, color: surface.tint, ior: surface.ior };
    case 'solid-glass':
      return { ...base, kind: KIND.body, color: surface.clearness, ior: surface.ior };
    case 'water':
      return { ...base, kind: KIND.body, color: surface.clearness, ior: surface.ior, waveMetres: surface.waveMetres, waveSlope: surface.waveSlope };
    case 'luminous': {
      const white = filtered(kelvinToLinearSrgb(surface.kelvin), surface.filter);
      return { ...base, kind: KIND.luminous, color: [white[0] * surface.luminance, white[1] * surface.luminance, white[2] * surface.luminance], group: groups.indexOf(surface.group ?? REST_GROUP) };
    }
  }
}

export interface Sun {
  readonly direction: Triple;
  /** Lux on a surface that faces it, as linear sRGB. */
  readonly light: Triple;
  /** 1 − cosine of its half angle. */
  readonly spread: number;
}

function filteredSky(sky: Sky, filter: Triple | undefined): Sky {
  if (!filter) return sky;
  return (x, y, z, out) => {
    sky(x, y, z, out);
    for (let c = 0; c < 3; c++) out[c] *= filter[c];
  };
}

/** Everything a tracer looks up. Built once in each worker. */
export class World {
  readonly scene: SceneDescription;
  readonly tree: TriangleTree;
  readonly rays: RayQueries;
  readonly groups: readonly string[];
  readonly substances: readonly Substance[];
  readonly lamps: readonly Lamp[];
  readonly firstLamp: number;
  readonly lampOfObject: readonly number[];
  readonly sun: Sun | null;
  readonly sky: Sky;
  readonly hasSky: boolean;

  /** @param module the compiled kernels */
  constructor({ scene, tree, firstLamp, lampOfObject }: PackedScene, module: WebAssembly.Module) {
    this.scene = scene;
    this.tree = tree;
    this.rays = new RayQueries(tree, module);
    this.groups = lightGroups(scene);
    this.substances = scene.materials.map((material) => substanceOf(material, this.groups));
    this.lamps = scene.lamps.map((lamp) => lampOf(lamp, this.groups.indexOf(lamp.group ?? REST_GROUP)));
    this.firstLamp = firstLamp;
    this.lampOfObject = lampOfObject;
    const placed = scene.sun ? sunDirection(scene.sun) : null;
    this.sky = filteredSky(skyOf(scene.sky, placed?.direction ?? null, placed?.altitudeDegrees ?? 45), scene.skyFilter);
    this.hasSky = scene.sky.kind !== 'none';
    const lux = scene.sun && placed ? (scene.sun.lux ?? sunLux(placed.altitudeDegrees)) : 0;
    if (scene.sun && placed && lux > 0) {
      const white = filtered(kelvinToLinearSrgb(scene.sun.kelvin), scene.sun.filter);
      this.sun = { direction: placed.direction, light: [white[0] * lux, white[1] * lux, white[2] * lux], spread: 1 - Math.cos(((scene.sun.angularDegrees / 2) * Math.PI) / 180) };
    } else this.sun = null;
  }
}
