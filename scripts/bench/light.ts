/** The light board: ten groups mixed in one pass against reading them once, and what is held beyond their own pixels. */
import { appendFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { addElements, applyEdit, emptyDocument, floatToHalf, freshIds, groupsOf, mixFigures, type TazzelDocument, tilesOf, sizeAtLevel } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { nodePlatform } from '@tazzel/engine/node';
import { encodeExr, sourcesFromReport } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import { flattened, median, report, timed } from './measure.ts';
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
  const mix = () => flattened(engine, { document: changed(), kind: 'float' });
  // Reading: every sample of every group from memory once, as fast as memory gives it (a copy, by one thread).
  const copy = new Uint16Array(width * height);
  const read = async () => {
    for (const plane of planes) copy.set(plane);
  };
  // What any picture of one group costs: reading it, and making and handing over the pixels.
  const single = applyEdit({ ...begun, buildUp: { scene: [], picture: [] } }, { type: 'add-light-mix' });
  const others = groupsOf(single).slice(1);
  const one = others.reduce<TazzelDocument>((kept, { id }) => applyEdit(kept, { type: 'set-params', lightId: id, params: { on: false } }), single);
  await mix();
  await read();
  const [whole, alone, reading]: number[][] = [[], [], []];
  for (let i = 0; i < 5; i++) {
    whole.push(await timed(mix));
    alone.push(await timed(() => flattened(engine, { document: applyEdit(one, { type: 'set-params', lightId: groupsOf(one)[0].id, params: { intensityStops: ++fresh * 0.01 } }), kind: 'float' })));
    reading.push(await timed(read));
  }
  const [ours, theirs] = [median(whole) - median(alone), (median(reading) * others.length) / GROUPS];
  report(`(u) ${others.length} more groups in a mix ${width} × ${height} : reading them once`, { ours, theirs, ratio: ours / theirs }, 3);
  console.log(`    the mix of all with its pixels handed over ${median(whole).toFixed(0)} ms, of one group ${median(alone).toFixed(0)} ms`);
  const level = 2;
  const size = sizeAtLevel(document.size, level);
  const steps: number[] = [];
  for (let i = 0; i < 9; i++) steps.push(await timed(() => engine.render({ document: changed(), level, tiles: tilesOf(size), onTile: () => undefined })));
  const own = planes.reduce((sum, plane) => sum + plane.byteLength, 0);
  console.log(`    one gain changed, ${size.width} × ${size.height} on the screen: ${median(steps).toFixed(0)} ms; held beside the groups' own ${(own / 2 ** 20).toFixed(0)} MB: kept pictures ${(engine.keptBytes / 2 ** 20).toFixed(0)} MB (sources and their reduced levels ${(engine.bytesHeld / 2 ** 20).toFixed(0)} MB)`);
  const measured = await timed(() => engine.measureLights(document));
  const { measures, sourceIds } = await engine.measureLights(document);
  const figures = await timed(async () => void mixFigures(measures, sourceIds.map(() => [1, 1, 1])));
  console.log(`    measuring all groups ${measured.toFixed(0)} ms, once; figures of another mix ${figures.toFixed(2)} ms`);
}
