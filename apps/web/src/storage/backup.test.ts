import { createHash } from 'node:crypto';
import { applyEdit, type TazzelDocument } from '@tazzel/core';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { smallDocument } from '../../../../tests/documents.ts';
import { full, memoryLocks, MemoryStorage } from '../../../../tests/storage.ts';

const storage = new MemoryStorage();
vi.mock('localforage', () => ({ default: storage.localforage }));
const { makeBackup, restoreBackup } = await import('./backup.ts');
const { createDocument, loadDocument } = await import('./documents.ts');
const { storeFile } = await import('./files.ts');
const { keepLooks, keepReviewPlace, looks, reviewPlace } = await import('./library.ts');
const { listDocuments } = await import('./rows.ts');

const hashOf = async (blob: Blob) => createHash('sha256').update(new Uint8Array(await blob.arrayBuffer())).digest('hex');
const quiet = () => undefined;
const engine = { files: new Map(), keepOnly: () => undefined } as never;

/** A document whose files have the names of what is in them. */
async function stored(id: string): Promise<TazzelDocument> {
  const made = smallDocument();
  const sources = await Promise.all(
    made.sources.map(async (source) => {
      const blob = new Blob([`${id} ${source.file.name}`]);
      const hash = await hashOf(blob);
      await storeFile(hash, blob);
      return { ...source, file: { ...source.file, hash } };
    }),
  );
  const document = { ...made, id, name: id, sources };
  await createDocument(document);
  storage.store('pictures').set(id, new Blob([`picture of ${id}`]));
  return document;
}
const fileOf = (blob: Blob) => new File([blob], 'tazzel-backup.zip');
const copied = () => new Map([...storage.stores].map(([name, items]) => [name, new Map(items)]));

beforeEach(() => {
  storage.clear();
  vi.stubGlobal('navigator', { locks: memoryLocks(), storage: { persist: async () => true } });
});

describe('everything, and back', () => {
  it('documents, files, small pictures, shelves: into an empty browser all of it comes back', async () => {
    const [first, second] = [await stored('yard'), await stored('room')];
    await keepReviewPlace('yard', { client: 'c', studio: 's' });
    const { blob, documents, problems } = await makeBackup(quiet);
    expect([documents, problems]).toEqual([2, []]);
    const before = copied();
    storage.clear();
    expect(await restoreBackup(fileOf(blob), hashOf, quiet)).toEqual({ documents: 2, known: 0, problems: [] });
    expect([...storage.store('files').keys()].toSorted()).toEqual([...(before.get('files')?.keys() ?? [])].toSorted());
    for (const document of [first, second]) expect((await loadDocument(document.id, engine))?.document).toEqual(document);
    expect(await (storage.store('pictures').get('yard') as Blob).text()).toBe('picture of yard');
    expect(await reviewPlace('yard')).toEqual({ client: 'c', studio: 's' });
  });
  it('a second time there is nothing to do', async () => {
    await stored('yard');
    const { blob } = await makeBackup(quiet);
    const before = copied();
    expect(await restoreBackup(fileOf(blob), hashOf, quiet)).toEqual({ documents: 0, known: 1, problems: [] });
    expect(copied()).toEqual(before);
  });
  it('what was changed since stays, and what was comes in beside it; shelves are joined', async () => {
    const look = (name: string) => ({ name, links: [] }) as never;
    const made = await stored('yard');
    await keepLooks([look('A')]);
    const { blob } = await makeBackup(quiet);
    const changed = applyEdit(made, { type: 'keep-state', name: 'Later' });
    storage.store('documents').set('yard', { document: changed, savedAt: 2 });
    storage.store('settings').set('looks', [look('B')]);
    storage.store('settings').set('theme', 'dusk');
    expect(await restoreBackup(fileOf(blob), hashOf, quiet)).toMatchObject({ documents: 1, known: 0 });
    expect((await loadDocument('yard', engine))?.document.states).toHaveLength(1);
    expect((await listDocuments()).map(({ name }) => name).toSorted()).toEqual(['yard', 'yard (from a backup)']);
    expect((storage.store('settings').get('looks') as { name: string }[]).map(({ name }) => name)).toEqual(['B', 'A']);
    expect(storage.store('settings').get('theme')).toBe('dusk');
    expect(await looks()).toBeInstanceOf(Array);
  });
});

describe('what is not whole', () => {
  it('one that was cut off gives what lies before the end; a damaged file is left out, its document is not', async () => {
    await stored('yard');
    const whole = new Uint8Array(await (await makeBackup(quiet)).blob.arrayBuffer());
    storage.clear();
    const cut = await restoreBackup(fileOf(new Blob([whole.subarray(0, whole.length - 60)])), hashOf, quiet);
    expect(cut).toMatchObject({ documents: 1, problems: [expect.stringContaining('cut off')] });
    storage.clear();
    const text = Buffer.from(whole).toString('latin1');
    const at = text.indexOf('yard beauty');
    const damaged = whole.slice();
    damaged[at > 0 ? at : text.indexOf('files/') + 70] ^= 1;
    const result = await restoreBackup(fileOf(new Blob([damaged])), hashOf, quiet);
    expect(result.documents).toBe(1);
    expect(result.problems.join()).toContain('A file of the backup is damaged');
  });
  it('what cannot be read is named, and the rest is there', async () => {
    await stored('yard');
    await stored('room');
    storage.fail = (store, key, what) => {
      if (store === 'documents' && key === 'room' && what === 'get') throw new Error('gone');
    };
    const { blob, problems } = await makeBackup(quiet);
    expect(problems).toEqual([expect.stringContaining('documents/room.json')]);
    storage.clear();
    expect((await restoreBackup(fileOf(blob), hashOf, quiet)).documents).toBe(1);
  });
  it('another file is refused by a sentence, and nothing is written', async () => {
    for (const content of [new Uint8Array(0), new TextEncoder().encode('PK nonsense'), new Uint8Array(5000)]) await expect(restoreBackup(fileOf(new Blob([content])), hashOf, quiet)).rejects.toThrow('no backup of Tazzel');
    expect(copied().get('documents')?.size ?? 0).toBe(0);
  });
  it('a full disk ends it with a sentence; what came before stays', async () => {
    await stored('yard');
    const { blob } = await makeBackup(quiet);
    storage.clear();
    storage.fail = (store, _key, what) => {
      if (store === 'documents' && what === 'set') full();
    };
    await expect(restoreBackup(fileOf(blob), hashOf, quiet)).rejects.toThrow('storage is full');
    expect(storage.store('files').size).toBeGreaterThan(0);
  });
  it('ends when it is cancelled', async () => {
    await stored('yard');
    const abort = new AbortController();
    await expect(makeBackup(() => abort.abort(), abort.signal)).rejects.toMatchObject({ name: 'AbortError' });
  });
});
