/** Files that were dropped or chosen, on their way into a document. Each file succeeds or fails for itself. */
import { baseSource, freshIds, scheduleSources, type Material, pictureSize, type SceneFacts, type Size, type Source, sizeProblems, type TakenFile, type TazzelDocument } from '@tazzel/core';
import { type Engine, type FileRef, sideBySide } from '@tazzel/engine';
import { type FileReport, sourcesFromReport } from '@tazzel/formats';
import { isFull, storageError } from './storage/database.ts';
import { storeFile } from './storage/files.ts';
import { roleRules } from './storage/library.ts';

/** What a file field offers: formats that are read, by ending and by kind. */
export const PICTURE_FILES = '.exr,.png,.tif,.tiff,.jpg,.jpeg,.hdr,.pic,.webp,image/*';

export interface IntakeResult {
  readonly sources: readonly Source[];
  readonly materials: readonly Material[];
  readonly size: Size | null;
  /** What the files say of camera and sun. */
  readonly facts: SceneFacts;
  /** One sentence per file that was refused or needs attention. */
  readonly problems: readonly string[];
}

export interface IntakeProgress {
  /** 0…1 of all bytes. */
  readonly share: number;
  readonly name: string;
}

/** The same files with their headers read, bytes stored and pixels checked; the document itself is not touched. Cancelled, nothing comes in. */
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

/** Files that are read, hashed and stored at the same time. */
const AT_ONCE = 6;

/** Files that are more than names of a matte: those are kept with the engine until their matte is read. */
async function withoutManifests(engine: Engine, files: readonly File[]): Promise<File[]> {
  const isManifest = await Promise.all(files.map(async (file) => /\.json$/i.test(file.name) && file.size <= LARGEST_MANIFEST && engine.takeManifest(file.name, await file.text().catch(() => ''))));
  return files.filter((_, i) => !isManifest[i]);
}

const LARGEST_MANIFEST = 64 * 2 ** 20;

async function read(engine: Engine, document: TazzelDocument | null, wanted: Wanted, dropped: readonly File[], onProgress: (progress: IntakeProgress) => void, signal?: AbortSignal): Promise<IntakeResult> {
  const rules = await roleRules();
  const files = await withoutManifests(engine, dropped);
  const ordered = [...files].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
  const progress = progressOf(ordered, onProgress);
  // Each file says its own, in the order of the files, whichever is done first.
  const said: string[][] = ordered.map(() => []);
  const opened = await sideBySide(ordered, AT_ONCE, async (file, i) => {
    if (signal?.aborted) return null;
    progress(i, 0);
    try {
      const ref: FileRef = { name: file.name, size: file.size, handle: file };
      const report = await engine.inspect(ref, signal);
      said[i].push(...report.leftOut, ...report.remarks);
      return { report, hash: await engine.hash(ref, signal, (share) => progress(i, share * HASHED)) };
    } catch (error) {
      if ((error as Error).name !== 'Cancelled') said[i].push((error as Error).message);
      return null;
    }
  });
  // The same bytes under another name are another element: that they are alike is said of it, and left to the artist.
  const nameOf = (hash: string, name: string) => `${hash} ${name}`;
  const known = new Set((document?.sources ?? []).map(({ file }) => nameOf(file.hash, file.name)));
  const missing = new Set((document?.sources ?? []).map(({ file }) => file.hash).filter((hash) => !engine.files.has(hash)));
  const nextId = freshIds(document, 'source');
  const fresh: { place: number; report: FileReport; hash: string; sources: Source[] }[] = [];
  for (const [place, found] of opened.entries()) {
    if (!found || signal?.aborted) continue;
    const { report, hash } = found;
    const { name } = ordered[place];
    const returned = missing.has(hash);
    if (known.has(nameOf(hash, name)) && !returned) said[place].push(`${name}: the same file is in the document already. It was not added a second time.`);
    else {
      known.add(nameOf(hash, name));
      missing.delete(hash);
      if (returned) said[place].push(`${name} was missing and is back.`);
      fresh.push({ place, report, hash, sources: returned ? [] : sourcesFromReport(report, hash, nextId, rules) });
    }
  }
  await sideBySide(fresh, AT_ONCE, async ({ place, hash }) => {
    const file = ordered[place];
    // What cannot be stored stays with the page, which goes on trying; the title block says that it is not saved.
    const blob = await storeFile(hash, file).catch((error) => {
      said[place].push(isFull(error) ? `${file.name} is in the document, but could not be stored: the browser’s storage is full. Delete documents on the start page to make room; storing is tried again for as long as this page is open.` : storageError(error, file.name).message);
      return file;
    });
    engine.files.set(hash, { name: file.name, size: blob.size, handle: blob });
    progress(place, STORED);
  });
  const examined = await engine.examineEach(fresh.map(({ sources }) => sources), { rules, beside: document?.sources ?? [], signal, onDone: (i) => progress(fresh[i].place, 1) });
  // Whoever cancels gets nothing rather than some of it.
  if (signal?.aborted) return { sources: [], materials: [], size: wanted.size, facts: {}, problems: [] };
  const taken = fresh.flatMap(({ place, report }, i): TakenFile[] => {
    const found = examined[i];
    if (!(found instanceof Error)) return [{ name: ordered[place].name, size: report.size, sources: found }];
    said[place].push(found.message);
    return [];
  });
  const sources = taken.flatMap((file) => file.sources);
  const size = wanted.size ?? pictureSize(taken);
  const problems = [...said.flat(), ...sources.flatMap((source) => source.findings.map(({ sentence }) => sentence))];
  if (size) problems.push(...sizeProblems(size, taken));
  let materials: Material[] = [];
  if (wanted.findMaterials && scheduleSources(sources).length > 0) {
    onProgress({ share: 1, name: 'materials' });
    const schedule = await engine.findSchedule(sources);
    materials = schedule.materials;
    problems.push(...schedule.problems);
  }
  const facts = factsOf(fresh.map(({ report }) => report));
  return { sources, materials, size, facts, problems };
}

/** The first file that knows its camera, and the first that knows the sun. */
const factsOf = (reports: readonly FileReport[]): SceneFacts => ({ camera: reports.find(({ camera }) => camera)?.camera ?? null, sun: reports.find(({ sun }) => sun)?.sun ?? null });

/** Shares of a file that are done when it is hashed and when it is stored; looking into it is the rest. */
const HASHED = 0.3;
const STORED = 0.5;

/** How much of all bytes is done, from how much of each file is. */
function progressOf(files: readonly File[], onProgress: (progress: IntakeProgress) => void): (file: number, share: number) => void {
  const total = files.reduce((sum, { size }) => sum + size, 0) || 1;
  const shares = files.map(() => 0);
  return (file, share) => {
    shares[file] = Math.max(shares[file], share);
    onProgress({ share: files.reduce((sum, { size }, i) => sum + size * shares[i], 0) / total, name: files[file].name });
  };
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
