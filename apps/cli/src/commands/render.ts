import { existsSync, mkdtempSync, readdirSync } from 'node:fs';
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, isAbsolute, join, relative, resolve } from 'node:path';
import { bitsOf, chooseElements, defaultRequest, type Denoise, ELEMENT_SETS, elementHints, elementRows, kilnYard, type Layout, LAYOUTS, type Renderer, type RenderRequest, type SaveSettings, type SceneDescription, parseSceneFile } from '@tazzel/renderer';
import { startNodeRenderer } from '@tazzel/renderer/node';
import { type Command, type Invocation, text, UsageError } from '../command.ts';
import { writeParts } from '../files.ts';
import { readSkyPicture } from '../sky-picture.ts';

const BUILT_IN = 'kiln-yard';
const DENOISES: readonly Denoise[] = ['none', 'beauty', 'all'];

export const render: Command = {
  name: 'render',
  summary: 'Renders a scene with the stand-in renderer and writes its elements.',
  usage: `render ${BUILT_IN}|scene.json --camera NAME --elements rebuild --size 1500x1000 --noise 2 --time 600 --out DIR`,
  options: {
    camera: { type: 'string', value: 'NAME', help: 'The camera; the first of the scene by default.' },
    elements: { type: 'string', value: 'NAME,…', help: `Elements or sets (${ELEMENT_SETS.join(', ')}), rebuild by default. Elements: ${elementRows.map(({ id }) => id).join(', ')}.` },
    size: { type: 'string', value: 'WIDTHxHEIGHT', help: 'Size in pixels, 1500x1000 by default.' },
    region: { type: 'string', value: 'X,Y,WIDTH,HEIGHT', help: 'Only this part of the picture.' },
    noise: { type: 'string', value: 'PERCENT', help: 'Done when the noise is below this; 4 by default unless time or samples are given.' },
    time: { type: 'string', value: 'SECONDS', help: 'Done after this time at the latest.' },
    samples: { type: 'string', value: 'N', help: 'At most this many samples for each pixel.' },
    seed: { type: 'string', value: 'N', help: 'The same seed gives the same picture, 1 by default.' },
    fog: { type: 'boolean', help: 'The fog alone, in front of black surfaces, as a set of its own.' },
    denoise: { type: 'string', value: DENOISES.join('|'), help: 'Take the noise out of nothing, the denoised beauty, or every element (the default).' },
    'ao-reach': { type: 'string', value: 'METRES', help: 'Reach of ambient occlusion, 2 by default.' },
    depth: { type: 'string', value: 'NEAR,FAR', help: 'Range of the normalised depth in metres; suggested by the scene if left out.' },
    layout: { type: 'string', value: LAYOUTS.join('|'), help: 'Files: one EXR of parts (the default), one EXR of layers, an EXR or a PNG for each element.' },
    bits: { type: 'string', value: '8|16|32', help: 'EXR: 16 or 32. PNG: 8 or 16.' },
    workers: { type: 'string', value: 'N', help: 'Threads; as many as the machine has by default. The picture does not depend on it.' },
    out: { type: 'string', value: 'DIR', help: 'Where the files go. Names are numbered; nothing is replaced.' },
  },
  run: async (invocation) => {
    const out = text(invocation, 'out');
    if (!out || invocation.files.length !== 1) throw new UsageError(`Name one scene and a folder: render ${BUILT_IN} --out renders`);
    const settings = saveSettings(invocation);
    await mustBeWritable(out);
    const scene = await readSceneFile(invocation.files[0]);
    const workers = count(invocation, 'workers');
    const renderer = await startNodeRenderer({ workerUrl: new URL('./render-worker.mjs', import.meta.url), kernelsUrl: new URL('./kernels.wasm', import.meta.url), ...(workers === null ? {} : { workers }) });
    try {
      const complete = await renderer.openScene({ description: scene });
      await renderAndSave(renderer, requestFrom(invocation, complete), settings, out, invocation);
    } finally {
      renderer.terminate();
    }
  },
};

