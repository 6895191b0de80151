/** A depth of field made after rendering against the same view through the renderer's own lens: colours without light, so that nothing but the lens differs. */
import { emptyDocument, floatToHalf, planDocument, type Source, type SourceView } from '@tazzel/core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { builtRenderer, camera, ground, matt, scene } from '../../../../tests/scenes.ts';
import type { Renderer } from '../render/renderer.ts';
import type { ObjectDescription } from '../scene/model.ts';
import { resolveElement } from './resolve.ts';

const SIZE = { width: 300, height: 130 };
const AREA = SIZE.width * SIZE.height;
/** Means of nine pixels: the grain of the lens's samples plays no part. */
const AROUND = [-1, 0, 1].flatMap((v) => [-1, 0, 1].map((u) => v * SIZE.width + u));
type Corner = readonly [number, number, number];

const box = (material: string, min: Corner, max: Corner): ObjectDescription => ({ name: `${material} ${min}`, material, shapes: [{ kind: 'box', min, max }] });
/** Posts near the camera, blocks where it is sharp, a wall of stripes far behind them. */
const objects = [
  ground('Ground'),
  ...Array.from({ length: 16 }, (_, k) => box(k % 2 ? 'White' : 'Blue', [-16 + 2 * k, 0, -12], [-14 + 2 * k, 6, -11.5])),
  box('Red', [-1.2, 0, 5.5], [-1, 3, 5.7]),
  box('Green', [0.9, 0, 6.5], [1, 1.2, 6.6]),
  box('Green', [-0.6, 0, 2.8], [0.5, 1.4, 3.2]),
  box('Red', [1.2, 0, 2.9], [1.3, 2.4, 3.1]),
  box('White', [-2.4, 0, 2.9], [-1.9, 2.2, 3.1]),
];
const materials = [matt('Ground', [0.3, 0.28, 0.25], 1), matt('Red', [0.8, 0.1, 0.05], 2), matt('Blue', [0.05, 0.1, 0.7], 3), matt('White', 0.9, 4), matt('Green', [0.1, 0.6, 0.1], 5)];
/** Sharp at 6 m; an opening as of 28 mm at f/0.15, so that circles are seen in a small picture: up to seven pixels. */
const [FOCUS_METRES, OPENING] = [6, 28 ** 2 / 0.15];

let renderer: Renderer;
beforeAll(async () => {
  renderer = await builtRenderer();
});
afterAll(() => renderer.terminate());

async function rendered(hasLens: boolean, samples: number) {
  // The same view on a larger sensor: f-numbers below 0.5 are none.
  const lens = { focalMillimetres: 140, sensorMillimetres: 180, focus: hasLens ? { distanceMetres: FOCUS_METRES, fNumber: 0.75 } : null };
  await renderer.openScene({ description: scene({ materials, objects, sky: { kind: 'none' }, cameras: [camera({ at: [0, 1.5, 9], lookAt: [0, 1.5, 0], ...lens })] }) });
  const job = renderer.begin({ camera: 'camera', ...SIZE, elements: ['diffuse-filter', 'depth'], quality: { noisePercent: null, seconds: null, samples }, seed: 5, fog: false, region: null, denoise: 'none', aoMetres: 1, depthRange: null });
  await job.finished;
  return (id: string) => resolveElement(job.rendering, id, false)[0].channels.map(({ data }) => data);
}

/** Each pixel blurred by its own circle, whatever its neighbours are: what a blur under a mask of depth does. */
function plainBlur(colors: readonly ArrayLike<number>[], metres: ArrayLike<number>): number[][] {
  const out = colors.map(() => new Array<number>(AREA));
  for (let i = 0; i < AREA; i++) {
    const depth = metres[i] > 0 && metres[i] < 6e4 ? metres[i] : Number.POSITIVE_INFINITY;
    const radius = Math.abs((OPENING / (FOCUS_METRES * 1000 - 28) / 2 / 36) * SIZE.width * (1 - FOCUS_METRES / depth));
    const [x, y, reach] = [i % SIZE.width, Math.floor(i / SIZE.width), Math.ceil(radius)];
    const sums = colors.map(() => 0);
    let total = 0;
    for (let v = -reach; v <= reach; v++) {
      for (let u = -reach; u <= reach; u++) {
        const weight = u === 0 && v === 0 ? 1 : Math.min(1, Math.max(0, radius + 0.5 - Math.hypot(u, v)));
        if (weight === 0) continue;
        const there = Math.min(SIZE.height - 1, Math.max(0, y + v)) * SIZE.width + Math.min(SIZE.width - 1, Math.max(0, x + u));
        total += weight;
        for (const [c, plane] of colors.entries()) sums[c] += weight * plane[there];
      }
    }
    for (const [c, sum] of sums.entries()) out[c][i] = sum / total;
  }
  return out;
}

