/**
 * The project file: a zip with `document.json`, `sources/<sha256>.<ext>` (the original bytes) and `preview.png`.
 * See docs/project-format.md.
 */
import { readDocument, type TazzelDocument } from '@tazzel/core';
import { strToU8, zipSync } from 'fflate';
import { byteSource, type ByteSource, concatenate, sliceOf } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { JSON_LIMITS, JsonError, parseJson } from '../json.ts';
import { readEntry, readZip } from './zip.ts';

export const PROJECT_EXTENSION = 'tazzel';
const DOCUMENT_ENTRY = 'document.json';
const PREVIEW_ENTRY = 'preview.png';
const SOURCE_ENTRY = /^sources\/([0-9a-f]{64})\.[a-z0-9]+$/;
const MAX_PROJECT_BYTES = 2 ** 31 - 2 ** 16;

/** Files that the elements of a document and of its earlier renders refer to, each once. */
export const neededFiles = (document: TazzelDocument) => [...new Map([...document.sources, ...document.renders.flatMap(({ sources }) => sources)].map(({ file }) => [file.hash, file])).values()];

/** @throws FormatError `too-large` */
export function writeProject(document: TazzelDocument, files: ReadonlyMap<string, Uint8Array>, preview: Uint8Array | null): Uint8Array {
  const total = [...files.values()].reduce((sum, bytes) => sum + bytes.length, 0);
  if (total > MAX_PROJECT_BYTES) throw new FormatError('too-large', document.name, `the sources hold ${Math.round(total / 2 ** 20)} MB; a project file holds up to 2 GB. Remove elements that are not used.`);
  const json = strToU8(JSON.stringify(document));
  if (json.length > JSON_LIMITS.bytes) throw new FormatError('too-large', document.name, `the document has ${Math.round(json.length / 2 ** 20)} MB without its files, most of it paint; up to ${JSON_LIMITS.bytes / 2 ** 20} MB are read again. Delete masks that are not used.`);
  const entries: Parameters<typeof zipSync>[0] = { [DOCUMENT_ENTRY]: [json, { level: 6 }] };
  for (const { hash, format } of neededFiles(document)) {
    const bytes = files.get(hash);
    if (bytes) entries[`sources/${hash}.${format}`] = [bytes, { level: 0 }];
  }
  if (preview) entries[PREVIEW_ENTRY] = [preview, { level: 0 }];
  // A fixed date keeps the file the same for the same document.
  return zipSync(entries, { mtime: '1980-01-01T00:00:00' });
}

/** A file in a project: where it lies in it, or its bytes if it was packed. */
export type ProjectFile = { readonly offset: number; readonly length: number } | { readonly bytes: Uint8Array };

export interface ReadProject {
  readonly document: TazzelDocument;
  /** Each source file that is there and whole, by its hash. */
  readonly files: ReadonlyMap<string, ProjectFile>;
  /** One sentence for each thing that is missing or was left out. */
  readonly problems: readonly string[];
}

export interface ReadProjectOptions {
  /** SHA-256 of bytes that need not fit into memory, as lower-case hex. */
  readonly hash: (part: ByteSource) => Promise<string>;
  readonly onProgress?: (share: number) => void;
}

/**
 * Reads as much as can be read: a file that was cut off still gives the sources before the cut. What lies in it unpacked is not copied, what is
 * packed is unpacked to the length that it states and no further, and all of it together stays within what a project may hold.
 * @throws FormatError if there is no readable document in it, or if it states more than is read; CoreError from `readDocument`
 */
export async function readProject(source: ByteSource, { hash, onProgress }: ReadProjectOptions): Promise<ReadProject> {
  const { entries, isWhole } = await readZip(source);
  const document = entries.find(({ name }) => name === DOCUMENT_ENTRY);
  const json = document && (await readEntry(source, document, JSON_LIMITS.bytes));
  if (!json) {
    if (document) throw new FormatError('corrupt', source.name, 'its document.json is damaged. Open an earlier copy of the project file.');
    throw new FormatError(isWhole || source.size < 200 ? 'not-recognised' : 'truncated', source.name, 'there is no readable document.json in it. This is not a project file, or its beginning is damaged.');
  }
  const { document: read, problems, remarks } = readDocument(parsed(json, source.name));
  const found = [...problems, ...remarks];
  const needed = new Map(neededFiles(read).map((file) => [file.hash, file]));
  const present = entries.filter(({ name }) => needed.has(SOURCE_ENTRY.exec(name)?.[1] ?? ''));
  const total = present.reduce((sum, { length }) => sum + length, 0);
  if (total > MAX_PROJECT_BYTES) throw new FormatError('too-large', source.name, `its files state ${Math.round(total / 2 ** 20)} MB; a project file holds up to 2 GB.`);
  const files = new Map<string, ProjectFile>();
  let done = 0;
  for (const entry of present) {
    const wanted = SOURCE_ENTRY.exec(entry.name)?.[1] as string;
    const bytes = entry.isPacked ? await readEntry(source, entry, MAX_PROJECT_BYTES) : null;
    const part = bytes ? byteSource(entry.name, bytes) : entry.isPacked ? null : sliceOf(source, entry.offset, entry.length);
    if (part && (await hash(part)) === wanted) files.set(wanted, bytes ? { bytes } : { offset: entry.offset, length: entry.length });
    done += entry.length;
    onProgress?.(done / Math.max(1, total));
  }
  for (const file of needed.values()) {
    if (!files.has(file.hash)) found.push(`“${file.name}” is ${present.some(({ name }) => name.includes(file.hash)) ? 'damaged' : 'missing'} in the project file. Its layers stay in the build-up and show nothing until the file is added again.`);
  }
  return { document: read, files, problems: found };
}

function parsed(json: Uint8Array, fileName: string): unknown {
  try {
    return parseJson(json);
  } catch (error) {
    if (!(error instanceof JsonError)) throw error;
    throw new FormatError(error.code, fileName, error.code === 'corrupt' ? 'its document.json is damaged. Open an earlier copy of the project file.' : `its document.json is too large: ${error.message}.`);
  }
}

/** Several files as one: nothing is packed again, pictures are packed already. */
export const zipFiles = (files: readonly { readonly name: string; readonly parts: readonly Uint8Array[] }[]): Uint8Array => zipSync(Object.fromEntries(files.map(({ name, parts }) => [name, [concatenate(parts), { level: 0 as const }]])), { mtime: '1980-01-01T00:00:00' });
