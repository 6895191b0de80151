import type { Source } from '@tazzel/core';
import type { Engine, FileRef } from '@tazzel/engine';
import { type FileReport, FormatError } from '@tazzel/formats';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { after, hashOf, material, smallDocument } from '../../../tests/documents.ts';
import { full, memoryLocks, MemoryStorage } from '../../../tests/storage.ts';

const storage = new MemoryStorage();
vi.mock('localforage', () => ({ default: storage.localforage }));
vi.stubGlobal('navigator', { locks: memoryLocks() });
const stored = () => storage.store('files');
const { takeIn, takeInAll } = await import('./intake.ts');

const report = (name: string, patch: Partial<FileReport> = {}): FileReport => ({
  format: 'exr',
  fileName: name,
  byteLength: 10,
  size: { width: 8, height: 6 },
  parts: [],
  camera: null,
  sun: null,
  elements: [{ name: '', colorChannels: ['R', 'G', 'B'], alphaChannel: null, types: ['f16'], part: 0, window: { x: 0, y: 0, width: 8, height: 6 }, hint: null, encoding: null }],
  premultiplied: true,
  notes: {},
  leftOut: [],
  remarks: [],
  ...patch,
});

/** An engine that reads every file but those called bad. */
function fakeEngine(patches: Readonly<Record<string, Partial<FileReport>>> = {}) {
  const hashes = new Map<string, string>();
  const manifests: string[] = [];
  return {
    files: new Map<string, FileRef>(),
    manifests,
    takeManifest: (name: string, text: string) => text === '{"door":"1f"}' && manifests.push(name) > 0,
    inspect: async ({ name }: FileRef) => {
      if (name.startsWith('bad')) throw new FormatError('corrupt', name, 'it is broken.');
      return report(name, patches[name]);
    },
    hash: async ({ name }: FileRef) => {
      if (!hashes.has(name)) hashes.set(name, hashOf(hashes.size + 100));
      return hashes.get(name) as string;
    },
    examineEach: async (files: readonly (readonly Source[])[], { onDone }: { onDone?: (file: number) => void }) => 
      files.map((sources, i) => {
        onDone?.(i);
        return [...sources];
      }),
    findSchedule: async ([source]: readonly Source[]) => ({ materials: [material(1, source.id)], problems: [] }),
  } as unknown as Engine & { readonly manifests: readonly string[]; hash: unknown };
}
const file = (name: string) => new File(['bytes'], name);

beforeEach(() => storage.clear());

