/**
 * The project file: a zip with `document.json`, `sources/<sha256>.<ext>` (the original bytes) and `preview.png`.
 * See docs/project-format.md.
 */
import { readDocument, type TazzelDocument } from '@tazzel/core';
import { strToU8, Unzip, UnzipInflate, UnzipPassThrough, zipSync } from 'fflate';
import type { ByteSource, Platform } from '../bytes.ts';
import { FormatError } from '../errors.ts';

export const PROJECT_EXTENSION = 'tazzel';
const DOCUMENT_ENTRY = 'document.json';
const PREVIEW_ENTRY = 'preview.png';
const SOURCE_ENTRY = /^sources\/([0-9a-f]{64})\.[a-z0-9]+$/;
const MAX_PROJECT_BYTES = 2 ** 31 - 2 ** 16;

/** Files that a document's sources refer to, each once. */
export const neededFiles = (document: TazzelDocument) => [...new Map(document.sources.map(({ file }) => [file.hash, file])).values()];

/** @throws FormatError `too-large` */
export function writeProject(document: TazzelDocument, files: ReadonlyMap<string, Uint8Array>, preview: Uint8Array | null): Uint8Array {
  const total = [...files.values()].reduce((sum, bytes) => sum + bytes.length, 0);
  if (total > MAX_PROJECT_BYTES) throw new FormatError('too-large', document.name, `the sources hold ${Math.round(total / 2 ** 20)} MB; a project file holds up to 2 GB. Remove elements that are not used.`);
  const entries: Parameters<typeof zipSync>[0] = { [DOCUMENT_ENTRY]: [strToU8(JSON.stringify(document, null, 1)), { level: 6 }] };
  for (const { hash, format } of neededFiles(document)) {
    const bytes = files.get(hash);
    if (bytes) entries[`sources/${hash}.${format}`] = [bytes, { level: 0 }];
  }
  if (preview) entries[PREVIEW_ENTRY] = [preview, { level: 0 }];
  // A fixed date keeps the file the same for the same document.
  return zipSync(entries, { mtime: '1980-01-01T00:00:00' });
}

export interface ReadProject {
  readonly document: TazzelDocument;
  /** The bytes of each source file that is there and whole. */
  readonly files: ReadonlyMap<string, Uint8Array>;
  /** One sentence for each thing that is missing or was left out. */
  readonly problems: readonly string[];
}

/**
 * Reads as much as can be read: a file that was cut off still gives the sources before the cut.
 * @throws FormatError if there is no readable document in it; CoreError from `readDocument`
 */
export async function readProject(source: ByteSource, platform: Platform): Promise<ReadProject> {
  const { entries, complete } = await unzip(source);
  const json = entries.get(DOCUMENT_ENTRY);
  if (!json) throw new FormatError(complete ? 'not-recognised' : 'truncated', source.name, 'there is no readable document.json in it. This is not a project file, or its beginning is damaged.');
  let parsed: unknown;
  try {
    parsed = JSON.parse(new TextDecoder().decode(json));
  } catch {
    throw new FormatError('corrupt', source.name, 'its document.json is damaged. Open an earlier copy of the project file.');
  }
  const { document, problems } = readDocument(parsed);
  const found = [...problems];
  const files = new Map<string, Uint8Array>();
  for (const [name, bytes] of entries) {
    const hash = SOURCE_ENTRY.exec(name)?.[1];
    if (hash && (await platform.sha256(bytes)) === hash) files.set(hash, bytes);
  }
  for (const file of neededFiles(document)) {
    if (!files.has(file.hash)) found.push(`“${file.name}” is ${entries.has(`sources/${file.hash}.${file.format}`) ? 'damaged' : 'missing'} in the project file. Its layers stay in the build-up and show nothing until the file is added again.`);
  }
  return { document, files, problems: found };
}

const MAX_DOCUMENT_BYTES = 64 * 2 ** 20;
const READ_STEP = 4 * 2 ** 20;

/** Entry by entry from the front, so that neither the directory at the end nor the whole file in memory is needed. */
async function unzip(source: ByteSource): Promise<{ entries: Map<string, Uint8Array>; complete: boolean }> {
  const entries = new Map<string, Uint8Array>();
  let complete = true;
  const reader = new Unzip((entry) => {
    const wanted = entry.name === DOCUMENT_ENTRY || SOURCE_ENTRY.test(entry.name);
    if (!wanted) return;
    const limit = entry.name === DOCUMENT_ENTRY ? MAX_DOCUMENT_BYTES : MAX_PROJECT_BYTES;
    const parts: Uint8Array[] = [];
    let length = 0;
    entry.ondata = (error, part, final) => {
      if (error || length + part.length > limit) {
        complete = false;
        entry.terminate();
        return;
      }
      parts.push(part.slice());
      length += part.length;
      if (final) entries.set(entry.name, concatenate(parts, length));
    };
    entry.start();
  });
  reader.register(UnzipPassThrough);
  reader.register(UnzipInflate);
  try {
    for (let at = 0; at < source.size; at += READ_STEP) {
      const length = Math.min(READ_STEP, source.size - at);
      reader.push((await source.read(at, length)).slice(), at + length === source.size);
    }
  } catch {
    complete = false;
  }
  return { entries, complete };
}

export function concatenate(parts: readonly Uint8Array[], length = parts.reduce((sum, part) => sum + part.length, 0)): Uint8Array {
  const whole = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** Several files as one: nothing is packed again, pictures are packed already. */
export const zipFiles = (files: readonly { readonly name: string; readonly parts: readonly Uint8Array[] }[]): Uint8Array => zipSync(Object.fromEntries(files.map(({ name, parts }) => [name, [concatenate(parts), { level: 0 as const }]])), { mtime: '1980-01-01T00:00:00' });
