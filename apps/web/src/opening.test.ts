import type { TazzelDocument } from '@tazzel/core';
import { hashOfFile } from '@tazzel/engine/node';
import { byteSource, readProject, writeProject } from '@tazzel/formats';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { smallDocument } from '../../../tests/documents.ts';
import { platform } from '../../../tests/formats.ts';
import { memoryLocks, MemoryStorage } from '../../../tests/storage.ts';

const storage = new MemoryStorage();
const stores = storage.stores;
vi.mock('localforage', () => ({ default: storage.localforage }));
vi.stubGlobal('navigator', { locks: memoryLocks(), storage: { persist: async () => true } });
const reports: { title: string; lines: readonly string[] }[] = [];
const told = (title: string, lines: readonly string[]) => void (lines.length > 0 && reports.push({ title, lines }));
vi.mock('./notices.tsx', () => ({
  showNotes: told,
  showReport: told,
  withProgress: (_title: string, task: (report: () => void, signal: AbortSignal) => unknown) => task(() => undefined, new AbortController().signal),
}));
/** An engine that reads project files as a worker does, and no pictures. */
const reader = {
  files: new Map(),
  keepOnly: () => undefined,
  readProject: async ({ handle }: { handle: File }) => {
    const bytes = new Uint8Array(await handle.arrayBuffer());
    const { document, files, problems } = await readProject(byteSource(handle.name, bytes), { hash: (part) => hashOfFile(part, platform) });
    return { document, problems, files: new Map([...files].map(([hash, part]) => [hash, { name: hash, size: 1, handle: 'bytes' in part ? new Blob([part.bytes as Uint8Array<ArrayBuffer>]) : handle.slice(part.offset, part.offset + part.length) }])) };
  },
  inspect: () => Promise.reject(new Error('no pictures here')),
  examineEach: async () => [],
};
vi.mock('./engine.ts', () => ({ getEngine: async () => reader }));
const { DEMO_ID, openDemo, openFiles } = await import('./opening.ts');
const { deleteDocument, duplicateDocument, loadDocument, renameDocument } = await import('./storage/documents.ts');
const { listDocuments } = await import('./storage/rows.ts');

async function project(): Promise<{ document: TazzelDocument; bytes: Uint8Array; content: Uint8Array }> {
  const content = new TextEncoder().encode('the bytes of a file');
  const hash = await platform.sha256(content);
  const start = smallDocument();
  const document = { ...start, sources: start.sources.map((source) => ({ ...source, file: { ...source.file, name: 'shared.exr', hash, byteLength: content.length } })) };
  return { document, content, bytes: writeProject(document, new Map([[hash, content]]), null) };
}
const file = (bytes: Uint8Array, name: string) => new File([bytes as Uint8Array<ArrayBuffer>], name);

beforeEach(() => {
  storage.clear();
  reports.length = 0;
});

describe('opening', () => {
  it('a project file becomes a document of its own, other files of the drop are named', async () => {
    const { document, bytes } = await project();
    const id = await openFiles([file(bytes, 'yard.tazzel'), file(bytes, 'second.tazzel'), file(bytes, 'extra.png')]);
    expect(id).not.toBe(document.id);
    expect(await listDocuments()).toMatchObject([{ id, name: document.name, width: 8, height: 6, layers: 2, damage: null }]);
    expect(stores.get('files')?.size).toBe(1);
    expect(reports[0].lines).toEqual([expect.stringMatching(/^second\.tazzel was not opened/), expect.stringMatching(/^extra\.png was not opened/)]);
  });
  it('what is no project file is refused with the reason, and nothing is stored', async () => {
    expect(await openFiles([file(new Uint8Array(80), 'broken.tazzel')])).toBeNull();
    expect(reports).toEqual([{ title: 'The project file could not be opened', lines: [expect.stringMatching(/no readable document\.json/)] }]);
    expect(await listDocuments()).toEqual([]);
  });
  it('pictures that cannot be read say why, too', async () => {
    expect(await openFiles([file(new Uint8Array(8), 'a.png')])).toBeNull();
    expect(reports[0]).toMatchObject({ title: 'No document was made', lines: [expect.stringContaining('no pictures here')] });
  });
  it('the demo is fetched once', async () => {
    const { document } = await project();
    const asked: string[] = [];
    vi.stubGlobal('fetch', async (path: string) => {
      asked.push(path);
      return { ok: true, json: async () => ({ ...document, id: DEMO_ID }), blob: async () => new Blob(['x']) };
    });
    expect(await openDemo()).toBe(DEMO_ID);
    expect(await openDemo()).toBe(DEMO_ID);
    expect(asked).toEqual(['/demo/document.json', '/demo/shared.exr']);
    vi.stubGlobal('fetch', async () => ({ ok: false }));
    await deleteDocument(DEMO_ID);
    await expect(openDemo()).rejects.toThrow(/document\.json is not on the server/);
    vi.stubGlobal('fetch', async () => Promise.reject(new TypeError('Failed to fetch')));
    await expect(openDemo()).rejects.toThrow('The demo’s file document.json could not be fetched: the server does not answer.');
  });
});

describe('stored documents', () => {
  it('are renamed, duplicated, deleted and put back', async () => {
    const id = (await openFiles([file((await project()).bytes, 'yard.tazzel')])) ?? '';
    await renameDocument(id, 'Dusk');
    await duplicateDocument(id);
    expect((await listDocuments()).map(({ name }) => name).toSorted()).toEqual(['Dusk', 'Dusk copy']);
    const { putBack } = await deleteDocument(id);
    expect(await listDocuments()).toHaveLength(1);
    await putBack();
    expect(await listDocuments()).toHaveLength(2);
  });
  it('open with their files, or with those that the page still has', async () => {
    const { bytes, content } = await project();
    const id = (await openFiles([file(bytes, 'yard.tazzel')])) ?? '';
    const engine = { files: new Map(), keepOnly: vi.fn() };
    const opened = await loadDocument(id, engine as never);
    expect(opened?.problems).toEqual([]);
    expect([...engine.files.values()]).toMatchObject([{ name: 'shared.exr', size: content.length }]);
    stores.get('files')?.clear();
    expect((await loadDocument(id, engine as never))?.problems).toEqual([]);
    engine.files.clear();
    expect((await loadDocument(id, engine as never))?.problems).toEqual([expect.stringMatching(/“shared\.exr” is missing in the browser’s storage/)]);
    expect(await loadDocument('none', engine as never)).toBeNull();
  });
});
