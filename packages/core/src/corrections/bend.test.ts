/** Distortion, colour fringes, uprights: pictures as another lens would have drawn them. */
import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { camera, type Camera } from '../camera/camera.ts';
import { projected, viewOfCamera } from '../camera/view.ts';
import { planDocument } from '../evaluate/plan.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument } from '../model/model.ts';
import { completeParams, type KeptValues } from '../params/table.ts';
import { type Bend, bentInto, radiusThere, unfolded, UNBENT } from '../raster/bend.ts';
import { correctionById } from './registry.ts';

const SIZE = { width: 1200, height: 800 };
function bendOf(id: string, params: KeptValues, size = SIZE): Bend {
  const correction = correctionById(id);
  const wanted = correction.work === 'neighbourhood' ? correction.spread(completeParams(correction, params), size) : null;
  if (wanted?.kind !== 'bend') throw new Error(`${id} bends nothing.`);
  return wanted.bend;
}
function place(bend: Bend, [x, y]: readonly [number, number], channel = 1): [number, number] {
  const out = new Float64Array(2);
  bentInto(bend, x, y, channel, out);
  return [out[0], out[1]];
}
/** The place of the new picture at which a place of the old one is seen. */
function seenAt(bend: Bend, [x, y]: readonly [number, number]): [number, number] {
  let at: [number, number] = [x, y];
  for (let n = 0; n < 200; n++) {
    const [u, v] = place(bend, at);
    at = [at[0] + 0.7 * (x - u), at[1] + 0.7 * (y - v)];
  }
  return at;
}
const grid = [0, 150, 333.3, 600, 911, 1200].flatMap((x) => [0, 99, 400, 800].map((y) => [x, y] as const));

describe('distortion', () => {
  it('is the formula of Brown and Conrady, at values worked out by hand', () => {
    // r (1 + k₁ r² + k₂ r⁴): half way out and in the corner.
    expect(radiusThere(0.5, [0.1, 0.02], false)).toBeCloseTo(0.5 * (1 + 0.025 + 0.00125), 12);
    expect(radiusThere(1, [-0.06, 0.01], false)).toBeCloseTo(0.95, 12);
    const [x, y] = place(bendOf('distortion', { firstPercent: 5, way: 'remove', edges: 'show' }), [1200, 800]);
    expect([x, y]).toEqual([expect.closeTo(600 + 600 * 1.05, 9), expect.closeTo(400 + 400 * 1.05, 9)]);
  });
  it('there and back is the same place within 0.02 pixels', () => {
    for (const [firstPercent, secondPercent] of [[8, -2], [-10, 3], [3, 0]]) {
      const [there, back] = ['add', 'remove'].map((way) => bendOf('distortion', { firstPercent, secondPercent, way, edges: 'show' }));
      for (const at of grid) {
        const [x, y] = place(back, place(there, at));
        expect(Math.hypot(x - at[0], y - at[1])).toBeLessThan(0.02);
      }
    }
  });
  it('cut off, nothing lies outside, and one edge just touches; a cushion and a barrel bend to opposite sides', () => {
    for (const firstPercent of [6, -6]) {
      const bend = bendOf('distortion', { firstPercent, way: 'add' });
      const border = Array.from({ length: 400 }, (_, n) => [[(n / 399) * 1200, 0], [0, (n / 399) * 800]] as const).flat().map((at) => place(bend, at));
      const least = Math.min(...border.map(([x, y]) => Math.min(x, y)));
      expect(least).toBeGreaterThan(-0.02);
      expect(least).toBeLessThan(0.1);
    }
    const sag = (firstPercent: number) => {
      const bend = bendOf('distortion', { firstPercent, way: 'add', edges: 'show' });
      return seenAt(bend, [600, 100])[1] - seenAt(bend, [100, 100])[1];
    };
    expect(sag(6) * sag(-6)).toBeLessThan(0);
  });
  it('what would fold is held before it does, and that is said', () => {
    const terms = unfolded([-0.4, -0.2]);
    for (let r = 0; r <= 1.2; r += 0.05) expect(1 + 3 * terms[0] * r * r + 5 * terms[1] * r ** 4).toBeGreaterThan(0);
    expect(unfolded([0.1, 0.05])).toEqual([0.1, 0.05]);
    const { facts, examples } = correctionById('distortion');
    expect(facts?.({ ...examples[0], firstPercent: -40, secondPercent: -20 })).toContain('would fold');
  });
});

