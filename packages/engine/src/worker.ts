/** The worker's side: turns requests into results. Knows no browser and no Node; the platform is handed in. */
import { sha256 } from '@noble/hashes/sha2.js';
import { addCoverage, beginCoverage, bentCoverage, colourMatch, cutOut, softenCut, contentFacts, coveredIds, Drawing, evaluateMask, Evaluator, findPalette, type Graph, graphFor, type GraphInputs, hashesOfColors, measure, joinedMeasures, measureLight, type Mixture, paintedPlane, type Pixels, type Plane, readLight, sampledRows, samplePixels, scopesOf, unmix } from '@tazzel/core';
import { type ByteSource, decodeExrChunks, decodeExrRows, decodePicture, encodeExr, encodeGreyPng, inspectFile, flatFormatById, type Platform, readExrFile, readProject } from '@tazzel/formats';
import { Kernels } from '@tazzel/kernels';
import { toWire } from './errors.ts';
import { graphId } from './drawer.ts';
import { convertLight, joinLuminance } from './light.ts';
import { outlinePicture, maskPicture } from './overlays.ts';
import { type Draw, type FileRef, type Job, PROTOCOL_VERSION, type RequestMessage, type RequestOf, type ResponseMessage, type ResponseOf, type StoredTile, type TaskKind } from './protocol.ts';
import { channelRows, hashIndex, rowMeans, seenBehind } from './rows.ts';
import { glowOf, rebuildFigures, rebuildSums, shiftErrors } from './rebuild.ts';
import { resamplePlane } from './resample.ts';
import { resizePicture } from './resize.ts';
import { reducePlanes } from './reduce.ts';
import { writeOutput } from './output.ts';
import { pixelsOf } from './tile-store.ts';

export interface WorkerPlatform extends Platform {
  open(file: FileRef): ByteSource;
  allocateShared(byteLength: number): ArrayBufferLike;
  /** A part of a file as one of its own. */
  part(file: FileRef, name: string, offset: number, length: number): FileRef;
  /** Bytes as a file. */
  keep(name: string, bytes: Uint8Array): FileRef;
}

/** Answers messages. `send` gets the buffers that may be transferred. */
export function serveWorker(platform: WorkerPlatform, send: (message: ResponseMessage, transfer: ArrayBuffer[]) => void): (message: RequestMessage) => Promise<void> {
  const state = new WorkerState(platform);
  let started: Promise<unknown> = Promise.resolve();
  return async ({ id, kind, request }) => {
    try {
      // What is asked while the kernels are still being made ready waits for them.
      if (kind !== 'start') await started;
      const answer = state.handlers[kind](request as never, (progress) => send({ id, progress }, []));
      if (kind === 'start') started = Promise.resolve(answer).catch(() => undefined);
      const response = await answer;
      send({ id, response }, transferable(response));
    } catch (error) {
      send({ id, error: toWire(error, subjectOf(request)) }, []);
    }
  };
}

/** Pixels for the screen and encoded files leave the worker without a copy. */
function transferable(response: unknown): ArrayBuffer[] {
  const candidates = Array.isArray(response) ? response : [(response as { rgba?: unknown } | null)?.rgba];
  const buffers = candidates.map((part) => (ArrayBuffer.isView(part) ? part.buffer : null));
  return [...new Set(buffers)].filter((buffer) => buffer instanceof ArrayBuffer);
}

/** The file that a request is about, for what went wrong with it. */
function subjectOf(request: unknown): string {
  const name = (request as { file?: { name?: unknown } } | null)?.file?.name;
  return typeof name === 'string' ? name : '';
}

class WorkerState {
  #kernels: Kernels | null = null;
  #evaluator: Evaluator | null = null;
  readonly #jobs = new Map<number, Job & { readonly graphs: Map<string, Graph> }>();

  constructor(readonly platform: WorkerPlatform) {}

