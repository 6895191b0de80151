import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { blurDiameter, hyperfocal, sharpBetween } from '../camera/camera.ts';
import { focusBands, radiusReduced } from '../evaluate/focus-slices.ts';
import { planDocument } from '../evaluate/plan.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import { apertureTaps, edgeOf } from '../raster/aperture.ts';
import { circleOf, sliceWeight } from '../raster/focus.ts';
import { correctionById } from './registry.ts';

describe('the thin lens', () => {
  // @source REFERENCES §7: Ray, Applied Photographic Optics; recomputed through image distances
  const limits: readonly (readonly [focal: number, fNumber: number, circle: number, h: number, focus: number, near: number, far: number])[] = [
    [24, 11, 0.03, 1769.5, 1, 0.641, 2.268],
    [24, 11, 0.03, 1769.5, 2, 0.938, Number.POSITIVE_INFINITY],
    [35, 8, 0.03, 5139.2, 5, 2.535, 183.4],
    [50, 2.8, 0.03, 29811.9, 3, 2.73, 3.33],
    [50, 8, 0.029, 10825.9, 2, 1.694, 2.442],
    [85, 1.8, 0.03, 133881, 5, 4.823, 5.191],
  ];
  it.each(limits)('%i mm at f/%d, circles of %d mm: hyperfocal %d mm; focused at %d m it is sharp from %d to %d m', (focal, fNumber, circle, h, focus, near, far) => {
    expect(hyperfocal(focal, fNumber, circle) / h).toBeCloseTo(1, 4);
    const [from, to] = sharpBetween(focal, fNumber, focus * 1000, circle);
    expect(Math.abs(from / 1000 - near)).toBeLessThan(0.001);
    if (Number.isFinite(far)) expect(to / 1000 / far).toBeCloseTo(1, 3);
    else expect(to).toBe(far);
    expect(blurDiameter(focal, fNumber, focus * 1000, from)).toBeCloseTo(circle, 9);
  });
  it('circles in pixels are those of the table, on both sides', () => {
    const { spread } = correctionById('focus') as { spread: (params: object, size: object) => { lens: Parameters<typeof circleOf>[0] } };
    const lens = (focal: number, fNumber: number, focusMetres: number) => spread({ ...correctionById('focus').examples[0], focalMillimetres: focal, fNumber, focusMetres }, { width: 6000, height: 4000 }).lens;
    expect(-2 * circleOf(lens(50, 2.8, 2), 1)).toBeCloseTo(76.31, 1);
    expect(2 * circleOf(lens(50, 2.8, 2), 1e6)).toBeCloseTo(76.31, 1);
    expect(2 * circleOf(lens(50, 2.8, 2), 4)).toBeCloseTo(38.16, 1);
    expect(-2 * circleOf(lens(35, 8, 3), 1.5)).toBeCloseTo(8.607, 2);
    expect(2 * circleOf(lens(35, 8, 3), 10)).toBeCloseTo(6.025, 2);
    // A hole in the depth is sky, and nothing is larger than 3 % of the width.
    expect(circleOf(lens(50, 2.8, 2), 0)).toBe(circleOf(lens(50, 2.8, 2), 1e5));
    expect(circleOf(lens(200, 1, 2), 0.4)).toBe(-180);
  });
});

