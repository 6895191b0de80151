/** The light board: ten groups mixed in one pass against reading them once, and what is held beyond their own pixels. */
import { appendFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { addElements, applyEdit, emptyDocument, floatToHalf, freshIds, groupsOf, mixFigures, type TazzelDocument, tilesOf, sizeAtLevel } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { nodePlatform } from '@tazzel/engine/node';
import { encodeExr, sourcesFromReport } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import { median, report, timed } from './measure.ts';
import { layerPixels } from './scene.ts';

const GROUPS = 10;

export async function benchLight(engine: Engine, kernels: Kernels, folder: string, width: number, height: number): Promise<void> {
  const window = { x: 0, y: 0, width, height };
  const path = join(folder, 'groups.exr');
  writeFileSync(path, '');
  const table = Uint16Array.from({ length: 256 }, (_, code) => floatToHalf((code / 255) ** 2.2));
  const planes: Uint16Array[] = [];
  const parts = Array.from({ length: GROUPS }, (_, g) => {
    const rgba = layerPixels(width, height, g);
    const channels = ['R', 'G', 'B'].map((name, c) => ({ name, type: 'f16' as const, data: Uint16Array.from({ length: width * height }, (_, i) => table[rgba[i * 4 + c]]) }));
    planes.push(...channels.map(({ data }) => data));
    return { name: `light_group_lamp${String.fromCharCode(97 + g)}`, dataWindow: window, displayWindow: window, compression: 'NONE' as const, channels };
  });
  for (const piece of await encodeExr(parts, nodePlatform, kernels)) appendFileSync(path, piece);
  const file = { name: 'groups.exr', size: statSync(path).size, handle: path };
  const hash = 'c'.repeat(64);
  engine.files.set(hash, file);
  const sources = await engine.examine(sourcesFromReport(await engine.inspect(file), hash, freshIds(null, 'source')));
  const begun = addElements(emptyDocument('lights', 'Lights', { width, height }), sources);
  let document: TazzelDocument = applyEdit({ ...begun, buildUp: { scene: [], picture: [] } }, { type: 'add-light-mix' });
  let fresh = 0;
  const changed = () => {
    document = applyEdit(document, { type: 'set-params', lightId: groupsOf(document)[3].id, params: { intensityStops: ++fresh * 0.01 } });
    return document;
  };
  const mix = () => engine.flatten({ document: changed(), kind: 'float' });
  // Reading: every sample of every group from memory once, by one thread, as the workers must do together.
  let seen = 0;
  const read = async () => {
    for (const plane of planes) {
      let sum = 0;
      for (let i = 0; i < plane.length; i++) sum += plane[i];
      seen += sum;
    }
  };
  await mix();
  await read();
  const [ours, theirs]: number[][] = [[], []];
  for (let i = 0; i < 3; i++) {
    ours.push(await timed(mix));
    theirs.push(await timed(read));
  }
  report(`(u) mix of ${groupsOf(document).length} groups ${width} × ${height} : reading them once`, { ours: median(ours), theirs: median(theirs), ratio: median(ours) / median(theirs) }, 3);
  const level = 2;
  const size = sizeAtLevel(document.size, level);
  const steps: number[] = [];
  for (let i = 0; i < 9; i++) steps.push(await timed(() => engine.render({ document: changed(), level, tiles: tilesOf(size), onTile: () => undefined })));
  const own = planes.reduce((sum, plane) => sum + plane.byteLength, 0);
  console.log(`    one gain changed, ${size.width} × ${size.height} on the screen: ${median(steps).toFixed(0)} ms; held beside the groups' own ${(own / 2 ** 20).toFixed(0)} MB: kept pictures ${(engine.keptBytes / 2 ** 20).toFixed(0)} MB (${seen > 0 ? 'sources and their reduced levels' : ''} ${(engine.bytesHeld / 2 ** 20).toFixed(0)} MB)`);
  const measured = await timed(() => engine.measureLights(document));
  const { measures, sourceIds } = await engine.measureLights(document);
  const figures = await timed(async () => void mixFigures(measures, sourceIds.map(() => [1, 1, 1])));
  console.log(`    measuring all groups ${measured.toFixed(0)} ms, once; figures of another mix ${figures.toFixed(2)} ms`);
}
