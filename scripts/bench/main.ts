/** `npm run bench`: ratios measured in one run. Times are printed for orientation; only the ratios mean something. */
import { execFileSync } from 'node:child_process';
import { appendFileSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { addElements, applyEdit, elementDocument, emptyDocument, type Region, type Source, sizeAtLevel, type TazzelDocument, tilesOf } from '@tazzel/core';
import { type Engine, PRIORITY } from '@tazzel/engine';
import { nodePlatform, startNodeEngine } from '@tazzel/engine/node';
import { allocateExrPlanes, encodeExr, type ExrChannelData, sourcesFromReport } from '@tazzel/formats';
import { Kernels } from '@tazzel/kernels';
import sharp from 'sharp';
import { benchCorrections } from './corrections.ts';
import { benchAir } from './air.ts';
import { benchDeliver, benchList } from './deliver.ts';
import { benchStart } from './start.ts';
import { benchFigures } from './figures.ts';
import { benchFocus } from './focus.ts';
import { benchGraph, oneElement, withBlurs } from './graph.ts';
import { benchLight } from './light.ts';
import { benchBrush, benchMasks } from './masks.ts';
import { compare, flattened, median, report, timed } from './measure.ts';
import { benchRenderer } from './renderer.ts';
import { benchSteps } from './steps.ts';
import { benchDocument, LAYERS, layerPixels, MODES } from './scene.ts';

const WIDTH = 4500;
const HEIGHT = 3000;
const WORKERS = 2;
const dist = new URL('../../apps/cli/dist/', import.meta.url);
const folder = mkdtempSync(join(tmpdir(), 'tazzel-bench-'));

async function flattenAgainstLibvips(engine: Engine, document: TazzelDocument): Promise<void> {
  sharp.concurrency(WORKERS);
  sharp.cache(false);
  const raw = { width: WIDTH, height: HEIGHT, channels: 4 as const };
  const layers = Array.from({ length: LAYERS }, (_, layer) => {
    const rgba = layerPixels(WIDTH, HEIGHT, layer);
    // libvips gets the masks ready-made in the alpha: it need not evaluate them.
    if (layer > 0 && layer % 2 === 0) for (let i = 3; i < rgba.length; i += 4) if (((i >> 2) % WIDTH) * 4 > WIDTH) rgba[i] = 0;
    return Buffer.from(rgba.buffer);
  });
  const names = { multiply: 'multiply', screen: 'screen', overlay: 'overlay', 'soft-light': 'soft-light', normal: 'over' } as const;
  const stack = layers.slice(1).map((input, i) => ({ input, raw, blend: names[MODES[i % MODES.length] as keyof typeof names] }));
  const result = await compare(
    () => flattened(engine, { document, kind: 'rgba8' }),
    () => sharp(layers[0], { raw }).composite(stack).raw().toBuffer(),
    3,
  );
  report(`(a) flatten ${LAYERS} layers ${WIDTH} × ${HEIGHT}, ${WORKERS} workers : libvips`, result, 0.4);
}

/** A slider step at a layer against a full evaluation at the same size. */
async function sliderSteps(engine: Engine, document: TazzelDocument): Promise<void> {
  const level = 2;
  const size = sizeAtLevel(document.size, level);
  const tiles = tilesOf(size);
  const layers = document.buildUp.picture;
  const render = async (state: TazzelDocument, focusLayerId: string | null, wanted: readonly Region[] = tiles) => engine.render({ document: state, level, tiles: wanted, focusLayerId, priority: PRIORITY.view, onTile: () => undefined });
  await render(document, null);
  let fresh = 0;
  for (const [place, index] of [['top', LAYERS - 1], ['middle', LAYERS / 2], ['bottom', 0]] as const) {
    const layer = layers[index];
    await engine.warm({ document, level, tiles, focusLayerId: layer.id });
    const steps: number[] = [];
    const full: number[] = [];
    let stepsRun = 0;
    for (let i = 0; i < 7; i++) {
      const edited = applyEdit(document, { type: 'set-layer', layerId: layer.id, patch: { opacity: 0.3 + i * 0.05 } });
      steps.push(await timed(async () => {
        stepsRun = (await render(edited, layer.id)).stepsRun;
      }));
      // Another opacity of the base changes every key, so nothing can be reused.
      const other = applyEdit(document, { type: 'set-layer', layerId: layers[0].id, patch: { opacity: 0.5 + ++fresh * 0.001 } });
      full.push(await timed(() => render(other, null)));
    }
    const ratio = median(steps) / median(full);
    const goal = place === 'top' ? ' (goal ≤ 0.25)' : '';
    console.log(`${`(b) slider step at the ${place}, ${size.width} × ${size.height} : full evaluation`.padEnd(64)} ${median(steps).toFixed(1).padStart(6)} ms ${median(full).toFixed(1).padStart(6)} ms   ratio ${ratio.toFixed(2)}${goal}, ${stepsRun / tiles.length} of ${LAYERS + 1} steps computed`);
  }
}

async function exrAgainstOiio(engine: Engine): Promise<void> {
  const kernels = await Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist))));
  const rgba = layerPixels(WIDTH, HEIGHT, 1);
  const plane = (c: number) => {
    const values = new Float32Array(WIDTH * HEIGHT);
    for (let i = 0; i < values.length; i++) values[i] = (rgba[i * 4 + c] / 255) ** 2.2;
    const half = new Uint16Array(values.length);
    kernels.toHalf(values, half);
    return half;
  };
  const window = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const channels = ['R', 'G', 'B'].map((name, c) => ({ name, type: 'f16' as const, data: plane(c) }));
  const zip = join(folder, 'picture.exr');
  writeFileSync(zip, Buffer.concat(await encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIP', channels }, nodePlatform, kernels)));
  if (process.argv.includes('--set') || process.argv.includes('--exr')) await dropToPicture(channels, kernels);
  const oiio = (threads: number, args: string[]) => void execFileSync('oiiotool', ['--threads', String(threads), ...args], { stdio: 'ignore' });
  try {
    oiio(1, ['--help']);
  } catch {
    return console.log('(c) EXR decode: oiiotool is not installed; nothing to compare with.');
  }
  const tiny = join(folder, 'tiny.exr');
  oiio(1, ['--create', '8x8', '3', '-o', tiny]);
  for (const compression of ['zip', 'piz', 'pxr24', 'b44', 'dwaa', 'dwab']) {
    const path = compression === 'zip' ? zip : join(folder, `${compression}.exr`);
    if (path !== zip) oiio(WORKERS, [zip, '--compression', compression, '-o', path]);
    await decodeAgainst(engine, path, tiny, compression.toUpperCase(), oiio);
  }
}

/** A set of twenty elements in one file, more than fits into the budget: how soon there is a picture, beside reading everything. */
async function dropToPicture(channels: readonly ExrChannelData[], kernels: Kernels): Promise<void> {
  const names = ['beauty', 'direct_lighting', 'gi', 'reflection', 'refraction', 'specular', 'self_illumination', 'background', 'diffuse_filter', 'raw_lighting', 'raw_gi', 'raw_reflection', 'shadow', 'ao', ...Array.from({ length: 6 }, (_, i) => `light_group_${i + 1}`)];
  const window = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const path = join(folder, 'set.exr');
  const parts = names.map((name) => ({ name, dataWindow: window, displayWindow: window, compression: 'ZIP' as const, channels }));
  writeFileSync(path, '');
  for (const piece of await encodeExr(parts, nodePlatform, kernels)) appendFileSync(path, piece);
  const engine = await startNodeEngine({ workers: WORKERS, workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist), budgetBytes: 1.25 * 2 ** 30 });
  try {
    const before = process.memoryUsage.rss();
    const file = { name: 'set.exr', size: statSync(path).size, handle: path };
    let sources: Source[] = [];
    const first = await timed(async () => {
      const hash = 'a'.repeat(64);
      engine.files.set(hash, file);
      let n = 0;
      sources = await engine.examine(sourcesFromReport(await engine.inspect(file), hash, () => `source-${++n}`));
      const document = addElements(emptyDocument('bench', 'bench', window), sources);
      await engine.render({ document, level: 2, tiles: tilesOf({ width: WIDTH / 4, height: HEIGHT / 4 }), onTile: () => undefined });
    });
    const held = engine.bytesHeld;
    const peak = process.memoryUsage.rss() - before;
    const all = await timed(async () => {
      for (const source of sources) await engine.card(elementDocument(addElements(emptyDocument('all', 'all', window), sources), source), {});
    });
    report(`(h) ${names.length} elements of ${WIDTH} × ${HEIGHT} in one file: first picture : every element decoded`, { ours: first, theirs: all, ratio: first / all }, 0.5);
    console.log(`    file ${(file.size / 2 ** 20).toFixed(0)} MB; held at the first picture ${(held / 2 ** 20).toFixed(0)} MB, the process grew by ${(peak / 2 ** 20).toFixed(0)} MB`);
  } finally {
    engine.pool.terminate();
    rmSync(path);
  }
}

