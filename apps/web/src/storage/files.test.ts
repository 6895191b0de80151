import type { TazzelDocument } from '@tazzel/core';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { hashOf, smallDocument } from '../../../../tests/documents.ts';
import { full, memoryLocks, MemoryStorage } from '../../../../tests/storage.ts';

const storage = new MemoryStorage();
vi.mock('localforage', () => ({ default: storage.localforage }));
const { createDocument, deleteDocument, duplicateDocument, loadDocument, renameDocument, salvageDocument } = await import('./documents.ts');
const { storeFile, sweepFiles } = await import('./files.ts');
const { Claim, claimDocument, takeOver, whileFilesArrive, withinAMoment } = await import('./locks.ts');
const { listDocuments } = await import('./rows.ts');

const LATER = Date.now() + 3_600_000;
const files = () => [...storage.store('files').keys()].map((hash) => Number.parseInt(hash, 16)).toSorted((a, b) => a - b);
const document = (id: string): TazzelDocument => ({ ...smallDocument(), id, name: id });

async function stored(id: string): Promise<TazzelDocument> {
  const made = document(id);
  for (const { file } of made.sources) await storeFile(file.hash, new Blob([file.name]));
  await createDocument(made);
  return made;
}

beforeEach(() => {
  storage.clear();
  vi.stubGlobal('navigator', { locks: memoryLocks(), storage: { persist: async () => true } });
});

describe('sweeping', () => {
  it('removes what no document needs, when it is old enough', async () => {
    await stored('doc');
    await storeFile(hashOf(9), new Blob(['x']));
    await sweepFiles();
    expect(files()).toEqual([1, 2, 3, 9]);
    await sweepFiles(LATER);
    expect(files()).toEqual([1, 2, 3]);
  });
  it('leaves files alone that are being stored, however long that takes', async () => {
    let done: () => void = () => undefined;
    const storing = whileFilesArrive(async () => {
      for (const n of [1, 2, 3]) await storeFile(hashOf(n), new Blob(['x']), 0);
      await new Promise<void>((resolve) => {
        done = resolve;
      });
      await createDocument(document('late'));
    });
    await vi.waitFor(() => expect(files()).toHaveLength(3));
    await sweepFiles(LATER);
    expect(files()).toEqual([1, 2, 3]);
    done();
    await storing;
    await sweepFiles(LATER);
    expect(files()).toEqual([1, 2, 3]);
  });
  it('does nothing while the files of one document cannot be told', async () => {
    await stored('doc');
    await storeFile(hashOf(9), new Blob(['x']), 0);
    const damages: unknown[] = [{ document: { format: 'tazzel-document', sources: 'none' }, savedAt: 1 }, { broken: true }, 7, { document: { sources: [{ file: { hash: 'x' } }] } }];
    for (const damage of damages) {
      storage.store('documents').set('damaged', damage);
      await sweepFiles(LATER);
      expect(files()).toEqual([1, 2, 3, 9]);
    }
    storage.fail = (store, key, what) => void (store === 'documents' && key === 'damaged' && what === 'get' && full());
    await sweepFiles(LATER);
    expect(files()).toEqual([1, 2, 3, 9]);
  });
  it('a document whose list of files was damaged keeps them: its row knows them', async () => {
    const { id } = await stored('doc');
    (storage.store('documents').get(id) as { document: { sources: unknown } }).document.sources = null;
    await sweepFiles(LATER);
    expect(files()).toEqual([1, 2, 3]);
  });
  it('a row names a file before the document does', async () => {
    const order: string[] = [];
    storage.fail = (store, _, what) => void (what === 'set' && order.push(store));
    await createDocument(document('doc'));
    expect(order.filter((store) => store !== 'arrivals')).toEqual(['rows', 'documents']);
    storage.fail = (store) => store === 'documents' && full();
    await expect(createDocument(document('other'))).rejects.toThrow(/“other” could not be stored/);
  });
});

