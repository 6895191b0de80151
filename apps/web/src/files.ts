/** Files out of and into the browser. */
import { concatenate, neededFiles, PROJECT_EXTENSION, safeName, writeProject } from '@tazzel/formats';
import { levelWithin, type TazzelDocument } from '@tazzel/core';
import { Cancelled, type Engine } from '@tazzel/engine';
import { getEngine } from './engine.ts';
import { storageError } from './storage/database.ts';
import { createDocument } from './storage/documents.ts';
import { storeFile } from './storage/files.ts';
import { whileFilesArrive } from './storage/locks.ts';
import { download } from './ui/download.ts';

/** The files of a file field. It is emptied, so that the same file can be chosen again. */
export function chosen(input: HTMLInputElement): File[] {
  const files = [...(input.files ?? [])];
  input.value = '';
  return files;
}

/** A small PNG of the finished picture. */
export async function previewPng(engine: Engine, doc: TazzelDocument): Promise<Uint8Array[]> {
  const level = levelWithin(doc.size, 512);
  return (await engine.deliver({ document: doc, level, values: { dither: false } })).parts;
}

/** Downloads the project file; returns a sentence for each file that is missing in it. */
export async function saveProject(engine: Engine, doc: TazzelDocument): Promise<{ missing: string[] }> {
  const files = new Map<string, Uint8Array>();
  const missing: string[] = [];
  for (const { hash, name } of neededFiles(doc)) {
    const blob = engine.files.get(hash)?.handle;
    if (blob instanceof Blob) files.set(hash, new Uint8Array(await blob.arrayBuffer()));
    else missing.push(`“${name}” is missing, so it is not in the project file. Add it to the document and save again.`);
  }
  const preview = concatenate(await previewPng(engine, doc));
  download(`${safeName(doc.name)}.${PROJECT_EXTENSION}`, [writeProject(doc, files, preview) as Uint8Array<ArrayBuffer>], 'application/zip');
  return { missing };
}

/** Stores a project file as a new document of this browser. Returns its id and what was missing in it. @throws Error with a sentence, Cancelled */
export async function importProject(file: File, onProgress: (share: number) => void, signal: AbortSignal): Promise<{ id: string; problems: readonly string[] }> {
  const engine = await getEngine();
  const id = crypto.randomUUID();
  const problems = await whileFilesArrive(async () => {
    const { document, files, problems: found } = await engine.readProject({ name: file.name, size: file.size, handle: file }, signal, (share) => onProgress(share * 0.7));
    let done = 0;
    for (const [hash, { handle }] of files) {
      if (signal.aborted) throw new Cancelled();
      // The part of the project file where it lies: it goes into the storage without passing through memory.
      await storeFile(hash, handle as Blob).catch((error) => Promise.reject(storageError(error, file.name)));
      onProgress(0.7 + (0.3 * ++done) / files.size);
    }
    await createDocument({ ...document, id });
    return found;
  });
  return { id, problems };
}
