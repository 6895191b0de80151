/** Files that were dropped or chosen, on their way into a document. Each file succeeds or fails for itself. */
import { baseSource, freshIds, scheduleSources, type Material, pictureSize, type Size, type Source, sizeProblems, type TakenFile, type TazzelDocument } from '@tazzel/core';
import type { Engine, FileRef } from '@tazzel/engine';
import { sourcesFromReport } from '@tazzel/formats';
import { fileStore, storageSentence } from './storage/database.ts';
import { roleRules } from './storage/library.ts';

/** What a file field offers: formats that are read, by ending and by kind. */
export const PICTURE_FILES = '.exr,.png,.tif,.tiff,.jpg,.jpeg,.hdr,.pic,.webp,image/*';

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
export const takeIn = (engine: Engine, document: TazzelDocument | null, files: readonly File[], onProgress: (progress: IntakeProgress) => void, signal?: AbortSignal): Promise<IntakeResult> =>
  read(engine, document, { size: document?.size ?? null, findMaterials: false }, files, onProgress, signal);

/** The same with what the pictures of IDs hold, for those who cannot wait for the open document to find out. */
export const takeInAll: typeof takeIn = (engine, document, files, onProgress, signal) =>
  read(engine, document, { size: document?.size ?? null, findMaterials: (document?.materials.length ?? 0) === 0 }, files, onProgress, signal);

/** What is made of the files: a size of null takes that of the files. */
interface Wanted {
  readonly size: Size | null;
  readonly findMaterials: boolean;
}

async function read(engine: Engine, document: TazzelDocument | null, wanted: Wanted, files: readonly File[], onProgress: (progress: IntakeProgress) => void, signal?: AbortSignal): Promise<IntakeResult> {
  const problems: string[] = [];
  const rules = await roleRules();
  const taken: TakenFile[] = [];
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
        const blob = await keepFile(hash, file).catch((error) => {
          problems.push(`${file.name}: ${storageSentence(error)}`);
          return file;
        });
        engine.files.set(hash, { name: file.name, size: blob.size, handle: blob });
        const found = returned ? [] : await engine.examine(sourcesFromReport(report, hash, nextId, rules), { rules, beside: [...(document?.sources ?? []), ...taken.flatMap((other) => other.sources)], signal });
        if (returned) problems.push(`${file.name} was missing and is back.`);
        taken.push({ name: file.name, size: report.size, sources: found });
      }
    } catch (error) {
      if ((error as Error).name !== 'Cancelled') problems.push((error as Error).message);
    }
    done++;
  }
  const sources = taken.flatMap((file) => file.sources);
  const size = wanted.size ?? pictureSize(taken);
  problems.push(...sources.flatMap((source) => source.findings.map(({ sentence }) => sentence)));
  if (size) problems.push(...sizeProblems(size, taken));
  let materials: Material[] = [];
  if (wanted.findMaterials && scheduleSources(sources).length > 0) {
    onProgress({ done, total: ordered.length, name: 'materials' });
    const schedule = await engine.findSchedule(sources);
    materials = schedule.materials;
    problems.push(...schedule.problems);
  }
  return { sources, materials, size, problems };
}

/** A private copy in the browser's storage: the file on disk may change or go away while the document is open. It never passes through memory as a whole. */
async function keepFile(hash: string, file: File): Promise<Blob> {
  await fileStore.setItem(hash, file);
  return (await fileStore.getItem<Blob>(hash)) ?? file;
}

export interface NewerRender extends IntakeResult {
  /** What the files say about the camera, where it differs from before. */
  readonly camera: readonly string[];
}

/** Reads the files of a newer render. They are stored, the document is not touched. */
export async function readNewer(engine: Engine, document: TazzelDocument, files: readonly File[], onProgress: (progress: IntakeProgress) => void, signal?: AbortSignal): Promise<NewerRender> {
  const result = await read(engine, document, { size: null, findMaterials: true }, files, onProgress, signal);
  return { ...result, camera: await cameraChanges(engine, document, result.sources) };
}

const ABOUT_THE_CAMERA = /camera|focal|lens|shift|fov|f-?number|aperture/i;

async function cameraChanges(engine: Engine, document: TazzelDocument, sources: readonly Source[]): Promise<string[]> {
  const notesOf = async (source: Source | null): Promise<Readonly<Record<string, string>>> => {
    const ref = source && engine.files.get(source.file.hash);
    return ref ? (await engine.inspect(ref)).notes : {};
  };
  const [before, after] = await Promise.all([baseSource(document.sources), baseSource(sources)].map((source) => notesOf(source).catch(() => ({}) as Readonly<Record<string, string>>)));
  return Object.keys(after)
    .filter((key) => ABOUT_THE_CAMERA.test(key) && key in before && before[key] !== after[key])
    .map((key) => `The camera changed: ${key} was ${before[key]} and is ${after[key]}.`);
}
