import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import type { Edit } from '../document/edits.ts';
import type { KeptValues } from '../params/table.ts';
import { emptyDocument, type TazzelDocument } from '../model/model.ts';
import { curveAt, referenceLocal, stopsOf } from '../raster/local.ts';
import type { Plane } from '../raster/planes.ts';
import type { SourceView } from '../raster/view.ts';
import type { Backend } from './backend.ts';
import { planDocument } from './plan.ts';
import { referenceBackend } from './reference.ts';
import { lightOf } from './targets.ts';

let kernels: Backend;
beforeAll(async () => {
  kernels = await builtKernels();
});

const { width, height, points, cases } = JSON.parse(readFileSync(new URL('fixtures/local-scipy.json', import.meta.url), 'utf8')) as {
  width: number;
  height: number;
  points: readonly (readonly [number, number])[];
  cases: Readonly<Record<string, { params: Readonly<Record<string, number>>; values: readonly number[] }>>;
};

/** One grey element under the tone line, and a correction of everything below. */
function corrected(size: { width: number; height: number }, correction: string, params: KeptValues, ...edits: readonly Edit[]): TazzelDocument {
  const element = source(1, { ...size, colorChannels: ['Y'] });
  return after(
    emptyDocument('doc', 'Test', size),
    { type: 'add-sources', sources: [element] },
    { type: 'add-layer', layer: 'element', params: { source: element.id }, zone: 'scene' },
    { type: 'add-correction-layer', correction, zone: 'scene' },
    { type: 'set-params', layerId: 'layer-2', params },
    ...edits,
  );
}
const mask = (): Plane => {
  throw new Error('no mask here');
};
function lightAfter(size: { width: number; height: number }, data: Float32Array, correction: string, params: KeptValues, backend: Backend, alpha: Plane | null = null): Float32Array {
  const plan = planDocument(corrected(size, correction, params));
  const view: SourceView = { color: [{ type: 'f32', ...size, data }], alpha, premultiplied: false, x: 0, y: 0 };
  return draw(plan, { source: () => view, mask, target: lightOf(plan), backend }).pixels.planes;
}