describe('the opening', () => {
  it('is a polygon whose corners lie on the circle and whose sides at its cosine; blades that bow out make it the circle', () => {
    const hexagon = { blades: 6, roundness: 0, rotationRadians: 0.2 };
    const corner = (n: number) => edgeOf(hexagon, 0.2 + (n * Math.PI) / 3);
    for (const n of [0, 1, 5, -2]) expect(corner(n)).toBeCloseTo(1, 12);
    expect(corner(0.5)).toBeCloseTo(Math.cos(Math.PI / 6), 12);
    expect(edgeOf({ ...hexagon, roundness: 0.5 }, 0.2 + Math.PI / 6)).toBeCloseTo((1 + Math.cos(Math.PI / 6)) / 2, 12);
    expect(edgeOf({ ...hexagon, roundness: 1 }, 1.234)).toBeCloseTo(1, 12);
  });
  const round = { blades: 9, roundness: 1, rotationRadians: 0, catsEye: 0 };
  it('is an even disc: shares sum to 1, its variance is a quarter of the radius squared', () => {
    for (const radius of [0.4, 1, 2.3, 5, 9.7]) {
      const { weights, dx } = apertureTaps(round, radius, false, [0, 0]);
      expect(weights.reduce((sum, weight) => sum + weight, 0)).toBeCloseTo(1, 6);
      const variance = weights.reduce((sum, weight, n) => sum + weight * dx[n] ** 2, 0);
      // Over whole pixels: each adds a twelfth.
      expect(Math.abs(variance - radius ** 2 / 4 - 1 / 12)).toBeLessThan(0.13 + 0.01 * radius ** 2);
    }
  });
  it('with three blades is a triangle, upside down before what is sharp, and turns', () => {
    const lowest = (isNear: boolean, rotationRadians = 0) => {
      const { dx, dy, weights } = apertureTaps({ ...round, blades: 3, roundness: 0, rotationRadians }, 12, isNear, [0, 0]);
      return [dx, dy].map((list) => weights.reduce((sum, weight, n) => sum + weight * list[n] ** 3, 0));
    };
    const [, behind] = lowest(false);
    const [, before] = lowest(true);
    expect(behind).toBeCloseTo(-before, 6);
    expect(Math.abs(behind)).toBeGreaterThan(10);
    expect(lowest(false, Math.PI)[1]).toBeCloseTo(before, 1);
  });
  it('is narrower in the corners, towards them, where the barrel cuts it off', () => {
    const widths = (field: readonly [number, number]) => {
      const { dx, dy, weights } = apertureTaps({ ...round, catsEye: 0.8 }, 10, false, field);
      return [dx, dy].map((list) => weights.reduce((sum, weight, n) => sum + weight * list[n] ** 2, 0));
    };
    expect(widths([0, 0])[0]).toBeCloseTo(widths([0, 0])[1], 4);
    const [along, across] = widths([1, 0]);
    expect(along / across).toBeLessThan(0.6);
  });
  it('covers pixels by exact areas: a square by hand, a disc by its area; whole pixels have the same share', () => {
    // Four blades without a bow, corners up and to the sides: a pixel in the middle of a side is halved.
    const square = apertureTaps({ ...round, blades: 4, roundness: 0 }, 2, false, [0, 0]);
    const shareOf = ({ dx, dy, weights }: typeof square, x: number, y: number) => weights[dx.findIndex((each, n) => each === x && dy[n] === y)] ?? 0;
    // |x| + |y| ≤ 2, an area of 8. Corners of pixels at (1.5, 0.5) lie on its edge: the pixel at (1, 1) is inside by an eighth twice over.
    expect(shareOf(square, 0, 0)).toBeCloseTo(1 / 8, 6);
    expect(shareOf(square, 1, 0)).toBeCloseTo(1 / 8, 6);
    expect(shareOf(square, 1, 1)).toBeCloseTo(0.5 / 8, 6);
    expect(shareOf(square, 2, 0)).toBeCloseTo(0.25 / 8, 6);
    expect(shareOf(square, 2, 2)).toBe(0);
    const disc = apertureTaps(round, 6.3, false, [0, 0]);
    // A whole pixel is one of π r²; the opening is drawn with about a hundred sides.
    expect(1 / (disc.weights[0] * Math.PI * 6.3 ** 2)).toBeCloseTo(1, 2);
    expect(new Set(disc.weights.subarray(0, disc.full)).size).toBe(1);
    for (let n = 0; n < disc.full; n++) expect(Math.hypot(Math.abs(disc.dx[n]) + 0.5, Math.abs(disc.dy[n]) + 0.5)).toBeLessThan(6.31);
  });
  it('slices share every circle among them', () => {
    const bands = focusBands({ nearMetres: 3, farMetres: 3, nearPx: 20, farPx: 20, mostPx: 40 });
    const slices = bands.flatMap(({ slices: own }) => own);
    for (let circle = -40; circle <= 20; circle += 0.37) expect(slices.reduce((sum, { range }) => sum + sliceWeight(range, circle), 0)).toBeCloseTo(1, 9);
    expect(slices.map(({ radius }) => radius)).toEqual(slices.map(({ radius }) => radius).toSorted((a, b) => a - b));
    // The sky's own circle is one of them.
    expect(slices.at(-1)?.radius).toBe(20);
    for (const { coarser, slices: own } of bands) for (const { radius } of own) expect(Math.abs(radiusReduced(radius, coarser))).toBeLessThanOrEqual(7);
  });
});

const SIZE = { width: 320, height: 96 };
const AREA = SIZE.width * SIZE.height;
const [MIDDLE_X, MIDDLE_Y] = [160, 48];
type At = (x: number, y: number) => number;

