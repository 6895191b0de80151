import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { applyEdit, type Edit, evaluateMask, materialPlaces, materialTerm, newMask, planDocument, sizeAtLevel, type SourceView, stepsTo, type TazzelDocument, tilesOf } from '@tazzel/core';
import { allocateExrPlanes, decodeExrChunks, decodePng, encodeExr, sourcesFromReport } from '@tazzel/formats';
import { draw } from '../../../tests/pictures.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtEngine, builtKernels } from '../../../tests/built.ts';
import { expectClose } from '../../../tests/close.ts';
import { after } from '../../../tests/documents.ts';
import { firstPart, joined, platform } from '../../../tests/formats.ts';
import { HEIGHT, loadSet, WIDTH, writeSet } from '../../../tests/engine-set.ts';
import { scratch } from '../../../tests/tools.ts';
import { byteSource } from '@tazzel/formats';
import { type Engine, levelForZoom } from './engine.ts';
import { Cancelled } from './errors.ts';
import { openNodeFile } from './node-platform.ts';

const folder = scratch();
const load = (into: Engine, names: readonly string[]) => loadSet(into, folder, names);
let engine: Engine;
let document: TazzelDocument;

beforeAll(async () => {
  const names = await writeSet(folder);
  engine = await builtEngine();
  const loaded = await load(engine, names);
  const overlay = loaded.sources[1].id;
  document = after(
    loaded,
    { type: 'correct-material', materialIds: [loaded.materials[0].id], correction: 'exposure', zone: 'scene' },
    { type: 'set-params', layerId: 'layer-2', params: { exposureStops: -1 } },
    { type: 'add-layer', layer: 'element', params: { source: overlay }, zone: 'picture', blend: 'soft-light' },
    { type: 'set-layer', layerId: 'layer-3', patch: { opacity: 0.8 } },
    { type: 'add-correction-layer', correction: 'hue-saturation', zone: 'picture' },
    { type: 'set-params', layerId: 'layer-4', params: { hueDegrees: 20 } },
  );
});
afterAll(() => engine.pool.terminate());

const flat = async (doc: TazzelDocument, into = engine) => new Uint8Array((await into.flatten({ document: doc, kind: 'rgba8' })).pixels);

/** The same picture by the definitions alone, without workers, tiles or kernels. */
async function byDefinition(doc: TazzelDocument): Promise<Uint8Array> {
  const [beauty, overlay] = doc.sources;
  const header = await firstPart(openNodeFile({ name: '', size: statSync(join(folder, 'beauty.exr')).size, handle: join(folder, 'beauty.exr') }));
  const planes = await engine.pool.run('decode-picture', { format: 'png', wanted: { page: 0, color: ['R', 'G', 'B'], alpha: true }, managed: true, file: { name: '', size: statSync(join(folder, 'overlay.png')).size, handle: join(folder, 'overlay.png') } });
  const light = allocateExrPlanes(header, ['R', 'G', 'B']);
  await decodeExrChunks(openNodeFile({ name: '', size: statSync(join(folder, 'beauty.exr')).size, handle: join(folder, 'beauty.exr') }), header, light, 0, header.offsets.length, await builtKernels());
  const views: Record<string, SourceView> = {
    [beauty.id]: { color: [...light.values()], alpha: null, premultiplied: false, x: 0, y: 0 },
    [overlay.id]: { ...planes, premultiplied: false, x: 0, y: 0 },
  };
  const index = { width: WIDTH, height: HEIGHT, x: 0, y: 0, index: new Uint16Array(WIDTH * HEIGHT), edges: new Uint32Array(0), each: 3, parts: new Uint16Array(0), shares: new Uint8Array(0) };
  for (let i = 0; i < index.index.length; i++) index.index[i] = doc.materials.findIndex((material) => material.id === engine.materialAt(doc, i % WIDTH, Math.floor(i / WIDTH))?.id);
  const plan = planDocument(doc);
  const out = new Uint8Array(WIDTH * HEIGHT * 4);
  const { pixels } = draw(plan, { source: (id) => views[id], mask: (key) => evaluateMask(plan.masks[key].mask, { size: doc.size, level: 0, views: {}, mattes: {}, coverages: {}, mixtures: { [`mixture ${doc.materials[0].sourceId}`]: index }, pictures: {}, masks: {}, camera: null, materials: materialPlaces(doc, plan.masks[key].mask) }) });
  const result = pixels.planes;
  const area = WIDTH * HEIGHT;
  for (let i = 0; i < area; i++) for (let c = 0; c < 4; c++) out[i * 4 + c] = Math.round(Math.min(1, Math.max(0, result[c * area + i])) * 255);
  return out;
}

