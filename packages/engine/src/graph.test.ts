import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { applyEdit, type Edit, type KeptValues, planDocument, sizeAtLevel, type TazzelDocument, tilesOf } from '@tazzel/core';
import { builtEngine } from '../../../tests/built.ts';
import { after } from '../../../tests/documents.ts';
import { HEIGHT, loadSet, WIDTH, writeSet } from '../../../tests/engine-set.ts';
import { randomDocument } from '../../../tests/random-documents.ts';
import { scratch } from '../../../tests/tools.ts';
import type { Engine } from './engine.ts';
import { Cancelled } from './errors.ts';

const folder = scratch();
let names: string[];
let engine: Engine;
let base: TazzelDocument;
beforeAll(async () => {
  names = await writeSet(folder);
  engine = await builtEngine();
  base = await loadSet(engine, folder, names);
});
afterAll(() => engine.pool.terminate());

const flat = async (document: TazzelDocument, on: Engine, level = 0) => Buffer.from((await on.flatten({ document, kind: 'rgba8', level })).pixels);
const loaded = async (options: Parameters<typeof builtEngine>[0]) => {
  const other = await builtEngine(options);
  await loadSet(other, folder, names);
  return other;
};
/** Where two pictures differ first. */
const difference = (a: Buffer, b: Buffer) => {
  const at = a.findIndex((value, i) => value !== b[i]);
  return at < 0 ? null : `pixel ${(at >> 2) % WIDTH}, ${Math.floor((at >> 2) / WIDTH)}: ${[...a.subarray(at & ~3, (at & ~3) + 4)]} and ${[...b.subarray(at & ~3, (at & ~3) + 4)]}`;
};

describe('any document looks the same', () => {
  const seeds = Array.from({ length: 4 }, (_, i) => 100 + i);
  /** What a random document seldom has: everything that spreads light, from places that are far away. */
  const spreading = (): TazzelDocument => {
    const [beauty, , ids] = base.sources;
    const lens: readonly (readonly [string, KeptValues])[] = [['glow', { amountPercent: 40, sizePercent: 0.4, tint: [1, 0.8, 0.5] }], ['streaks', { amountPercent: 30, scratchesPercent: 50 }], ['tilt-blur', { sigmaPercent: 1.5, angleDegrees: 20 }], ['motion-blur', { lengthPx: 9, angleDegrees: 35 }], ['noise-reduction', { strengthPercent: 50 }], ['local-contrast', { finePercent: 30, mediumPercent: 20 }], ['fireflies', { times: 3 }], ['gaussian-blur', { sigmaPx: 3 }], ['focus', { focusMetres: 3, fNumber: 0.5, catsEyePercent: 50, roundnessPercent: 30 }], ['distortion', { firstPercent: -9, secondPercent: 2 }], ['verticals', { verticalDegrees: 8, rollDegrees: 1, edges: 'show' }], ['colour-fringes', { redPercent: 0.6, bluePercent: -0.4 }], ['grain', { amountStops: 0.4 }]];
    const lit = after(
      base,
      // Some of its numbers are metres.
      { type: 'set-source', sourceId: base.sources[1].id, patch: { role: 'depth', encoding: 'data', scale: 12 } },
      { type: 'set-camera', from: 'hand', params: { heightMetres: 1.6 } },
      { type: 'set-sun', from: 'hand', params: { place: 'angles', azimuthDegrees: 12, altitudeDegrees: 9 } },
      { type: 'add-layer', layer: 'air', zone: 'scene', params: { source: beauty.id, alpha: ids.id, glowPercent: 120, shaftsPercent: 80, visibilityMetres: 5 } },
      ...lens.flatMap(([correction, params], i): Edit[] => [{ type: 'add-correction-layer', correction, zone: 'scene' }, { type: 'set-params', layerId: `layer-${i + 3}`, params }]),
    );
    // Traffic, somebody who throws a shadow under that air, and a place that is healed over all of it.
    const stood = after(lit, { type: 'add-figures', figures: [{ sourceId: beauty.id, at: [WIDTH * 0.45, base.size.height * 0.8], groundMetres: 0, heightMetres: 1.4, mirrored: true, leanDegrees: 6, foot: [0.5, 1], top: 0 }] }, { type: 'draw-course', at: [WIDTH * 0.2, base.size.height * 0.95], goesOn: false }, { type: 'draw-course', at: [WIDTH * 0.8, base.size.height * 0.7], goesOn: true }, { type: 'paint-layer', what: 'heal' });
    const mask = stood.masks.at(-1);
    return after(stood, { type: 'add-stroke', maskId: mask?.id ?? '', termId: mask?.terms[0].id ?? '', stroke: { erase: false, sizePx: 40, hardness: 0.8, opacity: 1, flow: 1, spacing: 0.1, path: [200, 120, 1, 260, 150, 1] } });
  };
  it('region by region, with one worker or two, with a cold or a warm store, with hardly any store', async () => {
    const others = [await loaded({ workers: 1 }), await loaded({ keptBytes: 2 ** 20 })];
    const kinds = new Set<string>();
    try {
      for (const [seed, document] of [...seeds.map((each) => [each, randomDocument(each, base)] as const), ['spreading', spreading()] as const]) {
        for (const node of planDocument(document).nodes) kinds.add(node.kind);
        for (const level of [0, 1]) {
          const expected = await flat(document, engine, level);
          for (const other of [engine, ...others]) expect(difference(await flat(document, other, level), expected), `seed ${seed}, level ${level}`).toBeNull();
          const size = sizeAtLevel(document.size, level);
          const tiles = tilesOf(size).toReversed();
          await engine.render({
            document,
            level,
            tiles,
            focusLayerId: document.buildUp.scene.at(-1)?.id ?? null,
            onTile: ({ x, y, width, height }, rgba) => {
              for (let row = 0; row < height; row++) {
                const start = ((y + row) * size.width + x) * 4;
                if (Buffer.compare(Buffer.from(rgba.buffer, row * width * 4, width * 4), expected.subarray(start, start + width * 4)) !== 0) expect.fail(`seed ${seed}, level ${level}: the tile at ${x}, ${y} differs in row ${row}`);
              }
            },
          });
        }
        const { codes } = await engine.probe(document, 311, 207, 2);
        const whole = await flat(document, engine);
        expect(codes, `seed ${seed}`).toEqual([...whole.subarray((207 * WIDTH + 311) * 4, (207 * WIDTH + 311) * 4 + 4)]);
      }
    } finally {
      for (const other of others) other.pool.terminate();
    }
    expect([...kinds].sort()).toEqual(['bend', 'despeckle', 'diffraction', 'drift', 'figures', 'focus', 'gaussian', 'graded', 'local', 'membrane', 'mixture', 'points', 'sides', 'smear', 'smooth', 'sphere', 'trails', 'warp']);
  }, 240_000);
  it('whatever was looked at before', async () => {
    const documents = seeds.map((seed) => randomDocument(seed, base));
    const expected = await Promise.all(documents.map((document) => flat(document, engine)));
    const fresh = await loaded({});
    try {
      for (const i of [3, 1, 0, 2]) {
        const last = documents[i].buildUp.picture.at(-1);
        if (last) await fresh.warm({ document: documents[i], level: 0, tiles: tilesOf(base.size), focusLayerId: last.id });
        expect(difference(await flat(documents[i], fresh), expected[i])).toBeNull();
      }
    } finally {
      fresh.pool.terminate();
    }
  }, 120_000);
});

