/** Files that were dropped or chosen, on their way into a document. Each file succeeds or fails for itself. */
import { freshIds, idSource, type Material, pictureSize, type Size, type Source, sizeProblems, type TakenFile, type TazzelDocument } from '@tazzel/core';
import type { Engine, FileRef } from '@tazzel/engine';
import { sourcesFromReport } from '@tazzel/formats';
import { fileStore, storageSentence } from './storage/database.ts';

export interface IntakeResult {
  readonly sources: readonly Source[];
  readonly materials: readonly Material[];
  readonly size: Size | null;
  /** One sentence per file that was refused or needs attention. */
  readonly problems: readonly string[];
}

export interface IntakeProgress {
  readonly done: number;
  readonly total: number;
  readonly name: string;
}

/** The same files with their headers read, bytes stored and pixels checked; the document itself is not touched. */
export async function takeIn(engine: Engine, document: TazzelDocument | null, files: readonly File[], onProgress: (progress: IntakeProgress) => void, signal?: AbortSignal): Promise<IntakeResult> {
  const problems: string[] = [];
  const read: TakenFile[] = [];
  let done = 0;
  const nextId = freshIds(document, 'source');
  const ordered = [...files].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
  const known = new Set((document?.sources ?? []).map((source) => source.file.hash));
  const missing = new Set([...known].filter((hash) => !engine.files.has(hash)));
  for (const file of ordered) {
    if (signal?.aborted) break;
    onProgress({ done, total: ordered.length, name: file.name });
    try {
      const ref: FileRef = { name: file.name, size: file.size, handle: file };
      const report = await engine.inspect(ref, signal);
      problems.push(...report.leftOut);
      const hash = await engine.hash(ref, signal);
      const returned = missing.has(hash);
      if (known.has(hash) && !returned) problems.push(`${file.name}: the same file is in the document already. It was not added a second time.`);
      else {
        known.add(hash);
        // A private copy: the file on disk may change or go away while the document is open.
        const blob = new Blob([await file.arrayBuffer()]);
        engine.files.set(hash, { name: file.name, size: blob.size, handle: blob });
        const found = returned ? [] : await engine.verify(sourcesFromReport(report, hash, nextId));
        await fileStore.setItem(hash, blob).catch((error) => problems.push(`${file.name}: ${storageSentence(error)}`));
        if (returned) problems.push(`${file.name} was missing and is back.`);
        read.push({ name: file.name, size: report.size, sources: found });
      }
    } catch (error) {
      if ((error as Error).name !== 'Cancelled') problems.push((error as Error).message);
    }
    done++;
  }
  const sources = read.flatMap((file) => file.sources);
  const size = document?.size ?? pictureSize(read);
  if (size) problems.push(...sizeProblems(size, read));
  let materials: Material[] = [];
  const ids = document && document.materials.length > 0 ? null : idSource(sources);
  if (ids) {
    onProgress({ done, total: ordered.length, name: 'materials' });
    await engine.findMaterials(ids).then(
      (rows) => {
        materials = rows;
      },
      (error) => problems.push(`${ids.name}: ${(error as Error).message}`),
    );
  }
  return { sources, materials, size, problems };
}
