/**
 * Makes what it takes to stand a photographed thing into the demo: `npm run photograph`, into apps/web/public/figures (the photograph) and apps/web/public/demo/photograph. A small delivery van is traced in a place of its own, as a camera
 * would have taken it there, and cut out; a black, mirroring stand-in for it is traced in the yard, for the shadow it throws and for what it mirrors. Seeds and samples are fixed.
 * `--only photograph` or `--only stand-in` makes one of them.
 */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { deflateSync } from 'node:zlib';
import { type Region, srgbEncode } from '@tazzel/core';
import { encodeExr, encodePng } from '@tazzel/formats';
import { Kernels } from '@tazzel/kernels';
import { type CameraDescription, defaultRequest, kilnYard, type MaterialDescription, resolveElement, type SceneDescription } from '@tazzel/renderer';
import { startNodeRenderer } from '@tazzel/renderer/node';
import { prism } from '../packages/renderer/src/scene/kiln-yard/parts.ts';
import type { ObjectDescription, Shape, Triple } from '../packages/renderer/src/scene/model.ts';

const { values: asked } = parseArgs({ options: { only: { type: 'string' } } });
const folder = fileURLToPath(new URL('../apps/web/public/demo/photograph/', import.meta.url));
const dist = new URL('../apps/cli/dist/', import.meta.url);
const kernelsUrl = new URL('kernels.wasm', dist);

/** Where it stands in the yard, and how far its front is turned from the right towards the camera. */
const PLACE: Triple = [-4.1, 0, 8.7];
const TURNED_DEGREES = 24;

const material = (name: string, number: number, surface: MaterialDescription['surface']): MaterialDescription => ({ name, number, idColor: null, surface });
const lacquer = (color: Triple, roughness = 0.05): MaterialDescription['surface'] => ({ kind: 'coated', paint: { pattern: 'flat', color }, ior: 1.5, roughness });

