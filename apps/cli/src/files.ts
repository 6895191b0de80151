import { existsSync } from 'node:fs';
import { mkdir, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { dayOf, type Delivery, freshIds, levelWithin, manifestFiles, readRulesFile, type RoleRule, type SceneFacts, type Source, type TakenFile, type TazzelDocument } from '@tazzel/core';
import { deliverList, type Engine, type FileRef } from '@tazzel/engine';
import { openNodeFile, startNodeEngine } from '@tazzel/engine/node';
import { type FileReport, neededFiles, sourcesFromReport, writeProject } from '@tazzel/formats';
import { type Invocation, text, UsageError } from './command.ts';

export async function withEngine<T>(work: (engine: Engine) => Promise<T>): Promise<T> {
  const engine = await startNodeEngine({ workerUrl: new URL('./worker.mjs', import.meta.url), kernelsUrl: new URL('./kernels.wasm', import.meta.url) });
  try {
    return await work(engine);
  } finally {
    engine.pool.terminate();
  }
}

/** @throws Error with a sentence if there is no such file */
export async function fileRef(path: string): Promise<FileRef> {
  const stats = await stat(path).catch(() => null);
  if (!stats?.isFile()) throw new Error(`${path}: there is no such file. Check the path.`);
  return { name: basename(path), size: stats.size, handle: resolve(path) };
}

const isHidden = (name: string) => name.startsWith('.');

/** Files as they are named; a folder stands for the files that lie in it. @throws Error if a folder cannot be read */
export async function expandFolders(paths: readonly string[]): Promise<string[]> {
  const expanded: string[] = [];
  for (const path of paths) {
    const isFolder = (await stat(path).catch(() => null))?.isDirectory() === true;
    if (!isFolder) expanded.push(path);
    else for (const entry of (await readdir(path, { withFileTypes: true })).toSorted((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))) if (entry.isFile() && !isHidden(entry.name)) expanded.push(join(path, entry.name));
  }
  return expanded;
}

export interface TakenFiles {
  readonly read: readonly TakenFile[];
  /** What the files say of camera and sun. */
  readonly facts: SceneFacts;
  /** Why others could not be read. */
  readonly failed: readonly Error[];
}

/** The artist's own rules for roles, if the command was given some. @throws Error with a sentence naming the file */
export async function rulesOf(invocation: Invocation): Promise<RoleRule[]> {
  const path = text(invocation, 'rules');
  if (path === undefined) return [];
  try {
    return readRulesFile(await readFile(path, 'utf8'));
  } catch (error) {
    throw new UsageError(`--rules ${path}: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file. Check the path.' : (error as Error).message}`);
  }
}

export type ReadPicture = { readonly path: string; readonly hash: string; readonly report: FileReport; readonly sources: readonly Source[] } | { readonly path: string; readonly error: Error };

/**
 * Opens picture files and gives their elements roles; each succeeds or fails for itself. They are looked into together, as a drop in the browser is:
 * what all of them are called is a title.
 */
export async function readPictures(engine: Engine, paths: readonly string[], rules: readonly RoleRule[]): Promise<ReadPicture[]> {
  const nextId = freshIds(null, 'source');
  const opened: ReadPicture[] = [];
  for (const path of paths) {
    try {
      const ref = await fileRef(path);
      const report = await engine.inspect(ref);
      // Names of coverage mattes may lie beside the picture: there, and nowhere above.
      for (const file of manifestFiles(report.notes)) await takeManifest(engine, join(dirname(path), file));
      const hash = await engine.hash(ref);
      engine.files.set(hash, ref);
      opened.push({ path, hash, report, sources: sourcesFromReport(report, hash, nextId) });
    } catch (error) {
      opened.push({ path, error: error as Error });
    }
  }
  const examined = await engine.examineEach(opened.flatMap((picture) => ('error' in picture ? [] : [picture.sources])), { rules });
  return opened.map((picture) => {
    if ('error' in picture) return picture;
    const sources = examined.shift() as Source[] | Error;
    return sources instanceof Error ? { path: picture.path, error: sources } : { ...picture, sources };
  });
}

/** The pictures of a command's files and folders; what cannot be read is named and passed over. */
export async function takeFiles(engine: Engine, invocation: Invocation): Promise<TakenFiles> {
  const { problem, say } = invocation;
  const rules = await rulesOf(invocation);
  const paths = new Map<string, string>();
  for (const path of await expandFolders(invocation.files)) {
    if (paths.has(resolve(path))) problem(`${basename(path)}: the same file was named twice.`);
    else if (!/\.json$/i.test(path) || !(await takeManifest(engine, path))) paths.set(resolve(path), path);
  }
  const failed: Error[] = [];
  const read: TakenFile[] = [];
  let facts: SceneFacts = {};
  for (const picture of await readPictures(engine, [...paths.values()], rules)) {
    if ('error' in picture) {
      failed.push(picture.error);
      problem(picture.error.message);
      continue;
    }
    const { report, sources } = picture;
    for (const sentence of report.leftOut) problem(sentence);
    for (const sentence of report.remarks) say(sentence);
    facts = { camera: facts.camera ?? report.camera, sun: facts.sun ?? report.sun };
    read.push({ name: report.fileName, size: report.size, sources });
  }
  return { read, facts, failed };
}

const LARGEST_MANIFEST = 64 * 2 ** 20;

async function takeManifest(engine: Engine, path: string): Promise<boolean> {
  const stats = await stat(path).catch(() => null);
  return stats?.isFile() === true && stats.size <= LARGEST_MANIFEST && engine.takeManifest(basename(path), await readFile(path, 'utf8'));
}

/** Opens a project file and hands its files to the engine. */
export async function openProject(engine: Engine, path: string, problem: (sentence: string) => void): Promise<TazzelDocument> {
  const { document, files, problems } = await engine.readProject(await fileRef(path));
  for (const sentence of problems) problem(sentence);
  for (const [hash, ref] of files) engine.files.set(hash, ref);
  return document;
}

/** What was sent is never overwritten by accident. */
export function mustNotExist(path: string, force: boolean): void {
  if (existsSync(path) && !force) throw new UsageError(`${path} exists already. Give another name, or --force to replace it.`);
}

/** Written beside and moved into place, so that an interrupted run leaves no half file. */
export async function writeParts(path: string, parts: readonly Uint8Array[]): Promise<number> {
  await mkdir(dirname(resolve(path)), { recursive: true });
  const partial = `${path}.partial`;
  const file = await open(partial, 'w');
  let bytes = 0;
  try {
    for (const part of parts) {
      await file.write(part);
      bytes += part.length;
    }
    await file.close();
    await rename(partial, path);
    return bytes;
  } catch (error) {
    await file.close().catch(() => undefined);
    await rm(partial, { force: true });
    throw error;
  }
}

/** A document with all of its files as a project file. Returns how large it became. */
export async function writeProjectFile(engine: Engine, document: TazzelDocument, out: string): Promise<number> {
  const files = new Map<string, Uint8Array>();
  for (const { hash } of neededFiles(document)) {
    const ref = engine.files.get(hash);
    if (ref) files.set(hash, await openNodeFile(ref).read(0, ref.size));
  }
  const preview = await engine.deliver({ document, values: { dither: false }, level: levelWithin(document.size, 512) });
  return writeParts(out, [writeProject(document, files, Buffer.concat(preview.parts))]);
}

/** Pictures of a list into a folder, said one by one. */
export async function deliverInto(engine: Engine, folder: string, document: TazzelDocument, deliveries: readonly Delivery[], invocation: Invocation) {
  await mkdir(folder, { recursive: true });
  const files = await deliverList(engine, { document, deliveries, day: dayOf(new Date()), isTaken: (name) => existsSync(join(folder, name)), write: async (name, parts) => void (await writeParts(join(folder, name), parts)) });
  for (const { name, size, bytes, problems } of files) {
    for (const problem of problems) invocation.problem(`${name}: ${problem}`);
    if (bytes > 0) invocation.say(`${join(folder, name)}: ${size.width} × ${size.height}, ${megabytes(bytes)}`);
  }
  return files.map(({ size, ...file }) => ({ ...file, ...size }));
}

export const megabytes = (bytes: number): string => `${(bytes / 2 ** 20).toFixed(1)} MB`;
