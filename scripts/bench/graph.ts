/** What reads across pixels: Gaussians against libvips, blurs in the middle of a build-up, planning. */
import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { addElements, applyEdit, emptyDocument, floatToHalf, layersInOrder, planDocument, type Size, type Source, sizeAtLevel, type TazzelDocument, tilesOf } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { nodePlatform } from '@tazzel/engine/node';
import { encodeExr, type ExrChannelData, sourcesFromReport } from '@tazzel/formats';
import type { Kernels } from '@tazzel/kernels';
import sharp from 'sharp';
import { compare, flattened, median, report, timed } from './measure.ts';
import { layerPixels } from './scene.ts';

/** A correction of everything below, on top of the document. */
function withTop(document: TazzelDocument, correction: string, params: Readonly<Record<string, number>>): TazzelDocument {
  const zone = document.buildUp.picture.length > 0 ? 'picture' : 'scene';
  const added = applyEdit(document, { type: 'add-correction-layer', correction, zone });
  return applyEdit(added, { type: 'set-params', layerId: added.buildUp[zone].at(-1)?.id ?? '', params });
}

/** Three blurs of everything below, on top. */
export const withBlurs = (document: TazzelDocument): TazzelDocument => SIGMAS.reduce((made, sigmaPx) => withTop(made, 'gaussian-blur', { sigmaPx }), document);
const SIGMAS = [6, 20, 60];