async function renderAndSave(renderer: Renderer, request: RenderRequest, settings: SaveSettings, out: string, invocation: Invocation): Promise<void> {
  let last = 0;
  const job = renderer.begin(request, {
    onProgress: ({ stage, share, secondsLeft, samplesPerPixel, noisePercent }) => {
      if (invocation.json || !process.stderr.isTTY || Date.now() - last < 200) return;
      last = Date.now();
      const left = secondsLeft === null ? '' : `, ${Math.ceil(secondsLeft)} s left`;
      process.stderr.write(`\r${stage} ${Math.round(share * 100)} %, ${samplesPerPixel.toFixed(1)} samples${noisePercent === null ? '' : `, noise ${noisePercent.toFixed(1)} %`}${left}   `);
    },
  });
  // The first Ctrl+C keeps what is there, the second ends at once.
  const stop = () => {
    if (!invocation.json) process.stderr.write('\nStopping; what there is will be saved.\n');
    job.stop();
  };
  process.once('SIGINT', stop);
  await job.finished;
  process.off('SIGINT', stop);
  if (process.stderr.isTTY && !invocation.json) process.stderr.write('\n');
  await mkdir(out, { recursive: true });
  const present = readdirSync(out);
  const stem = job.fileStem((candidate) => present.some((name) => name.startsWith(candidate)));
  const { files, leftOut } = await job.save(job.request.elements, settings, stem);
  for (const sentence of leftOut) invocation.say(sentence);
  const written: { file: string; bytes: number }[] = [];
  let folder = out;
  for (const { name, parts } of files) {
    let path = join(folder, name);
    if (existsSync(path)) throw new Error(`${path} exists already. Choose another folder with --out.`);
    let bytes: number;
    try {
      bytes = await writeParts(path, parts);
    } catch (error) {
      // A finished render is not lost because its folder is full or gone.
      if (folder !== out) throw error;
      folder = mkdtempSync(join(tmpdir(), 'tazzel-render-'));
      invocation.problem(`${path} could not be written (${(error as Error).message}). The elements go to ${folder}; move them from there.`);
      path = join(folder, name);
      bytes = await writeParts(path, parts);
    }
    written.push({ file: path, bytes });
    invocation.say(`${path}: ${(written[written.length - 1].bytes / 2 ** 20).toFixed(1)} MB`);
  }
  const { seconds, samplesPerPixel, noisePercent } = job.progress;
  invocation.say(`${request.width} × ${request.height}, ${samplesPerPixel.toFixed(1)} samples, noise ${noisePercent?.toFixed(1) ?? '–'} %, EV ${job.exposureEv?.toFixed(1) ?? '–'}, ${seconds.toFixed(0)} s${job.endedEarly ? ', ended before the noise limit' : ''}`);
  invocation.result({ files: written, leftOut, elements: job.request.elements, width: request.width, height: request.height, samplesPerPixel, noisePercent, seconds, exposureEv: job.exposureEv, endedEarly: job.endedEarly, hints: elementHints(renderer.scene) });
}

/** Said before hours of rendering, not after. @throws Error with a sentence */
async function mustBeWritable(folder: string): Promise<void> {
  const probe = join(folder, `.tazzel-${process.pid}`);
  try {
    await mkdir(folder, { recursive: true });
    await writeFile(probe, '');
  } catch (error) {
    throw new Error(`--out ${folder}: nothing can be written there (${(error as NodeJS.ErrnoException).code ?? (error as Error).message}). Choose another folder.`);
  } finally {
    await rm(probe, { force: true }).catch(() => undefined);
  }
}

async function readSceneFile(path: string): Promise<unknown> {
  if (path === BUILT_IN) return kilnYard;
  const content = await readFile(path).catch(() => {
    throw new Error(`${path}: there is no such scene file, and no built-in scene of that name. The built-in scene is ${BUILT_IN}.`);
  });
  const parsed = parseSceneFile(content, path);
  const scene = parsed as Partial<SceneDescription> | null;
  const sky = scene?.sky as { kind?: unknown; file?: unknown } | undefined;
  // In files the picture of the sky is a file beside the scene.
  if (sky?.kind === 'image' && typeof sky.file === 'string') {
    const { file, ...rest } = sky;
    const beside = resolve(dirname(path), file);
    if (relative(dirname(resolve(path)), beside).startsWith('..') || isAbsolute(file)) throw new Error(`${path}: the sky “${file}” does not lie beside the scene. Copy the picture next to the scene file and name it without a path.`);
    return { ...scene, sky: { ...rest, ...(await readSkyPicture(beside)) } };
  }
  return parsed;
}

