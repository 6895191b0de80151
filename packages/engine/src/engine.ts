/**
 * Documents to pixels, asked for in tiles, cards, single values or whole files. Runs on the interface thread and only
 * arranges; all computing is done by the workers.
 */
import { analysisLevel, type Bend, bendsAround, bentKey, cardPlan, type ColourMatch, type Cut, cutRegion, depthSource, findMask, findMaterial, findSource, groupsOf, levelWithin, type LightMeasure, type LightMeasures, lightOf, type Mask, maskKey, type MaskProblem, type MaskUse, type MaskView, type Measure, partOf, type Material, type MaterialKind, type Plane, type PlanOptions, readManifest, readOf, type Region, resultOf, sampleReader, type Scale, scopeLevel, type Scopes, type Size, type Source, sizeAtLevel, type Target, targetIn, targetKey, type TazzelDocument, usedSourceIds, withoutPart, CoreError, type KeptValues, LIMITS, type FilterId, sizeOfWidth, stripsOf } from '@tazzel/core';
import { deliverParts } from './deliver-parts.ts';
import { deliverStack } from './deliver-stack.ts';
import { type FileReport, pictureFormatById, pictureFormats } from '@tazzel/formats';
import { Cancelled, EngineError } from './errors.ts';
import { PRIORITY, type TaskOptions, type WorkerPool } from './pool.ts';
import { type FileRef, type Job, OUTPUT_BYTES, type OutputForm, type OutputKind, type ProjectReport } from './protocol.ts';
import { allDone } from './pool.ts';
import { Drawer } from './drawer.ts';
import { sideBySide } from './side-by-side.ts';
import { JobStore } from './job-store.ts';
import { blocksOf, bandsOf } from './regions.ts';
import { type FlatPicture, FlatPictures, OutputMemory } from './outputs.ts';
import { TileStore } from './tile-store.ts';
import { DEFAULT_BUDGET, SourceStore } from './source-store.ts';
import { type MadeMask, MaskStore } from './mask-store.ts';
import { checkRebuild, type RebuildOptions, type RebuildResult } from './rebuild-check.ts';
import { type ExamineOptions, SourceExaminer } from './examine.ts';

export interface EngineOptions {
  readonly allocateShared: (byteLength: number) => ArrayBufferLike;
  /** Decoded pixels to keep at most; what the picture on the screen needs is kept in any case. */
  readonly budgetBytes?: number;
  /** Kept pictures at most, as far as none of them is in use. */
  readonly keptBytes?: number;
  /** A worker was lost and replaced; the sentence says so. */
  readonly onRestart?: (sentence: string) => void;
}

export interface ViewRequest {
  readonly document: TazzelDocument;
  readonly level: number;
  /** Tiles of the level, in the order in which they are wanted. */
  readonly tiles: readonly Region[];
  readonly options?: PlanOptions;
  /** The layer whose parameters are about to change: the result below it is kept. */
  readonly focusLayerId?: string | null;
  /** Shows the picture by a way of reading it. */
  readonly reading?: string | null;
  readonly signal?: AbortSignal;
  readonly priority?: number;
  readonly onTile: (region: Region, rgba: Uint8ClampedArray<ArrayBuffer>) => void;
}

export interface ViewResult {
  readonly problems: readonly string[];
  /** Steps that were computed, over all tiles. */
  readonly stepsRun: number;
}

export interface MeasureRequest {
  readonly options?: PlanOptions;
  readonly scale: Scale;
  /** Only what it covers counts. */
  readonly mask?: MaskUse | null;
  readonly signal?: AbortSignal;
}

/** Light groups of a document, in the order in which they were measured. */
export interface MeasuredLights {
  readonly sourceIds: readonly string[];
  readonly measures: LightMeasures;
}

/** Pixels of a document's picture or light. */
export interface MatchSample {
  readonly document: TazzelDocument;
  readonly mask: MaskUse | null;
}