/** Elements of a file of their own that the engine knows. */
export async function elementOf(engine: Engine, kernels: Kernels, folder: string, name: string, size: Size, channels: readonly ExrChannelData[]): Promise<Source[]> {
  const path = join(folder, `${name}.exr`);
  const window = { x: 0, y: 0, ...size };
  writeFileSync(path, Buffer.concat(await encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIPS', channels }, nodePlatform, kernels)));
  const file = { name: `${name}.exr`, size: statSync(path).size, handle: path };
  const hash = Buffer.from(name).toString('hex').padEnd(64, '0');
  engine.files.set(hash, file);
  let n = 0;
  return sourcesFromReport(await engine.inspect(file), hash, () => `source-${name}-${++n}`);
}

/** One element of halves, as a render has it. */
export async function oneElement(engine: Engine, kernels: Kernels, folder: string, width: number, height: number): Promise<TazzelDocument> {
  const rgba = layerPixels(width, height, 3);
  const table = Uint16Array.from({ length: 256 }, (_, code) => floatToHalf((code / 255) ** 2.2 * 2));
  const channels = ['R', 'G', 'B'].map((name, c) => ({ name, type: 'f16' as const, data: Uint16Array.from({ length: width * height }, (_, i) => table[rgba[i * 4 + c]]) }));
  const sources = await elementOf(engine, kernels, folder, 'light', { width, height }, channels);
  return addElements(emptyDocument('light', 'Light', { width, height }), sources);
}

/** @param layered the twenty layers of the other rows */
export async function benchGraph(engine: Engine, layered: TazzelDocument, kernels: Kernels, folder: string, width: number, height: number): Promise<void> {
  const plain = await oneElement(engine, kernels, folder, width, height);
  const rgb = Buffer.from(layerPixels(width, height, 3).filter((_, i) => i % 4 !== 3).buffer);
  // Every run has a width of its own, so that nothing that was kept is used again.
  let fresh = 0;
  const blurred = (sigmaPx: number) => flattened(engine, { document: withTop(plain, 'gaussian-blur', { sigmaPx: sigmaPx + ++fresh * 1e-4 }), kind: 'float' });
  const without = () => flattened(engine, { document: applyEdit(plain, { type: 'set-layer', layerId: plain.buildUp.scene[0].id, patch: { opacity: 1 - ++fresh * 1e-7 } }), kind: 'float' });
  for (const sigmaPx of [4, 16, 40, 200]) {
    // What the blur adds to a picture that is made anyway; libvips has its bytes at hand.
    const [whole, nothing, theirs]: number[][] = [[], [], []];
    for (let i = 0; i < 5; i++) {
      // What libvips leaves behind in memory and caches is not to be counted for either of ours.
      await without();
      whole.push(await timed(() => blurred(sigmaPx)));
      nothing.push(await timed(without));
      theirs.push(await timed(() => sharp(rgb, { raw: { width, height, channels: 3 } }).blur(sigmaPx).raw().toBuffer()));
    }
    const ours = median(whole) - median(nothing);
    report(`(l) Gaussian σ ${sigmaPx}, RGB light of ${width} × ${height}, 2 workers : libvips, bytes`, { ours, theirs: median(theirs), ratio: ours / median(theirs) }, sigmaPx === 40 ? 0.4 : undefined);
    console.log(`    with all that is read and written ${median(whole).toFixed(0)} ms, without the blur ${median(nothing).toFixed(0)} ms`);
  }

  const level = 2;
  const tiles = tilesOf(sizeAtLevel(layered.size, level));
  const three = withBlurs(layered);
  const base = layersInOrder(three)[1].layer.id;
  const render = (document: TazzelDocument, focusLayerId: string | null) => engine.render({ document, level, tiles, focusLayerId, onTile: () => undefined });
  const changed = (patch: number) => applyEdit(three, { type: 'set-layer', layerId: base, patch: { opacity: 0.3 + patch } });
  await render(three, base);
  await engine.warm({ document: three, level, tiles, focusLayerId: base });
  const [steps, whole]: number[][] = [[], []];
  for (let i = 0; i < 7; i++) {
    steps.push(await timed(() => render(changed(++fresh * 1e-4), base)));
    const other = applyEdit(three, { type: 'set-layer', layerId: layersInOrder(three)[0].layer.id, patch: { opacity: 0.5 + ++fresh * 1e-4 } });
    whole.push(await timed(() => render(other, null)));
  }
  report('(m) slider step below three blurs, at fit : full evaluation', { ours: median(steps), theirs: median(whole), ratio: median(steps) / median(whole) }, 1.1);

  const deliver = (document: TazzelDocument) => timed(() => flattened(engine, { document, kind: 'rgba8' }));
  const [together, apart]: number[][] = [[], []];
  const alone = (document: TazzelDocument) => deliver(document);
  for (let i = 0; i < 3; i++) {
    const moved = (document: TazzelDocument) => applyEdit(document, { type: 'set-layer', layerId: layersInOrder(document)[0].layer.id, patch: { opacity: 0.6 + ++fresh * 1e-4 } });
    together.push(await deliver(moved(three)));
    let sum = await deliver(moved(layered));
    const nothing = await alone(moved(plain));
    for (const sigmaPx of SIGMAS) sum += Math.max(0, (await alone(moved(withTop(plain, 'gaussian-blur', { sigmaPx })))) - nothing);
    apart.push(sum);
  }
  report('(n) delivering twenty layers with three blurs : layers and blurs apart', { ours: median(together), theirs: median(apart), ratio: median(together) / median(apart) }, 1.3);
  console.log(`    kept pictures ${(engine.keptBytes / 2 ** 20).toFixed(0)} MB, peak of the process ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB`);

  const sixty = (params: (i: number) => readonly [string, Readonly<Record<string, number>>]) => Array.from({ length: 60 }, (_, i) => params(i)).reduce((document, [id, values]) => withTop(document, id, values), plain);
  const exposures = sixty((i) => ['exposure', { exposureStops: 0.1 + i / 100 }]);
  const mixed = sixty((i) => (i % 3 === 0 ? ['hue-saturation', { hueDegrees: 10 + i }] : i % 3 === 1 ? ['vignette', { cornerStops: -1 - i / 100 }] : ['gaussian-blur', { sigmaPx: 2 + i }]));
  const planning = (document: TazzelDocument) => async () => {
    for (let i = 0; i < 20; i++) planDocument(document);
  };
  const planned = await compare(planning(mixed), planning(exposures), 5);
  report('(o) planning 60 layers, 20 of them with tables, 20 blurs : 60 exposures, each 20 times', planned, 2);
}
