/** Glow: no light is added or lost, it falls off as it says, and what is not tinted stays. */
import { describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { newMask, newTerm } from '../document/mask-edits.ts';
import { planDocument } from '../evaluate/plan.ts';
import type { Backend } from '../evaluate/backend.ts';
import { referenceBackend } from '../evaluate/reference.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument } from '../model/model.ts';
import type { KeptValues } from '../params/table.ts';
import type { SourceView } from '../raster/view.ts';
import { eyeScatter, glow } from './glow.ts';

const SIZE = { width: 160, height: 120 };
const AREA = SIZE.width * SIZE.height;
const plane = (value: (x: number, y: number) => number) => ({ type: 'f32' as const, ...SIZE, data: Float32Array.from({ length: AREA }, (_, i) => value(i % SIZE.width, Math.floor(i / SIZE.width))) });
function glowing(value: (x: number, y: number) => number, params: KeptValues, backend: Backend): Float32Array[] {
  const document = after(emptyDocument('doc', 'Glow', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction: 'glow', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params });
  const view: SourceView = { color: [plane(value), plane(value), plane(value)], alpha: null, premultiplied: false, x: 0, y: 0 };
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: () => view, mask: () => { throw new Error('There are no masks.'); }, backend, level: 0 } as never);
  return [0, 1, 2].map((c) => pixels.planes.slice(c * AREA, (c + 1) * AREA));
}
const both = async () => [referenceBackend(), await builtKernels()];
const sum = (values: Float32Array) => values.reduce((total, value) => total + value, 0);
const lamp = (x: number, y: number) => (x === 80 && y === 60 ? 1000 : 0);

