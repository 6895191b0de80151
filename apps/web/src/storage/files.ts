/** The bytes of the files that documents refer to, each once under its SHA-256. */
import { arrivalStore, documentStore, fileStore } from './database.ts';
import { ifNoFilesArrive, whileFilesArrive } from './locks.ts';
import { neededHashes, readRow } from './rows.ts';

/** A file that came in so recently is not swept: whoever brought it may still be at work, in another tab or in the undo of this one. */
const GRACE_MS = 10 * 60_000;

/** Stores a file unless it is there, and hands out the stored copy: the one on disk may change. It never passes through memory as a whole. */
export async function storeFile(hash: string, file: Blob, now = Date.now()): Promise<Blob> {
  await arrivalStore.setItem(hash, now).catch(() => undefined);
  await fileStore.setItem(hash, file);
  return (await fileStore.getItem<Blob>(hash)) ?? file;
}

export const storedHashes = async (): Promise<ReadonlySet<string>> => new Set(await fileStore.keys());

/** Every file that some document needs; null while that cannot be said of one of them. */
async function usedHashes(): Promise<ReadonlySet<string> | null> {
  const used = new Set<string>();
  for (const id of await documentStore.keys()) {
    const hashes = (await readRow(id))?.hashes ?? (await neededHashes(id));
    if (!hashes) return null;
    for (const hash of hashes) used.add(hash);
  }
  return used;
}

/** Removes files that no document needs, and none if that cannot be said. Nothing happens while files are being stored, here or in another tab. */
export async function sweepFiles(now = Date.now()): Promise<void> {
  await ifNoFilesArrive(async () => {
    const used = await usedHashes();
    if (!used) return;
    for (const hash of await fileStore.keys()) {
      if (used.has(hash)) continue;
      const arrived = (await arrivalStore.getItem<number>(hash)) ?? 0;
      if (now - arrived >= GRACE_MS) await removeFile(hash);
    }
  });
}

async function removeFile(hash: string): Promise<void> {
  await fileStore.removeItem(hash);
  await arrivalStore.removeItem(hash);
}

/** Tries to free the files of a deleted document are this far apart: somebody may be storing files. */
const TRY_AGAIN_MS = 1500;
const TRIES = 40;

/** Frees those of some files that no document needs any more, at once or as soon as nobody stores files. Hands over what was freed, for undoing. */
export async function freeFiles(hashes: readonly string[], onFreed: (hash: string, file: Blob) => void, isWanted: () => boolean): Promise<void> {
  const free = async () => {
    const used = await usedHashes();
    for (const hash of used && isWanted() ? hashes : []) {
      if (used?.has(hash)) continue;
      const file = await fileStore.getItem<Blob>(hash).catch(() => null);
      if (file) onFreed(hash, file);
      await removeFile(hash);
    }
  };
  for (let n = 0; n < TRIES && isWanted(); n++) {
    if (await ifNoFilesArrive(free)) return;
    await new Promise((resolve) => setTimeout(resolve, TRY_AGAIN_MS));
  }
}

/** Puts files back that were freed. @throws if there is no room */
export const putBackFiles = (files: ReadonlyMap<string, Blob>): Promise<void> =>
  whileFilesArrive(async () => {
    const stored = await storedHashes();
    for (const [hash, file] of files) if (!stored.has(hash)) await storeFile(hash, file);
  });