const blurs = (count: number, sigmaPx: number): Edit[] => Array.from({ length: count }, (_, i): Edit[] => [{ type: 'add-correction-layer', correction: 'gaussian-blur', zone: 'scene' }, { type: 'set-params', layerId: `layer-${i + 2}`, params: { sigmaPx } }]).flat();

describe('what is computed again', () => {
  it('nothing of three blurs below the edited layer', async () => {
    const document = after(base, ...blurs(3, 20), { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }, { type: 'set-params', layerId: 'layer-5', params: { exposureStops: 0.5 } });
    const tiles = tilesOf(document.size);
    const render = async (state: TazzelDocument) => (await engine.render({ document: state, level: 0, tiles, focusLayerId: 'layer-5', onTile: () => undefined })).stepsRun;
    await render(document);
    await engine.warm({ document, level: 0, tiles, focusLayerId: 'layer-5' });
    const runs: string[] = [];
    const { run } = engine.pool;
    engine.pool.run = (kind, ...rest) => {
      runs.push(kind);
      return run.call(engine.pool, kind, ...rest) as never;
    };
    try {
      // The exposure and the tone line, once in each tile.
      expect(await render(applyEdit(document, { type: 'set-params', layerId: 'layer-5', params: { exposureStops: 0.6 } }))).toBe(2 * tiles.length);
      expect([...new Set(runs)]).toEqual(['tile']);
    } finally {
      engine.pool.run = run;
    }
  });
  it('kept pictures stay within their budget', async () => {
    const small = await loaded({ keptBytes: 3 * 2 ** 20 });
    try {
      for (const sigmaPx of [2, 3, 20]) await flat(after(base, ...blurs(3, sigmaPx)), small);
      expect(small.keptBytes).toBeLessThanOrEqual(3 * 2 ** 20);
      small.keepOnly(new Set());
      expect(small.keptBytes).toBe(0);
    } finally {
      small.pool.terminate();
    }
  });
});

describe('matching', () => {
  it('finds the exposure again that was taken away, within a mask and without', async () => {
    const darker = after(base, { type: 'add-chain-correction', layerId: 'layer-1', correction: 'exposure' }, { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { exposureStops: -1 } });
    for (const mask of [null, after(base, { type: 'add-mask', name: 'All', terms: [] }).masks[0]]) {
      const found = await engine.match({ document: darker, mask: null }, { document: base, mask: mask && { maskId: 'gone', inverted: false, enabled: true } }, 'light');
      expect(found?.power).toBeCloseTo(1, 2);
      for (const slope of found?.slope ?? []) expect(slope).toBeCloseTo(2, 1);
    }
  });
});

