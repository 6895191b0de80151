/** Small scenes for tests of the renderer, and the renderer as the product builds it. */
import { readFileSync } from 'node:fs';
import type { CameraDescription, LampDescription, MaterialDescription, ObjectDescription, SceneDescription } from '../packages/renderer/src/scene/model.ts';
import { startNodeRenderer } from '@tazzel/renderer/node';
import { planSlots, PATHS } from '../packages/renderer/src/film/slots.ts';
import { lightGroups } from '../packages/renderer/src/scene/model.ts';
import { Tracer, type TraceSettings } from '../packages/renderer/src/trace/tracer.ts';
import { packScene, World } from '../packages/renderer/src/trace/world.ts';

const dist = new URL('../apps/cli/dist/', import.meta.url);
export const kernelModule = (): WebAssembly.Module => new WebAssembly.Module(readFileSync(new URL('kernels.wasm', dist)));
export const builtRenderer = (options: { workers?: number; budgetBytes?: number } = {}) => startNodeRenderer({ workers: 2, workerUrl: new URL('render-worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist), ...options });

export const matt = (name: string, value: number | readonly [number, number, number], number = 1): MaterialDescription => ({ name, number, idColor: null, surface: { kind: 'matt', paint: { pattern: 'flat', color: typeof value === 'number' ? [value, value, value] : value } } });
export const camera = (patch: Partial<CameraDescription> = {}): CameraDescription => ({ name: 'camera', at: [0, 1, 5], lookAt: [0, 1, 0], focalMillimetres: 35, sensorMillimetres: 36, shiftMillimetres: 0, upright: false, focus: null, exposure: { kind: 'settings', fNumber: 1, shutterSeconds: 1 / 1.2, iso: 100 }, ...patch });
export const ground = (material: string, size = 50): ObjectDescription => ({ name: 'Ground', material, shapes: [{ kind: 'quad', corner: [-size, 0, size], u: [2 * size, 0, 0], v: [0, 0, -2 * size] }] });

export const scene = (patch: Partial<SceneDescription> = {}): SceneDescription => ({ format: 'tazzel-scene', version: 1, name: 'Test', materials: [matt('White', 0.5)], objects: [ground('White')], lamps: [], sun: null, sky: { kind: 'none' }, cameras: [camera()], fog: null, ...patch });

/** Something of everything: glass in front of a wall, a mirror, water, leaves against the sky, three groups of lamps. */
export function variedScene(): SceneDescription {
  const materials: MaterialDescription[] = [
    matt('Ground', [0.4, 0.35, 0.3], 1),
    { name: 'Brick', number: 2, idColor: null, surface: { kind: 'matt', paint: { pattern: 'brick', color: [0.4, 0.2, 0.1], mortar: [0.5, 0.5, 0.5], lengthMetres: 0.25, courseMetres: 0.08, jointMetres: 0.01 } } },
    { name: 'Glass', number: 3, idColor: null, surface: { kind: 'thin-glass', ior: 1.5, tint: [0.9, 0.95, 0.92] } },
    { name: 'Mirror', number: 4, idColor: null, surface: { kind: 'metal', color: [0.9, 0.9, 0.9], roughness: 0 } },
    { name: 'Bronze', number: 5, idColor: null, surface: { kind: 'metal', color: [0.5, 0.35, 0.2], roughness: 0.35 } },
    { name: 'Water', number: 6, idColor: null, surface: { kind: 'water', ior: 1.333, clearness: [0.5, 0.6, 0.6], waveMetres: 0.4, waveSlope: 0.02 } },
    { name: 'Leaves', number: 7, idColor: [0, 1, 0], surface: { kind: 'leaf', paint: { pattern: 'flat', color: [0.1, 0.2, 0.05] }, through: 0.4 } },
    { name: 'Oak', number: 8, idColor: null, surface: { kind: 'coated', paint: { pattern: 'boards', color: [0.4, 0.3, 0.2], widthMetres: 0.15, lengthMetres: 2, along: 'x' }, ior: 1.5, roughness: 0.3 } },
    { name: 'Screen', number: 9, idColor: null, surface: { kind: 'luminous', luminance: 400, kelvin: 5000, group: 'screens' } },
  ];
  const box = (name: string, material: string, min: readonly [number, number, number], max: readonly [number, number, number]): ObjectDescription => ({ name, material, shapes: [{ kind: 'box', min, max }] });
  const lamps: LampDescription[] = [
    { kind: 'sphere', name: 'Bulb', group: 'bulbs', lumens: 800, kelvin: 2800, center: [-0.6, 1.8, 0.4], radius: 0.12 },
    { kind: 'rectangle', name: 'Panel', group: null, lumens: 1500, kelvin: 4000, corner: [0.5, 2.4, -0.5], u: [1, 0, 0], v: [0, 0, 0.4] },
  ];
  return scene({
    name: 'Varied yard',
    materials,
    objects: [
      ground('Ground'),
      box('Wall', 'Brick', [-3, 0, -2.2], [3, 2.2, -2]),
      { name: 'Pane', material: 'Glass', shapes: [{ kind: 'quad', corner: [-1.6, 0.1, -0.6], u: [1.2, 0, 0], v: [0, 1.6, 0] }] },
      box('Mirror', 'Mirror', [0.3, 0.1, -1.2], [1.1, 1.3, -1.1]),
      { name: 'Ball', material: 'Bronze', shapes: [{ kind: 'sphere', center: [0.2, 0.4, 0.6], radius: 0.4, sides: 24 }] },
      box('Pool', 'Water', [-1.8, 0.01, 0.8], [-0.4, 0.12, 2]),
      { name: 'Trunk', material: 'Oak', shapes: [{ kind: 'trunk', at: [1.9, 0, -0.6], height: 2.6, seed: 3 }] },
      { name: 'Crown', material: 'Leaves', shapes: [{ kind: 'crown', at: [1.9, 0, -0.6], height: 2.6, seed: 3, leaves: 300, leafMetres: 0.14 }] },
      box('Table', 'Oak', [1, 0.5, 0.8], [2, 0.55, 1.4]),
      box('Screen', 'Screen', [1.2, 0.55, 1], [1.6, 0.8, 1.05]),
    ],
    lamps,
    sun: { place: 'angles', azimuthDegrees: 140, altitudeDegrees: 30, lux: 700, kelvin: 4500, angularDegrees: 0.53 },
    sky: { kind: 'daylight', turbidity: 3, lux: 300, clouds: 0.3 },
    cameras: [camera({ at: [0, 1.3, 5], lookAt: [0, 1, 0], exposure: { kind: 'settings', fNumber: 8, shutterSeconds: 1 / 2, iso: 100 } })],
    fog: { distanceMetres: 12, heightMetres: 2, color: [1, 1, 1], forwardness: 0.3 },
  });
}

export interface Traced {
  readonly tracer: Tracer;
  readonly world: World;
  /** Mean light by path and by group, and other sums, of one pixel. */
  pixel(x: number, y: number, samples: number): { mean(slot: string): number[] };
}

/** A tracer in this thread. The exposure is 1: values are candela per square metre. */
export function trace(description: SceneDescription, width: number, height: number, patch: Partial<TraceSettings> = {}): Traced {
  const world = new World(packScene(description, (bytes) => new ArrayBuffer(bytes)), kernelModule());
  const plan = planSlots(lightGroups(world.scene));
  const tracer = new Tracer(world, world.scene.cameras[0], plan, { width, height, seed: 7, exposureScale: 1, aoMetres: 1, wantsAo: true, brightestPath: Number.POSITIVE_INFINITY, fog: false, ...patch });
  const slots = new Map([...plan.light, ...Object.values(plan.rest)].map((slot) => [slot.name, slot]));
  return {
    tracer,
    world,
    pixel(x, y, samples) {
      tracer.clear();
      for (let s = 0; s < samples; s++) tracer.sample(x, y, s);
      const sums = Float64Array.from(tracer.sums);
      return {
        mean(name) {
          const slot = slots.get(name);
          if (!slot) throw new Error(`no slot ${name}`);
          return Array.from(sums.subarray(slot.at, slot.at + slot.channels), (v) => v / samples);
        },
      };
    },
  };
}

/** Sum of all paths of a pixel. */
export const beautyOf = (pixel: { mean(slot: string): number[] }): number[] => PATHS.map((path) => pixel.mean(path)).reduce((sum, light) => sum.map((v, c) => v + light[c]));
