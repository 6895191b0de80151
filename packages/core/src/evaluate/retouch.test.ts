/** Copying and healing on planes that are known: what is copied is the same numbers, what is healed meets what lies around it. */
import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { cameraOf } from '../camera/camera.ts';
import { groundAt, viewOfCamera } from '../camera/view.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import type { Plane } from '../raster/planes.ts';
import { planDocument } from './plan.ts';

const SIZE = { width: 96, height: 72 };
const AREA = SIZE.width * SIZE.height;
const SPOT = { x: 40, y: 36, radius: 8 };
const inSpot = (i: number, grow = 0) => Math.hypot((i % SIZE.width) + 0.5 - SPOT.x, Math.floor(i / SIZE.width) + 0.5 - SPOT.y) < SPOT.radius + grow;

/** A picture, a spot of which is painted over. */
function retouched(picture: (x: number, y: number) => number, params: KeptValues, camera?: KeptValues): Float32Array {
  const plane: Plane = { type: 'f32', ...SIZE, data: Float32Array.from({ length: AREA }, (_, i) => picture(i % SIZE.width, Math.floor(i / SIZE.width))) };
  const masked: Plane = { type: 'u8', ...SIZE, data: Uint8Array.from({ length: AREA }, (_, i) => (inSpot(i) ? 255 : 0)) };
  let document = after(
    emptyDocument('retouch', 'Retouch', SIZE),
    { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] },
    { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' },
    { type: 'paint-layer', what: params.work === 'clone' || params.work === 'move' ? params.work : 'heal' },
  );
  if (camera) document = after(document, { type: 'set-camera', from: 'hand', params: camera });
  document = after(document, { type: 'set-params', layerId: document.buildUp.scene[1].id, params });
  const plan = planDocument(document);
  return draw(plan, { target: { place: plan.light, tone: null, focus: null }, source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => masked }).pixels.planes.subarray(0, AREA);
}
const spots = Array.from({ length: AREA }, (_, i) => i).filter((i) => inSpot(i));
const worst = (found: Float32Array, wanted: (x: number, y: number) => number) => Math.max(...spots.map((i) => Math.abs(found[i] - wanted(i % SIZE.width, Math.floor(i / SIZE.width)))));
const texture = (x: number, y: number) => 0.3 + 0.2 * Math.sin(x * 0.9) * Math.cos(y * 0.7);

describe('a copied place', () => {
  it('is the same numbers, everything else stays as it is bit for bit', () => {
    const found = retouched(texture, { work: 'clone', from: [23, -11] });
    expect(worst(found, (x, y) => texture(x + 23, y - 11))).toBeLessThan(1e-6);
    for (let i = 0; i < AREA; i++) if (!inSpot(i)) expect(found[i]).toBe(Math.fround(texture(i % SIZE.width, Math.floor(i / SIZE.width))));
  });
  it('is larger, turned by a quarter, mirrored about the middle of what was painted', () => {
    const middle = [SPOT.x, SPOT.y] as const;
    const ramp = (x: number, y: number) => 0.2 + 0.002 * (x + 0.5) + 0.004 * (y + 0.5);
    // Twice as large: half as far from the middle.
    expect(worst(retouched(ramp, { work: 'clone', from: [20, 0], scalePercent: 200, middle }), (x, y) => ramp(SPOT.x + 20 + (x + 0.5 - SPOT.x) / 2 - 0.5, SPOT.y + (y + 0.5 - SPOT.y) / 2 - 0.5))).toBeLessThan(1e-3);
    expect(worst(retouched(ramp, { work: 'clone', from: [20, 0], isMirrored: true, middle }), (x, y) => ramp(SPOT.x + 20 - (x + 0.5 - SPOT.x) - 0.5, y))).toBeLessThan(1e-3);
    // Clockwise: what was to the right of the middle is seen below it.
    expect(worst(retouched(ramp, { work: 'clone', from: [20, 0], turnDegrees: 90, middle }), (x, y) => ramp(SPOT.x + 20 + (y + 0.5 - SPOT.y) - 0.5, SPOT.y - (x + 0.5 - SPOT.x) - 0.5))).toBeLessThan(1e-3);
  });
});