/** A shape of the van (front along +x, on the ground) where it stands. */
function standing(shape: Shape, at: Triple): Shape {
  const angle = (TURNED_DEGREES * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  const to = ([x, y, z]: Triple): Triple => [at[0] + x * cos - z * sin, at[1] + y, at[2] + x * sin + z * cos];
  if (shape.kind === 'cylinder') return { ...shape, from: to(shape.from), to: to(shape.to) };
  if (shape.kind !== 'mesh') throw new Error('The van is made of bodies and wheels.');
  const places = Array.from({ length: shape.positions.length / 3 }, (_, i) => to([shape.positions[3 * i], shape.positions[3 * i + 1], shape.positions[3 * i + 2]]));
  return { ...shape, positions: places.flat() };
}

const HALF = 0.76;
const LOWER = [[-1.75, 0.32], [1.6, 0.32], [1.78, 0.45], [1.8, 0.75], [1.5, 0.98], [-1.75, 0.98]] as const;
const UPPER = [[-1.75, 0.97], [1.5, 0.97], [1.02, 1.72], [0.9, 1.82], [-1.6, 1.82], [-1.75, 1.72]] as const;
const SCREEN = [[1.44, 1.06], [1.47, 1.07], [1.07, 1.69], [1.04, 1.68]] as const;
const SIDE = [[0.2, 1.08], [1.33, 1.08], [0.98, 1.64], [0.2, 1.64]] as const;
const both = (outline: readonly (readonly [number, number])[], from: number, to: number): Shape[] => [prism(outline, from, to), prism(outline, -to, -from)];
const wheel = (x: number, side: number, radius: number, from: number, to: number, sides = 40): Shape => ({ kind: 'cylinder', from: [x, 0.3, side * from], to: [x, 0.3, side * to], radius, sides });
const wheels = (radius: number, from: number, to: number) => [-1.15, 1.15].flatMap((x) => [-1, 1].map((side) => wheel(x, side, radius, from, to)));

const VAN: readonly (readonly [material: string, shapes: readonly Shape[]])[] = [
  ['Lacquer', [prism(LOWER, -HALF, HALF), prism(UPPER, -HALF, HALF)]],
  ['Panes', [prism(SCREEN, -0.64, 0.64), ...both(SIDE, HALF - 0.02, HALF + 0.004)]],
  ['Rubber', [prism([[-1.78, 0.26], [1.78, 0.26], [1.83, 0.34], [1.83, 0.44], [-1.78, 0.44]], -HALF - 0.01, HALF + 0.01), ...wheels(0.37, HALF - 0.04, HALF + 0.006), ...wheels(0.3, 0.56, HALF + 0.03), ...both([[0.12, 0.5], [0.14, 0.5], [0.14, 1.7], [0.12, 1.7]], HALF - 0.02, HALF + 0.003)]],
  ['Steel', [...wheels(0.17, 0.56, HALF + 0.036), ...both([[0.28, 0.92], [0.46, 0.92], [0.46, 0.95], [0.28, 0.95]], HALF - 0.02, HALF + 0.02)]],
  ['Lamps of the van', [...both([[1.73, 0.58], [1.81, 0.6], [1.8, 0.74], [1.7, 0.8]], 0.42, 0.68)]],
];
const van = (at: Triple, of: (name: string) => string): ObjectDescription[] => VAN.map(([name, shapes]) => ({ name: `Van: ${name.toLowerCase()}`, material: of(name), shapes: shapes.map((shape) => standing(shape, at)) }));

const yardCamera = kilnYard.cameras.find(({ name }) => name === 'courtyard') as CameraDescription;
const kernels = await Kernels.create(await WebAssembly.compile(readFileSync(kernelsUrl)));
const renderer = await startNodeRenderer({ workerUrl: new URL('render-worker.mjs', dist), kernelsUrl });

async function traced(description: SceneDescription, camera: string, size: { width: number; height: number }, elements: readonly string[], samples: number, region: Region | null, denoise: 'none' | 'all') {
  await renderer.openScene({ description });
  const job = renderer.begin({ ...defaultRequest, camera, ...size, elements, quality: { noisePercent: null, seconds: null, samples }, region, denoise });
  await job.finished;
  console.log(`${elements.join(', ')}: ${job.progress.seconds.toFixed(0)} s`);
  return (id: string) => resolveElement(job.rendering, id, denoise === 'all', region ?? undefined)[0].channels.map(({ data }) => data as Float32Array);
}

/** The photograph: a grey morning on a street, from a little lower and nearer than the yard's camera would stand. */
async function photograph(): Promise<void> {
  const size = { width: 640, height: 400 };
  const materials: MaterialDescription[] = [
    material('Lacquer', 1, lacquer([0.035, 0.085, 0.095])),
    material('Panes', 2, lacquer([0.012, 0.014, 0.015], 0.02)),
    material('Rubber', 3, lacquer([0.02, 0.02, 0.021], 0.5)),
    material('Steel', 4, { kind: 'metal', color: [0.6, 0.6, 0.6], roughness: 0.3 }),
    material('Lamps of the van', 5, lacquer([0.75, 0.74, 0.7], 0.05)),
    material('Street', 6, { kind: 'matt', paint: { pattern: 'gravel', color: [0.21, 0.205, 0.2], grainMetres: 0.02 } }),
    material('Houses', 7, { kind: 'matt', paint: { pattern: 'plaster', color: [0.5, 0.46, 0.4] } }),
  ];
  // As the yard's camera sees it, but for three degrees.
  const [dx, dz] = [yardCamera.at[0] - PLACE[0], yardCamera.at[2] - PLACE[2]];
  const direction = Math.atan2(dx, dz) + (3 * Math.PI) / 180;
  const at: Triple = [8.6 * Math.sin(direction), 1.4, 8.6 * Math.cos(direction)];
  const camera: CameraDescription = { ...yardCamera, name: 'photograph', at, lookAt: [0, 0.9, 0], focalMillimetres: 70, sensorMillimetres: 36, upright: true, exposure: { kind: 'automatic', stops: 0 } };
  const scene = (objects: readonly ObjectDescription[]): SceneDescription => ({ ...kilnYard, name: 'A street', materials, objects, lamps: [], sun: null, sky: { kind: 'general', type: 3, lux: 9000, kelvin: 6400 }, cameras: [camera], fog: null });
  const street: ObjectDescription[] = [
    { name: 'Street', material: 'Street', shapes: [{ kind: 'quad', corner: [-200, 0, 200], u: [400, 0, 0], v: [0, 0, -400] }] },
    { name: 'Houses', material: 'Houses', shapes: [{ kind: 'box', min: [-40, 0, 22], max: [60, 9, 30] }, { kind: 'box', min: [24, 0, -30], max: [30, 8, 20] }] },
  ];
  const body = van([0, 0, 0], (name) => name);
  const [colour, [alpha]] = [(await traced(scene([...street, ...body]), 'photograph', size, ['beauty'], 90, null, 'none'))('beauty'), (await traced(scene(body), 'photograph', size, ['alpha'], 24, null, 'none'))('alpha')];
  // As a camera writes it: a warm white balance, so bright that the street is a middling grey, eight bits.
  const gain = 0.8 / percentile(colour, 0.985);
  const box = boxOf(alpha, size);
  const rgba = new Uint8Array(box.width * box.height * 4);
  for (let y = 0; y < box.height; y++) {
    for (let x = 0; x < box.width; x++) {
      const [from, to] = [(y + box.y) * size.width + x + box.x, (y * box.width + x) * 4];
      for (let c = 0; c < 3; c++) rgba[to + c] = Math.round(255 * Math.min(1, srgbEncode(Math.max(0, colour[c][from] * gain * [1.12, 1, 0.84][c]))));
      rgba[to + 3] = Math.round(255 * Math.min(1, alpha[from]));
    }
  }
  write('../../figures/delivery-van.png', Buffer.concat(await encodePng({ width: box.width, height: box.height, rgba }, { deflate: async (raw) => new Uint8Array(deflateSync(raw, { level: 9 })) })));
  console.log(`Eye level at ${((horizonRow(camera, size) - box.y) / box.height).toFixed(3)} of its height; photographed from ${Math.hypot(at[0], at[2]).toFixed(1)} m.`);
}

const percentile = (planes: readonly Float32Array[], share: number): number => Float32Array.from(planes[1]).sort()[Math.floor(planes[1].length * share)];
function boxOf(alpha: Float32Array, { width, height }: { width: number; height: number }): Region {
  const inside = Array.from(alpha.keys()).filter((i) => alpha[i] > 1 / 255);
  const [xs, ys] = [inside.map((i) => i % width), inside.map((i) => Math.floor(i / width))];
  const [left, top] = [Math.min(...xs.slice(0, 1), xs.reduce((a, b) => Math.min(a, b))) - 6, ys.reduce((a, b) => Math.min(a, b)) - 6];
  return { x: Math.max(0, left), y: Math.max(0, top), width: Math.min(width, xs.reduce((a, b) => Math.max(a, b)) + 7) - Math.max(0, left), height: Math.min(height, ys.reduce((a, b) => Math.max(a, b)) + 7) - Math.max(0, top) };
}
/** An upright camera looks level in the middle but for its shift: what it looks at lies in the middle. */
const horizonRow = ({ at, lookAt, focalMillimetres, sensorMillimetres }: CameraDescription, { width, height }: { width: number; height: number }): number => height / 2 + ((lookAt[1] - at[1]) / Math.hypot(lookAt[0] - at[0], lookAt[2] - at[2])) * (focalMillimetres / sensorMillimetres) * width;

/** Light below this is none. */
const DARK = 1e-3;

/** The stand-in in the yard: what it takes from the ground's light, and what it mirrors where it stands. */
async function standIn(): Promise<void> {
  const size = { width: 1200, height: 800 };
  const region: Region = { x: 40, y: 464, width: 760, height: 256 };
  const black = material('Stand-in', 60, lacquer([0, 0, 0], 0.05));
  const with_ = { ...kilnYard, materials: [...kilnYard.materials, black], objects: [...kilnYard.objects, ...van(PLACE, () => 'Stand-in')] };
  const wanted = ['direct-lighting', 'gi', 'reflection', 'specular', 'depth'];
  const there = await traced(with_, 'courtyard', size, wanted, 32, region, 'all');
  const bare = await traced(kilnYard, 'courtyard', size, ['direct-lighting', 'gi', 'depth'], 32, region, 'all');
  const area = region.width * region.height;
  const lightOf = (of: (id: string) => Float32Array[], i: number) => of('direct-lighting').reduce((sum, plane) => sum + plane[i], 0) + of('gi').reduce((sum, plane) => sum + plane[i], 0);
  const [one, other] = [cached(there), cached(bare)];
  // What is nearer than before is the stand-in itself: nothing is caught there.
  const isBody = (i: number) => one('depth')[0][i] < other('depth')[0][i] * 0.998;
  // Less than a few hundredths is noise; and glass has no light of its own that could be taken.
  const shadow = Float32Array.from({ length: area }, (_, i) => {
    const before = lightOf(other, i);
    const left = before > DARK ? lightOf(one, i) / before : 1;
    return isBody(i) || left > 0.96 ? 1 : Math.max(0, left);
  });
  const mirrored = [0, 1, 2].map((c) => Float32Array.from({ length: area }, (_, i) => (isBody(i) ? one('reflection')[c][i] + one('specular')[c][i] : 0)));
  const window = { dataWindow: region, displayWindow: { x: 0, y: 0, ...size }, compression: 'ZIP' as const };
  const part = (name: string, planes: readonly Float32Array[]) => ({ ...window, name, numbers: {}, notes: {}, channels: ['R', 'G', 'B'].map((channel, c) => ({ name: channel, type: 'f16' as const, data: halves(planes[c % planes.length]) })) });
  write('van_stand-in.exr', Buffer.concat(await encodeExr([part('stand-in shadow', [shadow]), part('stand-in reflection', mirrored)], { deflate: (raw) => deflateSync(raw, { level: 9 }) }, kernels)));
}
const cached = (of: (id: string) => Float32Array[]) => {
  const known = new Map<string, Float32Array[]>();
  return (id: string): Float32Array[] => {
    const planes = known.get(id) ?? of(id);
    known.set(id, planes);
    return planes;
  };
};
function halves(plane: Float32Array): Uint16Array {
  const out = new Uint16Array(plane.length);
  kernels.toHalf(plane, out);
  return out;
}
function write(name: string, bytes: Uint8Array): void {
  mkdirSync(folder, { recursive: true });
  writeFileSync(`${folder}${name}`, bytes);
  console.log(`${name}: ${(bytes.length / 1024).toFixed(0)} kB`);
}

try {
  if (asked.only !== 'stand-in') await photograph();
  if (asked.only !== 'photograph') await standIn();
} finally {
  renderer.terminate();
}