describe('local corrections', () => {
  /** A step of four stops with noise on both sides: the same as was given to SciPy. */
  const data = new Float32Array(width * height);
  for (let i = 0, state = 2024; i < data.length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    data[i] = (0.05 + (0.1 * state) / 2 ** 32) * (i % width >= width / 2 ? 16 : 1);
  }
  // The formulas of He et al. 2013 with Gaussian windows, and unsharp masking in stops, written with scipy.ndimage.gaussian_filter 1.17.1 in double precision.
  it.each(Object.keys(cases))('%s is that of SciPy', (correction) => {
    const { params, values } = cases[correction];
    for (const backend of [kernels, referenceBackend()]) {
      const made = lightAfter({ width, height }, data, correction, params, backend);
      for (const [i, [x, y]] of points.entries()) expect(Math.abs(Math.log2(made[y * width + x] / values[i])), `${x}, ${y}`).toBeLessThan(2e-3);
    }
  });

  const STEP = { width: 256, height: 16 };
  const step = (stops: number) => Float32Array.from({ length: STEP.width * STEP.height }, (_, i) => 0.18 * 2 ** (i % STEP.width >= 128 ? stops / 2 : -stops / 2));
  /** How far each side of a step goes beyond what it is away from the edge, as a share of the step. */
  function overshoot(stops: number, correction: string, params: KeptValues): number {
    const row = [...lightAfter(STEP, step(stops), correction, params, kernels).subarray(8 * STEP.width, 9 * STEP.width)].map(Math.log2);
    const [dark, light] = [row[2], row[253]];
    return Math.max(dark - Math.min(...row), Math.max(...row) - light) / stops;
  }
  // The bound is ours; a mean that keeps no edges overshoots by a half (sharpen at 100 %, below).
  it('leave no halo on an edge of four stops: less than a twentieth of it', () => {
    expect(overshoot(4, 'shadows-highlights', { shadowsStops: 1.5, highlightsStops: -1.5, widthPercent: 4 })).toBeLessThan(0.02);
    expect(overshoot(4, 'local-contrast', { finePercent: 50, mediumPercent: 50, coarsePercent: 50, sizePercent: 0.8 })).toBeLessThan(0.05);
    expect(overshoot(4, 'sharpen', { amountPercent: 100, radiusPx: 8 })).toBeGreaterThan(0.4);
  });
  it('shadows come up by what is asked, and their texture keeps its contrast', () => {
    // A dark wall with a pattern of 0.2 stops.
    const wall = Float32Array.from({ length: STEP.width * STEP.height }, (_, i) => 0.18 * 2 ** (-4.5 + (i % 2 === 0 ? 0.1 : -0.1)));
    const made = lightAfter(STEP, wall, 'shadows-highlights', { shadowsStops: 1, widthPercent: 4 }, kernels);
    const at = 8 * STEP.width + 100;
    expect(Math.log2(made[at] * made[at + 1]) / 2 - Math.log2(0.18) + 4.5).toBeCloseTo(1, 1);
    expect(Math.log2(made[at] / made[at + 1])).toBeCloseTo(Math.log2(wall[at] / wall[at + 1]), 1);
  });
  it('a flat picture stays as it is', () => {
    const flat = new Float32Array(STEP.width * STEP.height).fill(0.4);
    for (const params of [{ finePercent: 200, mediumPercent: -50, coarsePercent: 100 }]) for (const value of lightAfter(STEP, flat, 'local-contrast', params, kernels)) expect(Math.abs(value - 0.4) < 1e-4 || value === 1).toBe(true);
  });
  it('what is no number stays where it is', () => {
    const bad = step(2);
    bad[8 * STEP.width + 40] = Number.NaN;
    bad[8 * STEP.width + 200] = 1e6;
    const made = lightAfter(STEP, bad, 'local-contrast', { finePercent: 100, sizePercent: 0.8 }, kernels);
    for (let i = 0; i < STEP.width * STEP.height; i++) expect(Number.isFinite(made[i])).toBe(true);
  });
  it('a mask in the chain and picture values above the tone line work', () => {
    const size = { width: 64, height: 48 };
    const random = seeded(9);
    const data = Float32Array.from({ length: size.width * size.height }, () => random());
    const document = after(corrected(size, 'sharpen', {}), { type: 'add-correction-layer', correction: 'local-contrast', zone: 'picture' }, { type: 'set-params', layerId: 'layer-3', params: { finePercent: 60, sizePercent: 3 } }, { type: 'add-chain-correction', layerId: 'layer-1', correction: 'sharpen' }, { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { amountPercent: 50, radiusPx: 2 } });
    const plan = planDocument(document);
    const view: SourceView = { color: [{ type: 'f32', ...size, data }], alpha: null, premultiplied: false, x: 0, y: 0 };
    const [a, b] = [kernels, referenceBackend()].map((backend) => draw(plan, { source: () => view, mask, backend }).pixels.planes);
    for (let i = 0; i < a.length; i++) expect(Math.abs(a[i] - b[i])).toBeLessThan(2e-4);
    // A tile is the same part of the whole, bit for bit.
    const region = { x: 11, y: 7, width: 13, height: 9 };
    const tile = draw(plan, { source: () => view, mask, backend: kernels, region }).pixels.planes;
    for (let y = 0; y < region.height; y++) for (let x = 0; x < region.width; x++) expect(tile[y * region.width + x]).toBe(a[(region.y + y) * size.width + region.x + x]);
  });
});

describe('the loops', () => {
  it('stand on each other: kernels and definitions, whole vectors and the rest', () => {
    const random = seeded(4);
    for (const area of [1, 2, 3, 4, 7, 64, 130]) {
      const planes = Float32Array.from({ length: 4 * area }, (_, i) => (i < 3 * area ? random() * 3 - 0.1 : random() < 0.2 ? 0 : random()));
      const [a, b] = [kernels, referenceLocal].map((loops) => {
        const told = new Float32Array(3 * area);
        loops.moments(told, planes, area);
        const line = new Float32Array(2 * area);
        loops.fit(line, told.map((value, i) => value * (i < area ? 1 : 1.3)), area, 0.5);
        const out = new Float32Array(4 * area);
        loops.local(out, planes, [line, line], area, { amounts: [1.5, -0.5], thresholds: [0, 0.1], curve: Array.from({ length: 257 }, (_, i) => i / 200) });
        return [told, line, out];
      });
      for (const [n, made] of a.entries()) for (let i = 0; i < made.length; i++) expect(Math.abs(made[i] - b[n][i]), `${area} ${n} ${i}`).toBeLessThan(1e-4 * Math.max(1, Math.abs(b[n][i])));
    }
  });
  it('stops have an end in the dark, and a curve ends level', () => {
    expect(stopsOf(Number.NaN)).toBe(-10);
    expect(stopsOf(-3)).toBe(-10);
    expect(stopsOf(Number.POSITIVE_INFINITY)).toBeCloseTo(16, 2);
    const curve = Array.from({ length: 257 }, (_, i) => i);
    expect([curveAt(curve, -99), curveAt(curve, 99), curveAt(curve, -2)]).toEqual([0, 256, 128]);
  });
});
