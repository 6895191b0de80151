/** One render from its first tile to its files. */
import { exposureValue, intersect, type Region, scaleOfExposure } from '@tazzel/core';
import { RenderError } from '../errors.ts';
import { elementRow } from '../elements/registry.ts';
import { type DepthRange, type Rendering, suggestDepthRange } from '../elements/resolve.ts';
import { fileStem, type Saved, type SaveSettings, splitSave } from '../elements/save.ts';
import { type FilmMemory, MOST_SAMPLES, tilesAcross, tilesDown } from '../film/film.ts';
import { groupName, PATHS } from '../film/slots.ts';
import { settingsOf } from '../scene/facts.ts';
import { type CameraDescription, lightGroups, type SceneDescription } from '../scene/model.ts';
import { tileRegion } from '../trace/tiles.ts';
import type { TraceSettings } from '../trace/tracer.ts';
import type { RenderPool } from './pool.ts';
import type { Denoise, MaterialLabel, Progress, RenderEvents, RenderRequest } from './request.ts';

/** Estimates of noise from fewer samples than this are not trusted. */
const LEAST_SAMPLES = 16;
/** Largest picture value of one indirect path. */
const BRIGHTEST_PATH = 5;
/** Until something is seen. */
export const FIRST_RANGE: DepthRange = { near: 0, far: 100 };

/** Samples after each pass: doubling until 16, then in steps of a half. */
export function passEnd(done: number): number {
  if (done < 16) return done === 0 ? 1 : done * 2;
  const base = 2 ** Math.floor(Math.log2(done));
  return done === base ? base * 1.5 : base * 2;
}

/** Slots of the film that the denoiser works on. Beauty is the sum of the paths, so they always are. */
export function slotsToClean(scene: SceneDescription, elements: readonly string[], denoise: Denoise): string[] {
  if (denoise === 'none') return [];
  const paths: string[] = [...PATHS];
  if (denoise === 'beauty') return paths;
  const more = elements.includes('shadow') || elements.includes('raw-shadow') ? ['shadow'] : [];
  if (elements.includes('ambient-occlusion')) more.push('ambient-occlusion');
  return [...paths, ...more, ...(elements.includes('light-group') ? lightGroups(scene).map(groupName) : [])];
}

interface JobParts {
  readonly pool: RenderPool;
  readonly allocateShared: (bytes: number) => ArrayBufferLike;
  readonly now: () => number;
  readonly scene: SceneDescription;
  readonly camera: CameraDescription;
  readonly request: RenderRequest;
  readonly region: Region;
  readonly film: FilmMemory;
  readonly events: RenderEvents;
}

/** One render. `finished` resolves when it is done or was stopped; what there is then can be looked at and saved. */
export class RenderJob {
  readonly request: RenderRequest;
  readonly region: Region;
  readonly finished: Promise<void>;
  /** EV at ISO 100 that the picture is exposed for; null until it is known. */
  exposureEv: number | null = null;
  progress: Progress = { stage: 'rendering', share: 0, seconds: 0, secondsLeft: null, samplesPerPixel: 0, noisePercent: null };
  /** Whether the time was up, or someone stopped it, before every tile was good enough. */
  endedEarly = false;
  /** Whether the denoiser has run. */
  isClean = false;

  readonly #parts: JobParts;
  #scene: SceneDescription;
  readonly #started: number;
  readonly #noise: Float64Array;
  /** Tiles that lie in the region, what of them lies in it, from the middle outwards. */
  readonly #tiles: readonly { readonly tile: number; readonly area: Region }[];
  readonly #pixels: number;
  readonly #denoised: Record<string, readonly Float32Array[]> = {};
  #stopped = false;
  #skipsDenoiser = false;
  #pixelSamples = 0;

  constructor(parts: JobParts) {
    this.#parts = parts;
    this.#scene = parts.scene;
    this.request = parts.request;
    this.region = parts.region;
    this.#started = parts.now();
    const { film, region } = parts;
    const count = tilesAcross(film.plan) * tilesDown(film.plan);
    this.#noise = new Float64Array(count).fill(Number.POSITIVE_INFINITY);
    // What is looked at first comes first.
    const [cx, cy] = [region.x + region.width / 2, region.y + region.height / 2];
    const away = (tile: number) => {
      const { x, y, width, height } = tileRegion(film.plan, tile);
      return Math.hypot(x + width / 2 - cx, y + height / 2 - cy);
    };
    this.#tiles = Array.from({ length: count }, (_, tile) => ({ tile, area: intersect(tileRegion(film.plan, tile), region) }))
      .filter((one): one is { tile: number; area: Region } => one.area !== null)
      .sort((a, b) => away(a.tile) - away(b.tile) || a.tile - b.tile);
    this.#pixels = region.width * region.height;
    this.finished = this.#run();
  }