async function decodeAgainst(engine: Engine, path: string, tiny: string, compression: string, oiio: (threads: number, args: string[]) => void): Promise<void> {
  const file = { name: 'picture.exr', size: statSync(path).size, handle: path };
  const decode = async () => {
    const [header] = (await engine.pool.run('exr-header', { file })).parts;
    const planes = allocateExrPlanes(header, ['R', 'G', 'B'], engine.options.allocateShared);
    const tasks = 8;
    const chunks = header.offsets.length;
    await Promise.all(Array.from({ length: tasks }, (_, i) => engine.pool.run('decode-exr', { file, header, planes, first: Math.floor((chunks * i) / tasks), last: Math.floor((chunks * (i + 1)) / tasks) })));
  };
  // Printing one pixel only reads the picture. Start-up is measured with a tiny file and taken off.
  const read = (from: string) => timed(async () => oiio(WORKERS, [from, '--cut', '1x1+0+0', '--printstats']));
  const ours: number[] = [];
  const theirs: number[] = [];
  await decode();
  for (let i = 0; i < 5; i++) {
    ours.push(await timed(decode));
    theirs.push((await read(path)) - (await read(tiny)));
  }
  report(`(c) decode EXR ${compression} half RGB ${WIDTH} × ${HEIGHT} : oiiotool, ${WORKERS} threads`, { ours: median(ours), theirs: median(theirs), ratio: median(ours) / median(theirs) }, compression.startsWith('DWA') || compression === 'PIZ' ? 2 : compression === 'ZIP' ? 0.5 : 1);
}

