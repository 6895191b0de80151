/** A small set of files, and the document that an engine makes of them. */
import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { addElements, applyEdit, emptyDocument, floatToHalf, freshIds, scheduleSources, type Source, type TazzelDocument } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { encodeExr, encodePng, sourcesFromReport } from '@tazzel/formats';
import { builtKernels } from './built.ts';
import { joined, platform } from './formats.ts';
import { seeded } from './random.ts';

/** Several tiles at full size and at half of it, and no more. */
export const WIDTH = 540;
export const HEIGHT = 270;

/** A beauty in EXR (with light above 1), a display picture with alpha and an ID picture in PNG. */
export async function writeSet(folder: string): Promise<string[]> {
  const random = seeded(100);
  const area = WIDTH * HEIGHT;
  const window = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const half = (f: (x: number, y: number) => number) => Uint16Array.from({ length: area }, (_, i) => floatToHalf(f(i % WIDTH, Math.floor(i / WIDTH))));
  const channels = ['R', 'G', 'B'].map((name, c) => ({ name, type: 'f16' as const, data: half((x, y) => ((x * (c + 1)) % 97) / 30 + y / HEIGHT + random() * 0.1) }));
  writeFileSync(join(folder, 'beauty.exr'), joined(await encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIP', channels }, platform, await builtKernels())));
  const rgba = new Uint8Array(area * 4);
  const ids = new Uint8Array(area * 4).fill(255);
  for (let i = 0; i < area; i++) {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    rgba.set([x % 256, y % 256, (x + y) % 256, (x * 3) % 256], i * 4);
    ids.set(x < WIDTH / 3 ? [200, 0, 0] : y < HEIGHT / 2 ? [0, 200, 0] : [0, 0, 200], i * 4);
  }
  writeFileSync(join(folder, 'overlay.png'), joined(await encodePng({ width: WIDTH, height: HEIGHT, rgba }, platform)));
  writeFileSync(join(folder, 'material_id.png'), joined(await encodePng({ width: WIDTH, height: HEIGHT, rgba: ids }, platform)));
  return ['beauty.exr', 'overlay.png', 'material_id.png'];
}

/** The document that an engine makes of some of these files. */
export async function loadSet(into: Engine, folder: string, names: readonly string[]): Promise<TazzelDocument> {
  const sources: Source[] = [];
  const nextId = freshIds(null, 'source');
  for (const name of names) {
    const path = join(folder, name);
    const file = { name, size: statSync(path).size, handle: path };
    const hash = await into.hash(file);
    into.files.set(hash, file);
    sources.push(...(await into.examine(sourcesFromReport(await into.inspect(file), hash, nextId))));
  }
  let made = addElements(emptyDocument('doc', 'Test', { width: WIDTH, height: HEIGHT }), sources);
  const [ids] = scheduleSources(sources);
  if (ids) made = applyEdit(made, { type: 'set-materials', sourceId: ids.id, materials: await into.findMaterials(ids) });
  return made;
}