describe('taking files in', () => {
  it('side by side, and they come in in the order of their numbers; a bad one stops nobody', async () => {
    const progress: string[] = [];
    const { sources, problems, size } = await takeIn(fakeEngine(), null, ['b10.exr', 'bad.exr', 'b2.exr', 'a_beauty.exr'].map(file), ({ name }) => void progress.push(name));
    expect(sources.map(({ name }) => name)).toEqual(['a_beauty', 'b2', 'b10']);
    expect(new Set(sources.map(({ id }) => id)).size).toBe(3);
    expect(problems).toEqual(['bad.exr: it is broken.']);
    expect(size).toEqual({ width: 8, height: 6 });
    expect([...new Set(progress)].toSorted()).toEqual(['a_beauty.exr', 'b10.exr', 'b2.exr', 'bad.exr']);
    expect(stored().size).toBe(3);
  });
  it('the beauty decides the size, others that differ are named', async () => {
    const engine = fakeEngine({ 'ao.png': { size: { width: 4, height: 3 } } });
    const { size, problems } = await takeIn(engine, null, [file('ao.png'), file('beauty.exr')], () => undefined);
    expect(size).toEqual({ width: 8, height: 6 });
    expect(problems).toEqual([expect.stringMatching(/^ao\.png is 4 × 3, the document 8 × 6/)]);
  });
  it('a part that is not read is named, the others come in', async () => {
    const engine = fakeEngine({ 'a.exr': { leftOut: ['a.exr: OpenEXR parts of type “deepscanline” are not read.'] } });
    const { sources, problems } = await takeIn(engine, null, [file('a.exr')], () => undefined);
    expect([sources.length, problems]).toEqual([1, ['a.exr: OpenEXR parts of type “deepscanline” are not read.']]);
  });
  it('an ID picture fills the schedule, but only an empty one', async () => {
    const { materials } = await takeInAll(fakeEngine(), null, [file('material_id.png')], () => undefined);
    expect(materials).toHaveLength(1);
    const again = await takeInAll(fakeEngine(), smallDocument(), [file('material_id.png')], () => undefined);
    expect(again.materials).toHaveLength(0);
    // Who opens a document does not wait for it.
    expect((await takeIn(fakeEngine(), null, [file('material_id.png')], () => undefined)).materials).toHaveLength(0);
  });
  it('the same file is not added twice; one that was missing comes back without a new element', async () => {
    const engine = fakeEngine();
    const first = await takeIn(engine, null, [file('a.exr'), file('a copy.exr')], () => undefined);
    expect(first.sources).toHaveLength(2);
    const document = after(smallDocument(), { type: 'add-sources', sources: first.sources.map((source, i) => ({ ...source, id: `source-${i + 10}` })) });
    const twice = await takeIn(engine, document, [file('a.exr')], () => undefined);
    expect([twice.sources.length, twice.problems]).toEqual([0, ['a.exr: the same file is in the document already. It was not added a second time.']]);
    engine.files.clear();
    const back = await takeIn(engine, document, [file('a.exr')], () => undefined);
    expect([back.sources.length, back.problems]).toEqual([0, ['a.exr was missing and is back.']]);
    expect(engine.files.size).toBe(1);
  });
  it('the same bytes under another name are another element', async () => {
    const engine = fakeEngine();
    engine.hash = async () => hashOf(500);
    const twin = (name: string) => new File(['the same bytes'], name);
    const first = await takeIn(engine, null, [twin('gi.exr'), twin('bounce.exr')], () => undefined);
    expect(first.sources.map((source) => source.file.name)).toEqual(['bounce.exr', 'gi.exr']);
    const document = after(smallDocument(), { type: 'add-sources', sources: first.sources.map((source, i) => ({ ...source, id: `source-${i + 10}` })) });
    expect((await takeIn(engine, document, [twin('third.exr')], () => undefined)).sources).toHaveLength(1);
    expect((await takeIn(engine, document, [twin('gi.exr')], () => undefined)).sources).toHaveLength(0);
  });
  it('names of a coverage matte are kept for it; other JSON is no picture and said so', async () => {
    const engine = fakeEngine();
    const { sources } = await takeIn(engine, null, [file('a.exr'), new File(['{"door":"1f"}'], 'names.json')], () => undefined);
    expect([sources.length, engine.manifests]).toEqual([1, ['names.json']]);
    await takeIn(engine, null, [new File(['{"camera":{}}'], 'scene.json')], () => undefined);
    expect(engine.manifests).toEqual(['names.json']);
  });
  it('a full disk is said; the element is there as long as the page is, which goes on trying', async () => {
    storage.fail = (store) => store === 'files' && full();
    const engine = fakeEngine();
    const { sources, problems } = await takeIn(engine, smallDocument(), [file('a.exr')], () => undefined);
    expect(sources).toHaveLength(1);
    expect([...engine.files.values()][0].handle).toBeInstanceOf(File);
    expect(problems[0]).toMatch(/^a\.exr is in the document, but could not be stored: the browser’s storage is full/);
  });
  it('progress counts bytes, and never goes back', async () => {
    const shares: number[] = [];
    await takeIn(fakeEngine(), null, [new File(['x'.repeat(900)], 'large.exr'), file('small.exr')], ({ share }) => void shares.push(share));
    expect(shares).toEqual(shares.toSorted((a, b) => a - b));
    expect(shares.at(-1)).toBeCloseTo(1, 6);
  });
  it('what is cancelled brings nothing in', async () => {
    const abort = new AbortController();
    const { sources, problems } = await takeIn(fakeEngine(), null, ['a.exr', 'b.exr', 'c.exr'].map(file), ({ share }) => share > 0 && abort.abort(), abort.signal);
    expect([sources, problems]).toEqual([[], []]);
  });
});