describe('along a floor', () => {
  const camera = { heightMetres: 1.6, tiltDegrees: -25, focalMillimetres: 24, sensorMillimetres: 36 };
  const view = viewOfCamera(cameraOf({ from: 'hand', params: camera }), SIZE);
  /** Waves on the ground, by metres. */
  const waves = (east: number, south: number) => 0.4 + 0.2 * Math.sin(east * 2.2) * Math.cos(south * 1.7);
  const ground = (x: number, y: number) => groundAt(view, x + 0.5, y + 0.5);
  const paved = (x: number, y: number) => {
    const at = ground(x, y);
    return at && Math.hypot(...at) < 9 ? waves(at[0], at[2]) : 0.4;
  };
  it('is what lies there in the scene: the same step in metres for all of it; in the picture it would be something else', () => {
    const [middle, from] = [[SPOT.x, SPOT.y] as const, [16, 14] as const];
    const [here, there] = [groundAt(view, ...middle), groundAt(view, middle[0] + from[0], middle[1] + from[1])];
    if (!here || !there) throw new Error('It is no ground.');
    const wanted = (x: number, y: number) => {
      const at = ground(x, y);
      return at ? waves(at[0] + there[0] - here[0], at[2] + there[2] - here[2]) : Number.NaN;
    };
    const found = retouched(paved, { work: 'clone', from, middle, plane: 'level' }, camera);
    expect(worst(found, wanted)).toBeLessThan(0.01);
    expect(worst(retouched(paved, { work: 'clone', from, middle }, camera), wanted)).toBeGreaterThan(0.05);
  });
  it('needs a camera, and two places on the floor', () => {
    expect(() => retouched(() => 0.5, { work: 'clone', from: [16, 14], middle: [40, 36], plane: 'level' })).toThrow('the camera is not known');
    expect(() => retouched(() => 0.5, { work: 'clone', from: [0, -40], middle: [40, 36], plane: 'level' }, camera)).toThrow('on one side of the horizon');
    expect(() => retouched(() => 0.5, { work: 'clone', from: [-39, 0], middle: [60, 36], plane: 'upright' }, camera)).toThrow('where the wall would end');
  });
});

describe('a moved place', () => {
  const shadow = (x: number, y: number) => (inSpot(y * SIZE.width + x) ? 0.1 : 0.4);
  const at = (found: Float32Array, x: number, y: number) => found[y * SIZE.width + x];
  it('lies where it goes, number by number; its old place is as what lies around', () => {
    const found = retouched(shadow, { work: 'move', from: [26, -14], reachPx: 16, leaves: 'even' });
    for (let i = 0; i < AREA; i++) {
      const [x, y] = [i % SIZE.width, Math.floor(i / SIZE.width)];
      expect(found[i]).toBeCloseTo(inSpot((y + 14) * SIZE.width + x - 26) && x >= 26 ? 0.1 : 0.4, 3);
    }
  });
  it('leaves the texture of what lies on its other side', () => {
    const found = retouched(texture, { work: 'move', from: [26, -14], reachPx: 16 });
    // In the light of what lies around, which is even here: the same waves.
    const [old, beside] = [spots.map((i) => found[i]), spots.map((i) => texture((i % SIZE.width) - 26, Math.floor(i / SIZE.width) + 14))];
    const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
    const wave = (values: readonly number[]) => values.map((value) => value - mean(values));
    const product = (one: readonly number[], other: readonly number[]) => one.reduce((sum, value, i) => sum + value * other[i], 0);
    expect(product(wave(old), wave(beside)) / Math.sqrt(product(wave(old), wave(old)) * product(wave(beside), wave(beside)))).toBeGreaterThan(0.6);
  });
  it('takes its texture along, and is softened only itself', () => {
    const found = retouched(texture, { work: 'move', from: [26, -14], reachPx: 16 });
    expect(at(found, SPOT.x + 26, SPOT.y - 14)).toBeCloseTo(texture(SPOT.x, SPOT.y), 5);
    const soft = retouched(shadow, { work: 'move', from: [26, -14], reachPx: 16, softPx: 3 });
    // Darkest in its middle, half as dark on its edge, and as much shadow in all as there was.
    expect(at(soft, SPOT.x + 26, SPOT.y - 14)).toBeLessThan(0.13);
    expect(at(soft, SPOT.x + 26 + SPOT.radius, SPOT.y - 14)).toBeGreaterThan(0.2);
    expect(at(soft, SPOT.x + 26 + SPOT.radius, SPOT.y - 14)).toBeLessThan(0.32);
    const missing = (picture: Float32Array) => picture.reduce((sum, value) => sum + 0.4 - value, 0);
    expect(missing(soft) / missing(retouched(shadow, { work: 'move', from: [26, -14], reachPx: 16 }))).toBeCloseTo(1, 2);
  });
  it('is drawn out over what is behind it: as much of it in all, half as dark where it is half the time', () => {
    const found = retouched(shadow, { work: 'move', from: [0, 0], reachPx: 16, drawnPx: 32 });
    const missing = (picture: Float32Array) => picture.reduce((sum, value) => sum + 0.4 - value, 0);
    expect(missing(found) / (0.3 * spots.length)).toBeCloseTo(1, 2);
    // Sixteen pixels wide, on a way of 32: every place on its line is passed for half the time.
    for (const x of [-6, 0, 6]) expect(at(found, SPOT.x + x, SPOT.y)).toBeCloseTo(0.4 - 0.3 * (16 / 32), 1);
    expect(at(found, SPOT.x, SPOT.y + SPOT.radius + 2)).toBeCloseTo(0.4, 3);
  });
  it('is turned and scaled about its own middle', () => {
    const middle = [SPOT.x, SPOT.y] as const;
    const ramp = (x: number, y: number) => 0.2 + 0.002 * (x + 0.5) + 0.004 * (y + 0.5);
    const found = retouched(ramp, { work: 'move', from: [26, -14], turnDegrees: 90, middle, reachPx: 16 });
    // Clockwise: what was to the right of the middle lies below it.
    expect(at(found, SPOT.x + 26, SPOT.y - 14 + 4)).toBeCloseTo(ramp(SPOT.x + 4, SPOT.y), 2);
  });
});

