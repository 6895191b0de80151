import { existsSync } from 'node:fs';
import { mkdir, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { freshIds, levelWithin, manifestFiles, readRulesFile, type RoleRule, type SceneFacts, type Source, type TakenFile, type TazzelDocument } from '@tazzel/core';
import type { Engine, FileRef } from '@tazzel/engine';
import { openNodeFile, startNodeEngine } from '@tazzel/engine/node';
import { type FileReport, sourcesFromReport, writeProject } from '@tazzel/formats';
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
  /** Bytes of the files that were read, by hash. */
  readonly paths: ReadonlyMap<string, string>;
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
  const known = new Map<string, string>();
  const read: TakenFile[] = [];
  let facts: SceneFacts = {};
  for (const picture of await readPictures(engine, [...paths.values()], rules)) {
    if ('error' in picture) {
      problem(picture.error.message);
      continue;
    }
    const { path, hash, report, sources } = picture;
    for (const sentence of report.leftOut) problem(sentence);
    for (const sentence of report.remarks) say(sentence);
    known.set(hash, path);
    facts = { camera: facts.camera ?? report.camera, sun: facts.sun ?? report.sun };
    read.push({ name: report.fileName, size: report.size, sources });
  }
  return { read, facts, paths: known };
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

/** A document with all of its files as a project file. */
export async function writeProjectFile(engine: Engine, document: TazzelDocument, out: string, invocation: Invocation): Promise<void> {
  const files = new Map<string, Uint8Array>();
  for (const [hash, ref] of engine.files) files.set(hash, await openNodeFile(ref).read(0, ref.size));
  const preview = await engine.deliver({ document, values: { dither: false }, level: levelWithin(document.size, 512) });
  const bytes = await writeParts(out, [writeProject(document, files, Buffer.concat(preview.parts))]);
  invocation.say(`${out}: ${(bytes / 2 ** 20).toFixed(1)} MB`);
}
