/** Sources of files on the disk, as the engine reads them. */
import { statSync } from 'node:fs';
import { basename } from 'node:path';
import { freshIds, type Source } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { sourcesFromReport } from '@tazzel/formats';

/** Makes files known to an engine and gives their elements the roles that their names suggest. */
export async function namedSources(engine: Engine, files: readonly string[]): Promise<Source[]> {
  const sources: Source[] = [];
  const nextId = freshIds(null, 'source');
  for (const path of files) {
    const ref = { name: basename(path), size: statSync(path).size, handle: path };
    const hash = await engine.hash(ref);
    engine.files.set(hash, ref);
    sources.push(...sourcesFromReport(await engine.inspect(ref), hash, nextId));
  }
  return sources;
}