/** The rows of an engine in Node. */
async function benchRows(engine: Engine, document: TazzelDocument): Promise<void> {
  await flattenAgainstLibvips(engine, document);
  await sliderSteps(engine, document);
  await benchGraph(engine, document, await Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist)))), folder, WIDTH, HEIGHT);
  if (only !== '--graph') await exrAgainstOiio(engine);
  const held = engine.bytesHeld;
  console.log(`(d) sources held ${(held / 2 ** 20).toFixed(0)} MB: ${(held / (WIDTH * HEIGHT * (LAYERS + 1))).toFixed(2)} bytes per pixel and layer; peak of the process ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB`);
}

/** Everything that needs an engine. */
async function benchEngine(engine: Engine, inTheBrowser: boolean): Promise<void> {
  console.log('Preparing twenty layers …');
  const document = await benchDocument(engine, folder, WIDTH, HEIGHT);
  if (only !== '--memory') await benchRows(engine, document);
  if (!inTheBrowser && only !== '--memory') return;
  engine.keepOnly(new Set());
  const { inBrowser } = await import('./browser.ts');
  await inBrowser(withBlurs(document), folder);
}

/** One of these alone, or all. */
const only = ['--exr', '--masks', '--renderer', '--graph', '--corrections', '--light', '--air', '--figures', '--focus', '--deliver', '--memory', '--start'].find((flag) => process.argv.includes(flag));
const inTheBrowser = process.argv.includes('--browser');
try {
  if (only === undefined || only === '--exr' || only === '--graph' || only === '--memory') {
    const engine = await startNodeEngine({ workers: WORKERS, workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist) });
    await (only === '--exr' ? exrAgainstOiio(engine) : benchEngine(engine, inTheBrowser));
    engine.pool.terminate();
  }
  if (only === undefined || only === '--corrections') {
    const engine = await startNodeEngine({ workers: WORKERS, workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist) });
    const kernels = await Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist))));
    await benchCorrections(engine, await oneElement(engine, kernels, folder, WIDTH, HEIGHT), kernels, WIDTH, HEIGHT);
    engine.pool.terminate();
    await benchSteps('exposure');
  }
  if (only === undefined || only === '--light') {
    const engine = await startNodeEngine({ workers: WORKERS, workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist) });
    await benchLight(engine, await Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist)))), folder, WIDTH, HEIGHT);
    engine.pool.terminate();
    await benchSteps('light');
  }
  if (only === undefined || only === '--air' || only === '--figures' || only === '--focus') {
    const engine = await startNodeEngine({ workers: WORKERS, workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist) });
    const kernels = await Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist))));
    const plain = await oneElement(engine, kernels, folder, WIDTH, HEIGHT);
    if (only === undefined || only === '--focus') await benchFocus(engine, plain, kernels, folder, WIDTH, HEIGHT);
    if (only === undefined || only === '--air') await benchAir(engine, plain, kernels, folder, WIDTH, HEIGHT);
    // At half the size: figures are far from their goal, and one run would take minutes.
    if (only === undefined || only === '--figures') await benchFigures(engine, await oneElement(engine, kernels, folder, WIDTH / 2, HEIGHT / 2), kernels, folder, WIDTH / 2, HEIGHT / 2);
    engine.pool.terminate();
    if (only === undefined || only === '--air') await benchSteps('haze');
    if (only === undefined || only === '--focus') await benchSteps('f-number');
  }
  if (only === undefined || only === '--deliver') {
    const engine = await startNodeEngine({ workers: WORKERS, workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist) });
    await benchList(engine);
    engine.pool.terminate();
    await benchDeliver(await Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist)))), WIDTH, HEIGHT);
  }
  if (only === undefined || only === '--start') await benchStart();
  if (only === undefined || only === '--renderer') await benchRenderer(dist);
  if (only === undefined || only === '--masks') await benchMasks(WIDTH, HEIGHT);
  if (only === '--masks' || inTheBrowser) await benchBrush(WIDTH, HEIGHT);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
process.exit(0);