  get kernels(): Kernels {
    if (!this.#kernels) throw new Error('The worker was not started.');
    return this.#kernels;
  }

  readonly handlers: { [K in TaskKind]: (request: RequestOf<K>, report: (share: number) => void) => Promise<ResponseOf<K>> | ResponseOf<K> } = {
    start: async ({ version, module }) => {
      if (version !== PROTOCOL_VERSION) throw new Error(`Protocol ${version} was asked for, ${PROTOCOL_VERSION} is spoken.`);
      this.#kernels = await Kernels.create(module as never);
      this.#evaluator = new Evaluator(this.#kernels);
      return null;
    },
    inspect: ({ file }) => inspectFile(this.platform.open(file)),
    sha256: ({ file }, report) => hashOfFile(this.platform.open(file), this.platform, AT_ONCE_BYTES, report),
    'read-project': async ({ file }, onProgress) => {
      const source = this.platform.open(file);
      const { document, files, problems } = await readProject(source, { hash: (part) => hashOfFile(part, this.platform), onProgress });
      const name = (hash: string) => document.sources.find((each) => each.file.hash === hash)?.file.name ?? hash;
      return { document, problems, files: new Map([...files].map(([hash, part]) => [hash, 'bytes' in part ? this.platform.keep(name(hash), part.bytes) : this.platform.part(file, name(hash), part.offset, part.length)])) };
    },
    paint: ({ base, strokes, filled, size, level }) => ({ type: 'f32', ...size, data: paintedPlane(strokes, filled, size, level, base ? (base.data as Float32Array) : null, this.platform.allocateShared) }),
    forget: () => {
      this.#jobs.clear();
      return null;
    },
    'exr-header': ({ file }) => readExrFile(this.platform.open(file)),
    'decode-exr': async ({ file, header, planes, first, last }) => {
      await decodeExrChunks(this.platform.open(file), header, planes, first, last, this.kernels);
      return null;
    },
    'decode-picture': ({ file, format, wanted, managed }) => decodePicture(this.platform.open(file), format, wanted, managed, this.platform, this.platform.allocateShared),
    'convert-light': ({ color, matrix }) => {
      convertLight(color, matrix);
      return null;
    },
    'join-luminance': ({ color, place, sampling, weights }) => joinLuminance(color, place, sampling, weights, this.platform.allocateShared),
    resample: ({ planes, size, keepsValues }) => planes.map((plane) => resamplePlane(plane, size, keepsValues, this.platform.allocateShared)),
    reduce: ({ planes, keepsValues, levels }) => planes.map((plane) => reducePlanes(plane, keepsValues, levels, this.kernels, this.platform.allocateShared)),
    content: ({ color, alpha, rows }) => content(color, alpha, rows),
    'content-exr': async ({ file, header, colorChannels, alphaChannel }) => {
      const names = alphaChannel === null ? colorChannels : [...colorChannels, alphaChannel];
      const rows = sampledRows(header.dataWindow.height).filter((_, i) => i % 4 === 2);
      const planes = await decodeExrRows(this.platform.open(file), header, names, rows.flatMap((row) => [row - 1, row]), this.kernels);
      const plane = (name: string) => planes.get(name) as Plane;
      return content(colorChannels.map(plane), alphaChannel === null ? null : plane(alphaChannel), rows);
    },
    glow: ({ color, factor }) => glowOf(color, factor, this.platform.allocateShared),
    palette: ({ planes, encoding, isLossy }) => {
      const { colors, mixture } = findPalette(planes, encoding, isLossy);
      return { colors, mixture: this.#shareMixture(mixture) };
    },
    unmix: ({ planes, keys, isLossy }) => this.#shareMixture(unmix(planes, keys, null, isLossy)),
    'begin-coverage': ({ planes, sources }) => {
      const coverage = beginCoverage(planes, sources);
      return { ...this.#shareMixture(coverage), hashes: coverage.hashes };
    },
    'add-coverage': ({ coverage, planes, place }) => addCoverage(coverage, planes, place),
    'coverage-index': ({ coverage, hashes }) => ({ width: coverage.width, height: coverage.height, data: this.#shared(hashIndex(coverage, hashes)) }),
    'covered-ids': ({ coverage }) => coveredIds(coverage),
    'hashes-of-colors': ({ index, count, coverage }) => hashesOfColors(index.data, count, coverage),
    'channel-rows': ({ planes }) => {
      const { index, areas } = channelRows(planes);
      return { index: { ...index, data: this.#shared(index.data) }, areas };
    },
    'row-means': ({ index, count, view }) => rowMeans(index, count, view),
    behind: ({ front, back, row, count }) => seenBehind(front, back, row, count),
    mask: ({ mask, inputs, guideId }) => {
      const plane = evaluateMask(mask, inputs, guideId);
      return { ...plane, data: this.#shared(plane.data as Uint8Array | Uint16Array) };
    },
    'bend-mask': ({ plane, bends, level }) => {
      const bent = bentCoverage(plane, bends, level);
      return { ...bent, data: this.#shared(bent.data as Uint8Array | Uint16Array) };
    },
    job: ({ job, keep }) => {
      for (const id of this.#jobs.keys()) if (!keep.includes(id)) this.#jobs.delete(id);
      this.#jobs.set(job.id, { ...job, graphs: new Map() });
      return null;
    },
    tile: ({ draw }) => {
      const { pixels, stepsRun } = this.#draw(draw);
      const rgba = new Uint8ClampedArray(draw.region.width * draw.region.height * 4);
      this.kernels.packBytes(pixels, rgba, false);
      return { rgba, stepsRun };
    },
    keep: ({ draw, into }) => {
      const { pixels, stepsRun } = this.#draw(draw);
      new Float32Array(into).set(pixels.planes);
      return { opaque: pixels.opaque, stepsRun };
    },
    probe: ({ draw }) => meansOf(this.#draw(draw).pixels.planes),
    output: ({ draw, window, form, output }) => {
      const { pixels } = this.#draw(draw);
      writeOutput(pixels, window, form, output, this.kernels);
      return { opaque: pixels.opaque };
    },
    measure: ({ pixels, scale, mask }) => measure(new Float32Array(pixels), scale, mask),
    'measure-light': ({ light, filter, size }) => measureLight(readLight(light), filter && readLight(filter), size),
    'join-lights': ({ groups }) => joinedMeasures(groups),
    'cut-out': ({ pixels, size, marks, fromEdges }) => new Uint8Array(cutOut(new Uint8Array(pixels), size, marks, fromEdges)),
    'soften-cut': ({ cut, small, pixels, size }) => {
      softenCut(cut, new Uint8Array(small.pixels), small.size, new Uint8Array(pixels), size);
      return null;
    },
    match: ({ from, to }) => colourMatch(samplePixels(new Float32Array(from.pixels), from.mask), samplePixels(new Float32Array(to.pixels), to.mask)),
    scopes: ({ pixels, size, scale }) => scopesOf(new Float32Array(pixels), size, scale),
    'encode-mask': ({ mask, bits }) => {
      const { width, height, data, type } = mask;
      const scaled = (type === 'u16') === (bits === 16) ? (data as Uint8Array | Uint16Array) : bits === 16 ? Uint16Array.from(data, (v) => v * 257) : Uint8Array.from(data, (v) => Math.round(v / 257));
      return encodeGreyPng({ width, height, data: scaled }, this.platform);
    },
    'encode-masks': ({ masks }) => {
      const [{ plane: { width, height } }] = masks;
      const window = { x: 0, y: 0, width, height };
      const channels = masks.map(({ name, plane }) => {
        const halves = new Uint16Array(plane.data.length);
        this.kernels.toHalf(Float32Array.from(plane.data, (v) => v / (plane.type === 'u16' ? 65535 : 255)), halves);
        return { name, type: 'f16' as const, data: halves };
      });
      return encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIP', channels, notes: { software: 'Tazzel' } }, this.platform, this.kernels);
    },
    resize: (request) => {
      resizePicture(request, this.kernels);
      return null;
    },
    'write-picture': ({ format, values, picture }) => {
      const writer = flatFormatById(format);
      if (!writer) throw new Error(`There is no format ${format} for one picture.`);
      return writer.write(picture, values, this.platform, this.kernels);
    },
    'rebuild-sums': ({ step, ...request }) => rebuildSums(request, step, this.kernels),
    'rebuild-figures': ({ weights, ...request }) => rebuildFigures(request, weights, this.kernels),
    'rebuild-shifts': (request) => shiftErrors(request, this.kernels),
    'mask-picture': (request) => ({ rgba: maskPicture(request) }),
    outline: (request) => ({ rgba: outlinePicture(request) }),
  };

  #job(id: number): Job & { readonly graphs: Map<string, Graph> } {
    const job = this.#jobs.get(id);
    if (!job) throw new Error(`Job ${id} is not known here.`);
    return job;
  }

  /** The same numbers in shared memory. */
  #shared<T extends Uint8Array | Uint16Array | Uint32Array>(data: T): T {
    const copy = new (data.constructor as new (buffer: ArrayBufferLike) => T)(this.platform.allocateShared(data.byteLength));
    copy.set(data);
    return copy;
  }

  #shareMixture({ width, height, index, edges, each, parts, shares }: Mixture): Mixture {
    return { width, height, each, index: this.#shared(index), edges: this.#shared(edges), parts: this.#shared(parts), shares: this.#shared(shares) };
  }

  #draw({ jobId, target, picture, region, kept, start }: Draw): { pixels: Pixels; stepsRun: number } {
    // What the last task has made was sent or copied.
    this.kernels.arena.release(0);
    const job = this.#job(jobId);
    const id = graphId(job, target);
    const graph = job.graphs.get(id) ?? graphFor(job.plan, job.level, target);
    job.graphs.set(id, graph);
    const tiles = new Map(kept.map((tile) => [`${tile.picture} ${tile.region.x} ${tile.region.y}`, tile]));
    const inputs: GraphInputs = {
      source: (sourceId) => job.sources[sourceId],
      mask: (key) => job.masks[key],
      kept: (of, { x, y }) => pixelsOf(tiles.get(`${of} ${x} ${y}`) as StoredTile),
    };
    const drawing = new Drawing(graph, this.kernels, this.#evaluator as Evaluator, inputs);
    const pixels = drawing.pixels(picture, region, start && { steps: start.steps, pixels: pixelsOf(start) });
    return { pixels, stepsRun: drawing.stepsRun };
  }
}

/** Up to this size a file is hashed in one go, by the platform's own code. */
const AT_ONCE_BYTES = 2 ** 27;
const SLICE_BYTES = 2 ** 23;

/** Lower-case hex. A large file passes through slice by slice and is never in memory as a whole. */
export async function hashOfFile(source: ByteSource, platform: Pick<Platform, 'sha256'>, atOnce = AT_ONCE_BYTES, report: (share: number) => void = () => undefined): Promise<string> {
  if (source.size <= atOnce) return platform.sha256(await source.read(0, source.size));
  const hash = sha256.create();
  for (let at = 0; at < source.size; at += SLICE_BYTES) {
    hash.update(await source.read(at, Math.min(SLICE_BYTES, source.size - at)));
    report(at / source.size);
  }
  return Array.from(hash.digest(), (byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** The mean of each of four planes that lie one after the other. */
function meansOf(planes: Float32Array): [number, number, number, number] {
  const area = planes.length / 4;
  const mean = (plane: number) => planes.subarray(plane * area, (plane + 1) * area).reduce((sum, value) => sum + value, 0) / area;
  return [mean(0), mean(1), mean(2), mean(3)];
}

function content(color: readonly Plane[], alpha: Plane | null, rows: readonly number[]) {
  return { facts: contentFacts(color, rows), lightOutsideAlpha: alpha ? lightOutsideAlpha(color, alpha, rows) : 0 };
}

function lightOutsideAlpha(color: readonly Plane[], alpha: Plane, rows: readonly number[]): number {
  let count = 0;
  // Bits of zero are zero in every sample type, and a half above 0x1000 is more than 0.0005.
  for (const row of rows) {
    for (let i = row * alpha.width; i < (row + 1) * alpha.width; i++) if (alpha.data[i] === 0 && color.some((plane) => plane.data[i] > (plane.type === 'f16' ? 0x1000 : 0.0005))) count++;
  }
  return count / (rows.length * alpha.width);
}
