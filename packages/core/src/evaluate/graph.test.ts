import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { after, fillParams, smallDocument, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import { srgbEncode } from '../color/srgb.ts';
import type { Edit } from '../document/edits.ts';
import { newTerm } from '../document/mask-edits.ts';
import { UNPLACED } from '../document/layers.ts';
import { emptyDocument, type Placement, type TazzelDocument } from '../model/model.ts';
import { filterTable, resamplingFilters, tableWeight } from '../raster/filters.ts';
import type { Plane } from '../raster/planes.ts';
import type { Backend } from './backend.ts';
import { fillPixel, prepareFill } from '../layers/fill-pixel.ts';
import { graphFor } from './graph.ts';
import type { Pixels } from './pixels.ts';
import { planDocument, type PlanOptions } from './plan.ts';
import { referenceBackend } from './reference.ts';
import { keyAt, stepsTo } from './steps.ts';
import { cardKey, lightOf, resultOf } from './targets.ts';
import type { SourceView } from '../raster/view.ts';

let kernels: Backend;
beforeAll(async () => {
  kernels = await builtKernels();
});

const SIZE = { width: 40, height: 30 };
const random = seeded(5);
const plane = (width = SIZE.width, height = SIZE.height): Plane => ({ type: 'f32', width, height, data: Float32Array.from({ length: width * height }, () => random() * 2) });
const view = (): SourceView => ({ color: [plane(), plane(), plane()], alpha: null, premultiplied: false, x: 0, y: 0 });
const views: Record<string, SourceView> = { 'source-1': view(), 'source-2': view(), 'source-3': view(), 'source-4': view() };
const half: Plane = { type: 'u8', ...SIZE, data: Uint8Array.from({ length: 1200 }, (_, i) => (i % 40 < 20 ? 255 : 0)) };
const inputs = { source: (id: string) => views[id], mask: () => half };

/** One element of light at the base, another beside. */
const begin = (...edits: readonly Edit[]): TazzelDocument =>
  after(
    emptyDocument('doc', 'Test', SIZE),
    { type: 'add-sources', sources: [source(1, SIZE), source(2, SIZE), source(3, { ...SIZE, role: 'raw-lighting' })] },
    { type: 'add-mask', name: 'Left', terms: [newTerm('rectangle', 'add', emptyDocument('doc', 'Test', SIZE), { points: [[10, 15], [20, 15], [10, 30]] })] },
    { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' },
    ...edits,
  );
const light = (document: TazzelDocument, backend: Backend = kernels, options: PlanOptions = {}) => {
  const plan = planDocument(document, options);
  return draw(plan, { ...inputs, target: lightOf(plan), backend }).pixels.planes;
};
const at = (planes: Float32Array, x: number, y: number) => [0, 1, 2, 3].map((c) => planes[c * 1200 + y * 40 + x]);
const same = (a: Float32Array, b: Float32Array, tolerance = 0) => expectClose(a, b, tolerance);
const blur = (layerId: string, sigmaPx: number): Edit[] => [{ type: 'add-chain-correction', layerId, correction: 'gaussian-blur' }, { type: 'set-params', layerId, correctionId: 'correction-1', params: { sigmaPx } }];
const blurBelow = (layerId: string, sigmaPx: number): Edit[] => [{ type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene' }, { type: 'set-params', layerId, params: { sigmaPx } }];

describe('chains and groups carry what reads across pixels', () => {
  it('a blur in the chain of the only layer is a blur of everything', () => {
    same(light(begin(...blur('layer-1', 3))), light(begin(...blurBelow('layer-2', 3))), 1e-6);
    // What follows in the chain works on what was blurred.
    const brighter: Edit[] = [...blur('layer-1', 3), { type: 'add-chain-correction', layerId: 'layer-1', correction: 'exposure' }, { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-2', params: { exposureStops: 1 } }];
    same(light(begin(...brighter)), light(begin(...blur('layer-1', 3))).map((v, i) => (i < 3600 ? 2 * v : v)), 1e-6);
  });
  it('opacity and mask say how far, in the chain and for all below', () => {
    const [plain, blurred] = [light(begin()), light(begin(...blur('layer-1', 3)))];
    const half: Edit = { type: 'set-chain-correction', layerId: 'layer-1', correctionId: 'correction-1', patch: { opacity: 0.25 } };
    same(light(begin(...blur('layer-1', 3), half)), plain.map((v, i) => v + 0.25 * (blurred[i] - v)), 1e-6);
    same(light(begin(...blurBelow('layer-2', 3), { type: 'set-layer', layerId: 'layer-2', patch: { opacity: 0.25 } })), plain.map((v, i) => v + 0.25 * (blurred[i] - v)), 1e-6);
    const masked = light(begin(...blurBelow('layer-2', 3), { type: 'set-params', layerId: 'layer-2', params: { staysInside: false } }, { type: 'set-layer', layerId: 'layer-2', patch: { mask: { maskId: 'mask-1', inverted: true, enabled: true } } }));
    expect([at(masked, 5, 5), at(masked, 30, 5)]).toEqual([at(plain, 5, 5), at(blurred, 30, 5)]);
  });
  const pair = (isolated: boolean, ...edits: readonly Edit[]) => begin({ type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene', blend: 'add' }, { type: 'group-layer', layerId: 'layer-2' }, { type: 'set-layer', layerId: 'layer-3', patch: { isolated, opacity: 0.999999 } }, { type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene', groupId: 'layer-3' }, { type: 'set-params', layerId: 'layer-4', params: { sigmaPx: 2 } }, ...edits);
  it('in an isolated group it blurs the group alone, in any other all that is below', () => {
    const [base, added] = [light(begin()), light(begin({ type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene' }))];
    const alone = light(after(begin(), { type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene' }, ...blur('layer-2', 2)));
    const isolated = light(pair(true, { type: 'set-layer', layerId: 'layer-3', patch: { blend: 'add' } }));
    same(isolated.subarray(0, 3600), base.subarray(0, 3600).map((v, i) => v + alone[i]), 1e-5);
    const sum = light(begin({ type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene', blend: 'add' }, ...blurBelow('layer-3', 2)));
    same(light(pair(false)), sum, 1e-5);
    const quarter = light(pair(false, { type: 'set-layer', layerId: 'layer-3', patch: { opacity: 0.25 } }));
    const plainSum = light(begin({ type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene', blend: 'add' }));
    same(quarter.subarray(0, 3600), base.subarray(0, 3600).map((v, i) => v + 0.25 * (sum[i] - v)), 1e-5);
    expect([added.length, plainSum.length]).toEqual([4800, 4800]);
  });
  it('over the tone line it mixes picture values', () => {
    const display = smallDocument();
    const document = after(begin({ type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'picture' }), { type: 'set-params', layerId: 'layer-2', params: { sigmaPx: 3 } });
    const picture = draw(planDocument(document), { ...inputs, backend: kernels }).pixels.planes;
    const encoded = light(begin()).map((v, i) => (i < 3600 ? srgbEncode(v) : v));
    views['source-4'] = { ...views['source-1'], color: [0, 1, 2].map((c): Plane => ({ type: 'f32', ...SIZE, data: encoded.slice(c * 1200, (c + 1) * 1200) })) };
    const expected = after(begin({ type: 'add-sources', sources: [source(4, SIZE)] }), { type: 'remove-layer', layerId: 'layer-1' }, { type: 'add-layer', layer: 'element', params: { source: 'source-4' }, zone: 'scene' }, ...blurBelow('layer-2', 3));
    same(picture, light(expected), 1e-5);
    expect(display.buildUp.picture).toHaveLength(1);
  });
  it('an element smaller than the picture goes soft at its edges, and nothing of it comes far beyond them', () => {
    const small = { width: 8, height: 8 };
    views['source-4'] = { ...view(), color: [0, 1, 2].map((): Plane => ({ type: 'f32', ...small, data: new Float32Array(64).fill(0.5) })), x: 10, y: 12 };
    const document = (...edits: readonly Edit[]) => after(begin({ type: 'add-sources', sources: [source(4, { ...small, x: 10, y: 12 })] }), { type: 'remove-layer', layerId: 'layer-1' }, { type: 'add-layer', layer: 'element', params: { source: 'source-4' }, zone: 'scene' }, ...edits);
    for (const sigmaPx of [1.5, 6]) {
      const planes = light(document(...blur('layer-1', sigmaPx)));
      expect(at(planes, 38, 1)[3]).toBeLessThan(1e-3);
      expect(at(planes, 9, 15)[3]).toBeGreaterThan(0.1);
      expect(at(planes, 9, 15)[3]).toBeLessThan(at(planes, 12, 15)[3]);
    }
    // Shown as it is and read by a placed copy of it: each has its own edges.
    const both = light(document({ type: 'add-layer', layer: 'snapshot', params: { after: 'layer-1' }, zone: 'scene' }, { type: 'duplicate-layer', layerId: 'layer-1' }, { type: 'set-layer', layerId: 'layer-3', patch: { placement: { ...UNPLACED, offsetX: 12.5 } } }));
    expectClose([at(both, 14, 16)[3], at(both, 26, 16)[3], at(both, 39, 16)[3], at(both, 3, 16)[3]], [1, 1, 0, 0], 1e-5);
  });
  it('nothing lies below the first layer: there is nothing to blur', () => {
    const document = after(emptyDocument('doc', 'Test', SIZE), { type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene' }, { type: 'set-params', layerId: 'layer-1', params: { sigmaPx: 3 } });
    expect(light(document).every((v) => v === 0)).toBe(true);
  });
  it('what lies below the edited layer is kept, whether blurs lie below or above', () => {
    const document = begin(...blurBelow('layer-2', 3), ...blurBelow('layer-3', 2), ...blurBelow('layer-4', 1), { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }, { type: 'set-params', layerId: 'layer-5', params: { exposureStops: 1 } });
    const changed = after(document, { type: 'set-params', layerId: 'layer-5', params: { exposureStops: -1 } });
    const store = new Map<string, Pixels>();
    const on = (d: TazzelDocument, into = store) => {
      const plan = planDocument(d);
      return draw(plan, { ...inputs, backend: kernels, store: into, target: resultOf(plan, 'layer-5') });
    };
    on(document);
    const kept = store.size;
    const result = on(changed);
    // Of the three blurs nothing is made again; the exposure and the tone line are.
    expect([store.size, result.stepsRun]).toEqual([kept, 2]);
    expect([...result.pixels.planes]).toEqual([...on(changed, new Map()).pixels.planes]);
  });
});

describe('fills', () => {
  const filled = (fill: Parameters<typeof prepareFill>[0], zone: 'scene' | 'picture' = 'scene') => after(emptyDocument('doc', 'Test', SIZE), { type: 'add-layer', layer: 'fill', zone, params: fillParams(fill) });
  it('one colour, in light under the tone line and as picture values over it', () => {
    const fill = { shape: 'plain', from: [0.2, 1.5, 0, 1], to: [0, 0, 0, 0], start: [0, 0], end: [0, 0] } as const;
    expectClose(at(light(filled(fill)), 7, 7), [0.2, 1.5, 0, 1], 1e-6);
    expectClose(at(draw(planDocument(filled(fill, 'picture')), { ...inputs, backend: kernels }).pixels.planes, 7, 7), [srgbEncode(0.2), 1, 0, 1], 1e-5);
  });
  it('ramps run from place to place, in the same places at every level', () => {
    const fill = { shape: 'linear', from: [1, 0, 0, 1], to: [0, 0, 1, 0], start: [10, 0], end: [30, 0] } as const;
    const planes = light(filled(fill));
    expectClose(at(planes, 2, 3), [1, 0, 0, 1], 1e-6);
    // The middle of pixel 19 is 9.5 of 20 along; colours are multiplied with their alpha.
    expectClose(at(planes, 19, 9), [1 - 0.475, 0, 0, 1 - 0.475], 1e-5);
    expectClose(at(planes, 35, 9), [0, 0, 0, 0], 1e-6);
    const plan = planDocument(filled(fill));
    const reduced = draw(plan, { ...inputs, level: 1, target: lightOf(plan), backend: kernels }).pixels.planes;
    expect(reduced[7 * 20 + 9]).toBeCloseTo((planes[9 * 40 + 18] + planes[9 * 40 + 19]) / 2, 5);
    const round = prepareFill({ shape: 'radial', from: [1, 1, 1, 1], to: [0, 0, 0, 1], start: [20, 15], end: [20, 25] });
    expectClose([fillPixel(round, [20, 15])[0], fillPixel(round, [25, 15])[0], fillPixel(round, [0, 0])[0]], [1, 0.5, 0], 1e-6);
    // A ramp of no length is all of its beginning.
    expect(fillPixel(prepareFill({ ...fill, end: fill.start }), [35, 9])).toEqual([1, 0, 0, 1]);
  });
});

describe('snapshots', () => {
  const shot = (...edits: readonly Edit[]) => begin({ type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene', blend: 'multiply' }, { type: 'add-layer', layer: 'snapshot', params: { after: 'layer-1' }, zone: 'scene' }, ...edits);
  it('are the picture after a layer, live, with their own mode', () => {
    same(light(shot()), light(begin()));
    const doubled = light(shot({ type: 'set-layer', layerId: 'layer-3', patch: { blend: 'add' } }));
    const product = light(begin({ type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene', blend: 'multiply' }));
    same(doubled.subarray(0, 3600), light(begin()).subarray(0, 3600).map((v, i) => v + product[i]), 1e-6);
    // A change of the layer that it shows changes it.
    same(light(shot(...blur('layer-1', 3))), light(begin(...blur('layer-1', 3))), 1e-6);
  });
  it('of light over the tone line are picture values', () => {
    const over = begin({ type: 'add-layer', layer: 'snapshot', params: { after: 'layer-1' }, zone: 'picture' });
    const picture = draw(planDocument(over), { ...inputs, backend: kernels }).pixels.planes;
    expectClose(at(picture, 4, 4).slice(0, 3), at(light(begin()), 4, 4).slice(0, 3).map(srgbEncode), 1e-5);
  });
  it('share what they show with the picture itself, and one another', () => {
    const document = shot({ type: 'add-layer', layer: 'snapshot', params: { after: 'layer-3' }, zone: 'scene' }, { type: 'add-layer', layer: 'snapshot', params: { after: 'layer-4' }, zone: 'scene' });
    const graph = graphFor(planDocument(document), 0, resultOf(planDocument(document)));
    expect(graph.pictures.filter(({ isKept }) => isKept)).toHaveLength(3);
    same(light(document), light(begin()), 1e-6);
  });
  it('of themselves, of what comes after, of what is gone: a sentence', () => {
    const document = shot();
    expect(() => after(document, { type: 'set-params', layerId: 'layer-3', params: { after: 'layer-3' } })).toThrow(/cannot show itself/);
    expect(() => after(document, { type: 'add-layer', layer: 'snapshot', params: { after: 'layer-3' }, zone: 'scene', index: 0 })).toThrow(/does not lie below it/);
    expect(() => after(document, { type: 'add-layer', layer: 'snapshot', params: { after: 'layer-9' }, zone: 'scene' })).toThrow(/the layer that it shows is gone/);
    const inside = after(document, { type: 'group-layer', layerId: 'layer-3' });
    expect(() => after(inside, { type: 'set-params', layerId: 'layer-3', params: { after: 'layer-4' } })).toThrow(/cannot show itself/);
    // Moved below what it shows, or left behind, it shows nothing and says so.
    const moved = after(document, { type: 'move-layer', layerId: 'layer-3', zone: 'scene', index: 0 });
    expect(planDocument(moved).problems).toEqual(['After element 1: element 1 does not lie below it. Choose a layer below, or move the snapshot up.']);
    const gone = after(document, { type: 'remove-layer', layerId: 'layer-1' });
    expect(planDocument(gone).problems).toEqual(['After element 1: the layer that it shows is gone. Choose another one.']);
  });
});

describe('placement', () => {
  const placed = (patch: Partial<Placement>, ...edits: readonly Edit[]) => begin({ type: 'set-layer', layerId: 'layer-1', patch: { placement: { ...UNPLACED, ...patch } } }, ...edits);
  const original = () => light(begin());
  it('whole shifts, mirrorings and quarter turns take pixels as they are', () => {
    const planes = original();
    const shifted = light(placed({ offsetX: 7, offsetY: -3 }));
    expect([at(shifted, 17, 10), at(shifted, 6, 10), at(shifted, 17, 28)]).toEqual([at(planes, 10, 13), [0, 0, 0, 0], [0, 0, 0, 0]]);
    expect(at(light(placed({ scaleX: -1 })), 3, 5)).toEqual(at(planes, 36, 5));
    expect(at(light(placed({ rotationDegrees: 180 })), 3, 5)).toEqual(at(planes, 36, 24));
    // A quarter turn clockwise around the middle, 20, 15: what was above it lies to its right.
    expect(at(light(placed({ rotationDegrees: 90 })), 24, 10)).toEqual(at(planes, 15, 10));
    same(light(placed({ rotationDegrees: 360 })), planes);
  });
  it('filters are those that were published, and sum to one', () => {
    // Mitchell and Netravali 1988; Duchon 1979.
    const table = { mitchell: [0.88888889, 0.78211806, 0.53472222, 0.05555556, -0.03472222, -0.01475694, 0], lanczos: [1, 0.89006705, 0.6079271, 0, -0.13509491, -0.06779134, 0.02431708] };
    for (const [id, expected] of Object.entries(table)) {
      const { weight, radius } = resamplingFilters[id as 'lanczos'];
      expectClose([0, 0.25, 0.5, 1, 1.5, 1.75, 2.5].map(weight), expected, 1e-7, id);
      const packed = filterTable({ ...resamplingFilters[id as 'lanczos'], radius });
      for (const x of [0.1, 0.777, -1.3, 1.99, 2.7, 3.5]) expect(tableWeight(packed, x)).toBeCloseTo(weight(x), 4);
    }
    const even: Plane = { type: 'f32', ...SIZE, data: new Float32Array(1200).fill(0.75) };
    const flat = (document: TazzelDocument) => {
      const plan = planDocument(document);
      return draw(plan, { ...inputs, source: () => ({ ...views['source-1'], color: [even, even, even] }), target: lightOf(plan), backend: kernels }).pixels.planes;
    };
    for (const filter of ['mitchell', 'lanczos'] as const) for (const patch of [{ offsetX: 0.3 }, { scaleX: 1.7, scaleY: 0.6 }, { rotationDegrees: 31, scaleX: 0.3, scaleY: 0.3 }]) expectClose(at(flat(placed({ ...patch, filter })), 20, 15), [0.75, 0.75, 0.75, 1], 1e-5, filter);
  });
  it('a ramp stays a ramp: it moves by what it is moved, and is as steep as it is drawn', () => {
    const ramp: Plane = { type: 'f32', ...SIZE, data: Float32Array.from({ length: 1200 }, (_, i) => i % 40) };
    const on = (patch: Partial<Placement>, level = 0) => {
      const plan = planDocument(placed(patch));
      const small: Plane = { type: 'f32', width: 20, height: 15, data: Float32Array.from({ length: 300 }, (_, i) => 2 * (i % 20) + 0.5) };
      const color = level === 0 ? [ramp, ramp, ramp] : [small, small, small];
      return draw(plan, { ...inputs, level, source: () => ({ ...views['source-1'], color }), target: lightOf(plan), backend: kernels }).pixels.planes;
    };
    expect(on({ offsetX: 2.25 })[15 * 40 + 20]).toBeCloseTo(17.75, 4);
    // Twice as large around the middle: at 24.5 there is what was at 22.25, the middle of pixel 21.75.
    expect(on({ scaleX: 2, scaleY: 2 })[15 * 40 + 24]).toBeCloseTo(21.75, 4);
    expect(on({ scaleX: 0.25, scaleY: 0.25 })[15 * 40 + 20]).toBeCloseTo(21.5, 1);
    expect(on({ offsetX: 3 }, 1)[7 * 20 + 10]).toBeCloseTo(17.5, 3);
  });
  it('drawn small it is as large as it should be', () => {
    const planes = light(placed({ scaleX: 0.25, scaleY: 0.25 }));
    // Ten pixels wide around the middle: from 15 to 25.
    expect([12, 17, 22, 27].map((x) => Math.round(at(planes, x, 15)[3] * 10) / 10)).toEqual([0, 1, 1, 0]);
    // As much is covered as a quarter of both sides covers.
    expect(planes.subarray(3600).reduce((sum, alpha) => sum + alpha, 0)).toBeCloseTo(10 * 7.5, 0);
    const shot = light(begin({ type: 'add-layer', layer: 'snapshot', params: { after: 'layer-1' }, zone: 'scene' }, { type: 'set-layer', layerId: 'layer-2', patch: { placement: { ...UNPLACED, scaleX: 0.25, scaleY: 0.25 } } }, { type: 'set-layer', layerId: 'layer-1', patch: { visible: true } }), kernels, { only: 'layer-2' });
    expect([13, 17, 22, 26].map((x) => Math.round(at(shot, x, 15)[3] * 10) / 10)).toEqual([0, 1, 1, 0]);
  });
  it('with the kernels as with the definitions, tile by tile', () => {
    for (const patch of [{ offsetX: 3.4, offsetY: -2.7 }, { scaleX: -1.3, scaleY: 0.4, rotationDegrees: 20, filter: 'lanczos' }, { scaleX: 0.2, scaleY: 0.2, rotationDegrees: -77 }] as const) {
      const document = placed(patch);
      const whole = light(document);
      expectClose(whole, light(document, referenceBackend()), 2e-5, JSON.stringify(patch));
      const plan = planDocument(document);
      const region = { x: 11, y: 4, width: 13, height: 9 };
      const part = draw(plan, { ...inputs, target: lightOf(plan), backend: kernels, region }).pixels.planes;
      for (let y = 0; y < 9; y++) for (let x = 0; x < 13; x++) expect([0, 1, 2, 3].map((c) => part[c * 117 + y * 13 + x])).toEqual(at(whole, x + 11, y + 4));
    }
  });
  it('more of an element than the picture shows comes in when it is drawn smaller', () => {
    const wide = { width: 80, height: 30 };
    views['source-4'] = { ...view(), color: [0, 1, 2].map((): Plane => ({ type: 'f32', ...wide, data: new Float32Array(2400).fill(0.5) })), x: -20, y: 0 };
    const document = after(emptyDocument('doc', 'Test', SIZE), { type: 'add-sources', sources: [source(4, { ...wide, x: -20 })] }, { type: 'add-layer', layer: 'element', params: { source: 'source-4' }, zone: 'scene' }, { type: 'set-layer', layerId: 'layer-1', patch: { placement: { ...UNPLACED, scaleX: 0.5, scaleY: 0.5 } } });
    const planes = light(document);
    expectClose(at(planes, 4, 15), [0.5, 0.5, 0.5, 1], 1e-3);
    expectClose(at(planes, 20, 3), [0, 0, 0, 0], 1e-6);
  });
  it('turned off the picture there is nothing, scaled to nothing there is a sentence', () => {
    expect(light(placed({ offsetX: 1000 })).every((v) => v === 0)).toBe(true);
    const nothing = placed({ scaleX: 0 });
    expect(light(nothing).every((v) => v === 0)).toBe(true);
    expect(planDocument(nothing).problems).toEqual(['element 1: it is scaled to nothing. Give it a size, or reset where it lies.']);
    expect(() => placed({ scaleX: 1e9 })).toThrow(/scale x/);
    expect(() => after(begin(), { type: 'add-layer', layer: 'fill', zone: 'scene' }, { type: 'set-layer', layerId: 'layer-2', patch: { placement: UNPLACED } })).toThrow(/Fill cannot be moved/);
  });
});

describe('what of a correction is taken', () => {
  const tinted: Edit[] = [{ type: 'add-correction-layer', correction: 'hue-saturation', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params: { hueDegrees: 90, saturationPercent: 150 } }];
  const luminance = (planes: Float32Array, i: number) => 0.2126 * planes[i] + 0.7152 * planes[1200 + i] + 0.0722 * planes[2400 + i];
  it('colour only keeps the luminance, lightness only the chromaticity', () => {
    const plain = light(begin());
    const [colour, lightness] = (['colour', 'lightness'] as const).map((blend) => begin(...tinted, { type: 'set-correction-blend', layerId: 'layer-2', blend }));
    for (const document of [colour, lightness]) expectClose(light(document), light(document, referenceBackend()), 2e-5);
    const [tint, made] = [light(colour), light(lightness)];
    for (let i = 0; i < 1200; i += 37) {
      expect(luminance(tint, i)).toBeCloseTo(luminance(plain, i), 4);
      if (plain[i] > 0.05) expect(made[1200 + i] / made[i]).toBeCloseTo(plain[1200 + i] / plain[i], 3);
    }
  });
  it('is the same in a chain and for all below, of a blur too', () => {
    const all = begin(...blurBelow('layer-2', 3));
    const [plain, blurred, product] = [light(begin()), light(all), light(after(all, { type: 'set-correction-blend', layerId: 'layer-2', blend: 'multiply' }))];
    same(product.subarray(0, 3600), plain.subarray(0, 3600).map((v, i) => v * blurred[i]), 1e-6);
    const chained = begin(...blur('layer-1', 3), { type: 'set-correction-blend', layerId: 'layer-1', correctionId: 'correction-1', blend: 'multiply' });
    same(light(chained), product, 1e-6);
    same(light(chained), light(chained, referenceBackend()), 1e-5);
  });
  it('is of straight colours where what is below is transparent', () => {
    const plain = light(begin());
    const group: Edit[] = [{ type: 'group-layer', layerId: 'layer-1' }, { type: 'set-layer', layerId: 'layer-2', patch: { isolated: true } }, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5 } }];
    const inside = (correction: string, params: Record<string, number>) => begin(...group, { type: 'add-correction-layer', correction, zone: 'scene', groupId: 'layer-2' }, { type: 'set-params', layerId: 'layer-3', params }, { type: 'set-correction-blend', layerId: 'layer-3', blend: 'multiply' });
    same(light(inside('exposure', { exposureStops: 1 })).subarray(0, 3600), plain.subarray(0, 3600).map((v) => 0.5 * v * 2 * v), 1e-5);
    const blurred = inside('gaussian-blur', { sigmaPx: 3 });
    same(light(blurred), light(blurred, referenceBackend()), 1e-5);
    same(light(blurred).subarray(0, 3600), light(begin(...blurBelow('layer-2', 3), { type: 'set-correction-blend', layerId: 'layer-2', blend: 'multiply' })).subarray(0, 3600).map((v) => v / 2), 1e-5);
  });
  it('that means nothing in light takes all, and that is said', () => {
    const document = begin(...tinted);
    const forced: TazzelDocument = { ...document, buildUp: { ...document.buildUp, scene: document.buildUp.scene.map((layer) => (layer.kind === 'correction' ? { ...layer, correction: { ...layer.correction, blend: 'screen' as const } } : layer)) } };
    same(light(forced), light(document));
    expect(planDocument(forced).problems).toEqual(['Hue and saturation: “Screen” means nothing in light, which has no upper end. All of it is taken.']);
  });
});

describe('corrections with places and second inputs', () => {
  it('a vignette leaves the centre alone and takes stops from the corners', () => {
    const document = begin({ type: 'add-correction-layer', correction: 'vignette', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params: { cornerStops: -1, softnessPercent: 0, midpointPercent: 50 } });
    const [plain, planes] = [light(begin()), light(document)];
    expect(at(planes, 20, 15)).toEqual(at(plain, 20, 15));
    expectClose(at(planes, 0, 0).slice(0, 3), at(plain, 0, 0).slice(0, 3).map((v) => v / 2), 1e-6);
    expectClose(planes, light(document, referenceBackend()), 1e-5);
  });
  it('repainting adds the raw light times what changed of the filter', () => {
    const sources = begin().sources.map((each) => (each.id === 'source-2' ? { ...each, role: 'diffuse-filter' as const } : each));
    const base = { ...begin(), sources };
    const document = after(base, { type: 'add-correction-layer', correction: 'repaint', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params: { color: [0.4, 0.3, 0.2], texturePercent: 0 } });
    const [before, planes] = [light(base), light(document)];
    const [filter, raw] = ['source-2', 'source-3'].map((id) => views[id].color.map(({ data }) => data[333]));
    const expected = [0.4, 0.3, 0.2].map((color, c) => before[c * 1200 + 333] + raw[c] * (color - filter[c]));
    expectClose([0, 1, 2].map((c) => planes[c * 1200 + 333]), expected, 1e-5);
    expectClose(planes, light(document, referenceBackend()), 1e-5);
    expect(planDocument(document).sources).toEqual(['source-1', 'source-2', 'source-3']);
  });
  it('without its filter it changes nothing and says what is missing', () => {
    const document = begin({ type: 'add-correction-layer', correction: 'repaint', zone: 'scene' });
    same(light(document), light(begin()));
    expect(planDocument(document).problems).toEqual(['Repaint: the document has no diffuse filter, and without it nothing is changed. Add that element of the render.']);
  });
});

describe('keys', () => {
  const key = (document: TazzelDocument) => keyAt(planDocument(document), planDocument(document).result);
  it('change with every number that changes pixels, and with nothing else', () => {
    const document = begin(...blur('layer-1', 3), { type: 'add-layer', layer: 'fill', zone: 'scene' }, { type: 'add-layer', layer: 'snapshot', params: { after: 'layer-1' }, zone: 'scene' }, { type: 'set-layer', layerId: 'layer-3', patch: { placement: { ...UNPLACED, offsetX: 4 } } });
    const changes: readonly Edit[] = [
      { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { sigmaPx: 3.01 } },
      { type: 'set-chain-correction', layerId: 'layer-1', correctionId: 'correction-1', patch: { opacity: 0.9 } },
      { type: 'set-correction-blend', layerId: 'layer-1', correctionId: 'correction-1', blend: 'multiply' },
      { type: 'set-correction-blend', layerId: 'layer-1', correctionId: 'correction-1', blend: 'colour' },
      { type: 'set-params', layerId: 'layer-2', params: { from: [0.18, 0.18, 0.19] } },
      { type: 'set-params', layerId: 'layer-3', params: { after: 'layer-2' } },
      { type: 'set-layer', layerId: 'layer-3', patch: { placement: { ...UNPLACED, offsetX: 4.01 } } },
      { type: 'set-layer', layerId: 'layer-3', patch: { placement: { ...UNPLACED, offsetX: 4, filter: 'lanczos' } } },
      { type: 'set-source', sourceId: 'source-1', patch: { role: 'material-id' } },
    ];
    const keys = [key(document), ...changes.map((change) => key(after(document, change)))];
    expect(new Set(keys).size).toBe(keys.length);
    for (const change of [{ type: 'set-layer', layerId: 'layer-3', patch: { name: 'Other' } }, { type: 'set-mask', maskId: 'mask-1', patch: { name: 'Other' } }, { type: 'rename-document', name: 'Other' }] as const) expect(key(after(document, change))).toBe(keys[0]);
    // What is told apart in a group is the same outside of one.
    expect(stepsTo(planDocument(document), planDocument(document).result).map(({ kind }) => kind)).toEqual(['layer', 'layer', 'layer', 'tone']);
  });
  it('one plan serves the pictures so far of all cards', () => {
    const document = begin({ type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params: { exposureStops: 1 } }, { type: 'add-layer', layer: 'fill', zone: 'picture' });
    const soFar = (d: TazzelDocument, upto: string) => cardKey(d, { upto });
    const changed = after(document, { type: 'set-params', layerId: 'layer-2', params: { exposureStops: 2 } });
    expect(['layer-1', 'layer-2', 'layer-3'].map((id) => soFar(document, id) === soFar(changed, id))).toEqual([true, false, false]);
    expect(cardKey(document, { only: 'layer-1' })).toBe(cardKey(changed, { only: 'layer-1' }));
  });
});
