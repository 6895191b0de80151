/**
 * Everything of this browser as one archive, and back. Files stay where they lie: the archive is put together of their blobs, and read back piece by piece. What is there is never overwritten.
 */
import { readDocument, type TazzelDocument } from '@tazzel/core';
import { type ByteSource, crc32, FormatError, parseJson, readEntry, readZip, type StoredEntry, storedZip, type ZipEntry } from '@tazzel/formats';
import { documentStore, fileStore, pictureStore, settingStore } from './database.ts';
import { createDocument } from './documents.ts';
import { storedHashes, storeFile } from './files.ts';
import { whileFilesArrive } from './locks.ts';
import { readRecord } from './rows.ts';

const FORMAT = 'tazzel-backup';
const INDEX = 'backup.json';
const [DOCUMENT, FILE, SETTINGS] = [/^documents\/([\w-]{1,64})\.json$/, /^files\/([0-9a-f]{64})$/, 'settings.json'];
const SLICE = 2 ** 22;
const MOST_JSON = 2 ** 28;

type Report = (share: number, what: string) => void;

/** CRC-32 of a blob, a piece at a time. */
async function crcOf(blob: Blob): Promise<number> {
  let crc = 0;
  for (let at = 0; at < blob.size; at += SLICE) crc = crc32(new Uint8Array(await blob.slice(at, at + SLICE).arrayBuffer()), crc);
  return crc;
}

export interface Backup {
  readonly blob: Blob;
  readonly documents: number;
  /** What could not be read, in sentences. */
  readonly problems: readonly string[];
}

/** @throws if the page may not read its storage at all */
export async function makeBackup(onProgress: Report, signal?: AbortSignal): Promise<Backup> {
  const items: { readonly name: string; readonly read: () => Promise<Blob | null>; readonly says: string }[] = [];
  const json = (value: unknown) => new Blob([JSON.stringify(value)]);
  const ids = await documentStore.keys();
  items.push({ name: INDEX, says: '', read: async () => json({ format: FORMAT, version: 1, documents: ids.length }) });
  for (const id of ids) {
    items.push({ name: `documents/${id}.json`, says: 'A document', read: async () => { const record = await readRecord(id); return record && json(record); } });
    items.push({ name: `pictures/${id}.png`, says: '', read: () => pictureStore.getItem<Blob>(id) });
  }
  for (const hash of await fileStore.keys()) items.push({ name: `files/${hash}`, says: 'A file', read: () => fileStore.getItem<Blob>(hash) });
  items.push({ name: SETTINGS, says: 'Settings', read: async () => json(Object.fromEntries(await Promise.all((await settingStore.keys()).map(async (key) => [key, await settingStore.getItem(key)])))) });

  const entries: StoredEntry[] = [];
  const bodies: Blob[] = [];
  const problems: string[] = [];
  for (const [i, { name, says, read }] of items.entries()) {
    signal?.throwIfAborted();
    onProgress(i / items.length, name);
    try {
      const body = await read();
      if (!body) continue;
      entries.push({ name, length: body.size, crc: await crcOf(body) });
      bodies.push(body);
    } catch {
      if (says !== '') problems.push(`${says} could not be read, and is not in the backup: ${name}.`);
    }
  }
  const { heads, end } = storedZip(entries);
  return { blob: new Blob([...bodies.flatMap((body, i) => [heads[i], body]), ...end], { type: 'application/zip' }), documents: ids.length, problems };
}

export interface Restored {
  readonly documents: number;
  /** Documents that were there already, the same. */
  readonly known: number;
  readonly problems: readonly string[];
}

const sourceOf = (file: Blob, name: string): ByteSource => ({ name, size: file.size, read: async (offset, length) => new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()) });

/**
 * Puts back what is not there. A document that is there in another state comes in beside it, under a name of its own; settings that are there stay.
 * @param hash SHA-256 of a blob
 * @throws FormatError if it is no backup; StorageError if there is no room
 */
