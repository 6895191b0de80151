import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { camera } from '../camera/camera.ts';
import type { Edit } from '../document/edits.ts';
import { trailsLayerOf } from '../document/edits/trails.ts';
import { problemOf } from '../document/layers.ts';
import { whyNot } from '../document/why-not.ts';
import type { Backend } from '../evaluate/backend.ts';
import { planDocument } from '../evaluate/plan.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument, type TazzelDocument } from '../model/model.ts';
import { defaultsOf } from '../params/table.ts';
import type { Plane } from '../raster/planes.ts';
import type { SourceView } from '../raster/view.ts';

let backend: Backend;
beforeAll(async () => {
  backend = await builtKernels();
});
const SIZE = { width: 240, height: 160 };
const plane = (at: (x: number, y: number) => number): Plane => ({ type: 'f32', ...SIZE, data: Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => at((i % SIZE.width) + 0.5, Math.floor(i / SIZE.width) + 0.5)) });
const grey = (one: Plane): SourceView => ({ color: [one, one, one], alpha: null, premultiplied: false, x: 0, y: 0 });
/** A level camera 2 m over the ground, 240 pixels of focal length: the horizon lies in the middle. */
const HEIGHT = 2;
const ground = (y: number) => (y > 80 ? (HEIGHT * 240) / (y - 80) : 60_000);
const views = (wall: number, filter: number): Record<string, SourceView> => ({
  'source-1': grey(plane(() => 0.1)),
  // A wall to the left, `wall` metres away.
  'source-2': grey(plane((x, y) => (x < 120 ? Math.min(wall, ground(y)) : ground(y)))),
  'source-3': grey(plane(() => filter)),
});
const begin = (...edits: readonly Edit[]): TazzelDocument =>
  after(
    emptyDocument('doc', 'Test', SIZE),
    { type: 'add-sources', sources: [source(1, SIZE), source(2, { ...SIZE, role: 'depth', encoding: 'data' }), source(3, { ...SIZE, role: 'reflection-filter' })] },
    { type: 'set-camera', params: { ...defaultsOf(camera), heightMetres: HEIGHT, sensorMillimetres: 36, focalMillimetres: 36, tiltDegrees: 0, rollDegrees: 0, headingDegrees: 0, eastMetres: 0, southMetres: 0 } },
    { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' },
    ...edits,
  );
/** From left to right across the picture, eight metres away. */
const ACROSS: readonly Edit[] = [
  { type: 'draw-course', at: [10, 140], goesOn: false },
  { type: 'draw-course', at: [230, 140], goesOn: true },
  { type: 'set-params', layerId: 'layer-2', params: { vehicles: 1, lanes: 1, shutterSeconds: 60, traffic: 'one-way', trackMetres: 0, mirrorPercent: 0 } },
];
const picture = (document: TazzelDocument, wall = 60_000, filter = 0, level = 0) => {
  const plan = planDocument(document);
  return draw(plan, { source: (id) => views(wall, filter)[id], mask: () => null as never, target: lightOf(plan), backend, level });
};
const total = (planes: Float32Array, keep: (x: number, y: number) => boolean) => {
  let sum = 0;
  for (let i = 0; i < SIZE.width * SIZE.height; i++) if (keep(i % SIZE.width, Math.floor(i / SIZE.width))) sum += planes[i] - 0.1;
  return sum;
};

describe('a layer of light trails', () => {
  it('adds light along its course, at the height of lamps, and changes nothing else', () => {
    // Turned about a little, so that lamps are not seen just from the side.
    const document = begin(...ACROSS, { type: 'set-params', layerId: 'layer-2', params: { courses: [[[20, 150], [220, 110]]] } });
    const { planes } = picture(document).pixels;
    const lit = [...planes.subarray(0, SIZE.width * SIZE.height)].filter((value) => value > 0.11).length;
    expect(lit).toBeGreaterThan(150);
    expect(lit).toBeLessThan(3000);
    // Over the ground that it drives on, and under the horizon: cameras stand higher than lamps.
    expect(total(planes, (_, y) => y < 79)).toBeCloseTo(0, 4);
    expect(total(planes, (_, y) => y >= 79)).toBeGreaterThan(10);
  });
  it('is hidden by what stands before it', () => {
    const document = begin(...ACROSS, { type: 'set-params', layerId: 'layer-2', params: { courses: [[[20, 150], [220, 110]]] } });
    const [open, behind] = [picture(document), picture(document, 3)].map(({ pixels }) => pixels.planes);
    expect(total(open, (x) => x < 119)).toBeGreaterThan(1);
    expect(total(behind, (x) => x < 119)).toBeCloseTo(0, 4);
    expect(total(behind, (x) => x > 121)).toBeCloseTo(total(open, (x) => x > 121), 3);
  });
  it('is mirrored in the ground as far as its filter says, and only in the ground', () => {
    const wet: Edit = { type: 'set-params', layerId: 'layer-2', params: { courses: [[[20, 150], [220, 110]]], mirrorPercent: 100 } };
    const [dry, half, whole] = [0, 0.5, 1].map((filter) => total(picture(begin(...ACROSS, wet), 60_000, filter).pixels.planes, () => true));
    expect(half - dry).toBeGreaterThan(1);
    expect(whole - dry).toBeCloseTo(2 * (half - dry), 2);
    // A wall that stands before the ground mirrors nothing.
    expect(total(picture(begin(...ACROSS, wet), 1, 1).pixels.planes, (x) => x < 118)).toBeCloseTo(0, 4);
  });
  it('has the same light at half and a quarter of the size', () => {
    const document = begin(...ACROSS, { type: 'set-params', layerId: 'layer-2', params: { courses: [[[20, 150], [220, 110]]] } });
    const sum = (level: number) => {
      const { region, planes } = picture(document, 60_000, 0, level).pixels;
      return planes.subarray(0, region.width * region.height).reduce((all, value) => all + value - 0.1, 0) * 4 ** level;
    };
    const whole = sum(0);
    for (const level of [1, 2]) expect(Math.abs(sum(level) / whole - 1)).toBeLessThan(0.06);
  });
  it('is the same however the picture is cut up, and drawn twice as bright a stop up', () => {
    const at = (stops: number) => total(picture(begin(...ACROSS, { type: 'set-params', layerId: 'layer-2', params: { courses: [[[20, 150], [220, 110]]], exposureStops: stops } })).pixels.planes, () => true);
    expect(at(3) / at(2)).toBeCloseTo(2, 4);
  });
  it('refuses what it cannot work with, with what it lacks: a camera, a course, ground', () => {
    const said = (document: TazzelDocument) => problemOf(document, trailsLayerOf(document, null) as never);
    const first: Edit = { type: 'draw-course', at: [10, 140], goesOn: false };
    expect(whyNot(emptyDocument('doc', 'Test', SIZE), first)).toMatch(/camera is not known/);
    expect(whyNot(begin(), { type: 'add-layer', layer: 'trails', zone: 'scene' })).toMatch(/nothing drives there yet/);
    expect(whyNot(begin(), { ...first, at: [10, 20] })).toMatch(/above the horizon/);
    // A course that is only begun shows nothing, and is no fault.
    expect(said(begin(first))).toBeNull();
    expect(total(picture(begin(first)).pixels.planes, () => true)).toBeCloseTo(0, 3);
    expect(said(begin(...ACROSS))).toBeNull();
    expect(whyNot(begin(...ACROSS), { type: 'set-params', layerId: 'layer-2', params: { courses: [[[10, 20], [100, 20]]] } })).toMatch(/above the horizon/);
  });
});
