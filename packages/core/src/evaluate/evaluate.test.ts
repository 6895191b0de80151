import { describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { after, smallDocument, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import type { Edit } from '../document/edits.ts';
import type { TazzelDocument } from '../model/model.ts';
import { materialTerm, newMask } from '../document/mask-edits.ts';
import type { MaskInputs, MixtureView } from '../masks/define.ts';
import { evaluateMask } from '../masks/evaluate.ts';
import { materialPlaces } from '../masks/material.ts';
import type { Plane } from '../raster/planes.ts';
import type { Backend } from './backend.ts';
import { digest } from '../digest.ts';
import type { Pixels } from './pixels.ts';
import { planDocument, type PlanOptions } from './plan.ts';
import { referenceBackend } from './reference.ts';
import type { Inputs } from './run.ts';
import { spansOf } from './spans.ts';
import { keyAt, type PointsNode, stepsTo } from './steps.ts';
import { lightOf, resultOf } from './targets.ts';
import type { SourceView } from '../raster/view.ts';

const SIZE = { width: 8, height: 6 };

function plane(seed: number, scale = 1, size = SIZE): Plane {
  const random = seeded(seed);
  return { type: 'f32', ...size, data: Float32Array.from({ length: size.width * size.height }, () => random() * scale) };
}
const view = (seed: number, scale = 1, alpha = false): SourceView => ({ color: [plane(seed, scale), plane(seed + 1, scale), plane(seed + 2, scale)], alpha: alpha ? plane(seed + 3) : null, premultiplied: false, x: 0, y: 0 });
/** The left half is material 1, the right half material 2. */
const index: MixtureView = { ...SIZE, x: 0, y: 0, index: Uint16Array.from({ length: 48 }, (_, i) => (i % 8 < 4 ? 0 : 1)), edges: new Uint32Array(0), each: 3, parts: new Uint16Array(0), shares: new Uint8Array(0) };
const maskInputs = (mixture: MixtureView, level = 0): MaskInputs => ({ size: SIZE, level, views: {}, mattes: {}, coverages: {}, mixtures: { 'mixture source-3': mixture }, pictures: {}, masks: {}, camera: null, materials: materialPlaces(smallDocument(), { terms: [materialTerm(['material-1', 'material-2'])] }) });

function inputsFor(document: TazzelDocument, views: Readonly<Record<string, SourceView>>): Inputs {
  const masks = new Map<string, Plane>();
  return {
    source: (id) => views[id],
    mask: (key) => {
      const { mask } = planDocument(document).masks[key];
      const made = masks.get(key) ?? evaluateMask(mask, maskInputs(index));
      masks.set(key, made);
      return made;
    },
  };
}

const views = { 'source-1': view(1, 4), 'source-2': view(11, 1, true) };
const run = (document: TazzelDocument, options: PlanOptions = {}, backend: Backend = referenceBackend()) => draw(planDocument(document, options), { ...inputsFor(document, views), backend }).pixels;
const stepsOf = (document: TazzelDocument, options: PlanOptions = {}) => {
  const plan = planDocument(document, options);
  return stepsTo(plan, plan.result);
};
const resultKey = (document: TazzelDocument) => {
  const plan = planDocument(document);
  return keyAt(plan, plan.result);
};
const pixel = (planes: Float32Array, i: number) => [0, 1, 2, 3].map((c) => planes[c * 48 + i]);
const at = (seed: string, i: number) => views[seed as 'source-1'].color.map((p) => p.data[i]);

const rich: readonly Edit[] = [
  { type: 'set-source', sourceId: 'source-2', patch: {} },
  { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' },
  { type: 'set-params', layerId: 'layer-3', params: { exposureStops: -1.5 } },
  { type: 'correct-material', materialIds: ['material-1'], correction: 'hue-saturation', zone: 'scene' },
  { type: 'set-params', layerId: 'layer-4', params: { hueDegrees: 40, saturationPercent: 130 } },
  { type: 'set-layer', layerId: 'layer-4', patch: { opacity: 0.6, mask: { maskId: 'mask-1', inverted: true, enabled: true } } },
  { type: 'set-layer', layerId: 'layer-2', patch: { blend: 'overlay', opacity: 0.7 } },
  { type: 'mask-with-material', materialIds: ['material-2'], layerId: 'layer-2' },
  { type: 'add-chain-correction', layerId: 'layer-2', correction: 'exposure' },
  { type: 'set-params', layerId: 'layer-2', correctionId: 'correction-1', params: { exposureStops: 0.5 } },
  { type: 'set-chain-correction', layerId: 'layer-2', correctionId: 'correction-1', patch: { opacity: 0.4 } },
  { type: 'add-correction-layer', correction: 'hue-saturation', zone: 'picture' },
  { type: 'set-params', layerId: 'layer-5', params: { saturationPercent: 60 } },
];
const base = (): TazzelDocument => {
  const document = smallDocument();
  return { ...document, sources: document.sources.map((s) => (s.id === 'source-2' ? source(2, { encoding: 'display', alphaChannel: 'A', alpha: 'straight' }) : s)) };
};

describe('the tone line', () => {
  const only = (edits: readonly Edit[] = []) => after(smallDocument(), { type: 'remove-layer', layerId: 'layer-2' }, ...edits);
  it('encodes light to the picture (IEC 61966-2-1) and clips at white', () => {
    const { planes } = run(only());
    for (const i of [0, 17, 47]) expectClose(pixel(planes, i), [...at('source-1', i).map(srgbEncode), 1], 1e-6);
  });
  it('a display-encoded element under it is decoded first, so it comes out as it went in', () => {
    const display = only([{ type: 'set-source', sourceId: 'source-1', patch: { encoding: 'display' } }]);
    const { planes } = run(display);
    for (const i of [0, 17, 47]) expectClose(pixel(planes, i).slice(0, 3), at('source-1', i).map((v) => srgbEncode(srgbDecode(v))), 1e-6);
  });
  it('linear light over it is encoded, data is only kept in bounds', () => {
    const moved = only([{ type: 'move-layer', layerId: 'layer-1', zone: 'picture', index: 0 }]);
    expectClose(pixel(run(moved).planes, 5).slice(0, 3), at('source-1', 5).map(srgbEncode), 1e-6);
    const data = after(moved, { type: 'set-source', sourceId: 'source-1', patch: { encoding: 'data' } });
    expectClose(pixel(run(data).planes, 5).slice(0, 3), at('source-1', 5).map((v) => Math.min(1, v)), 1e-6);
  });
  it('exposure under it is a factor on light', () => {
    const added = only([{ type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }]);
    const document = after(added, { type: 'set-params', layerId: added.buildUp.scene[1].id, params: { exposureStops: -2 } });
    expectClose(pixel(run(document).planes, 9).slice(0, 3), at('source-1', 9).map((v) => srgbEncode(v / 4)), 1e-6);
  });
});

describe('evaluation', () => {
  const document = after(base(), ...rich);
  it('gives the same with the kernels as with the definitions', async () => {
    const kernels = await builtKernels();
    expectClose(run(document, {}, kernels).planes, run(document).planes, 2e-4, 'kernels');
    for (const blend of ['multiply', 'screen', 'soft-light', 'hue', 'luminosity', 'color-burn', 'divide'] as const) {
      const other = after(document, { type: 'set-layer', layerId: 'layer-2', patch: { blend } });
      expectClose(run(other, {}, kernels).planes, run(other).planes, 2e-4, blend);
    }
  });
  it('a tile equals the crop of the whole', () => {
    const plan = planDocument(document);
    const whole = run(document).planes;
    const region = { x: 3, y: 2, width: 4, height: 3 };
    const tile = draw(plan, { ...inputsFor(document, views), region }).pixels;
    for (let y = 0; y < 3; y++) for (let x = 0; x < 4; x++) for (let c = 0; c < 4; c++) expect(tile.planes[c * 12 + y * 4 + x]).toBe(whole[c * 48 + (y + 2) * 8 + x + 3]);
  });
  it('short spans give what long ones give', () => {
    expect([...run(document, {}, referenceBackend(5)).planes]).toEqual([...run(document).planes]);
    for (const [width, length] of [[8, 5], [8, 16], [1, 3], [300, 256]]) {
      const pixels = [...spansOf({ x: 2, y: 1, width, height: 7 }, length)].reduce((sum, span) => sum + span.count, 0);
      expect(pixels).toBe(width * 7);
    }
  });
  it('going on from a kept result gives the same, with fewer steps', () => {
    const plan = planDocument(document);
    const inputs = inputsFor(document, views);
    const full = draw(plan, inputs);
    for (const focus of ['layer-3', 'layer-5']) {
      const store = new Map<string, Pixels>();
      const steps = stepsTo(plan, plan.result).length;
      const below = stepsTo(plan, plan.before[focus]).length;
      draw(plan, { ...inputs, store, target: resultOf(plan, focus) });
      const rest = draw(plan, { ...inputs, store, target: resultOf(plan, focus) });
      expect([...rest.pixels.planes]).toEqual([...full.pixels.planes]);
      expect([full.stepsRun, rest.stepsRun]).toEqual([steps, steps - below]);
      // Whoever has no such layer in view goes on from there as well.
      expect(draw(plan, { ...inputs, store }).stepsRun).toBe(steps - below);
    }
  });
  it('a layer outside the picture adds nothing, one that is shifted lies where it should', () => {
    const shifted: Record<string, SourceView> = { ...views, 'source-1': { ...views['source-1'], x: 3, y: -2 } };
    const plan = planDocument(after(smallDocument(), { type: 'remove-layer', layerId: 'layer-2' }));
    const { planes } = draw(plan, { source: (id) => shifted[id], mask: () => plane(1) }).pixels;
    expectClose(pixel(planes, 3), [...at('source-1', 2 * 8).map(srgbEncode), 1], 1e-6);
    expect(pixel(planes, 2)).toEqual([0, 0, 0, 0]);
    expect(pixel(planes, 4 * 8 + 4)).toEqual([0, 0, 0, 0]);
  });
  it('NaN and infinity in a source stay harmless', () => {
    const bad: Plane = { ...plane(1), data: Float32Array.from({ length: 48 }, (_, i) => [Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 0.5][i % 4]) };
    const plan = planDocument(document);
    const source = (id: string) => (id === 'source-1' ? { ...views['source-1'], color: [bad, bad, bad] } : views['source-2']);
    for (const target of [lightOf(plan), resultOf(plan)]) expect(draw(plan, { ...inputsFor(document, views), source, target }).pixels.planes.every((v) => Number.isFinite(v))).toBe(true);
  });
});

describe('groups', () => {
  const start = () => after(smallDocument(['linear', 'linear']), { type: 'move-layer', layerId: 'layer-2', zone: 'scene', index: 1 }, { type: 'add-layer', layer: 'element', params: { source: 'source-2' }, zone: 'scene', blend: 'add' });
  /** layer-1 on the ground, and layer-2 with layer-3 in a group. */
  const grouped = (patch: Extract<Edit, { type: 'set-layer' }>['patch'], ...edits: Edit[]) =>
    after(start(), { type: 'group-layer', layerId: 'layer-2' }, { type: 'move-layer', layerId: 'layer-3', zone: 'scene', index: 1, groupId: 'layer-4' }, { type: 'set-layer', layerId: 'layer-4', patch }, ...edits);
  const opaque = { 'source-1': view(1, 2), 'source-2': view(11, 2) };
  const light = (document: TazzelDocument, options: PlanOptions = {}, backend: Backend = referenceBackend()) => {
    const plan = planDocument(document, options);
    return draw(plan, { ...inputsFor(document, opaque), source: (id) => opaque[id as 'source-1'], target: lightOf(plan), backend }).pixels.planes;
  };
  const [a, b] = [opaque['source-1'], opaque['source-2']].map((v) => (i: number) => v.color.map((p) => p.data[i]));
  it('isolated: filter × raw is made by itself and then added to what is below', () => {
    const document = grouped({ isolated: true, blend: 'add' }, { type: 'set-layer', layerId: 'layer-3', patch: { blend: 'multiply' } });
    for (const i of [0, 11, 47]) expectClose(pixel(light(document), i).slice(0, 3), a(i).map((v, c) => v + b(i)[c] ** 2), 1e-5);
  });
  it('any other only holds its layers together, and opacity and mask weaken all of them', () => {
    const plain = light(start());
    expect([...light(grouped({}))]).toEqual([...plain]);
    const under = light(start(), { upto: 'layer-1' });
    expectClose(light(grouped({ opacity: 0.3 })), plain.map((v, i) => under[i] + 0.3 * (v - under[i])), 1e-5);
    const masked = light(grouped({}, { type: 'mask-with-material', materialIds: ['material-1'], layerId: 'layer-4' }));
    expectClose(pixel(masked, 0), pixel(plain, 0), 1e-6);
    expectClose(pixel(masked, 7), pixel(under, 7), 1e-6);
  });
  it('off, empty, up to a layer inside, and alone', () => {
    const document = grouped({ opacity: 0.5, isolated: true });
    const kinds = (d: TazzelDocument, options: PlanOptions = {}) => stepsOf(d, options).map((step) => step.kind).join(' ');
    expect(kinds(document)).toBe('layer open-group layer layer close-group tone');
    expect(kinds(after(document, { type: 'set-layer', layerId: 'layer-4', patch: { visible: false } }))).toBe('layer tone');
    expect(kinds(after(document, ...['layer-2', 'layer-3'].map((layerId): Edit => ({ type: 'set-layer', layerId, patch: { visible: false } }))))).toBe('layer tone');
    expect(kinds(document, { upto: 'layer-2' })).toBe('layer open-group layer close-group tone');
    expect(kinds(after(document, { type: 'set-layer', layerId: 'layer-4', patch: { visible: false } }), { upto: 'layer-2' })).toBe('layer tone');
    expect(kinds(document, { only: 'layer-3' })).toBe('layer tone');
    for (const i of [3, 30]) expectClose(pixel(light(document, { only: 'layer-4' }), i).slice(0, 3), b(i).map((v) => 2 * v), 1e-5);
    // What is kept for the next change is never the middle of a group.
    expect(planDocument(document).before).toMatchObject({ 'layer-1': { steps: 0 }, 'layer-4': { steps: 1 }, 'layer-2': { steps: 1 }, 'layer-3': { steps: 1 } });
  });
  it('inside each other, with the kernels as with the definitions, over the tone line, and with alpha', async () => {
    const nested = grouped({ isolated: true, blend: 'multiply', opacity: 0.8 }, { type: 'group-layer', layerId: 'layer-3' }, { type: 'set-layer', layerId: 'layer-5', patch: { isolated: true, blend: 'difference' } });
    const kernels = await builtKernels();
    expectClose(light(nested, {}, kernels), light(nested), 1e-5);
    const over = after(base(), { type: 'group-layer', layerId: 'layer-2' }, { type: 'set-layer', layerId: 'layer-3', patch: { isolated: true, blend: 'soft-light', opacity: 0.7 } });
    expectClose(run(over, {}, kernels).planes, run(over).planes, 2e-4);
    // An isolated group of one normal layer is that layer, whatever its alpha (W3C Compositing, 3: group compositing).
    const same = after(base(), { type: 'set-layer', layerId: 'layer-2', patch: { blend: 'soft-light', opacity: 0.7 } });
    expectClose(run(over).planes, run(same).planes, 1e-5);
  });
});

describe('what stored values mean', () => {
  it('scale and offset come before everything else', () => {
    const document = after(smallDocument(['linear']), { type: 'set-source', sourceId: 'source-1', patch: { scale: -0.5, offset: 2 } });
    for (const i of [0, 20]) expectClose(pixel(run(document).planes, i).slice(0, 3), at('source-1', i).map((v) => srgbEncode(2 - 0.5 * v)), 1e-5);
    const display = after(document, { type: 'set-source', sourceId: 'source-1', patch: { encoding: 'display', scale: -1, offset: 1 } });
    for (const i of [0, 20]) expectClose(pixel(run(display).planes, i).slice(0, 3), at('source-1', i).map((v) => Math.max(0, 1 - v)), 1e-5);
  });
});

describe('plans', () => {
  const document = after(base(), ...rich);
  it('leave out what is off, transparent or does nothing', () => {
    const count = (d: TazzelDocument) => stepsOf(d).length;
    expect(count(document)).toBe(6);
    expect(count(after(document, { type: 'set-layer', layerId: 'layer-3', patch: { visible: false } }))).toBe(5);
    expect(count(after(document, { type: 'set-layer', layerId: 'layer-3', patch: { opacity: 0 } }))).toBe(5);
    expect(count(after(document, { type: 'set-params', layerId: 'layer-3', params: { exposureStops: 0 } }))).toBe(5);
    expect(stepsOf(document, { missing: new Set(['source-2']) })).toHaveLength(5);
    expect(stepsOf(document, { upto: 'layer-3' }).map((step) => step.kind)).toEqual(['layer', 'correct', 'tone']);
    expect(stepsOf(document, { only: 'layer-2' }).map((step) => step.kind)).toEqual(['tone', 'layer']);
  });
  it('keys change with what they depend on and with nothing else', () => {
    const keysOf = (d: TazzelDocument) => (planDocument(d).nodes[0] as PointsNode).keys;
    const keys = keysOf(document);
    const renamed = keysOf(after(document, { type: 'set-layer', layerId: 'layer-3', patch: { name: 'x' } }, { type: 'set-mask', maskId: 'mask-1', patch: { name: 'y' } }));
    expect(renamed).toEqual(keys);
    const changed = keysOf(after(document, { type: 'set-layer', layerId: 'layer-2', patch: { opacity: 0.71 } }));
    const first = changed.findIndex((key, i) => key !== keys[i]);
    expect(first).toBe(planDocument(document).before['layer-2'].steps + 1);
    expect(changed.slice(first).every((key, i) => key !== keys[first + i])).toBe(true);
    expect(new Set(Array.from({ length: 20_000 }, (_, i) => digest(`step ${i}`))).size).toBe(20_000);
  });
  it('keys know whether numbers may be mixed when the picture is made smaller', () => {
    const as = (role: 'depth' | 'material-id') => resultKey({ ...document, sources: document.sources.map((source) => (source.id === 'source-2' ? { ...source, role, encoding: 'data' as const } : source)) });
    expect(as('depth')).not.toBe(as('material-id'));
  });
  it('refuse what the schema would have refused', () => {
    expect(() => planDocument({ ...document, sources: [] })).toThrow(/element that is not in the document/);
    expect(() => planDocument({ ...document, masks: [] })).toThrow(/mask mask-\d is missing/);
  });
});

describe('masks of materials', () => {
  const made = (level: number, mixture: MixtureView, ...terms: readonly ReturnType<typeof materialTerm>[]) => evaluateMask(newMask('m', 'm', terms), maskInputs(mixture, level));
  it('select their pixels', () => expect([...made(0, index, materialTerm(['material-1'])).data.slice(0, 8)]).toEqual([255, 255, 255, 255, 0, 0, 0, 0]));
  it('combine in order', () => {
    const sum = made(0, index, materialTerm(['material-1']), materialTerm(['material-2']), materialTerm(['material-1'], 'subtract'));
    expect([...sum.data.slice(0, 8)]).toEqual([0, 0, 0, 0, 255, 255, 255, 255]);
    expect(made(0, index, materialTerm(['material-1']), materialTerm(['material-2'], 'intersect')).data.every((v) => v === 0)).toBe(true);
    expect([...made(0, index, materialTerm(['material-1'], 'subtract')).data.slice(0, 8)]).toEqual([0, 0, 0, 0, 255, 255, 255, 255]);
  });
  it('leave no seam where two touch in a pixel, and are the rest of it for each other', () => {
    const mixed = { ...index, edges: Uint32Array.of(3), parts: Uint16Array.of(0, 1, 0), shares: Uint8Array.of(102, 153, 0) };
    expect(made(0, mixed, materialTerm(['material-1'])).data[3]).toBe(102);
    expect(made(0, mixed, materialTerm(['material-1', 'material-2'])).data[3]).toBe(255);
    expect(made(0, mixed, materialTerm(['material-1']), materialTerm(['material-2'])).data[3]).toBe(255);
    expect(made(0, mixed, materialTerm(['material-1', 'material-2']), materialTerm(['material-2'], 'subtract')).data[3]).toBe(102);
  });
  it('reduced, are the share of what they select', () => {
    const narrow = { ...index, index: Uint16Array.from({ length: 48 }, (_, i) => (i % 8 < 3 ? 0 : 1)) };
    const half = made(1, narrow, materialTerm(['material-1']));
    expect([half.width, half.height, ...half.data.slice(0, 4)]).toEqual([4, 3, 255, 128, 0, 0]);
    expect([...made(3, narrow, materialTerm(['material-1'])).data]).toEqual([Math.round((255 * 3) / 8)]);
  });
  it('select nothing outside the ID picture or of unknown materials', () => {
    expect(made(0, index, materialTerm(['material-9'])).data.every((v) => v === 0)).toBe(true);
    const shifted = made(0, { ...index, x: 2, y: 1 }, materialTerm(['material-1']));
    expect([...shifted.data.slice(8, 16)]).toEqual([0, 0, 255, 255, 255, 255, 0, 0]);
    expect([...shifted.data.slice(0, 8)]).toEqual(new Array(8).fill(0));
  });
});