describe('glow', () => {
  it('keeps all light: a lamp far from the edges (to 1e-3), an even picture everywhere', async () => {
    for (const backend of await both()) {
      const [r] = glowing(lamp, { amountPercent: 50, power: 3, sizePercent: 0.6 }, backend);
      expect(Math.abs(sum(r) / 1000 - 1)).toBeLessThan(2e-2);
      expect(r[60 * SIZE.width + 80]).toBeGreaterThan(499);
      const [close] = glowing(lamp, { amountPercent: 50, power: 4, sizePercent: 0.6 }, backend);
      expect(Math.abs(sum(close) / 1000 - 1)).toBeLessThan(1e-3);
      for (const channel of glowing(() => 0.7, { amountPercent: 80 }, backend)) expectClose([...channel], new Array(AREA).fill(0.7), 1e-5);
    }
  });
  it('falls off by its power, and is the same all around', async () => {
    for (const backend of await both()) {
      const [r] = glowing(lamp, { amountPercent: 100, power: 2.4, sizePercent: 0.5 }, backend);
      const at = (distance: number) => (r[60 * SIZE.width + 80 + distance] + r[60 * SIZE.width + 80 - distance] + r[(60 + distance) * SIZE.width + 80] + r[(60 - distance) * SIZE.width + 80]) / 4;
      const slope = Math.log(at(24) / at(6)) / Math.log(24 / 6);
      expect(slope).toBeGreaterThan(-2.75);
      expect(slope).toBeLessThan(-2.05);
      expect(r[60 * SIZE.width + 80 + 20] / r[(60 + 20) * SIZE.width + 80]).toBeCloseTo(1, 3);
    }
  });
  it('scatters the light of its colour alone; alone, it is what is scattered', async () => {
    const [kernels] = (await both()).toReversed();
    const [r, g, b] = glowing(lamp, { amountPercent: 40, tint: [1, 0.5, 0] }, kernels);
    expect([r, g, b].map((channel) => Math.round(channel[60 * SIZE.width + 80] > 990 ? 0 : 1))).toEqual([1, 1, 0]);
    expect(sum(b)).toBeCloseTo(1000, 2);
    const [alone] = glowing(lamp, { amountPercent: 40, tint: [1, 1, 1], shows: 'alone' }, kernels);
    const [whole] = glowing(lamp, { amountPercent: 40, tint: [1, 1, 1] }, kernels);
    expectClose([...whole].map((value, i) => value - (i === 60 * SIZE.width + 80 ? 600 : 0)), [...alone], 1e-3);
  });
  it.each(['glow', 'streaks'])('%s only of the lamps that its mask names: as if they were alone, with the rest beside it; without a mask of all', async (correction) => {
    const other = (x: number, y: number) => (x === 40 && y === 30 ? 500 : 0.2);
    const [named, all] = [(x: number, y: number) => lamp(x, y), (x: number, y: number) => lamp(x, y) + other(x, y)];
    const mask = { ...newMask('mask-1', 'Lamps', [newTerm('rectangle', 'add', emptyDocument('doc', 'Glow', SIZE))]) };
    const right = plane((x) => (x >= 60 ? 1 : 0));
    const [reference, kernels] = await both();
    const made = (value: (x: number, y: number) => number, params: KeptValues, masked: boolean, inverted = false, backend = kernels) => {
      const document = after({ ...emptyDocument('doc', 'Glow', SIZE), masks: [mask] }, { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-correction-layer', correction, zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params: { amountPercent: 40, tint: [1, 0.8, 0.5], ...params } }, ...(masked ? [{ type: 'set-layer' as const, layerId: 'layer-2', patch: { mask: { maskId: 'mask-1', inverted, enabled: true } } }] : []));
      const color = [plane(value), plane(value), plane(value)] as const;
      const { pixels } = draw(planDocument(document), { target: lightOf(planDocument(document)), source: () => ({ color, alpha: null, premultiplied: false, x: 0, y: 0 }), mask: () => right, backend, level: 0 } as never);
      expect(pixels.opaque).toBe(true);
      return [0, 2].map((c) => pixels.planes.slice(c * AREA, (c + 1) * AREA));
    };
    for (const shows of ['whole', 'alone']) {
      const [masked, single] = [made(all, { shows, maskIs: 'lit' }, true), made(named, { shows }, false)];
      for (const [c, found] of masked.entries()) {
        // What lies in the mask beside the lamp is even, and shines as well.
        const even = made((x) => (x >= 60 ? 0.2 : 0), { shows }, false)[c];
        expectClose([...found], [...single[c]].map((value, i) => value + even[i] + (shows === 'whole' && i % SIZE.width < 60 ? other(i % SIZE.width, Math.floor(i / SIZE.width)) : 0)), 2e-3);
      }
    }
    for (const [c, found] of made(all, { maskIs: 'lit' }, true, false, reference).entries()) expectClose([...found], [...made(all, { maskIs: 'lit' }, true)[c]], 1e-3);
    expect(made(all, { maskIs: 'lit' }, false)).toEqual(made(all, {}, false));
    // Turned round, the other lamp shines and this one stays.
    const turned = made(all, { maskIs: 'lit' }, true, true)[0];
    expect(turned[60 * SIZE.width + 80]).toBeCloseTo(1000.2, 0);
    expect(turned[30 * SIZE.width + 40]).toBeLessThan(400);
    // As before, a mask may also say where it is seen.
    expect(made(all, {}, true)[0][30 * SIZE.width + 40]).toBe(500);
  });
  it('of a layer with edges spreads alpha with the light: it never leaves 0…1, and inside nothing changes', async () => {
    const document = after(emptyDocument('doc', 'Glow', SIZE), { type: 'add-sources', sources: [source(1, { ...SIZE, role: 'beauty', alphaChannel: 'A', alpha: 'premultiplied' })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' }, { type: 'add-chain-correction', layerId: 'layer-1', correction: 'glow' }, { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { amountPercent: 50, power: 3, sizePercent: 0.5 } });
    const half = plane((x) => (x < 80 ? 1 : 0));
    const lit = plane((x) => (x < 80 ? 0.4 : 0));
    const plan = planDocument(document);
    for (const backend of await both()) {
      const { pixels } = draw(plan, { target: lightOf(plan), source: () => ({ color: [lit, lit, lit], alpha: half, premultiplied: true, x: 0, y: 0 }), mask: () => { throw new Error('There are no masks.'); }, backend, level: 0 } as never);
      const [r, alpha] = [0, 3].map((channel) => pixels.planes.subarray(channel * AREA + 60 * SIZE.width, channel * AREA + 61 * SIZE.width));
      expect(Math.max(...alpha)).toBeLessThanOrEqual(1);
      expect(Math.min(...alpha)).toBeGreaterThanOrEqual(0);
      // Straight, it is one colour throughout.
      for (let x = 0; x < 110; x++) expect(r[x] / alpha[x]).toBeCloseTo(0.4, 4);
      expect(alpha[10]).toBeCloseTo(1, 1);
    }
  });
  // CIE 146:2002, values of the general equation: 25 years, p 0.5.
  it.each([
    [0.1, 10513.314],
    [0.5, 100.61581],
    [1, 15.18053],
    [5, 0.296626],
    [10, 0.067658],
    [30, 0.009027],
    [60, 0.003575],
  ])('the eye scatters at %f° as published', (degrees, value) => expect(Math.abs(eyeScatter(degrees, 25) - value)).toBeLessThan(Math.max(6e-7, 1e-6 * value)));
  it('older eyes scatter more: at 1° and 70 years 22.9975', () => expect(eyeScatter(1, 70)).toBeCloseTo(22.997523, 4));
  it('as in the eye it has the eye’s ratios between angles, whatever the size of the picture', () => {
    const params = { ...glow.examples[2], ageYears: 25, amountPercent: 100 } as never;
    const found = (size: { width: number; height: number }) => (glow as unknown as { spread: (params: never, size: object) => unknown }).spread(params, size) as { parts: { sigmaPx: number; gain: number[] }[] };
    const [small, large] = [found({ width: 600, height: 400 }), found({ width: 4500, height: 3000 })];
    expect(large.parts.map(({ gain }) => gain[0])).toEqual(small.parts.map(({ gain }) => expect.closeTo(gain[0], 6)));
    // Light per area at the middle of a part is the equation's, in proportion.
    const [a, b] = [small.parts[2], small.parts[4]];
    const degrees = (px: number) => (Math.atan((px / 600) * 2 * Math.tan((54 * Math.PI) / 360)) * 180) / Math.PI;
    const density = ({ sigmaPx, gain }: { sigmaPx: number; gain: number[] }) => gain[0] / sigmaPx ** 2;
    expect(density(a) / density(b) / (eyeScatter(degrees(a.sigmaPx * 1.1774), 25) / eyeScatter(degrees(b.sigmaPx * 1.1774), 25))).toBeCloseTo(1, 0);
  });
});
