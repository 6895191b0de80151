/**
 * Scenes in, renders out. Tiles go to workers in passes that double; a tile is done when its own noise is below the limit,
 * so the picture does not depend on how many workers there are or which of them is faster.
 */
import { intersect } from '@tazzel/core';
import { RenderError } from '../errors.ts';
import { chooseElements, filmContents } from '../elements/registry.ts';
import { createFilm, filmBytes, type FilmMemory, type FilmPlan } from '../film/film.ts';
import { planSlots } from '../film/slots.ts';
import { type CameraDescription, lightGroups, type SceneDescription } from '../scene/model.ts';
import { readCamera } from '../scene/schema.ts';
import type { PackedScene } from '../trace/world.ts';
import { RenderJob, slotsToClean } from './job.ts';
import { RenderPool } from './pool.ts';
import type { RenderPort, SceneSource } from './protocol.ts';
import type { RenderEvents, RenderRequest } from './request.ts';

export interface RendererOptions {
  readonly allocateShared: (bytes: number) => ArrayBufferLike;
  /** Milliseconds that only grow. */
  readonly now: () => number;
  /** Memory that a render may take. */
  readonly budgetBytes: number;
}

const MOST_PIXELS = 64e6;
const MOST_SIDE = 16_384;

export class Renderer {
  readonly #pool: RenderPool;
  readonly #options: RendererOptions;
  #packed: PackedScene | null = null;

  private constructor(pool: RenderPool, options: RendererOptions) {
    this.#pool = pool;
    this.#options = options;
  }

  /** `module` is the compiled module of kernels. */
  static async start(ports: readonly RenderPort[], module: unknown, options: RendererOptions): Promise<Renderer> {
    const renderer = new Renderer(new RenderPool(ports), options);
    await renderer.#pool.broadcast('start', { module });
    return renderer;
  }

  /** The scene in hand, with the lamps' own material and objects. */
  get scene(): SceneDescription {
    return this.#known().scene;
  }

  #known(): PackedScene {
    if (!this.#packed) throw new RenderError('bad-request', 'No scene is open. Open one first.');
    return this.#packed;
  }

  /**
   * Opens a scene; a worker reads it, so that nobody waits for a large one. The scene that was open stays if it is refused.
   * @throws RenderError `bad-scene` naming the first wrong fields, `too-large`
   */
  async openScene(source: SceneSource): Promise<SceneDescription> {
    const packed = await this.#pool.run('pack', source);
    this.#packed = null;
    await this.#pool.broadcast('scene', { packed });
    this.#packed = packed;
    return packed.scene;
  }

  /** What of a request is kept, and the bytes that it takes with the denoiser's work included. */
  #plan(scene: SceneDescription, { elements: wanted, fog, denoise, width, height }: RenderRequest): { elements: string[]; plan: FilmPlan; bytes: number } {
    // Without the denoiser there is no denoised beauty.
    const elements = chooseElements(wanted, fog).filter((id) => id !== 'denoised-beauty' || denoise !== 'none');
    if (elements.length === 0) throw new RenderError('bad-request', 'The denoised beauty needs the denoiser. Switch it on, or choose another element.');
    const plan: FilmPlan = { width, height, slots: planSlots(lightGroups(scene)), ...filmContents(scene, elements, { denoises: denoise !== 'none', fog }) };
    // Means without noise, and in each worker the planes that the filter goes back and forth between.
    const floats = denoise === 'none' ? 0 : slotsToClean(scene, elements, denoise).length * 3 + this.#pool.size * 30;
    return { elements, plan, bytes: filmBytes(plan) + width * height * 4 * floats };
  }

  /** Begins at once; what is wrong with the request is thrown. @throws RenderError `bad-request`, `too-large` */
  begin(request: RenderRequest, events: RenderEvents = {}): RenderJob {
    const packed = this.#known();
    const camera = typeof request.camera === 'string' ? cameraNamed(packed.scene, request.camera) : readCamera(request.camera);
    const { width, height, quality, fog } = request;
    if (![width, height].every((side) => Number.isInteger(side) && side >= 8 && side <= MOST_SIDE) || width * height > MOST_PIXELS) throw new RenderError('bad-request', `A render of ${width} × ${height} pixels is not possible: each side needs 8 to ${MOST_SIDE}, together at most ${MOST_PIXELS / 1e6} million.`);
    if (quality.noisePercent === null && quality.seconds === null && quality.samples === null) throw new RenderError('bad-request', 'Say when the render is done: by noise, time or samples.');
    for (const [limit, what] of [[quality.noisePercent, 'noise limit'], [quality.seconds, 'time limit'], [quality.samples, 'number of samples']] as const) if (limit !== null && !(limit > 0)) throw new RenderError('bad-request', `The ${what} must be more than 0.`);
    if (fog && !packed.scene.fog) throw new RenderError('bad-request', `The scene “${packed.scene.name}” describes no fog. Render it without, or add “fog” to the scene.`);
    const whole = { x: 0, y: 0, width, height };
    const region = request.region === null ? whole : intersect(request.region, whole);
    if (!region) throw new RenderError('bad-request', `The region lies outside the picture of ${width} × ${height} pixels.`);
    const { elements, plan, bytes } = this.#plan(packed.scene, request);
    const { allocateShared, now, budgetBytes } = this.#options;
    if (bytes > budgetBytes) throw new RenderError('too-large', `This render needs ${megabytes(bytes)} of memory, ${megabytes(budgetBytes)} are allowed. Choose a smaller size or fewer elements.`);
    let film: FilmMemory;
    try {
      film = createFilm(plan, allocateShared);
    } catch {
      throw new RenderError('too-large', `This render needs ${megabytes(bytes)} of memory, and the machine has no more. Close something, choose a smaller size or fewer elements.`);
    }
    return new RenderJob({ pool: this.#pool, allocateShared, now, scene: packed.scene, camera, request: { ...request, elements, region }, region, film, events });
  }

  terminate(): void {
    this.#pool.terminate();
  }
}

const megabytes = (bytes: number) => (bytes >= 2 ** 30 ? `${(bytes / 2 ** 30).toFixed(1)} GB` : `${Math.ceil(bytes / 2 ** 20)} MB`);

function cameraNamed(scene: SceneDescription, name: string): CameraDescription {
  const camera = scene.cameras.find((one) => one.name === name);
  if (!camera) throw new RenderError('bad-request', `The scene “${scene.name}” has no camera “${name}”. Cameras: ${scene.cameras.map((one) => one.name).join(', ')}.`);
  return camera;
}