describe('verticals', () => {
  /** A box of 6 × 9 × 4 m before a camera that looks up at it, and aside. */
  const corners = [-3, 3].flatMap((x) => [0, 9].flatMap((y) => [-12, -16].map((z) => [x, y, z] as const)));
  const seen = (patch: Partial<Camera>) => viewOfCamera({ ...(completeParams(camera, {}) as unknown as Camera), heightMetres: 1.6, ...patch }, SIZE);
  it.each([[{ tiltDegrees: 14 }], [{ tiltDegrees: -9, rollDegrees: 3 }], [{ tiltDegrees: 20, rollDegrees: -2, headingDegrees: 9, focalMillimetres: 24 }]])('uprights of a box are parallel and upright again: %o', (patch) => {
    const view = seen(patch);
    const { begin } = correctionById('verticals');
    const bend = bendOf('verticals', { ...begin?.({ ...(completeParams(camera, {}) as unknown as Camera), ...patch } as Camera), edges: 'show' });
    for (const [x, , z] of corners.filter(([, y]) => y === 0)) {
      const [low, high] = [0, 9].map((y) => {
        const at = projected(view, [x, y, z]);
        return seenAt(bend, [at?.x ?? 0, at?.y ?? 0]);
      });
      expect(Math.abs(low[0] - high[0]), `${x} ${z}`).toBeLessThan(0.02);
      expect(low[1]).toBeGreaterThan(high[1] + 50);
    }
    // The middle stays in the middle.
    const middle = place(bend, [600, 400]);
    expect(Math.hypot(middle[0] - 600, middle[1] - 400)).toBeLessThan(1e-6);
  });
  it('level lines of a front that is seen at an angle run level', () => {
    const view = seen({ headingDegrees: 18 });
    const bend = bendOf('verticals', { horizontalDegrees: 18, edges: 'show' });
    const heights = [-3, 0, 3].map((x) => {
      const at = projected(view, [x + 3, 6, -12]);
      return seenAt(bend, [at?.x ?? 0, at?.y ?? 0])[1];
    });
    expect(Math.max(...heights) - Math.min(...heights)).toBeLessThan(0.02);
  });
  it('an upright camera needs nothing', () => {
    const correction = correctionById('verticals');
    expect(correction.isNoOp(completeParams(correction, correction.begin?.({ ...(completeParams(camera, {}) as unknown as Camera), tiltDegrees: 0, rollDegrees: 0 }) ?? {}))).toBe(true);
  });
});

describe('in a picture', () => {
  const small = { width: 90, height: 60 };
  const area = 90 * 60;
  function drawn(id: string, params: KeptValues, light: (x: number, y: number) => number, level = 0) {
    const document = after(emptyDocument('doc', 'Bent', small), { type: 'add-sources', sources: [source(1, { ...small, role: 'beauty', alphaChannel: null, alpha: 'none' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction: id, zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params });
    const plane = { type: 'f32' as const, ...small, data: Float32Array.from({ length: area }, (_, i) => light(i % 90, Math.floor(i / 90))) };
    const plan = planDocument(document);
    return draw(plan, { target: lightOf(plan), level, source: () => ({ color: [plane, plane, plane], alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => { throw new Error('There are no masks.'); } }).pixels;
  }
  it('red and blue are drawn larger and smaller than green, from the middle outwards, and green stays bit by bit', () => {
    const edge = (x: number) => (x < 75 ? 0 : 1);
    const { planes, opaque } = drawn('colour-fringes', { redPercent: 2, bluePercent: -2 }, (x) => edge(x));
    const row = (c: number) => [...planes.subarray(c * area + 30 * 90, c * area + 31 * 90)];
    expect(row(1)).toEqual(Array.from({ length: 90 }, (_, x) => edge(x)));
    /** Where it passes a half. */
    const half = (c: number) => row(c).reduce((sum, value) => sum + (1 - value), 0);
    // 30 pixels from the middle, 2 % of which are 0.6.
    expect(half(0) - half(1)).toBeCloseTo(0.6, 1);
    expect(half(2) - half(1)).toBeCloseTo(-0.6, 1);
    expect(opaque).toBe(true);
  });
  it('what is even stays even, and bad numbers stay where they are', () => {
    for (const [id, params] of [['distortion', { firstPercent: -8 }], ['verticals', { verticalDegrees: 10, rollDegrees: 2 }], ['colour-fringes', { redPercent: 1 }]] as const) {
      const { planes } = drawn(id, params, () => 0.5);
      for (let i = 0; i < area; i++) expect(Math.abs(planes[i] - 0.5)).toBeLessThan(1e-6);
      const bad = drawn(id, params, (x, y) => (x === 45 && y === 30 ? Number.NaN : x === 50 && y === 30 ? 1e12 : 0.5)).planes;
      expect(bad.filter((value) => !Number.isFinite(value))).toHaveLength(0);
      expect(bad.subarray(0, area).filter((value) => Math.abs(value - 0.5) > 0.01).length).toBeLessThan(80);
    }
  });
  it('a camera that is turned farther than it sees, and a lens as strong as can be, give a picture and take no more memory than one', () => {
    for (const [id, params] of [['verticals', { verticalDegrees: 40, horizontalDegrees: -40, rollDegrees: 40, focalMillimetres: 4, sensorMillimetres: 300, edges: 'show' }], ['distortion', { firstPercent: 40, secondPercent: 40, way: 'remove', edges: 'show' }]] as const) {
      const { planes } = drawn(id, params, (x) => x / 90);
      for (const value of planes) expect(Number.isFinite(value)).toBe(true);
    }
  });
  it('unbent places are read exactly', () => expect(place({ homography: UNBENT, middle: [45, 30], unitPx: 50, radial: [0, 0], isInverse: true, channels: [1, 1, 1], zoom: 1 }, [12.5, 7.5])).toEqual([12.5, 7.5]));
});