it('is twice as close to the traced lens as a blur by depth, and two and a half times at edges of depth', async () => {
  const still = await rendered(false, 36);
  const traced = (await rendered(true, 144))('diffuse-filter');
  const [colors, metres] = [still('diffuse-filter'), still('depth')[0]];
  const views: Record<string, SourceView> = {};
  const add = (planes: readonly ArrayLike<number>[], more: Partial<Source>): Source => {
    const made = source(Object.keys(views).length + 1, { ...SIZE, alphaChannel: null, alpha: 'none', ...more });
    views[made.id] = { color: planes.map((data) => ({ type: 'f16' as const, ...SIZE, data: Uint16Array.from(data, floatToHalf) })), alpha: null, premultiplied: false, x: 0, y: 0 };
    return made;
  };
  const sources = [add(colors, { role: 'beauty' }), add([metres], { role: 'depth', encoding: 'data' })];
  const document = after(
    emptyDocument('focus', 'Focus', SIZE),
    { type: 'add-sources', sources },
    { type: 'add-layer', layer: 'element', params: { source: sources[0].id }, zone: 'scene' },
    { type: 'add-correction-layer', correction: 'focus', zone: 'scene' },
    // Through half as large an f-number again the circles are the same: f² / N is.
    { type: 'set-params', layerId: 'layer-2', params: { focusMetres: FOCUS_METRES, fNumber: 0.5, focalMillimetres: Math.sqrt(OPENING * 0.5), sensorMillimetres: 36 } },
  );
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: { place: plan.light, tone: null, focus: null }, source: (id) => views[id], mask: () => { throw new Error('There is none.'); } });
  const ours = [0, 1, 2].map((c) => pixels.planes.subarray(c * AREA, (c + 1) * AREA));
  const isEdge = Array.from({ length: AREA }, (_, i) => {
    const [x, y] = [i % SIZE.width, Math.floor(i / SIZE.width)];
    const around = [-6, -3, 0, 3, 6].flatMap((v) => [-6, -3, 0, 3, 6].map((u) => metres[Math.min(SIZE.height - 1, Math.max(0, y + v)) * SIZE.width + Math.min(SIZE.width - 1, Math.max(0, x + u))] || 1e3));
    return Math.max(...around) > 1.5 * Math.min(...around);
  });
  const error = (of: readonly ArrayLike<number>[], counts: (i: number) => boolean) => {
    let [sum, count] = [0, 0];
    for (let y = 1; y < SIZE.height - 1; y++) {
      for (let x = 1; x < SIZE.width - 1; x++) {
        const i = y * SIZE.width + x;
        if (!counts(i)) continue;
        for (let c = 0; c < 3; c++) sum += Math.abs(AROUND.reduce((apart, by) => apart + of[c][i + by] - traced[c][i + by], 0)) / 9;
        count += 3;
      }
    }
    return sum / count;
  };
  const plain = plainBlur(colors, metres);
  const [all, edges] = [() => true, (i: number) => isEdge[i]];
  const found = { all: error(ours, all), plain: error(plain, all), edges: error(ours, edges), plainEdges: error(plain, edges), none: error(colors, edges) };
  expect(isEdge.filter((is) => is).length / AREA).toBeGreaterThan(0.1);
  expect(found.all).toBeLessThan(found.plain / 2);
  expect(found.edges).toBeLessThan(found.plainEdges / 2.4);
  expect(found.edges).toBeLessThan(found.none / 3.5);
}, 60_000);
