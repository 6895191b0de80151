/** What takes how much of the storage. */
import { fileStore } from './database.ts';
import { listDocuments, readRow } from './rows.ts';

export interface DocumentShare {
  readonly id: string;
  readonly name: string;
  /** Of all files that it needs. */
  readonly bytes: number;
  /** Of those that no other document needs: what deleting it would free. */
  readonly ownBytes: number;
}

export interface Shares {
  /** The largest first. */
  readonly documents: readonly DocumentShare[];
  /** Of files that no document needs; they are removed by themselves a while after the last one did. */
  readonly looseBytes: number;
}

export async function storageShares(): Promise<Shares> {
  const sizes = new Map<string, number>();
  for (const hash of await fileStore.keys()) sizes.set(hash, (await fileStore.getItem<Blob>(hash).catch(() => null))?.size ?? 0);
  const documents = await Promise.all((await listDocuments()).map(async ({ id, name }) => ({ id, name, hashes: [...new Set((await readRow(id))?.hashes ?? [])] })));
  const users = new Map<string, number>();
  for (const { hashes } of documents) for (const hash of hashes) users.set(hash, (users.get(hash) ?? 0) + 1);
  const sum = (hashes: Iterable<string>, counts: (hash: string) => boolean) => [...hashes].reduce((total, hash) => total + (counts(hash) ? (sizes.get(hash) ?? 0) : 0), 0);
  return {
    documents: documents.map(({ id, name, hashes }) => ({ id, name, bytes: sum(hashes, () => true), ownBytes: sum(hashes, (hash) => users.get(hash) === 1) })).sort((a, b) => b.ownBytes - a.ownBytes || b.bytes - a.bytes),
    looseBytes: sum(sizes.keys(), (hash) => !users.has(hash)),
  };
}
