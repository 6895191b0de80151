/** Documents in the storage. Whoever writes one holds its claim. */
import { CoreError, readDocument, shortened, type TazzelDocument, unsoundness } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { neededFiles, safeName, zipFiles } from '@tazzel/formats';
import { documentStore, fileStore, keepForGood, pictureStore, rowStore, StorageError, storageError } from './database.ts';
import { freeFiles, putBackFiles, storedHashes, storeFile } from './files.ts';
import { type Claim, claimDocument, whileFilesArrive } from './locks.ts';
import { readRecord, readRow, rowOf, type StoredDocument } from './rows.ts';
import { keepReviewPlace, reviewPlace } from './library.ts';

const ELSEWHERE = 'It is being worked on in another tab of this browser. Close it there, or open it here and take it over, and try again.';

/** @throws StorageError `elsewhere` */
async function withClaim<T>(id: string, work: (claim: Claim) => Promise<T>): Promise<T> {
  const claim = await claimDocument(id);
  if (!claim) throw new StorageError('elsewhere', ELSEWHERE);
  try {
    return await work(claim);
  } finally {
    claim.release();
  }
}

/**
 * Writes a document. `before` are the files that the stored one needs. A record is replaced as a whole or not at all, so a closed tab or a full disk leaves the last good state.
 * @throws StorageError `elsewhere` without the claim, `unsound` if it could not be read again; the browser's own error if there is no room
 */
export async function saveDocument(claim: Claim, document: TazzelDocument, savedAt: number, before: readonly string[] = []): Promise<void> {
  if (!claim.isHeld || claim.id !== document.id) throw new StorageError('elsewhere', 'This document was taken over by another tab; nothing is written here any more.');
  const problem = unsoundness(document);
  if (problem) throw new StorageError('unsound', `The last change cannot be stored, because the document could not be read again: ${problem} Undo it.`);
  const row = rowOf(document, savedAt, before);
  const rowWritten = rowStore.setItem(document.id, row);
  // The row must name a file before the document refers to it. Else both are under way before anything is waited for: a page that is being
  // closed does not come back to the second one.
  if (row.hashes.length > before.length) await rowWritten;
  await Promise.all([rowWritten, documentStore.setItem(document.id, { document, savedAt } satisfies StoredDocument)]);
}

/** Stores a new document. Its files arrive under the same lock, so they are not swept before it refers to them. @throws Error with a sentence */
export async function createDocument(document: TazzelDocument): Promise<void> {
  try {
    await withClaim(document.id, (claim) => saveDocument(claim, document, Date.now()));
  } catch (error) {
    throw storageError(error, `“${document.name}”`);
  }
  void keepForGood();
}

/** Changes a stored document that nobody works on. @throws Error with a sentence */
export async function changeDocument(id: string, change: (document: TazzelDocument) => Promise<TazzelDocument> | TazzelDocument): Promise<void> {
  await withClaim(id, async (claim) => {
    const { document } = await storedDocument(id);
    const changed = await change(document);
    const before = (await readRow(id))?.hashes;
    if (changed !== document) await saveDocument(claim, changed, Date.now(), before).catch((error) => Promise.reject(storageError(error, `the change to “${document.name}”`)));
  });
}

async function storedDocument(id: string): Promise<{ document: TazzelDocument; problems: readonly string[]; savedAt: number }> {
  const record = await readRecord(id).catch(() => {
    throw new StorageError('unreadable', 'The browser cannot read this document any more: a part of its storage is gone. What is left of it can be saved on the start page.');
  });
  if (!record) throw new StorageError('unreadable', 'This document is not in the browser any more.');
  const { document, problems, remarks } = readDocument(record.document);
  return { document, problems: [...problems, ...remarks], savedAt: Number(record.savedAt) };
}

/** Opens a stored document and hands its files to the engine; null if there is none. @throws CoreError, StorageError if it cannot be read at all */
export async function loadDocument(id: string, engine: Engine): Promise<{ document: TazzelDocument; problems: string[]; savedAt: number } | null> {
  if (!(await hasDocument(id))) return null;
  const { document, problems, savedAt } = await storedDocument(id);
  const found = [...problems];
  const needed = neededFiles(document);
  engine.keepOnly(new Set(needed.map((file) => file.hash)));
  for (const file of needed) {
    const stored = await fileStore.getItem<Blob>(file.hash).catch(() => null);
    const blob = stored ?? heldFile(engine, file.hash);
    if (blob) engine.files.set(file.hash, { name: file.name, size: blob.size, handle: blob });
    else found.push(`“${file.name}” is missing in the browser’s storage. Add the file again; its layers then show it.`);
  }
  return { document, problems: found, savedAt };
}

/** The bytes of a file that this page has, whether they are stored or not. */
export function heldFile(engine: Pick<Engine, 'files'>, hash: string): Blob | null {
  const handle = engine.files.get(hash)?.handle;
  return handle instanceof Blob ? handle : null;
}