  /** Numbers and ID colours of materials, by name: they may change while and after it renders. */
  relabel(labels: Readonly<Record<string, MaterialLabel>>): void {
    const { scene } = this.#parts;
    this.#scene = { ...scene, materials: scene.materials.map((material) => ({ ...material, ...labels[material.name] })) };
  }

  /** The scene with its materials as they are labelled now. */
  get scene(): SceneDescription {
    return this.#scene;
  }

  /** The sums gathered so far: shared memory that the workers write. */
  get film(): FilmMemory {
    return this.#parts.film;
  }

  /** What has been gathered so far, without copying it. Without a range, the request's or a suggestion from all depths counts. */
  renderingWithin(range: DepthRange | null): Rendering {
    const { film, request, camera } = this.#parts;
    // What was metered is said like what was set: a render after this one can be exposed alike.
    const exposed = this.exposureEv === null || camera.exposure.kind === 'settings' ? camera : { ...camera, exposure: settingsOf(this.exposureEv) };
    return { scene: this.#scene, camera: exposed, film, denoised: this.#denoised, depthRange: range ?? request.depthRange ?? suggestDepthRange(film) ?? FIRST_RANGE };
  }

  get rendering(): Rendering {
    return this.renderingWithin(null);
  }

  /** Beginning of file names: scene, camera, kind and the first number that is free. */
  fileStem(isTaken: (stem: string) => boolean): string {
    const { scene, camera, request } = this.#parts;
    return fileStem(scene.name, camera.name, request.fog, isTaken);
  }

  /** Keeps what is there; the tiles in work are finished first. While the denoiser runs: goes without it. */
  stop(): void {
    if (this.progress.stage === 'denoising') this.#skipsDenoiser = true;
    this.#stopped = true;
  }

  async #run(): Promise<void> {
    const { pool, camera, request, film } = this.#parts;
    const settings: TraceSettings = {
      width: request.width,
      height: request.height,
      seed: request.seed,
      exposureScale: await this.#exposure(),
      aoMetres: request.aoMetres,
      wantsAo: film.plan.kept.includes('ambient-occlusion'),
      brightestPath: BRIGHTEST_PATH,
      fog: request.fog,
    };
    await pool.broadcast('job', { camera, film, settings });
    const queue = this.#tiles.map((one) => ({ ...one, first: 0 }));
    const lane = async () => {
      for (let next = queue.shift(); next && !this.#isOver(); next = queue.shift()) {
        const { tile, area, first } = next;
        const end = Math.min(passEnd(first), this.#mostSamples());
        this.#noise[tile] = await pool.run('tile', { tile, region: this.region, first, end });
        this.#report(area, end - first);
        if (!this.#isGood(tile, end)) queue.push({ tile, area, first: end });
      }
      if (queue.length > 0) this.endedEarly = true;
    };
    // Each worker finds its next tile waiting.
    await Promise.all(Array.from({ length: pool.size + 1 }, lane));
    if (request.denoise !== 'none') await this.#clean();
    this.isClean = request.denoise !== 'none' && !this.#skipsDenoiser;
    this.progress = { ...this.progress, stage: 'done', share: 1, seconds: this.#seconds(), secondsLeft: 0 };
    this.#parts.events.onProgress?.(this.progress);
  }

  #seconds(): number {
    return (this.#parts.now() - this.#started) / 1000;
  }

  #isOver(): boolean {
    const { seconds } = this.request.quality;
    return this.#stopped || (seconds !== null && this.#seconds() >= seconds);
  }

  #mostSamples(): number {
    return Math.min(MOST_SAMPLES, this.request.quality.samples ?? MOST_SAMPLES);
  }

  #isGood(tile: number, samples: number): boolean {
    const { noisePercent } = this.request.quality;
    if (samples >= this.#mostSamples()) return true;
    return noisePercent !== null && samples >= LEAST_SAMPLES && this.#noise[tile] * 100 <= noisePercent;
  }

  /** From candela per square metre to picture values; automatic exposure puts the metered mean at 18 %. */
  async #exposure(): Promise<number> {
    const { pool, camera, request } = this.#parts;
    const { exposure } = camera;
    if (exposure.kind === 'settings') {
      this.exposureEv = exposureValue(exposure.fNumber, exposure.shutterSeconds, exposure.iso);
      return scaleOfExposure(this.exposureEv);
    }
    const mean = await pool.run('meter', { camera, width: request.width, height: request.height, seed: request.seed });
    const scale = mean > 0 ? (0.18 / mean) * 2 ** exposure.stops : 1;
    this.exposureEv = Math.log2(1 / (1.2 * scale));
    return scale;
  }