export async function restoreBackup(file: File, hash: (blob: Blob) => Promise<string>, onProgress: Report, signal?: AbortSignal): Promise<Restored> {
  const source = sourceOf(file, file.name);
  const { entries, isWhole } = await readZip(source);
  const index = entries.find(({ name }) => name === INDEX);
  const head = index && (await jsonOf(source, index));
  if ((head as { format?: unknown } | null)?.format !== FORMAT) throw new FormatError('not-recognised', file.name, 'this is no backup of Tazzel. Choose a file that was made by “Back up everything”.');
  const problems: string[] = isWhole ? [] : ['The backup was cut off: what lies before its end is put back.'];
  let [documents, known] = [0, 0];
  await whileFilesArrive(async () => {
    const there = await storedHashes();
    const all = new Map(entries.map((entry) => [entry.name, entry]));
    const work = [...entries].sort((a, b) => Number(DOCUMENT.test(a.name)) - Number(DOCUMENT.test(b.name)));
    for (const [i, entry] of work.entries()) {
      signal?.throwIfAborted();
      onProgress(i / work.length, entry.name);
      const [, id] = DOCUMENT.exec(entry.name) ?? [];
      const [, wanted] = FILE.exec(entry.name) ?? [];
      if (wanted && !there.has(wanted)) {
        const blob = file.slice(entry.offset, entry.offset + entry.length);
        if (entry.isPacked || (await hash(blob)) !== wanted) problems.push(`A file of the backup is damaged, and was left out: ${wanted.slice(0, 12)}…`);
        else await storeFile(wanted, blob);
      } else if (id) {
        const record = (await jsonOf(source, entry)) as { document?: unknown; savedAt?: unknown } | null;
        if (!record) {
          problems.push('A document of the backup is damaged, and was left out.');
          continue;
        }
        const result = await restored(id, record, all.get(`pictures/${id}.png`), file);
        if (result === 'known') known++;
        else if (typeof result === 'string') problems.push(result);
        else documents++;
      } else if (entry.name === SETTINGS) await restoreSettings(await jsonOf(source, entry));
    }
  });
  return { documents, known, problems };
}

async function restored(id: string, record: { document?: unknown }, picture: ZipEntry | undefined, file: File): Promise<'known' | string | null> {
  const present = await readRecord(id).catch(() => null);
  if (present && JSON.stringify(present.document) === JSON.stringify(record.document)) return 'known';
  let document: TazzelDocument;
  try {
    document = readDocument(record.document).document;
  } catch (error) {
    return `A document of the backup could not be read: ${(error as Error).message}`;
  }
  const made = present ? { ...document, id: crypto.randomUUID(), name: `${document.name} (from a backup)`.slice(0, 200) } : document;
  await createDocument(made);
  if (picture && !picture.isPacked) await pictureStore.setItem(made.id, file.slice(picture.offset, picture.offset + picture.length, 'image/png')).catch(() => undefined);
  return null;
}

async function restoreSettings(kept: unknown): Promise<void> {
  if (typeof kept !== 'object' || kept === null || Array.isArray(kept)) return;
  for (const [key, value] of Object.entries(kept)) {
    const present = await settingStore.getItem(key).catch(() => null);
    if (present === null || present === undefined) await settingStore.setItem(key, value);
    // Shelves: what is not on them.
    else if (Array.isArray(present) && Array.isArray(value)) {
      const known = new Set(present.map((each) => JSON.stringify(each)));
      const more = value.filter((each) => !known.has(JSON.stringify(each)));
      if (more.length > 0) await settingStore.setItem(key, [...present, ...more]);
    }
  }
}

async function jsonOf(source: ByteSource, entry: ZipEntry): Promise<unknown> {
  const bytes = await readEntry(source, entry, MOST_JSON);
  try {
    return bytes && parseJson(bytes);
  } catch {
    return null;
  }
}