describe('pixels', () => {
  it('are those of the definitions, to one code', async () => {
    const [ours, expected] = [await flat(document), await byDefinition(document)];
    let off = 0;
    for (let i = 0; i < ours.length; i++) {
      const difference = Math.abs(ours[i] - expected[i]);
      if (difference > 1) expect(difference, `sample ${i}`).toBeLessThanOrEqual(1);
      off += difference;
    }
    // Only values that lie on the border between two codes may differ.
    expect(off).toBeLessThan(ours.length * 0.001);
  });
  it('are the same on the screen as in the file, tile by tile, with any number of workers', async () => {
    const whole = await flat(document);
    const one = await builtEngine({ workers: 1 });
    try {
      await load(one, ['beauty.exr', 'overlay.png', 'material_id.png']);
      expect(Buffer.compare(Buffer.from(await flat(document, one)), Buffer.from(whole))).toBe(0);
    } finally {
      one.pool.terminate();
    }
    await engine.render({
      document,
      level: 0,
      tiles: tilesOf(document.size),
      onTile: ({ x, y, width, height }, rgba) => {
        for (let row = 0; row < height; row++) {
          const start = ((y + row) * WIDTH + x) * 4;
          expect(Buffer.compare(Buffer.from(rgba.buffer, row * width * 4, width * 4), Buffer.from(whole.subarray(start, start + width * 4)))).toBe(0);
        }
      },
    });
  });
  it('a delivered PNG holds them, an EXR holds the light under the tone line', async () => {
    const png = joined((await engine.deliver({ document, values: { dither: false } })).parts);
    const { color } = await decodePng(byteSource('x', png), platform);
    const whole = await flat(document);
    expect(color[0].data).toEqual(whole.filter((_, i) => i % 4 === 0));
    const exr = joined((await engine.deliver({ document, format: 'exr', values: { samples: 'float' } })).parts);
    const header = await firstPart(byteSource('x', exr));
    expect(header.channels.map(({ name, type }) => `${name} ${type}`)).toEqual(['B f32', 'G f32', 'R f32']);
    const planes = allocateExrPlanes(header, ['R', 'G', 'B']);
    await decodeExrChunks(byteSource('x', exr), header, planes, 0, header.offsets.length, await builtKernels());
    let brightest = 0;
    for (const [x, y] of [[300, 100], [0, 0], [WIDTH - 1, HEIGHT - 1], [123, 77]]) {
      const { light } = await engine.probe(document, x, y, 0);
      for (const [c, name] of ['R', 'G', 'B'].entries()) expect(planes.get(name)?.data[y * WIDTH + x], `${name} at ${x}, ${y}`).toBeCloseTo(light[c], 5);
      brightest = Math.max(brightest, ...light.slice(0, 3));
    }
    expect(brightest).toBeGreaterThan(1);
  });
  it('values under the pointer are those of the file', async () => {
    const whole = await flat(document);
    for (const [x, y] of [[0, 0], [WIDTH - 1, HEIGHT - 1], [123, 77], [250, 200]]) {
      const { codes, level } = await engine.probe(document, x, y, 2);
      expect([level, ...codes]).toEqual([0, ...whole.subarray((y * WIDTH + x) * 4, (y * WIDTH + x) * 4 + 4)]);
    }
  });
  it('or the mean of some around it, as far as the picture goes', async () => {
    for (const [x, y] of [[0, 0], [WIDTH - 1, HEIGHT - 1], [123, 77]]) {
      const sum = [0, 0, 0];
      let count = 0;
      for (let v = Math.max(0, y - 2); v <= Math.min(HEIGHT - 1, y + 2); v++) {
        for (let u = Math.max(0, x - 2); u <= Math.min(WIDTH - 1, x + 2); u++) {
          const { light } = await engine.probe(document, u, v, 0);
          for (let c = 0; c < 3; c++) sum[c] += light[c];
          count++;
        }
      }
      const { light } = await engine.probe(document, x, y, 0, { around: 2 });
      expect(count).toBe(x === 123 ? 25 : 9);
      expectClose(light.slice(0, 3), sum.map((value) => value / count), 1e-5, `${x}, ${y}`);
    }
  });
});

