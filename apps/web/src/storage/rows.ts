/** A small row beside each document: what the start page lists, and which files the document needs. */
import { layersInOrder, readDocument, type TazzelDocument } from '@tazzel/core';
import { neededFiles } from '@tazzel/formats';
import { documentStore, pictureStore, rowStore } from './database.ts';
import { claimDocument } from './locks.ts';

/** How a document lies in the storage. */
export interface StoredDocument {
  readonly document: TazzelDocument;
  readonly savedAt: number;
}

export interface StoredRow {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly layers: number;
  readonly savedAt: number;
  /** Files that the stored document needs, and those that the one before it needed: it is written before the document. */
  readonly hashes: readonly string[];
}

export interface DocumentRow extends Omit<StoredRow, 'hashes' | 'savedAt'> {
  readonly id: string;
  /** Null if that is not known. */
  readonly savedAt: number | null;
  readonly picture: Blob | null;
  /** Set if the stored document is damaged beyond reading. */
  readonly damage: string | null;
}

const isHash = (value: unknown): value is string => typeof value === 'string' && /^[0-9a-f]{64}$/.test(value);
const isRow = (row: unknown): row is StoredRow => {
  const { name, width, height, layers, savedAt, hashes } = (row ?? {}) as Partial<StoredRow>;
  return typeof name === 'string' && [width, height, layers, savedAt].every((value) => Number.isFinite(value)) && Array.isArray(hashes) && hashes.every(isHash);
};

/** The row of a document; null if there is none that can be read. */
export async function readRow(id: string): Promise<StoredRow | null> {
  const row = await rowStore.getItem<unknown>(id).catch(() => null);
  return isRow(row) ? row : null;
}

export const rowOf = (document: TazzelDocument, savedAt: number, before: readonly string[] = []): StoredRow => ({
  name: document.name,
  ...{ width: document.size.width, height: document.size.height },
  layers: layersInOrder(document).length,
  savedAt,
  hashes: [...new Set([...neededFiles(document).map(({ hash }) => hash), ...before])],
});

/** The record of a document as it lies there, whatever it is; null if there is none. @throws if the browser cannot read it */
export const readRecord = (id: string): Promise<{ document?: unknown; savedAt?: unknown } | null> => documentStore.getItem(id);

/** The files that a stored document needs, from the document itself; null if that cannot be said. */
export async function neededHashes(id: string): Promise<readonly string[] | null> {
  const record = await readRecord(id).catch(() => null);
  const { sources, renders = [] } = (record?.document ?? {}) as { sources?: unknown; renders?: unknown };
  if (!Array.isArray(sources) || !Array.isArray(renders)) return null;
  const hashes = [...sources, ...renders.flatMap((render) => render?.sources)].map((source) => source?.file?.hash);
  return hashes.every(isHash) ? hashes : null;
}

async function listed(id: string): Promise<DocumentRow> {
  const picture = await pictureStore.getItem<Blob>(id).catch(() => null);
  const known = await readRow(id);
  if (known) return { id, ...known, picture, damage: null };
  const unknown = { id, name: 'Damaged document', width: 0, height: 0, layers: 0, savedAt: null, picture };
  try {
    const record = await readRecord(id);
    const { document } = readDocument(record?.document);
    const row = rowOf(document, Number.isFinite(record?.savedAt) ? (record?.savedAt as number) : 0);
    await keepRow(id, row);
    return { id, ...row, savedAt: row.savedAt || null, picture, damage: null };
  } catch (error) {
    const isOurs = (error as Error).name === 'CoreError';
    return { ...unknown, damage: isOurs ? (error as Error).message : 'The browser cannot read this document any more: a part of its storage is gone.' };
  }
}

/** Rows of documents from before there were rows are made when nobody works on the document. */
async function keepRow(id: string, row: StoredRow): Promise<void> {
  const hashes = await neededHashes(id);
  const claim = hashes && (await claimDocument(id));
  if (!claim) return;
  try {
    if (!(await readRow(id))) await rowStore.setItem(id, { ...row, hashes });
  } catch {
    // Without it the next listing is slower, no more.
  } finally {
    claim.release();
  }
}

/** All documents of this browser, the last saved first. Each is read by itself; a damaged one is listed, too. */
export async function listDocuments(): Promise<DocumentRow[]> {
  const rows = await Promise.all((await documentStore.keys()).map(listed));
  return rows.sort((a, b) => (b.savedAt ?? 0) - (a.savedAt ?? 0));
}
