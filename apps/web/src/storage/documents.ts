import { layersInOrder, readDocument, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { neededFiles } from '@tazzel/formats';
import { documentStore, fileStore, pictureStore } from './database.ts';

/** How a document lies in the storage. */
export interface StoredDocument {
  readonly document: TazzelDocument;
  readonly savedAt: number;
}

export interface DocumentRow {
  readonly id: string;
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly layers: number;
  readonly savedAt: number;
  readonly picture: Blob | null;
  /** Set if the stored document is damaged beyond reading. */
  readonly damage: string | null;
}

/** All documents of this browser, the last saved first. A damaged one is listed, too. */
export async function listDocuments(): Promise<DocumentRow[]> {
  const rows: DocumentRow[] = [];
  for (const id of await documentStore.keys()) {
    const stored = await documentStore.getItem<StoredDocument>(id);
    const picture = await pictureStore.getItem<Blob>(id);
    try {
      const { document } = readDocument(stored?.document);
      const layers = layersInOrder(document).length;
      rows.push({ id, name: document.name, ...document.size, layers, savedAt: stored?.savedAt ?? 0, picture, damage: null });
    } catch (error) {
      rows.push({ id, name: 'Damaged document', width: 0, height: 0, layers: 0, savedAt: stored?.savedAt ?? 0, picture, damage: (error as Error).message });
    }
  }
  return rows.sort((a, b) => b.savedAt - a.savedAt);
}

export const saveDocument = (document: TazzelDocument, savedAt: number): Promise<unknown> => documentStore.setItem(document.id, { document, savedAt } satisfies StoredDocument);

/** Opens a stored document and hands its files to the engine. @throws CoreError if it cannot be read at all */
export async function loadDocument(id: string, engine: Engine): Promise<{ document: TazzelDocument; problems: string[] } | null> {
  const stored = await documentStore.getItem<StoredDocument>(id);
  if (!stored) return null;
  const { document, problems } = readDocument(stored.document);
  const found = [...problems];
  const needed = neededFiles(document);
  engine.keepOnly(new Set(needed.map((file) => file.hash)));
  for (const file of needed) {
    const held = engine.files.get(file.hash)?.handle;
    const blob = (await fileStore.getItem<Blob>(file.hash)) ?? (held instanceof Blob ? await putBack(file.hash, held) : null);
    if (blob) engine.files.set(file.hash, { name: file.name, size: blob.size, handle: blob });
    else found.push(`“${file.name}” is missing in the browser’s storage. Add the file again; its layers then show it.`);
  }
  return { document, problems: found };
}

/** A file that the storage lost while this page still has it. */
async function putBack(hash: string, blob: Blob): Promise<Blob> {
  await fileStore.setItem(hash, blob).catch(() => undefined);
  return blob;
}

export async function renameDocument(id: string, name: string): Promise<void> {
  const stored = await documentStore.getItem<StoredDocument>(id);
  if (stored) await saveDocument({ ...stored.document, name }, stored.savedAt);
}

export async function duplicateDocument(id: string): Promise<void> {
  const stored = await documentStore.getItem<StoredDocument>(id);
  if (!stored) return;
  const copy = { ...stored.document, id: crypto.randomUUID(), name: `${stored.document.name} copy` };
  await saveDocument(copy, Date.now());
  const picture = await pictureStore.getItem<Blob>(id);
  if (picture) await pictureStore.setItem(copy.id, picture);
}

/** Takes a document out of the list; the returned function puts it back. */
export async function deleteDocument(id: string): Promise<() => Promise<void>> {
  const stored = await documentStore.getItem<StoredDocument>(id);
  const picture = await pictureStore.getItem<Blob>(id);
  await documentStore.removeItem(id);
  await pictureStore.removeItem(id);
  return async () => {
    if (stored) await documentStore.setItem(id, stored);
    if (picture) await pictureStore.setItem(id, picture);
  };
}

export const hasDocument = async (id: string): Promise<boolean> => (await documentStore.keys()).includes(id);

const lockName = (id: string) => `tazzel-document-${id}`;

/**
 * Claims a document for this page, so that two pages do not overwrite each other's changes. Returns a function that
 * gives it back, or null if another page has it. The browser gives it back by itself when the page goes away.
 */
export function claimDocument(id: string): Promise<(() => void) | null> {
  return new Promise((resolve) => {
    void navigator.locks.request(lockName(id), { ifAvailable: true }, (lock) => {
      if (!lock) return resolve(null);
      return new Promise<void>((release) => resolve(() => release()));
    });
  });
}

/** Sweeps unless another page works on a document: files that it just stored may not be referred to yet. */
export async function sweepWhenAlone(): Promise<void> {
  const { held = [] } = await navigator.locks.query();
  if (!held.some((lock) => lock.name?.startsWith(lockName('')))) await sweepFiles();
}

/** Removes files that no document refers to. Runs when a page starts, when no deletion can be undone any more. */
async function sweepFiles(): Promise<void> {
  const used = new Set<string>();
  for (const id of await documentStore.keys()) {
    const stored = await documentStore.getItem<StoredDocument>(id);
    const sources = Array.isArray(stored?.document?.sources) ? stored.document.sources : [];
    for (const source of sources) if (source?.file?.hash) used.add(source.file.hash);
  }
  for (const hash of await fileStore.keys()) if (!used.has(hash)) await fileStore.removeItem(hash);
}