/** Stores what the storage lacks of a document's files while this page has them. Returns the names of those that it could not store. */
export async function storeMissing(document: TazzelDocument, held: (hash: string) => Blob | null): Promise<{ names: string[]; error: unknown }> {
  const stored = await storedHashes();
  const lacking = neededFiles(document).filter(({ hash }) => !stored.has(hash) && held(hash) !== null);
  const names: string[] = [];
  let problem: unknown = null;
  if (lacking.length > 0) {
    await whileFilesArrive(async () => {
      for (const { hash, name } of lacking) {
        await storeFile(hash, held(hash) as Blob).catch((error) => {
          names.push(name);
          problem = error;
        });
      }
    });
  }
  return { names, error: problem };
}

export const renameDocument = (id: string, name: string): Promise<void> => changeDocument(id, (document) => ({ ...document, name: shortened(name.trim()) || document.name }));

export async function duplicateDocument(id: string): Promise<void> {
  const { document } = await storedDocument(id);
  const copy = { ...document, id: crypto.randomUUID(), name: shortened(`${document.name} copy`) };
  await createDocument(copy);
  const picture = await pictureStore.getItem<Blob>(id).catch(() => null);
  if (picture) await pictureStore.setItem(copy.id, picture).catch(() => undefined);
}

/**
 * Deletes a document and frees at once what no other one needs. The returned function puts it back, with its files, for as long as this page
 * lives; `forget` lets go of them.
 * @throws StorageError `elsewhere`
 */
export function deleteDocument(id: string): Promise<{ putBack: () => Promise<void>; forget: () => void }> {
  return withClaim(id, async () => {
    const record = await documentStore.getItem(id).catch(() => null);
    const row = await rowStore.getItem(id).catch(() => null);
    const picture = await pictureStore.getItem<Blob>(id).catch(() => null);
    const hashes = (await readRow(id))?.hashes ?? hashesIn(record, row);
    await documentStore.removeItem(id);
    await rowStore.removeItem(id);
    await pictureStore.removeItem(id);
    const place = await reviewPlace(id);
    await keepReviewPlace(id, null).catch(() => undefined);
    const freed = new Map<string, Blob>();
    let isDeleted = true;
    const freeing = freeFiles(hashes, (hash, file) => freed.set(hash, file), () => isDeleted);
    return {
      putBack: async () => {
        isDeleted = false;
        try {
          await freeing;
          await putBackFiles(freed);
          await withClaim(id, async () => {
            if (row) await rowStore.setItem(id, row);
            if (record) await documentStore.setItem(id, record);
            if (picture) await pictureStore.setItem(id, picture).catch(() => undefined);
            if (place) await keepReviewPlace(id, place).catch(() => undefined);
          });
        } catch (error) {
          throw storageError(error, 'the document that was deleted');
        }
        if (!record) throw new StorageError('unreadable', 'The document could not be read when it was deleted, so it cannot be put back.');
      },
      forget: () => freed.clear(),
    };
  });
}

/** All that looks like the name of a file, so that also what is damaged gives its files free. */
const hashesIn = (...parts: readonly unknown[]): string[] => [...new Set(parts.flatMap((part) => asText(part).match(/\b[0-9a-f]{64}\b/g) ?? []))];

function asText(part: unknown): string {
  try {
    return JSON.stringify(part) ?? '';
  } catch {
    return '';
  }
}

/** Everything that is left of a document that cannot be opened: its record as it is, and its files, as one zip. */
export async function salvageDocument(id: string): Promise<{ name: string; bytes: Uint8Array; missing: number }> {
  const record = await readRecord(id).catch(() => null);
  const row = await rowStore.getItem<{ name?: unknown }>(id).catch(() => null);
  const given = (record?.document as { name?: unknown } | undefined)?.name ?? row?.name;
  const name = typeof given === 'string' && given !== '' ? given : 'damaged document';
  const entries = record ? [{ name: 'document.json', parts: [new TextEncoder().encode(asText(record.document))] }] : [];
  let missing = 0;
  for (const hash of hashesIn(record, row)) {
    const file = await fileStore.getItem<Blob>(hash).catch(() => null);
    const bytes = await file?.arrayBuffer().catch(() => null);
    if (bytes) entries.push({ name: `sources/${hash}`, parts: [new Uint8Array(bytes)] });
    else missing++;
  }
  if (entries.length === 0) throw new StorageError('unreadable', 'Nothing of this document can be read any more.');
  return { name: `${safeName(name)}_what-is-left.zip`, bytes: zipFiles(entries), missing };
}

export const hasDocument = async (id: string): Promise<boolean> => (await documentStore.keys()).includes(id);

/** Whether the storage still holds what was written of a document. */
export async function isStored(document: TazzelDocument, held: (hash: string) => Blob | null): Promise<boolean> {
  const stored = await storedHashes();
  return (await hasDocument(document.id)) && neededFiles(document).every(({ hash }) => stored.has(hash) || held(hash) === null);
}

/** True for errors that say what is wrong by themselves. */
export const isSentence = (error: unknown): boolean => error instanceof StorageError || error instanceof CoreError;