function requestFrom(invocation: Invocation, scene: SceneDescription): RenderRequest {
  const size = /^(\d+)x(\d+)$/i.exec(text(invocation, 'size') ?? `${defaultRequest.width}x${defaultRequest.height}`);
  if (!size) throw new UsageError(`--size ${text(invocation, 'size')}: expected WIDTHxHEIGHT, as in 1500x1000.`);
  const [noise, seconds, samples] = [amount(invocation, 'noise'), amount(invocation, 'time'), count(invocation, 'samples')];
  const region = numbers(invocation, 'region', 4);
  const depth = numbers(invocation, 'depth', 2);
  if (depth && !(depth[0] < depth[1])) throw new UsageError(`--depth ${depth.join(',')}: the near end must be smaller than the far end.`);
  const fog = invocation.values.fog === true;
  return {
    camera: text(invocation, 'camera') ?? scene.cameras[0].name,
    width: Number(size[1]),
    height: Number(size[2]),
    elements: chooseElements((text(invocation, 'elements') ?? (fog ? 'everything' : 'rebuild')).split(',').map((name) => name.trim()), fog),
    quality: { noisePercent: noise ?? (seconds === null && samples === null ? defaultRequest.quality.noisePercent : null), seconds, samples },
    seed: count(invocation, 'seed') ?? defaultRequest.seed,
    fog,
    region: region ? { x: region[0], y: region[1], width: region[2], height: region[3] } : null,
    denoise: oneOf(invocation, 'denoise', DENOISES) ?? defaultRequest.denoise,
    aoMetres: amount(invocation, 'ao-reach') ?? defaultRequest.aoMetres,
    depthRange: depth ? { near: depth[0], far: depth[1] } : null,
  };
}

function saveSettings(invocation: Invocation): SaveSettings {
  const layout: Layout = oneOf(invocation, 'layout', LAYOUTS) ?? 'multi-part';
  const bits = count(invocation, 'bits') ?? bitsOf(layout)[0];
  const found = bitsOf(layout).find((one) => one === bits);
  if (!found) throw new UsageError(`--bits ${bits}: ${layout} has ${bitsOf(layout).join(' or ')}.`);
  return { layout, bits: found, clean: (text(invocation, 'denoise') ?? defaultRequest.denoise) === 'all' };
}

function oneOf<T extends string>(invocation: Invocation, name: string, allowed: readonly T[]): T | null {
  const value = text(invocation, name);
  if (value === undefined) return null;
  const found = allowed.find((one) => one === value);
  if (!found) throw new UsageError(`--${name} ${value}: expected one of ${allowed.join(', ')}.`);
  return found;
}

function amount(invocation: Invocation, name: string): number | null {
  const value = text(invocation, name);
  if (value === undefined) return null;
  if (!(Number(value) > 0)) throw new UsageError(`--${name} ${value}: expected a number above 0.`);
  return Number(value);
}

function count(invocation: Invocation, name: string): number | null {
  const value = amount(invocation, name);
  if (value !== null && !Number.isInteger(value)) throw new UsageError(`--${name} ${value}: expected a whole number.`);
  return value;
}

function numbers(invocation: Invocation, name: string, length: number): number[] | null {
  const value = text(invocation, name);
  if (value === undefined) return null;
  const found = value.split(',').map(Number);
  if (found.length !== length || found.some((one) => !(one >= 0))) throw new UsageError(`--${name} ${value}: expected ${length} numbers, as in ${Array.from({ length }, (_, i) => (i + 1) * 10).join(',')}.`);
  return found;
}
