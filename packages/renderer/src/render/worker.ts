/** What a worker does with its requests. One scene and one job at a time. */
import { isShortage } from '@tazzel/core';
import type { Platform } from '@tazzel/formats';
import { Kernels } from '@tazzel/kernels';
import { RenderError } from '../errors.ts';
import { saveElements } from '../elements/save.ts';
import { denoise } from '../film/denoise.ts';
import type { FilmMemory } from '../film/film.ts';
import { planSlots } from '../film/slots.ts';
import { parseSceneFile, readScene } from '../scene/schema.ts';
import { renderTile, tileNoise } from '../trace/tiles.ts';
import { Tracer } from '../trace/tracer.ts';
import { packScene, World } from '../trace/world.ts';
import { meterScene } from './meter.ts';
import type { RenderTask, RenderTasks, RequestMessage, ResponseMessage } from './protocol.ts';

export interface RenderPlatform extends Pick<Platform, 'deflate'> {
  readonly allocateShared: (bytes: number) => ArrayBufferLike;
}

/** What an engine says in its own words does not reach people. */
function asRenderError(error: unknown): RenderError {
  if (error instanceof RenderError) return error;
  const message = error instanceof Error ? error.message : String(error);
  if (isShortage(error)) return new RenderError('too-large', 'There is not enough memory for this. Choose a smaller size, fewer elements or a simpler scene.');
  if (error instanceof RangeError && /call stack/i.test(message)) return new RenderError('bad-scene', 'The scene’s parts lie too deep inside each other to be followed.');
  return new RenderError('worker-failed', `Something unexpected happened while rendering (${message}). Start it again.`);
}

type Handlers = { [K in RenderTask]: (request: RenderTasks[K]['request']) => Promise<RenderTasks[K]['response']> | RenderTasks[K]['response'] };

export function serveRenderWorker(platform: RenderPlatform, post: (message: ResponseMessage) => void): (message: RequestMessage) => Promise<void> {
  let compiled: WebAssembly.Module | null = null;
  let kernels: Kernels | null = null;
  let world: World | null = null;
  let tracer: Tracer | null = null;
  let film: FilmMemory | null = null;
  const known = <T>(value: T | null, what: string): T => {
    if (value === null) throw new Error(`${what} was not sent to this worker`);
    return value;
  };
  const handlers: Handlers = {
    start: async ({ module }) => {
      compiled = module as WebAssembly.Module;
      kernels = await Kernels.create(compiled);
      return null;
    },
    pack: (source) => packScene(readScene('file' in source ? parseSceneFile(source.file, source.fileName) : source.description), platform.allocateShared),
    scene: ({ packed }) => {
      world = new World(packed, known(compiled, 'the module of kernels'));
      return null;
    },
    job: ({ camera, film: memory, settings }) => {
      const scene = known(world, 'the scene');
      film = memory;
      tracer = new Tracer(scene, camera, planSlots(scene.groups), settings);
      return null;
    },
    tile: ({ tile, region, first, end }) => {
      const memory = known(film, 'the job');
      renderTile(known(tracer, 'the job'), memory, tile, region, first, end);
      return tileNoise(memory, tile, region);
    },
    meter: (request) => meterScene(known(world, 'the scene'), request),
    denoise: (request) => {
      denoise(request);
      return null;
    },
    save: (request) => saveElements(request, platform, known(kernels, 'the kernels')),
  };
  return async ({ id, kind, request }) => {
    try {
      post({ id, response: await (handlers[kind] as (request: unknown) => unknown)(request) });
    } catch (error) {
      const { name, message, code } = asRenderError(error);
      post({ id, error: { name, message, code } });
    }
  };
}