describe('what is computed again', () => {
  const render = async (doc: TazzelDocument, focusLayerId: string | null) => (await engine.render({ document: doc, level: 0, tiles: tilesOf(doc.size), focusLayerId, onTile: () => undefined })).stepsRun;
  const tiles = tilesOf({ width: WIDTH, height: HEIGHT }).length;
  it('nothing below the edited layer, after it has been warmed', async () => {
    const plan = planDocument(document);
    const steps = stepsTo(plan, plan.result).length;
    for (const [layerId, expected] of [['layer-4', 1], ['layer-3', 2], ['layer-2', 4]] as const) {
      await render(document, layerId);
      await engine.warm({ document, level: 0, tiles: tilesOf(document.size), focusLayerId: layerId });
      const edit: Edit = layerId === 'layer-3' ? { type: 'set-layer', layerId, patch: { opacity: 0.31 } } : { type: 'set-params', layerId, params: layerId === 'layer-4' ? { hueDegrees: 33 } : { exposureStops: 0.7 } };
      expect(await render(applyEdit(document, edit), layerId), layerId).toBe(expected * tiles);
    }
    expect(steps).toBe(5);
  });
  it('the result is the same as without the kept one', async () => {
    const edited = applyEdit(document, { type: 'set-params', layerId: 'layer-4', params: { hueDegrees: -77 } });
    const kept = new Map<string, Uint8ClampedArray>();
    await engine.render({ document: edited, level: 0, tiles: tilesOf(edited.size), focusLayerId: 'layer-4', onTile: ({ x, y }, rgba) => void kept.set(`${x} ${y}`, rgba) });
    const fresh = await builtEngine();
    try {
      await load(fresh, ['beauty.exr', 'overlay.png', 'material_id.png']);
      await fresh.render({ document: edited, level: 0, tiles: tilesOf(edited.size), onTile: ({ x, y }, rgba) => expect(Buffer.compare(Buffer.from(rgba), Buffer.from(kept.get(`${x} ${y}`) ?? []))).toBe(0) });
    } finally {
      fresh.pool.terminate();
    }
  });
});