export interface DeliverRequest {
  readonly document: TazzelDocument;
  /** By its id; `png` by default. */
  readonly format?: string;
  /** Of its parameters; defaults for what is missing. */
  readonly values?: KeptValues;
  /** Another width, in the same proportions, filtered from the full size; instead of a level. */
  readonly resize?: { readonly width: number; readonly filter: FilterId };
  readonly level?: number;
  /** In other proportions. */
  readonly cut?: Cut | null;
  readonly upto?: string;
  readonly signal?: AbortSignal;
  readonly onProgress?: (share: number) => void;
  /** Pixels of the same document that were delivered in another form a moment ago: what is the same is not computed again. */
  readonly shared?: FlatPictures;
}

export interface PixelValues {
  /** Scene light under the tone line, straight. */
  readonly light: readonly number[];
  /** The finished picture's 8-bit codes. */
  readonly codes: readonly number[];
  /** 0 if these are the values of the pixel itself, n if they are the mean of 2ⁿ × 2ⁿ pixels. */
  readonly level: number;
}

/** Outputs under way at a time: enough that a worker never waits, few enough that kept tiles are read soon. */
const OUTPUTS_PER_WORKER = 4;
const CARD_SIDE = 256;
const MEASURES_KEPT = 24;
/** Longest side of the pictures that are matched, at most. */
const MATCHED_SIDE = 512;

export class Engine {
  readonly files = new Map<string, FileRef>();
  readonly #manifests = new Map<string, string>();
  readonly #store: SourceStore;
  readonly #jobs: JobStore;
  readonly #maskStore: MaskStore;
  readonly #examiner: SourceExaminer;
  readonly #tiles: TileStore;
  readonly #outputs: OutputMemory;
  readonly #drawer: Drawer;
  readonly #measures = new Map<string, Promise<Measure>>();

  constructor(
    readonly pool: WorkerPool,
    readonly options: EngineOptions,
  ) {
    this.#store = new SourceStore(pool, this.files, this.#allocate, options.budgetBytes ?? DEFAULT_BUDGET, () => this.#jobs.forgetIdle());
    this.#tiles = new TileStore(this.#allocate, options.keptBytes);
    this.#outputs = new OutputMemory(this.#allocate);
    this.#drawer = new Drawer(pool, this.#tiles);
    this.#maskStore = new MaskStore(pool, this.#store, (...request) => this.#pictureAfter(...request), this.#manifests);
    this.#jobs = new JobStore(pool, this.#store, this.#maskStore);
    this.#examiner = new SourceExaminer(pool, this.#store);
    pool.configure({
      // A worker that takes the place of another one must know the jobs whose tiles may be asked of it.
      standing: () => this.#jobs.known().map((job) => ({ kind: 'job', request: { job, keep: this.#jobs.known().map(({ id }) => id) } })),
      onRestart: (sentence) => options.onRestart?.(sentence),
      onShortage: () => this.#giveBack(),
    });
  }