describe('deleting', () => {
  it('frees at once what no other document needs, and undoing brings it back, whatever another tab swept', async () => {
    await stored('doc');
    const { putBack } = await deleteDocument('doc');
    await vi.waitFor(() => expect(files()).toEqual([]));
    await sweepFiles(LATER);
    await putBack();
    expect(files()).toEqual([1, 2, 3]);
    expect((await listDocuments()).map(({ name }) => name)).toEqual(['doc']);
  });
  it('keeps what another document needs', async () => {
    await stored('doc');
    await duplicateDocument('doc');
    await deleteDocument('doc');
    await sweepFiles(LATER);
    expect(files()).toEqual([1, 2, 3]);
  });
  it('without room for undoing it, that is said', async () => {
    await stored('doc');
    const { putBack } = await deleteDocument('doc');
    await vi.waitFor(() => expect(files()).toEqual([]));
    storage.fail = (_store, _key, what) => void (what === 'set' && full());
    await expect(putBack()).rejects.toThrow(/storage is full: the document that was deleted could not be stored/);
  });
  it('what is open in another tab is neither deleted nor renamed, and the reason is said', async () => {
    await stored('doc');
    const other = await claimDocument('doc');
    await expect(deleteDocument('doc')).rejects.toThrow(/worked on in another tab/);
    await expect(renameDocument('doc', 'New')).rejects.toThrow(/worked on in another tab/);
    other?.release();
    await renameDocument('doc', 'New');
    expect((await listDocuments())[0].name).toBe('New');
  });
});

describe('the list of documents', () => {
  it('reads each by itself: damaged ones are listed as such beside all others', async () => {
    await stored('sound');
    const good = storage.store('documents').get('sound');
    storage.store('documents').set('broken', { document: { broken: true }, savedAt: 5 }).set('unreadable', good).set('undated', { document: document('undated'), savedAt: 'yesterday' });
    storage.fail = (store, key, what) => void (store === 'documents' && key === 'unreadable' && what === 'get' && full());
    const rows = await listDocuments();
    const of = (id: string) => rows.find((row) => row.id === id);
    expect(of('sound')).toMatchObject({ damage: null, layers: 2, width: 8 });
    expect(of('broken')?.damage).toMatch(/not a Tazzel document/);
    expect(of('unreadable')?.damage).toMatch(/cannot read this document any more/);
    expect(of('undated')).toMatchObject({ damage: null, savedAt: null });
  });
  it('reads no whole document that has a row', async () => {
    for (const id of ['a', 'b', 'c']) await stored(id);
    storage.fail = (store, _, what) => void (store === 'documents' && what === 'get' && full());
    expect((await listDocuments()).map(({ name, damage }) => [name, damage]).toSorted()).toEqual([['a', null], ['b', null], ['c', null]]);
  });
  it('documents from before there were rows get one', async () => {
    storage.store('documents').set('old', { document: document('old'), savedAt: 5 });
    expect(await listDocuments()).toMatchObject([{ id: 'old', name: 'old', savedAt: 5 }]);
    expect(storage.store('rows').get('old')).toMatchObject({ hashes: [1, 2, 3].map(hashOf) });
  });
  it('what is left of a damaged document can be saved', async () => {
    await stored('doc');
    (storage.store('documents').get('doc') as { document: { format: string } }).document.format = 'x';
    const { name, bytes, missing } = await salvageDocument('doc');
    expect([name, missing, bytes.length > 300]).toEqual(['doc_what-is-left.zip', 0, true]);
    storage.clear();
    storage.store('documents').set('x', null);
    await expect(salvageDocument('x')).rejects.toThrow(/Nothing of this document can be read/);
    await expect(loadDocument('x', { files: new Map(), keepOnly: () => undefined } as never)).rejects.toThrow();
  });
});

describe('claims', () => {
  it('are taken over when the other page does not answer, and it learns of it', async () => {
    const mine = await claimDocument('doc');
    let lost = 0;
    mine?.onLost(() => void lost++);
    const theirs = await takeOver('doc');
    expect([mine?.isHeld, theirs.isHeld, lost]).toEqual([false, true, 1]);
  });
  it('that were given back can be taken again, as after the back/forward cache', async () => {
    const claim = new Claim('doc');
    expect(await claim.take(withinAMoment())).toBe(true);
    claim.release();
    const other = await claimDocument('doc');
    expect(await claim.take(withinAMoment())).toBe(false);
    other?.release();
    expect(await claim.take(withinAMoment())).toBe(true);
  });
});