/** A picture of grey light with a depth, in focus somewhere. A circle at infinity has a radius of 8 pixels for a lens focused at 4 m at f/1. */
function focused(light: At, metres: At, params: KeptValues, patch: { depth?: boolean; distances?: boolean; seen?: At } = {}) {
  const plane = (at: At) => ({ type: 'f32' as const, ...SIZE, data: Float32Array.from({ length: AREA }, (_, i) => at(i % SIZE.width, Math.floor(i / SIZE.width))) });
  const [colors, depths] = [plane(light), plane(metres)];
  const sources = [source(1, { ...SIZE, role: 'beauty', alphaChannel: null, alpha: 'none' }), ...(patch.depth === false ? [] : [source(2, { ...SIZE, role: patch.distances ? 'distance' : 'depth', encoding: 'data', alphaChannel: null, alpha: 'none' })]), ...(patch.seen ? [source(3, { ...SIZE, role: 'seen-depth', encoding: 'data', alphaChannel: null, alpha: 'none' })] : [])];
  const sight = plane(patch.seen ?? metres);
  const document = after(
    emptyDocument('doc', 'Focus', SIZE),
    { type: 'add-sources', sources },
    { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' },
    { type: 'add-correction-layer', correction: 'focus', zone: 'scene' },
    ...(patch.distances ? [{ type: 'set-camera', from: 'hand', params: { focalMillimetres: 28, sensorMillimetres: 36, tiltDegrees: 0 } } as const] : []),
    { type: 'set-params', layerId: 'layer-2', params: { focusMetres: 4, fNumber: 1, sensorMillimetres: 36, ...params } },
  );
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: (id) => ({ color: id === 'source-1' ? [colors, colors, colors] : [id === 'source-3' ? sight : depths], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => { throw new Error('There are no masks.'); } });
  return { light: pixels.planes.subarray(0, AREA), alpha: pixels.planes.subarray(3 * AREA, 4 * AREA), opaque: pixels.opaque, problems: plan.problems };
}
/** So that the far circle has 8 pixels: A f / (s − f) / 2 / sensor × width. */
const FAR_F = (() => {
  const radius = (f: number) => (f * f) / (4000 - f) / 2 / 36 * SIZE.width;
  let f = 60;
  for (let n = 0; n < 60; n++) f += (8 - radius(f)) * 2;
  return f;
})();
const far = (light: At, metres: At, params: KeptValues = {}, patch = {}) => focused(light, metres, { focalMillimetres: FAR_F, ...params }, patch);
const lamp: At = (x, y) => (x === MIDDLE_X && y === MIDDLE_Y ? 1000 : 0);

describe('focus', () => {
  it('in glass and mirrors by what is seen there, where an element says how far away that is', () => {
    // A pane across the right half, as near as what is sharp; far behind it a light.
    const spot = (x: number, y: number) => (x % 40 === 20 && y % 30 === 15 ? 100 : 0.1);
    const [pane, behind] = [() => 4, (x: number) => (x < SIZE.width / 2 ? 4 : 1e4)];
    const [onPane, throughIt, asDepth] = [far(spot, pane), far(spot, pane, {}, { seen: behind }), far(spot, behind)];
    expect(onPane.light.every((value, i) => Math.abs(value - spot(i % SIZE.width, Math.floor(i / SIZE.width))) < 1e-4)).toBe(true);
    expect([...throughIt.light]).toEqual([...asDepth.light]);
    expect(Math.max(...throughIt.light.filter((_, i) => i % SIZE.width > SIZE.width / 2 + 10))).toBeLessThan(5);
  });
  it('draws a lamp that is out of focus as an even disc of the circle’s size, and keeps all of its light', () => {
    const { light, opaque } = far(lamp, () => 1e5);
    const total = light.reduce((sum, value) => sum + value, 0);
    expect(total / 1000).toBeCloseTo(1, 3);
    expect(opaque).toBe(true);
    const at = (x: number, y: number) => light[(MIDDLE_Y + y) * SIZE.width + MIDDLE_X + x];
    const even = 1000 / (Math.PI * 64);
    for (const [x, y] of [[0, 0], [4, 0], [0, -5], [3, 3]]) expect(Math.abs(at(x, y) / even - 1)).toBeLessThan(0.2);
    for (const [x, y] of [[11, 0], [0, 11], [8, 8]]) expect(at(x, y) / even).toBeLessThan(0.05);
  });
  it('leaves what is sharp as it is, bit by bit, between two distances, too', () => {
    const noise: At = (x, y) => ((x * 7919 + y * 104729) % 997) / 100;
    const { light } = far(noise, () => 4);
    expect([...light]).toEqual(Array.from({ length: AREA }, (_, i) => Math.fround(noise(i % SIZE.width, Math.floor(i / SIZE.width)))));
    const { light: between } = far(noise, (x) => 4 + (x / SIZE.width) * 6, { untilMetres: 10 });
    expect([...between]).toEqual([...light]);
  });
  it('spreads what is near over what is sharp behind it; what is sharp takes nothing of what is far behind it', () => {
    // A bright near half before a dark sharp wall.
    const near = far((x) => (x < MIDDLE_X ? 1 : 0), (x) => (x < MIDDLE_X ? 2 : 4));
    const row = (of: ArrayLike<number>) => (x: number) => of[MIDDLE_Y * SIZE.width + MIDDLE_X + x];
    expect(row(near.light)(3)).toBeGreaterThan(0.1);
    expect(row(near.light)(10)).toBeLessThan(0.003);
    // Its own edge lets through what is behind: filled from around, which is dark.
    expect(row(near.light)(-4)).toBeLessThan(0.9);
    expect(row(near.light)(-20)).toBeCloseTo(1, 4);
    // A dark sharp half before a bright sky.
    const sharp = far((x) => (x < MIDDLE_X ? 0 : 1), (x) => (x < MIDDLE_X ? 4 : 1e5));
    for (const x of [-1, -2, -5]) expect(row(sharp.light)(x)).toBe(0);
    for (const x of [0, 3, 8]) expect(row(sharp.light)(x)).toBeCloseTo(1, 4);
  });
  it('takes pixels on edges apart: a sharp edge before a far sky stays as wide as it was', () => {
    const share = (x: number) => (x < MIDDLE_X ? 0 : x === MIDDLE_X ? 0.5 : 1);
    const { light } = far((x) => 0.2 + 0.6 * share(x), (x) => 4 + share(x) * 1000);
    const row = (x: number) => light[MIDDLE_Y * SIZE.width + MIDDLE_X + x];
    expect(row(-1)).toBeCloseTo(0.2, 5);
    expect(row(0)).toBeCloseTo(0.5, 2);
    expect(row(1)).toBeCloseTo(0.8, 2);
  });
  it('knows distances along rays from depths, where the camera is known', () => {
    const noise: At = (x, y) => ((x * 7919 + y * 104729) % 997) / 100;
    const focalPx = (28 / 36) * SIZE.width;
    // A wall across, 4 m away along the axis.
    const { light } = far(noise, (x, y) => 4 * Math.hypot(1, (x + 0.5 - MIDDLE_X) / focalPx, (y + 0.5 - MIDDLE_Y) / focalPx), {}, { distances: true });
    expect([...light]).toEqual(Array.from({ length: AREA }, (_, i) => Math.fround(noise(i % SIZE.width, Math.floor(i / SIZE.width)))));
  });
  it('follows the f-number with the exposure where that is wanted', () => {
    const { light } = far(() => 0.5, () => 1e5, { exposure: 'follows', renderedAt: 2 });
    expect(light[MIDDLE_Y * SIZE.width + MIDDLE_X]).toBeCloseTo(2, 4);
  });
  it('shows what is sharp in stripes and dims everything else', () => {
    const { light } = far(() => 0.5, (x) => (x < MIDDLE_X ? 4 : 1e5), { shows: 'sharp' });
    expect(light[MIDDLE_Y * SIZE.width + SIZE.width - 5]).toBeCloseTo(0.125, 4);
    expect(new Set(Array.from({ length: 40 }, (_, x) => light[MIDDLE_Y * SIZE.width + x].toFixed(3))).size).toBe(2);
  });
  it('keeps bad numbers where they are and stays finite with holes, infinities and nothing at all', () => {
    const { light } = far((x, y) => (x === 10 && y === 10 ? Number.NaN : x === 20 && y === 20 ? 1e9 : 0.5), (x) => (x % 7 === 0 ? Number.POSITIVE_INFINITY : x % 7 === 1 ? 0 : x % 7 === 2 ? Number.NaN : x % 7 === 3 ? -3 : x / 20));
    for (const value of light) expect(Number.isFinite(value)).toBe(true);
  });
  it('without a depth nothing is changed, and that is said with a remedy', () => {
    const { light, problems } = far(() => 0.5, () => 4, {}, { depth: false });
    expect(light[0]).toBe(0.5);
    expect(problems.join()).toContain('no depth in metres');
  });
  it('a click sets where it is sharp, a second one where that ends', () => {
    const [first, second] = correctionById('focus').picks ?? [];
    expect(first.take([3.25, 3.25, 3.25], {})).toEqual({ focusMetres: 3.25, untilMetres: 0 });
    expect(second.take([8, 8, 8], { focusMetres: 3.25 })).toEqual({ untilMetres: 8 });
    expect(second.take([8, 8, 8], { focusMetres: 0 })).toEqual({ focusMetres: 8 });
  });
  it('says from where to where it is sharp', () => {
    const { facts, examples } = correctionById('focus');
    expect(facts?.(examples[0])).toContain('Click');
    expect(facts?.({ ...examples[0], focusMetres: 5, fNumber: 8, focalMillimetres: 35 })).toContain('from 2.53 m to 183');
  });
});
