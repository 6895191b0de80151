import { existsSync } from 'node:fs';
import { mkdir, open, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, resolve } from 'node:path';
import type { Engine, FileRef } from '@tazzel/engine';
import { startNodeEngine } from '@tazzel/engine/node';
import { UsageError } from './command.ts';

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
