import type { Source } from '@tazzel/core';
import type { Engine, FileRef } from '@tazzel/engine';
import { type FileReport, FormatError } from '@tazzel/formats';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { after, hashOf, material, smallDocument } from '../../../tests/documents.ts';

const stored = new Map<string, unknown>();
let full = false;
vi.mock('localforage', () => ({
  default: {
    createInstance: () => ({
      setItem: async (key: string, value: unknown) => {
        if (full) throw new DOMException('no room', 'QuotaExceededError');
        stored.set(key, value);
      },
      getItem: async (key: string) => stored.get(key) ?? null,
    }),
  },
}));
const { takeIn, takeInAll } = await import('./intake.ts');

const report = (name: string, patch: Partial<FileReport> = {}): FileReport => ({
  format: 'exr',
  fileName: name,
  byteLength: 10,
  size: { width: 8, height: 6 },
  parts: [],
  elements: [{ name: '', colorChannels: ['R', 'G', 'B'], alphaChannel: null, types: ['f16'], part: 0, window: { x: 0, y: 0, width: 8, height: 6 }, hint: null, encoding: null }],
  premultiplied: true,
  notes: {},
  leftOut: [],
  ...patch,
});

/** An engine that reads every file but those called bad. */
function fakeEngine(patches: Readonly<Record<string, Partial<FileReport>>> = {}) {
  const hashes = new Map<string, string>();
  return {
    files: new Map<string, FileRef>(),
    inspect: async ({ name }: FileRef) => {
      if (name.startsWith('bad')) throw new FormatError('corrupt', name, 'it is broken.');
      return report(name, patches[name]);
    },
    hash: async ({ name }: FileRef) => {
      if (!hashes.has(name)) hashes.set(name, hashOf(hashes.size + 100));
      return hashes.get(name) as string;
    },
    examine: async (sources: readonly Source[]) => [...sources],
    findSchedule: async ([source]: readonly Source[]) => ({ materials: [material(1, source.id)], problems: [] }),
  } as unknown as Engine;
}
const file = (name: string) => new File(['bytes'], name);

beforeEach(() => {
  stored.clear();
  full = false;
});

describe('taking files in', () => {
  it('one by one in the order of their numbers; a bad one stops nobody', async () => {
    const progress: string[] = [];
    const { sources, problems, size } = await takeIn(fakeEngine(), null, ['b10.exr', 'bad.exr', 'b2.exr', 'a_beauty.exr'].map(file), ({ name }) => void progress.push(name));
    expect(sources.map(({ name }) => name)).toEqual(['a_beauty', 'b2', 'b10']);
    expect(new Set(sources.map(({ id }) => id)).size).toBe(3);
    expect(problems).toEqual(['bad.exr: it is broken.']);
    expect(size).toEqual({ width: 8, height: 6 });
    expect(progress).toEqual(['a_beauty.exr', 'b2.exr', 'b10.exr', 'bad.exr']);
    expect(stored.size).toBe(3);
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
  it('a full disk is said, and the element is there all the same', async () => {
    full = true;
    const { sources, problems } = await takeIn(fakeEngine(), smallDocument(), [file('a.exr')], () => undefined);
    expect(sources).toHaveLength(1);
    expect(problems[0]).toMatch(/a\.exr: The browser’s storage is full/);
  });
  it('stops where it is cancelled and keeps what it has', async () => {
    const abort = new AbortController();
    const { sources, problems } = await takeIn(fakeEngine(), null, ['a.exr', 'b.exr', 'c.exr'].map(file), ({ done }) => done === 1 && abort.abort(), abort.signal);
    expect(sources.map(({ name }) => name)).toEqual(['a', 'b']);
    expect(problems).toEqual([]);
  });
});
