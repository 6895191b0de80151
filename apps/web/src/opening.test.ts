import type { TazzelDocument } from '@tazzel/core';
import { writeProject } from '@tazzel/formats';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { smallDocument } from '../../../tests/documents.ts';
import { platform } from '../../../tests/formats.ts';

/** Storage in memory, one map per store. */
const stores = new Map<string, Map<string, unknown>>();
vi.mock('localforage', () => ({
  default: {
    createInstance: ({ storeName }: { storeName: string }) => {
      const items = new Map<string, unknown>();
      stores.set(storeName, items);
      return {
        setItem: async (key: string, value: unknown) => void items.set(key, value),
        getItem: async (key: string) => items.get(key) ?? null,
        keys: async () => [...items.keys()],
        removeItem: async (key: string) => void items.delete(key),
      };
    },
  },
}));
const reports: { title: string; lines: readonly string[] }[] = [];
vi.mock('./notices.tsx', () => ({
  showReport: (title: string, lines: readonly string[]) => void (lines.length > 0 && reports.push({ title, lines })),
  withProgress: (_title: string, task: (report: () => void, signal: AbortSignal) => unknown) => task(() => undefined, new AbortController().signal),
}));
vi.mock('./engine.ts', () => ({ getEngine: () => Promise.reject(new Error('no engine here')) }));
const { DEMO_ID, openDemo, openFiles } = await import('./opening.ts');
const { deleteDocument, duplicateDocument, listDocuments, loadDocument, renameDocument } = await import('./storage/documents.ts');

async function project(): Promise<{ document: TazzelDocument; bytes: Uint8Array; content: Uint8Array }> {
  const content = new TextEncoder().encode('the bytes of a file');
  const hash = await platform.sha256(content);
  const start = smallDocument();
  const document = { ...start, sources: start.sources.map((source) => ({ ...source, file: { ...source.file, name: 'shared.exr', hash, byteLength: content.length } })) };
  return { document, content, bytes: writeProject(document, new Map([[hash, content]]), null) };
}
const file = (bytes: Uint8Array, name: string) => new File([bytes as Uint8Array<ArrayBuffer>], name);

beforeEach(() => {
  for (const items of stores.values()) items.clear();
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
  it('pictures without an engine say why, too', async () => {
    expect(await openFiles([file(new Uint8Array(8), 'a.png')])).toBeNull();
    expect(reports[0]).toMatchObject({ title: 'No document was made', lines: [expect.stringContaining('no engine here')] });
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
    vi.unstubAllGlobals();
  });
});

describe('stored documents', () => {
  it('are renamed, duplicated, deleted and put back', async () => {
    const id = (await openFiles([file((await project()).bytes, 'yard.tazzel')])) ?? '';
    await renameDocument(id, 'Dusk');
    await duplicateDocument(id);
    expect((await listDocuments()).map(({ name }) => name).toSorted()).toEqual(['Dusk', 'Dusk copy']);
    const putBack = await deleteDocument(id);
    expect(await listDocuments()).toHaveLength(1);
    await putBack();
    expect(await listDocuments()).toHaveLength(2);
  });
  it('open with their files; one that only the page still has goes back into the storage', async () => {
    const { bytes, content } = await project();
    const id = (await openFiles([file(bytes, 'yard.tazzel')])) ?? '';
    const engine = { files: new Map(), keepOnly: vi.fn() };
    const opened = await loadDocument(id, engine as never);
    expect(opened?.problems).toEqual([]);
    expect([...engine.files.values()]).toMatchObject([{ name: 'shared.exr', size: content.length }]);
    stores.get('files')?.clear();
    expect((await loadDocument(id, engine as never))?.problems).toEqual([]);
    expect(stores.get('files')?.size).toBe(1);
    stores.get('files')?.clear();
    engine.files.clear();
    expect((await loadDocument(id, engine as never))?.problems).toEqual([expect.stringMatching(/“shared\.exr” is missing in the browser’s storage/)]);
    expect(await loadDocument('none', engine as never)).toBeNull();
  });
});