  #report(area: Region, samples: number): void {
    const { film, events } = this.#parts;
    this.#pixelSamples += samples * area.width * area.height;
    events.onTile?.(area);
    const seconds = this.#seconds();
    let left = 0;
    let noise = 0;
    let known = 0;
    for (const { tile, area: { width, height } } of this.#tiles) {
      const size = width * height;
      left += Math.max(0, this.#samplesNeeded(tile) - film.samples[tile]) * size;
      if (Number.isFinite(this.#noise[tile])) {
        noise += this.#noise[tile] * size;
        known += size;
      }
    }
    const byWork = seconds > 0 ? (left / this.#pixelSamples) * seconds : null;
    const byTime = this.request.quality.seconds === null ? null : Math.max(0, this.request.quality.seconds - seconds);
    const secondsLeft = byWork === null || !Number.isFinite(byWork) ? byTime : byTime === null ? byWork : Math.min(byWork, byTime);
    this.progress = {
      stage: 'rendering',
      share: secondsLeft === null ? 0 : Math.min(0.999, seconds / (seconds + secondsLeft)),
      seconds,
      secondsLeft,
      samplesPerPixel: this.#pixelSamples / this.#pixels,
      noisePercent: known > 0 ? (noise / known) * 100 : null,
    };
    events.onProgress?.(this.progress);
  }

  /** Noise falls with the square root of the samples. */
  #samplesNeeded(tile: number): number {
    const { noisePercent } = this.request.quality;
    const done = this.#parts.film.samples[tile];
    const most = this.#mostSamples();
    if (this.#isGood(tile, done)) return done;
    if (noisePercent === null) return most;
    const byNoise = Number.isFinite(this.#noise[tile]) ? done * ((this.#noise[tile] * 100) / noisePercent) ** 2 : LEAST_SAMPLES * 2;
    return Math.min(most, Math.max(LEAST_SAMPLES, byNoise));
  }

  async #clean(): Promise<void> {
    const { pool, scene, film, request, allocateShared, now, events } = this.#parts;
    const { plan, planes } = film;
    const slots = slotsToClean(scene, request.elements, request.denoise).filter((slot) => planes[slot]);
    const clean: Record<string, Float32Array[]> = {};
    let done = 0;
    const started = now();
    this.progress = { ...this.progress, stage: 'denoising', share: 0, seconds: this.#seconds(), secondsLeft: null };
    events.onProgress?.(this.progress);
    const queue = [...slots];
    const lane = async () => {
      for (let slot = queue.shift(); slot && !this.#skipsDenoiser; slot = queue.shift()) {
        const out = planes[slot].map(() => new Float32Array(allocateShared(plan.width * plan.height * 4)));
        await pool.run('denoise', { film, slot, out });
        clean[slot] = out;
        done++;
        this.progress = { ...this.progress, share: done / slots.length, seconds: this.#seconds(), secondsLeft: ((now() - started) / 1000 / done) * (slots.length - done) };
        events.onProgress?.(this.progress);
      }
    };
    await Promise.all(Array.from({ length: pool.size }, lane));
    // Some without noise and some with it would not sum up.
    if (this.#skipsDenoiser) return;
    balanceGroups(clean, lightGroups(scene).map(groupName).filter((group) => clean[group]));
    Object.assign(this.#denoised, clean);
    events.onTile?.(this.region);
  }

  /** The files, in the order of the elements. @throws RenderError `bad-request` for an element that was not rendered */
  async save(elements: readonly string[], settings: SaveSettings, stem: string, depthRange: DepthRange | null = null): Promise<Saved> {
    for (const id of elements) if (!this.request.elements.includes(id)) throw new RenderError('bad-request', `${elementRow(id).label} was not rendered. Render again with it.`);
    const rendering = this.renderingWithin(depthRange);
    const wanted = elements.filter((id) => id !== 'denoised-beauty' || this.isClean);
    const skipped = wanted.length < elements.length ? ['The denoised beauty is not saved: the render went without the denoiser.'] : [];
    const saved = await Promise.all(splitSave({ rendering, elements: wanted, settings, region: this.region, stem }).map((request) => this.#parts.pool.run('save', request)));
    return { files: saved.flatMap(({ files }) => files), leftOut: [...skipped, ...saved.flatMap(({ leftOut }) => leftOut)] };
  }
}

/** Each group was cleaned for itself; scaled by pixel and channel they sum to what the paths sum to. */
function balanceGroups(clean: Record<string, Float32Array[]>, groups: readonly string[]): void {
  if (groups.length === 0) return;
  for (let c = 0; c < 3; c++) {
    const paths = PATHS.map((path) => clean[path][c]);
    const parts = groups.map((group) => clean[group][c]);
    for (let i = 0; i < paths[0].length; i++) {
      let beauty = 0;
      let sum = 0;
      for (const plane of paths) beauty += plane[i];
      for (const plane of parts) sum += plane[i];
      const factor = sum > 0 ? beauty / sum : 0;
      for (const plane of parts) plane[i] *= factor;
      if (!(sum > 0) && parts.length > 0) parts[parts.length - 1][i] = beauty;
    }
  }
}
