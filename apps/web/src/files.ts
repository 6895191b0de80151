/** Files out of and into the browser. */
import { concatenate, fileStem, neededFiles, PROJECT_EXTENSION, readProject, safeName, writeProject } from '@tazzel/formats';
import type { TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { fileStore } from './storage/database.ts';
import { saveDocument } from './storage/documents.ts';

export function download(name: string, parts: readonly BlobPart[], type: string): void {
  const url = URL.createObjectURL(new Blob([...parts], { type }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}

/** The files of a file field. It is emptied, so that the same file can be chosen again. */
export function chosen(input: HTMLInputElement): File[] {
  const files = [...(input.files ?? [])];
  input.value = '';
  return files;
}

const platform = {
  inflate: () => Promise.reject(new Error('Nothing is unpacked on the interface thread.')),
  deflate: () => Promise.reject(new Error('Nothing is packed on the interface thread.')),
  codec: () => Promise.reject(new Error('Nothing is decoded on the interface thread.')),
  sha256: async (bytes: Uint8Array) => {
    const hash = await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>);
    return Array.from(new Uint8Array(hash), (byte) => byte.toString(16).padStart(2, '0')).join('');
  },
};

/** A small PNG of the finished picture. */
export async function previewPng(engine: Engine, doc: TazzelDocument): Promise<Uint8Array[]> {
  const level = Math.max(0, Math.ceil(Math.log2(Math.max(doc.size.width, doc.size.height) / 512)));
  return (await engine.deliver({ document: doc, format: 'png8', level })).parts;
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

/** Stores a project file as a new document of this browser. Returns its id and what was missing in it. */
export async function importProject(file: Blob & { name?: string }, id: string = crypto.randomUUID()): Promise<{ id: string; problems: readonly string[] }> {
  const name = file.name ?? 'project';
  const source = { name, size: file.size, read: async (offset: number, length: number) => new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()) };
  const { document: doc, files, problems } = await readProject(source, platform);
  for (const [hash, bytes] of files) await fileStore.setItem(hash, new Blob([bytes as Uint8Array<ArrayBuffer>]));
  await saveDocument({ ...doc, id, name: doc.name || fileStem(name) }, Date.now());
  return { id, problems };
}