describe('a healed spot', () => {
  const dirt = (of: (x: number, y: number) => number) => (x: number, y: number) => (inSpot(y * SIZE.width + x, -1) ? 0.02 : of(x, y));
  // Away from texture it must be the gradient itself, to a code of 255.
  it.each([
    ['an even wall', () => 0.4],
    ['light that falls off to one side', (x: number, y: number) => 0.3 + 0.002 * x + 0.001 * y],
    ['light of a lamp beside it', (x: number, y: number) => 0.2 + 0.5 * Math.exp(-((x - 20) ** 2 + (y - 30) ** 2) / 3000)],
  ])('on %s becomes what it was without the spot', (_, wall) => {
    expect(worst(retouched(dirt(wall), { work: 'heal', from: [26, 4], reachPx: 16 }), wall)).toBeLessThan(1 / 255);
  });
  it('is filled nearly as a membrane is: f = x² − y² on the rim is f inside, to 15 % of its range', () => {
    // @source harmonic functions: the rim says all; S. Perez et al., “Poisson Image Editing”, SIGGRAPH 2003. The patch is even, so that nothing of f comes from it.
    const f = (x: number, y: number) => 0.5 + ((x + 0.5 - SPOT.x) ** 2 - (y + 0.5 - SPOT.y) ** 2) * (x < 60 ? 0.001 : 0);
    const span = 2 * SPOT.radius ** 2 * 0.001;
    expect(worst(retouched((x, y) => (x >= 60 ? 0.5 : dirt(f)(x, y)), { work: 'heal', from: [36, 0], reachPx: 16 }), f) / span).toBeLessThan(0.15);
  });
  it('filled from around alone, it is even where the wall is, and meets light that falls off', () => {
    const wall = (x: number, y: number) => 0.3 + 0.002 * x + 0.001 * y;
    expect(worst(retouched(dirt(wall), { work: 'fill', reachPx: 16, from: [0, 0] }), wall)).toBeLessThan(0.01);
    expect(worst(retouched(dirt(() => 0.4), { work: 'fill', reachPx: 16 }), () => 0.4)).toBeLessThan(1e-5);
  });
  it('keeps the texture of the other place', () => {
    const found = retouched(dirt((x, y) => texture(x, y) + (x < 60 ? 0.2 : 0)), { work: 'heal', from: [35, 0], reachPx: 16 });
    const patch = spots.map((i) => texture((i % SIZE.width) + 35, Math.floor(i / SIZE.width)));
    const made = spots.map((i) => found[i]);
    const mean = (list: readonly number[]) => list.reduce((sum, value) => sum + value, 0) / list.length;
    const [a, b] = [mean(patch), mean(made)];
    const correlation = patch.reduce((sum, value, k) => sum + (value - a) * (made[k] - b), 0) / Math.sqrt(patch.reduce((sum, value) => sum + (value - a) ** 2, 0) * made.reduce((sum, value) => sum + (value - b) ** 2, 0));
    expect(correlation).toBeGreaterThan(0.9);
    // And the brightness of its own.
    expect(Math.abs(b - mean(spots.map(() => 0.5)))).toBeLessThan(0.05);
  });
});