describe('materials and masks', () => {
  it('are found by area and named under the pointer', () => {
    expect(document.materials.map(({ area }) => Math.round(area * 1000))).toEqual([333, 333, 333]);
    const at = (x: number, y: number) => engine.materialAt(document, x, y)?.chip.map((v) => Math.round(v * 255));
    expect([at(10, 10), at(WIDTH - 10, 10), at(WIDTH - 10, HEIGHT - 10)]).toEqual([[200, 0, 0], [0, 200, 0], [0, 0, 200]]);
    expect(engine.materialAt(document, -1, 5)).toBeNull();
  });
  it('are outlined, hatched and matted', async () => {
    const red = document.materials.find(({ chip }) => chip[0] > 0.5)?.id ?? '';
    const region = { x: WIDTH / 3 - 10, y: 0, width: 20, height: 3 };
    const outline = await engine.outline(document, [red], 0, region);
    expect([...outline.filter((_, i) => i % 4 === 3).slice(20, 40)].map((v) => (v ? 1 : 0)).join('')).toBe('00000000010000000000');
    const mask = newMask('m', 'm', [materialTerm([red])]);
    const hatch = await engine.maskPicture(document, mask, 0, region, { inverted: false, matte: false });
    expect([hatch[3], hatch[9 * 4 + 3], hatch[10 * 4 + 3]]).toEqual([255, 255, 0]);
    const matte = await engine.maskPicture(document, mask, 0, region, { inverted: true, matte: true });
    expect([...matte.subarray(0, 4), ...matte.subarray(40, 44)]).toEqual([0, 0, 0, 255, 255, 255, 255, 255]);
  });
  it('metres are read from a depth element in floats, and from nothing else', async () => {
    const window = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
    const data = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => 2 + (i % WIDTH) / 4);
    writeFileSync(join(folder, 'depth.exr'), joined(await encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIPS', channels: [{ name: 'depth.Z', type: 'f32', data }] }, platform, await builtKernels())));
    const withDepth = await load(engine, ['beauty.exr', 'overlay.png', 'material_id.png', 'depth.exr']);
    await engine.preparePointer(withDepth);
    expect([engine.metresAt(withDepth, 0, 0), engine.metresAt(withDepth, 100, 7), engine.metresAt(withDepth, -1, 0)]).toEqual([2, 27, null]);
    expect(engine.metresAt(document, 100, 7)).toBeNull();
    const gone = { ...withDepth, sources: withDepth.sources.map((source) => ({ ...source, file: { ...source.file, hash: 'd'.repeat(64) } })) };
    await engine.preparePointer(gone);
    expect(engine.metresAt(gone, 0, 0)).toBeNull();
  });
  it('cards show a layer alone and the picture so far', async () => {
    const { size, rgba } = await engine.card(document, { upto: 'layer-1' });
    expect(Math.max(size.width, size.height)).toBeLessThanOrEqual(256);
    expect(rgba).toHaveLength(size.width * size.height * 4);
    const own = await engine.card(document, { only: 'layer-3' });
    expect(Buffer.compare(Buffer.from(own.rgba), Buffer.from(rgba))).not.toBe(0);
  });
});

describe('cards of layers that do nothing', () => {
  it('show the picture before them, wherever they stand', async () => {
    await engine.card(document, { upto: 'layer-2' });
    // It leaves no trace in any key, so the job of the picture without it serves it.
    const idle = after(document, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene', index: 1 });
    const id = idle.buildUp.scene[1].id;
    const [before, own, last] = await Promise.all([engine.card(idle, { upto: 'layer-1' }), engine.card(idle, { upto: id }), engine.card(idle, { upto: 'layer-2' })]);
    expect(Buffer.compare(Buffer.from(own.rgba), Buffer.from(before.rgba))).toBe(0);
    expect(Buffer.compare(Buffer.from(own.rgba), Buffer.from(last.rgba))).not.toBe(0);
    // What lies below it is kept as what lies below any other.
    await engine.warm({ document: idle, level: 0, tiles: tilesOf(idle.size), focusLayerId: id });
    expect((await engine.render({ document: idle, level: 0, tiles: tilesOf(idle.size), focusLayerId: id, onTile: () => undefined })).stepsRun).toBeGreaterThan(0);
  });
});

describe('trouble', () => {
  it('a cancelled delivery stops with nothing else', async () => {
    const abort = new AbortController();
    const delivery = engine.deliver({ document, values: { bits: '16' }, signal: abort.signal, onProgress: () => abort.abort() });
    await expect(delivery).rejects.toBeInstanceOf(Cancelled);
    await expect(engine.render({ document, level: 0, tiles: tilesOf(document.size), signal: AbortSignal.abort(), onTile: () => undefined })).rejects.toBeInstanceOf(Cancelled);
    expect((await flat(document)).length).toBe(WIDTH * HEIGHT * 4);
  });
  it('a delivery that is cancelled while it is resized is over, and the next one is whole', async () => {
    const abort = new AbortController();
    let isResizing = false;
    const large = engine.deliver({
      document,
      resize: { width: 4000, filter: 'lanczos' },
      signal: abort.signal,
      onProgress: (share) => {
        if (share < 0.7 || isResizing) return;
        isResizing = true;
        setTimeout(() => abort.abort(), 20);
      },
    });
    await expect(large).rejects.toBeInstanceOf(Cancelled);
    // The workers are still at it: what is asked for now comes behind.
    const next = engine.deliver({ document, resize: { width: 90, filter: 'mitchell' } });
    const { parts, size } = await next;
    const { color } = await decodePng(byteSource('small.png', joined(parts)), platform);
    expect([size.width, color[0].width]).toEqual([90, 90]);
    expect(Math.max(...color[1].data)).toBeGreaterThan(100);
  });
  it('a missing file is named, the rest of the picture is shown', async () => {
    const [beauty] = document.sources;
    const gone = { ...document, sources: document.sources.map((source) => (source === beauty ? { ...source, file: { ...source.file, hash: 'f'.repeat(64) } } : source)) };
    const { problems, pixels } = await engine.flatten({ document: gone, kind: 'rgba8' });
    expect(problems).toEqual(['“beauty.exr” is missing. Add the file again; its layers then show it.']);
    expect(new Uint8Array(pixels).some((v) => v > 0)).toBe(true);
  });
  it('many states at once do not lose each other’s work', async () => {
    const states = Array.from({ length: 60 }, (_, i) => applyEdit(document, { type: 'set-params', layerId: 'layer-2', params: { exposureStops: i / 60 - 3 } }));
    const [cards] = await Promise.all([Promise.all(states.map((state) => engine.card(state, {}))), flat(document)]);
    for (const [i, state] of states.entries()) {
      const { rgba } = await engine.card(state, {});
      expect(Buffer.compare(Buffer.from(cards[i].rgba), Buffer.from(rgba)), `state ${i}`).toBe(0);
    }
  });
  it('the same state asked for twice at once is given twice', async () => {
    const state = applyEdit(document, { type: 'set-params', layerId: 'layer-2', params: { exposureStops: -4.2 } });
    const cards = await Promise.all([0, 1, 2, 3].map(() => engine.card(state, {})));
    for (const { rgba } of cards) expect(Buffer.compare(Buffer.from(rgba), Buffer.from(cards[0].rgba))).toBe(0);
  });
  it('sources beyond the budget leave and come back', async () => {
    const small = await builtEngine({ budgetBytes: 200_000 });
    try {
      await load(small, ['beauty.exr', 'overlay.png', 'material_id.png']);
      expect(Buffer.compare(Buffer.from(await flat(document, small)), Buffer.from(await flat(document)))).toBe(0);
    } finally {
      small.pool.terminate();
    }
  });
  it('another document lets go of the files that it does not need, and keeps what is decoded of the others', async () => {
    const other = await builtEngine();
    try {
      const loaded = await load(other, ['beauty.exr', 'overlay.png', 'material_id.png']);
      await flat(loaded, other);
      const all = other.bytesHeld;
      const [beauty, overlay] = loaded.sources;
      other.keepOnly(new Set([beauty.file.hash]));
      expect(other.bytesHeld).toBeGreaterThan(0);
      expect(other.bytesHeld).toBeLessThan(all);
      expect([...other.files.keys()]).toEqual([beauty.file.hash]);
      expect(other.materialAt(loaded, 10, 10)).toBeNull();
      const { problems } = await other.flatten({ document: after(loaded, { type: 'add-layer', layer: 'element', params: { source: overlay.id }, zone: 'picture' }), kind: 'rgba8' });
      expect(problems).toEqual([expect.stringContaining('“overlay.png” is missing')]);
      other.keepOnly(new Set());
      expect(other.bytesHeld).toBe(0);
    } finally {
      other.pool.terminate();
    }
  });
  it('a damaged file is refused when it is added', async () => {
    const bytes = new Uint8Array(await (await import('node:fs/promises')).readFile(join(folder, 'beauty.exr')));
    bytes[bytes.length - 20] ^= 0xff;
    writeFileSync(join(folder, 'damaged.exr'), bytes);
    const file = { name: 'damaged.exr', size: bytes.length, handle: join(folder, 'damaged.exr') };
    engine.files.set('e'.repeat(64), file);
    await expect(engine.examine(sourcesFromReport(await engine.inspect(file), 'e'.repeat(64), () => 'source-9'))).rejects.toMatchObject({ code: 'corrupt', message: expect.stringContaining('damaged.exr: packed data that cannot be unpacked at line') });
  });
  it('a closed engine says so', async () => {
    const closed = await builtEngine();
    closed.pool.terminate();
    await expect(closed.hash({ name: 'x', size: 1, handle: new Uint8Array(1) })).rejects.toMatchObject({ code: 'worker-failed' });
  });
});

describe('levels', () => {
  it('the screen gets at least one pixel for each of its own', () => {
    expect([4, 1, 0.75, 0.5, 0.49, 0.25, 0.1].map(levelForZoom)).toEqual([0, 0, 0, 1, 1, 2, 3]);
  });
  it('a reduced picture is close to the reduced original where nothing but averages happen', async () => {
    const base = after(document, { type: 'remove-layer', layerId: 'layer-4' }, { type: 'remove-layer', layerId: 'layer-3' }, { type: 'remove-layer', layerId: 'layer-2' });
    const { pixels } = await engine.flatten({ document: base, kind: 'float' });
    const reduced = await engine.flatten({ document: base, kind: 'float', level: 1 });
    const [full, half] = [new Float32Array(pixels), new Float32Array(reduced.pixels)];
    const size = sizeAtLevel(document.size, 1);
    for (const [x, y] of [[0, 0], [10, 20], [size.width - 1, size.height - 1]]) {
      const mean = [0, 1].flatMap((dy) => [0, 1].map((dx) => full[(y * 2 + dy) * WIDTH + x * 2 + dx])).reduce((a, b) => a + b) / 4;
      expectClose([half[y * size.width + x]], [mean], 1e-3);
    }
  });
});