describe('measuring', () => {
  it('tells the same of the screen and of the file, of a layer alone, inside a mask', async () => {
    const document = after(base, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }, { type: 'set-params', layerId: 'layer-2', params: { exposureStops: -1 } });
    const whole = await flat(document, engine);
    const { red, pixels } = await engine.measure(document, { scale: 'picture' });
    expect(pixels).toBe(WIDTH * HEIGHT);
    const bins = new Array<number>(256).fill(0);
    for (let i = 0; i < whole.length; i += 4) bins[whole[i]]++;
    expect(red.bins).toEqual(bins);
    const [light, own] = await Promise.all([engine.measure(document, { scale: 'light' }), engine.measure(document, { scale: 'light', options: { only: 'layer-1' } })]);
    expect(light.green.max * 2).toBeCloseTo(own.green.max, 5);
    const masked = after(document, { type: 'mask-with-material', materialIds: [document.materials[0].id], layerId: 'layer-2' });
    const mask = masked.buildUp.scene[1].mask;
    const inside = await engine.measure(masked, { scale: 'light', mask });
    const outside = await engine.measure(masked, { scale: 'light', mask: mask && { ...mask, inverted: true } });
    expect([inside.pixels + outside.pixels, Math.round((inside.pixels / (WIDTH * HEIGHT)) * 3)]).toEqual([WIDTH * HEIGHT, 1]);
    // One gives up what another waits for.
    const brighter = after(document, { type: 'set-params', layerId: 'layer-2', params: { exposureStops: 1.5 } });
    const abort = new AbortController();
    const given = engine.measure(brighter, { scale: 'light', signal: abort.signal }).catch((error) => error);
    const kept = engine.measure(brighter, { scale: 'light' });
    setTimeout(() => abort.abort(), 3);
    expect((await kept).green.max).toBeCloseTo(own.green.max * 2 ** 1.5, 3);
    await given;
    // Asked again it is not computed again.
    const { run } = engine.pool;
    let runs = 0;
    engine.pool.run = (...rest) => {
      runs++;
      return run.apply(engine.pool, rest as never) as never;
    };
    expect(await engine.measure(document, { scale: 'picture' })).toMatchObject({ pixels });
    engine.pool.run = run;
    expect(runs).toBe(0);
  });
});

describe('trouble', () => {
  it('what is given up leaves nothing half made behind', async () => {
    const document = after(base, ...blurs(2, 4));
    const fresh = await loaded({});
    try {
      for (let i = 0; i < 6; i++) {
        const abort = new AbortController();
        const given = fresh.flatten({ document: applyEdit(document, { type: 'set-params', layerId: 'layer-2', params: { sigmaPx: 3 + i } }), kind: 'rgba8', signal: abort.signal });
        setTimeout(() => abort.abort(), 4 * i);
        await given.catch((error) => expect(error).toBeInstanceOf(Cancelled));
      }
      expect(difference(await flat(document, fresh), await flat(document, engine))).toBeNull();
      // Another state that was cancelled while the same tiles were wanted elsewhere.
      const abort = new AbortController();
      const next = applyEdit(document, { type: 'set-params', layerId: 'layer-2', params: { sigmaPx: 9 } });
      const [given, kept] = [fresh.flatten({ document: next, kind: 'rgba8', signal: abort.signal }).catch(() => null), flat(next, fresh)];
      abort.abort();
      expect(difference(await kept, await flat(next, engine))).toBeNull();
      await given;
    } finally {
      fresh.pool.terminate();
    }
  });
  it('what is left out is said with the picture', async () => {
    const document = after(base, { type: 'add-correction-layer', correction: 'repaint', zone: 'scene' }, { type: 'add-layer', layer: 'snapshot', params: { after: 'layer-1' }, zone: 'scene' }, { type: 'remove-layer', layerId: 'layer-1' });
    const { problems } = await engine.render({ document, level: 2, tiles: [], onTile: () => undefined });
    // Asked first without what does nothing: the picture is the same, what is said of it is not.
    expect((await engine.render({ document: after(document, { type: 'remove-layer', layerId: 'layer-2' }), level: 2, tiles: [], onTile: () => undefined })).problems).toHaveLength(1);
    expect((await engine.render({ document, level: 2, tiles: [], onTile: () => undefined })).problems).toHaveLength(2);
    expect(problems).toEqual([expect.stringContaining('Repaint: the document has no diffuse filter'), expect.stringContaining('the layer that it shows is gone')]);
  });
  it('a layer drawn a hundred times as large, or turned far off, costs what a picture costs', async () => {
    const placement = { offsetX: 0, offsetY: 0, scaleX: 100, scaleY: 100, rotationDegrees: 33, filter: 'lanczos' as const };
    for (const patch of [{}, { scaleX: 0.01, scaleY: 0.01 }, { scaleX: 50, scaleY: 0.01 }, { offsetX: 1e6, offsetY: -1e6 }]) {
      const document = after(base, { type: 'set-layer', layerId: 'layer-1', patch: { placement: { ...placement, ...patch } } });
      expect((await flat(document, engine)).length).toBe(WIDTH * HEIGHT * 4);
    }
  });
});


