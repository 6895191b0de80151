/** What the engine survives: workers that are lost, strokes without end, masks on masks. Through real workers. */
import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { addElements, emptyDocument, type Layer, type Mask, type MaskTerm, newMask, newTerm, type Stroke, type TazzelDocument } from '@tazzel/core';
import { sourcesFromReport } from '@tazzel/formats';
import sharp from 'sharp';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { builtEngine } from '../../../tests/built.ts';
import { seeded } from '../../../tests/random.ts';
import { scratch } from '../../../tests/tools.ts';
import type { Engine } from './engine.ts';

let engine: Engine;
let document: TazzelDocument;

beforeEach(async () => {
  engine = await builtEngine();
  const path = join(scratch(), 'beauty.png');
  writeFileSync(path, await sharp({ create: { width: 400, height: 300, channels: 3, background: '#806040', noise: { type: 'gaussian', mean: 120, sigma: 40 } } }).png().toBuffer());
  const ref = { name: 'beauty.png', size: statSync(path).size, handle: path };
  const hash = await engine.hash(ref);
  engine.files.set(hash, ref);
  const sources = sourcesFromReport(await engine.inspect(ref), hash, () => 'source-1');
  document = addElements(emptyDocument('d', 'D', { width: 400, height: 300 }), sources);
});
afterEach(() => engine.pool.terminate());

const tone = (layerId: string): MaskTerm => newTerm('tone', 'add', document, { after: layerId });
const lift = (id: string, maskId: string): Layer => ({ id, kind: 'correction', name: id, visible: true, opacity: 1, mask: { maskId, inverted: false, enabled: true }, correction: { type: 'exposure', blend: 'all', params: { exposureStops: 0.1 } } });
const pixels = async (of: TazzelDocument) => Buffer.from((await engine.flatten({ document: of, kind: 'rgba8' })).pixels);

describe('masks on masks', () => {
  it('24 corrections, each masked by the tones of the picture below it, are computed', async () => {
    const base = document.buildUp.scene[0].id;
    const masks = Array.from({ length: 24 }, (_, n) => newMask(`m${n}`, `m${n}`, [tone(n === 0 ? base : `c${n - 1}`)]));
    const tower = { ...document, masks, buildUp: { scene: [...document.buildUp.scene, ...masks.map((_, n) => lift(`c${n}`, `m${n}`))], picture: [] } };
    const [before, after] = [await pixels(document), await pixels(tower)];
    expect(after.equals(before)).toBe(false);
    expect((await pixels(tower)).equals(after)).toBe(true);
  });
  it('a ladder of masks says what is wrong at its foot once, with the name of that one', async () => {
    const refer = (maskId: string): MaskTerm => newTerm('mask', 'add', document, { mask: maskId });
    const masks: Mask[] = Array.from({ length: 60 }, (_, n) => newMask(`m${n}`, `Mask ${n}`, n === 0 ? [refer('gone'), newTerm('ellipse', 'add', document)] : [refer(`m${n - 1}`), refer(`m${Math.max(0, n - 2)}`)]));
    const { problems } = await engine.mask({ ...document, masks }, masks[59], 2);
    expect(problems).toEqual([{ term: null, within: 'Mask 0', sentence: 'The mask it refers to is gone.' }]);
  });
});

describe('paint', () => {
  const random = seeded(5);
  const stroke = (): Stroke => ({ erase: random() < 0.3, sizePx: 10 + random() * 60, hardness: random(), opacity: 0.3 + 0.7 * random(), flow: 0.6, spacing: 0.1, path: Array.from({ length: 12 }, (_, i) => (i % 3 === 0 ? random() * 400 : i % 3 === 1 ? random() * 300 : 0.5 + random() / 2)) });
  const painted = (strokes: readonly Stroke[]) => newMask('p', 'p', [newTerm('paint', 'add', document, { strokes })]);
  it('only what is new is painted; what comes out is the same as painting all of it', async () => {
    const run = vi.spyOn(engine.pool, 'run');
    const strokes: Stroke[] = [];
    for (let n = 0; n < 12; n++) {
      strokes.push(stroke());
      await engine.mask(document, painted([...strokes]), 1);
    }
    const counts = run.mock.calls.filter(([kind]) => kind === 'paint').map(([, request]) => (request as unknown as { strokes: unknown[] }).strokes.length);
    expect(counts).toEqual(Array(12).fill(1));
    // Undoing finds what was there; another branch goes on from it.
    await engine.mask(document, painted(strokes.slice(0, 7)), 1);
    await engine.mask(document, painted([...strokes.slice(0, 7), stroke()]), 1);
    expect(run.mock.calls.filter(([kind]) => kind === 'paint')).toHaveLength(13);
    for (const [kind, request] of run.mock.calls) if (kind === 'mask') expect(JSON.stringify((request as unknown as { mask: Mask }).mask)).not.toContain('"path"');
    const piecemeal = Buffer.from((await engine.mask(document, painted(strokes), 1)).plane.data.buffer as ArrayBuffer);
    const fresh = await builtEngine();
    const whole = Buffer.from((await fresh.mask(document, painted(strokes), 1)).plane.data.buffer as ArrayBuffer);
    fresh.pool.terminate();
    expect(piecemeal.equals(whole)).toBe(true);
  });
  it('a stroke that runs far beyond the picture and back ends', async () => {
    const far = { ...stroke(), sizePx: 0.5, spacing: 0.01, path: Array.from({ length: 600 }, (_, i) => (i % 3 === 2 ? 1 : (i % 2 === 0 ? 1 : -1) * 1_000_000)) };
    expect((await engine.mask(document, painted([far]), 0)).plane.width).toBe(400);
  });
});

describe('a worker that is lost', () => {
  it('in the middle of work: the same pixels come, and a sentence says what happened', async () => {
    const whole = await pixels(document);
    const told: string[] = [];
    const seen = new Set<Worker>();
    const post = Worker.prototype.postMessage;
    vi.spyOn(Worker.prototype, 'postMessage').mockImplementation(function capture(this: Worker, ...message: Parameters<typeof post>) {
      seen.add(this);
      return post.apply(this, message);
    });
    const hurt = await builtEngine({ onRestart: (sentence) => void told.push(sentence) });
    vi.restoreAllMocks();
    for (const [hash, ref] of engine.files) hurt.files.set(hash, ref);
    await hurt.flatten({ document, kind: 'rgba8' });
    for (const worker of seen) {
      const again = hurt.flatten({ document, kind: 'rgba8' });
      await worker.terminate();
      expect(Buffer.from((await again).pixels).equals(whole)).toBe(true);
    }
    expect(told).toHaveLength(2);
    expect(told[0]).toBe('A part of the computation broke down (it ended without a word) and was started again.');
    hurt.pool.terminate();
  });
});