  readonly #allocate = (byteLength: number): ArrayBufferLike => {
    try {
      return this.options.allocateShared(byteLength);
    } catch {
      this.#giveBack();
      throw new EngineError('out-of-memory', `There is not enough memory for another ${Math.ceil(byteLength / 2 ** 20)} MB. Close other documents and tabs, or use fewer or smaller elements.`);
    }
  };

  /** Memory is short: everything goes that can be computed or read again. */
  #giveBack(): void {
    this.#jobs.forgetIdle();
    this.#store.evictIdle();
    this.#maskStore.forget();
    this.#tiles.forget();
    this.#outputs.forget();
  }

  /** Bytes of decoded sources that are held now. */
  get bytesHeld(): number {
    return this.#store.bytesHeld;
  }

  /** Bytes of kept pictures. */
  get keptBytes(): number {
    return this.#tiles.bytesHeld;
  }

  inspect(file: FileRef, signal?: AbortSignal): Promise<FileReport> {
    return this.pool.run('inspect', { file }, { signal, leaveAtOnce: true });
  }

  /** The SHA-256 of a file. */
  hash(file: FileRef, signal?: AbortSignal, onProgress?: (share: number) => void): Promise<string> {
    return this.pool.run('sha256', { file }, { signal, onProgress, leaveAtOnce: true });
  }

  /** What a project file holds; nothing of it is opened here. @throws FormatError, CoreError, Cancelled */
  readProject(file: FileRef, signal?: AbortSignal, onProgress?: (share: number) => void): Promise<ProjectReport> {
    return this.pool.run('read-project', { file }, { signal, onProgress, leaveAtOnce: true });
  }

  /** Looks into the sources of one or several files: roles that their names do not tell, damage, copies. @throws FormatError */
  examine(sources: readonly Source[], options: ExamineOptions = {}): Promise<Source[]> {
    return this.#examiner.examine(sources, options);
  }

  /** The same for many files side by side; in the place of a file that cannot be read stands why. */
  examineEach(files: readonly (readonly Source[])[], options: ExamineOptions & { onDone?: (file: number) => void } = {}): Promise<(Source[] | Error)[]> {
    return this.#examiner.examineEach(files, options);
  }

  /** Names of a coverage matte that lie in a file beside it. False if the text is no such list. */
  takeManifest(fileName: string, text: string): boolean {
    if (Object.keys(readManifest(text) ?? {}).length === 0) return false;
    this.#manifests.set(fileName, text);
    return true;
  }

  /** The rows of the schedule that a picture of IDs or a matte holds; `beside` are the other elements of its set. @throws CoreError `too-many-colours` */
  findMaterials(source: Source, beside: readonly Source[] = []): Promise<Material[]> {
    return this.#maskStore.findMaterials(source, beside);
  }

  /** The material schedule of a set of elements; pictures of IDs that cannot be read are named. */
  findSchedule(sources: readonly Source[]): Promise<{ materials: Material[]; problems: string[] }> {
    return this.#maskStore.findSchedule(sources);
  }

  /** Where a material is seen through others or mirrored in them; empty if the render does not say. */
  seenBehind(document: TazzelDocument, material: Material): Promise<{ front: Material; area: number }[]> {
    return this.#maskStore.seenBehind(document, material);
  }

  /** Numbers of an element at a pixel of the picture, as its channels hold them; null beside it. */
  async valuesAt(source: Source, x: number, y: number): Promise<number[] | null> {
    const view = await this.#store.view(source, 0);
    const { width, height } = view.color[0];
    const [sx, sy] = [x - view.x, y - view.y];
    if (sx < 0 || sy < 0 || sx >= width || sy >= height) return null;
    return view.color.map((plane) => sampleReader(plane)(sy * width + sx) * source.scale + source.offset);
  }

  /** Which material or object lies at a pixel of the picture; null where none does or the index is not there yet. */
  materialAt(document: TazzelDocument, x: number, y: number, kind: MaterialKind = 'material'): Material | null {
    return this.#maskStore.materialAt(document, x, y, kind);
  }

  /** How far away a pixel of the picture is, by the depth element; null without one, or until it is read. */
  metresAt(document: TazzelDocument, x: number, y: number): number | null {
    const source = depthSource(document);
    const view = source && this.#store.viewNow(source, 0);
    if (!view) return null;
    const [plane] = view.color;
    const [sx, sy] = [x - view.x, y - view.y];
    return sx >= 0 && sy >= 0 && sx < plane.width && sy < plane.height ? sampleReader(plane)(sy * plane.width + sx) * source.scale + source.offset : null;
  }

  /** Makes `materialAt` and `metresAt` ready. Elements that cannot be read are passed over: showing them says why. */
  async preparePointer(document: TazzelDocument): Promise<void> {
    const depth = depthSource(document);
    await Promise.allSettled([this.#maskStore.prepare(document), depth && this.#store.view(depth, 0)]);
  }

  /** The picture after a layer, as planes of display values, for masks that look at it. */
  async #pictureAfter(document: TazzelDocument, layerId: string, level: number, emptied: ReadonlySet<string>): Promise<readonly Plane[]> {
    const size = sizeAtLevel(document.size, level);
    const area = size.width * size.height;
    return this.#jobs.with(document, { upto: layerId, emptied, level }, async ({ job }) => {
      const { pixels } = await this.#output(job, resultOf(job.plan), plain('half'), { priority: PRIORITY.view });
      return [0, 1, 2].map((c): Plane => ({ type: 'f16', ...size, data: new Uint16Array(pixels, c * area * 2, area) }));
    });
  }

  /** Every pixel of a target, or of a part of it, in one block of shared memory. */
  async #output(job: Job, target: Target, form: OutputForm, options: TaskOptions & { cut?: Cut | null; onShare?: (share: number) => void }): Promise<{ pixels: ArrayBufferLike; opaque: boolean }> {
    const { onShare, cut, ...task } = options;
    const window = cutRegion(sizeAtLevel(job.plan.size, job.level), cut);
    const atOnce = this.pool.size * OUTPUTS_PER_WORKER;
    const regions = this.#drawer.needsTiles(job, target) ? blocksOf(window) : bandsOf(window, atOnce);
    const output = this.#outputs.take(window.width * window.height * OUTPUT_BYTES[form.kind]);
    let done = 0;
    let opaque = true;
    // A few at a time, so that kept tiles are used while they are there.
    await sideBySide(regions, atOnce, async (region) => {
      const result = await this.#drawer.draw(job, target, region, task, (draw) => this.pool.run('output', { draw, window, form, output }, task));
      opaque &&= result.opaque;
      onShare?.(++done / regions.length);
    });
    return { pixels: output, opaque };
  }

  /** Computes tiles and hands them over as they come. @throws Cancelled */
  async render(request: ViewRequest): Promise<ViewResult> {
    const { document, level, signal, priority = PRIORITY.view } = request;
    return this.#jobs.with(document, { ...request.options, level, owner: 'view', signal }, async ({ job, plan, problems }) => {
      const count = { steps: 0 };
      const options = { priority, signal, count };
      const target = targetIn(job.plan, plan, readOf(plan, request.reading ?? null, request.focusLayerId ?? null));
      await allDone(
        request.tiles.map(async (region) => {
          const { rgba, stepsRun } = await this.#drawer.draw(job, target, region, options, (draw) => this.pool.run('tile', { draw }, options));
          count.steps += stepsRun;
          request.onTile(region, rgba);
        }),
      );
      return { problems, stepsRun: count.steps };
    });
  }

  /** Computes what the next change of a layer will start from, while nothing else is to be done. */
  async warm({ document, level, signal, tiles, options, focusLayerId }: Omit<ViewRequest, 'onTile' | 'focusLayerId'> & { focusLayerId: string }): Promise<void> {
    await this.#jobs.with(document, { ...options, level, signal }, async ({ job, plan }) => {
      const target = targetIn(job.plan, plan, resultOf(plan, focusLayerId));
      if (target.focus) await allDone(tiles.map((region) => this.#drawer.warm(job, target, region, { priority: PRIORITY.warm, signal })));
    });
  }

  /** A small picture of a layer's own or of everything up to it: straight RGBA, at most so many pixels wide or high. */
  async card(document: TazzelDocument, options: PlanOptions, signal?: AbortSignal, side = CARD_SIDE): Promise<{ size: Size; rgba: Uint8ClampedArray<ArrayBuffer> }> {
    const level = levelWithin(document.size, side);
    const size = sizeAtLevel(document.size, level);
    const card = cardPlan(document, options);
    return this.#jobs.with(document, { ...card.options, level, signal }, async ({ job, plan }) => {
      const task = { priority: PRIORITY.card, signal };
      const target = targetIn(job.plan, plan, card.target(plan));
      const { rgba } = await this.#drawer.draw(job, target, { x: 0, y: 0, ...size }, task, (draw) => this.pool.run('tile', { draw }, task));
      return { size, rgba };
    });
  }

  /**
   * Values at a pixel of the picture: of the pixel itself if all sources fit into memory, else of the level on the screen.
   * @param around takes the mean with so many pixels to each side, as far as the picture goes
   */
  async probe(document: TazzelDocument, x: number, y: number, viewLevel: number, { around = 0, signal }: { around?: number; signal?: AbortSignal } = {}): Promise<PixelValues> {
    const level = this.#fitsInFull(document) ? 0 : viewLevel;
    const size = sizeAtLevel(document.size, level);
    const [left, top] = [Math.max(0, (x - around) >> level), Math.max(0, (y - around) >> level)];
    const region = { x: left, y: top, width: Math.min(size.width - 1, (x + around) >> level) - left + 1, height: Math.min(size.height - 1, (y + around) >> level) - top + 1 };
    const options = { priority: PRIORITY.pointer, signal };
    const [light, picture] = await this.#jobs.with(document, { level, signal }, ({ job }) =>
      Promise.all([lightOf(job.plan), resultOf(job.plan)].map((target) => this.#drawer.draw(job, target, region, options, (draw) => this.pool.run('probe', { draw }, options)))),
    );
    const straight = (rgba: readonly number[]) => [...rgba.slice(0, 3).map((v) => (rgba[3] > 0 ? v / rgba[3] : 0)), rgba[3]];
    // In single precision, as files are written: halves of a code fall on the same side.
    const codes = straight(picture).map((v) => Math.round(Math.fround(Math.min(1, Math.max(0, v)) * 255)));
    return { light: straight(light), codes, level };
  }

  /** Numbers of the picture or of a layer alone, in light or in picture values, within a mask if one is given; always at the same level. */
  async measure(document: TazzelDocument, { options = {}, scale, mask = null, signal }: MeasureRequest): Promise<Measure> {
    const level = analysisLevel(document.size);
    return this.#jobs.with(document, { ...options, level, signal }, async ({ job }) => {
      const target = scale === 'light' ? lightOf(job.plan) : resultOf(job.plan);
      const recipe = mask?.enabled ? findMask(document, mask.maskId) : null;
      const bends = options.only ? [] : bendsAround(document, options.upto ?? null).below;
      const key = `${level} ${scale} ${targetKey(job.plan, target)} ${recipe && mask ? `${bentKey(maskKey(document, recipe), bends)} ${mask.inverted}` : ''}`;
      const make = async () => {
        const { pixels } = await this.#output(job, target, plain('float'), { priority: PRIORITY.card, signal });
        const within = recipe && mask ? { plane: (await this.#maskStore.mask(document, recipe, level, bends)).plane, inverted: mask.inverted } : null;
        const found = await this.pool.run('measure', { pixels, scale, mask: within }, { priority: PRIORITY.card, signal });
        this.#outputs.giveBack(pixels);
        return found;
      };
      for (;;) {
        try {
          return await recent(this.#measures, key, MEASURES_KEPT, make);
        } catch (error) {
          // Somebody else asked first and has given up.
          if (!(error instanceof Cancelled) || signal?.aborted) throw error;
        }
      }
    });
  }

  /** Waveforms and vectorscopes of the picture, always at the same level. */
  async scopes(document: TazzelDocument, scale: Scale, signal?: AbortSignal): Promise<Scopes> {
    const level = scopeLevel(document.size);
    return this.#jobs.with(document, { level, signal }, async ({ job }) => {
      const task = { priority: PRIORITY.card, signal };
      const { pixels } = await this.#output(job, scale === 'light' ? lightOf(job.plan) : resultOf(job.plan), plain('float'), task);
      const scopes = await this.pool.run('scopes', { pixels, size: sizeAtLevel(document.size, level), scale }, task);
      this.#outputs.giveBack(pixels);
      return scopes;
    });
  }

  /** What makes the pixels of one document agree with those of another, each within a mask; null if one of them says nothing. */
  async match(from: MatchSample, to: MatchSample, scale: Scale, signal?: AbortSignal): Promise<ColourMatch | null> {
    const task = { priority: PRIORITY.card, signal };
    const sampled = async ({ document, mask }: MatchSample) => {
      const level = levelWithin(document.size, MATCHED_SIDE);
      return this.#jobs.with(document, { level, signal }, async ({ job }) => {
        const { pixels } = await this.#output(job, scale === 'light' ? lightOf(job.plan) : resultOf(job.plan), plain('float'), task);
        const recipe = mask?.enabled ? findMask(document, mask.maskId) : null;
        return { pixels, mask: recipe && mask ? { plane: (await this.#maskStore.mask(document, recipe, level, bendsAround(document, null).below)).plane, inverted: mask.inverted } : null };
      });
    };
    const [of, like] = [await sampled(from), await sampled(to)];
    const found = await this.pool.run('match', { from: of, to: like }, task);
    for (const { pixels } of [of, like]) this.#outputs.giveBack(pixels);
    return found;
  }

  /** What is measured of the light groups that can be read, whatever they are set to. */
  async measureLights(document: TazzelDocument, signal?: AbortSignal): Promise<MeasuredLights> {
    const filter = document.sources.find(({ role }) => role === 'diffuse-filter') ?? null;
    const view = async (source: Source): Promise<MaskView> => ({ ...(await this.#store.view(source, 0)), encoding: source.encoding, scale: source.scale, offset: source.offset });
    const surfaces = filter && (await view(filter).catch(() => null));
    const task = { priority: PRIORITY.card, signal };
    const made: { sourceId: string; measure: LightMeasure }[] = [];
    // One after the other: all groups at full size may be more than fits.
    for (const group of groupsOf(document)) {
      try {
        made.push({ sourceId: group.id, measure: await this.pool.run('measure-light', { light: await view(group), filter: surfaces, size: document.size }, task) });
      } catch (error) {
        if (error instanceof Cancelled) throw error;
      }
    }
    const own = (id: string) => made.findIndex(({ sourceId }) => sourceId === id);
    for (const { id } of groupsOf(document)) {
      const whole = partOf(document, findSource(document, id) as Source);
      const [at, around] = [own(id), own(whole?.id ?? '')];
      if (at >= 0 && around >= 0) made[around] = { ...made[around], measure: withoutPart(made[around].measure, made[at].measure) };
    }
    return { sourceIds: made.map(({ sourceId }) => sourceId), measures: await this.pool.run('join-lights', { groups: made.map(({ measure }) => measure) }, task) };
  }

  #fitsInFull(document: TazzelDocument): boolean {
    const used = usedSourceIds(document);
    const sources = document.sources.filter((source) => used.has(source.id));
    const bytes = sources.reduce((sum, source) => sum + source.width * source.height * source.colorChannels.length * 2 * 1.34, 0);
    return bytes < this.#store.budgetBytes || sources.every((source) => this.#store.viewNow(source, 0) !== null);
  }

  /** A mask at a level, with what is wrong with it. */
  mask(document: TazzelDocument, mask: Mask, level: number): Promise<MadeMask> {
    return this.#maskStore.mask(document, mask, level);
  }

  /** A mask of the full picture as a grey PNG. */
  async maskFile(document: TazzelDocument, mask: Mask, bits: 8 | 16): Promise<{ parts: Uint8Array[]; problems: readonly MaskProblem[] }> {
    const { plane, problems } = await this.#maskStore.mask(document, mask, 0);
    return { parts: await this.pool.run('encode-mask', { mask: plane, bits }, { priority: PRIORITY.output }), problems };
  }

  /** Masks of the full picture as one EXR with a channel for each. `names` are the channels', in the order of the masks. */
  async maskFiles(document: TazzelDocument, masks: readonly Mask[], names: readonly string[]): Promise<Uint8Array[]> {
    const planes = await Promise.all(masks.map((mask) => this.#maskStore.mask(document, mask, 0)));
    return this.pool.run('encode-masks', { masks: planes.map(({ plane }, i) => ({ name: names[i], plane })) }, { priority: PRIORITY.output });
  }

  /** A mask over a region of a level, where bends have put it: white on black, or alpha only. */
  async maskPicture(document: TazzelDocument, mask: Mask, level: number, region: Region, { bends = [], ...style }: { inverted: boolean; matte: boolean; bends?: readonly Bend[] }, signal?: AbortSignal): Promise<Uint8ClampedArray<ArrayBuffer>> {
    const { plane } = await this.#maskStore.mask(document, mask, level, bends);
    const { rgba } = await this.pool.run('mask-picture', { mask: plane, region, ...style }, { priority: PRIORITY.pointer, signal });
    return rgba;
  }

  /** The edge of a surface over a region of a level, where bends have put it. */
  async outline(document: TazzelDocument, materialIds: readonly string[], level: number, region: Region, bends: readonly Bend[] = [], signal?: AbortSignal): Promise<Uint8ClampedArray<ArrayBuffer>> {
    const first = materialIds.length > 0 ? findMaterial(document, materialIds[0]) : null;
    const found = first && (await this.#maskStore.indexOf(document, first));
    if (!found) return new Uint8ClampedArray(region.width * region.height * 4);
    const ofSource = document.materials.filter(({ sourceId }) => sourceId === found.source.id);
    const rows = ofSource.flatMap(({ id }, i) => (materialIds.includes(id) ? [i] : []));
    const { rgba } = await this.pool.run('outline', { index: found.index, rows, place: { x: found.source.x, y: found.source.y }, bends, region, level }, { priority: PRIORITY.pointer, signal });
    return rgba;
  }

  /** Every pixel of the picture (or, for `float`, of its light) in one block of shared memory. */
  async flatten(request: Omit<DeliverRequest, 'format' | 'values' | 'resize' | 'shared'> & Pick<OutputForm, 'kind'> & Partial<OutputForm>): Promise<FlatPicture> {
    const { document, kind, signal, onProgress, upto, cut, dither = false, space = 'srgb' } = request;
    const level = request.level ?? 0;
    try {
      return await this.#jobs.with(document, { upto, level, owner: 'output', signal }, async ({ job, problems }) => {
        const target = kind === 'float' ? lightOf(job.plan) : resultOf(job.plan);
        const { pixels, opaque } = await this.#output(job, target, { kind, dither, space }, { cut, signal, priority: PRIORITY.output, onShare: onProgress });
        const { width, height } = cutRegion(sizeAtLevel(document.size, level), cut);
        return { size: { width, height }, pixels, opaque, problems };
      });
    } finally {
      this.#store.pin('output', [], level);
    }
  }

  /** A finished file in parts. @throws Cancelled, CoreError `bad-parameter` for a format or values that there are not, FormatError `too-large` */
  async deliver(request: DeliverRequest): Promise<{ parts: Uint8Array[]; size: Size; problems: readonly string[] }> {
    const { document, upto, signal, onProgress, format: id = 'png', values = {}, resize, cut } = request;
    const format = pictureFormatById(id);
    if (!format) throw new CoreError('bad-parameter', `There is no format “${id}”. Formats: ${pictureFormats.map((each) => each.id).join(', ')}.`);
    if (format.kind === 'layered') return deliverStack(request, format, values, (wanted, onShare) => this.deliver({ ...wanted, format: 'png', values, signal, onProgress: onShare }), onProgress);
    const several = format.several(values);
    if (several) return deliverParts({ wanted: { document, upto, resize, level: request.level, cut }, several, deliver: (wanted, of, onShare) => this.deliver({ ...wanted, format: id, values: of, signal, onProgress: onShare }), masks: (names) => this.maskFiles(document, document.masks, names), onProgress });
    const form = format.pixels(values);
    const { kind } = form;
    const to = resize && sizeOfWidth(cutRegion(document.size, cut), resize.width);
    if (to && (to.width < 1 || Math.max(to.width, to.height) > LIMITS.side || to.width * to.height > LIMITS.pixels)) throw new CoreError('bad-parameter', `${to.width} × ${to.height} pixels cannot be delivered: each side may have 1 to ${LIMITS.side}, all together ${LIMITS.pixels / 2 ** 20} million.`);
    const pixelsOf = { document, upto, cut, signal, level: to ? 0 : request.level, ...(to ? plain(kind === 'float' ? kind : 'rgba16') : form), onProgress: (share: number) => onProgress?.(share * 0.7) } as const;
    const giveBack = (block: ArrayBufferLike) => this.#outputs.giveBack(block);
    return (request.shared ?? new FlatPictures(0)).with([upto, pixelsOf.level, pixelsOf.kind, pixelsOf.dither, pixelsOf.space, JSON.stringify(cut ?? null)].join(), () => this.flatten(pixelsOf), giveBack, async (flat) => {
      const { opaque, problems } = flat;
      // Large files take long, and nobody else has the memory that is written to.
      const options = { signal, priority: PRIORITY.output, leaveAtOnce: true };
      const written = (size: Size, pixels: ArrayBufferLike) => this.pool.run('write-picture', { format: id, values, picture: { ...size, pixels, isOpaque: opaque } }, options);
      let parts: Uint8Array[];
      if (to) {
        const output = this.#outputs.take(to.width * to.height * OUTPUT_BYTES[kind]);
        const request = { pixels: flat.pixels, kind: kind === 'float' ? 'float' : 'rgba16', from: flat.size, to, filter: resize.filter, into: form, output } as const;
        const bands = stripsOf(to, Math.ceil(to.height / this.pool.size));
        await allDone(bands.map(({ y, height }) => this.pool.run('resize', { ...request, rows: { first: y, end: y + height } }, options)));
        onProgress?.(0.85);
        parts = await written(to, output);
        giveBack(output);
      } else parts = await written(flat.size, flat.pixels);
      onProgress?.(1);
      return { parts, size: to ?? flat.size, problems };
    });
  }

  /** Memory of a picture from `flatten` that nobody reads any more: the next one of its size is written to it. */
  giveBack(pixels: ArrayBufferLike): void {
    this.#outputs.giveBack(pixels);
  }

  /** Whether the elements add up to the beauty, and if not, which change would make them; null if there is nothing to add up. @throws Cancelled */
  checkRebuild(document: TazzelDocument, options: RebuildOptions): Promise<RebuildResult | null> {
    return checkRebuild(this.pool, this.#store, document, options);
  }

  /** Lets go of everything but the files with these hashes: what was decoded of them when they were added stays. */
  keepOnly(hashes: ReadonlySet<string>): void {
    this.#store.keepOnly(hashes);
    this.#jobs.clear();
    this.#maskStore.keepOnly(hashes);
    this.#tiles.forget();
    this.#outputs.forget();
    this.#measures.clear();
    for (const hash of this.files.keys()) if (!hashes.has(hash)) this.files.delete(hash);
    this.#examiner.keepOnly(hashes);
    // Workers hold the planes of the jobs they were sent, and tiles that were kept; without this they would until the next job.
    void this.pool.broadcast('forget', null).catch(() => undefined);
  }
}

/** Without dither, of sRGB. */
const plain = <K extends OutputKind>(kind: K) => ({ kind, dither: false, space: 'srgb' }) as const;

/** What was asked for last is kept; what failed may be tried again. */
function recent<T>(map: Map<string, Promise<T>>, key: string, most: number, make: () => Promise<T>): Promise<T> {
  const made = map.get(key) ?? make();
  map.delete(key);
  map.set(key, made);
  made.catch(() => map.delete(key));
  for (const oldest of map.keys()) {
    if (map.size <= most) break;
    map.delete(oldest);
  }
  return made;
}


/** The level at which a picture is computed for a zoom: the smallest one that is at least as fine as the screen. */
export const levelForZoom = (zoom: number) => Math.max(0, Math.floor(-Math.log2(Math.min(1, zoom)) + 1e-6));

