/** Everything that crosses between a renderer and its workers. Plain data; films and trees lie in shared memory. */
import type { Region } from '@tazzel/core';
import type { FilmMemory } from '../film/film.ts';
import type { CameraDescription } from '../scene/model.ts';
import type { PackedScene } from '../trace/world.ts';
import type { TraceSettings } from '../trace/tracer.ts';
import type { Saved, SaveRequest } from '../elements/save.ts';
import type { DenoiseRequest } from '../film/denoise.ts';

/** A scene as an object, or the bytes of a scene file with its name. */
export type SceneSource = { readonly description: unknown } | { readonly file: Uint8Array; readonly fileName: string };

export interface RenderTasks {
  /** First of all: the kernels, compiled once. */
  start: { request: { module: unknown }; response: null };
  /** Reads a description, or the text of a scene file, and builds the tree. */
  pack: { request: SceneSource; response: PackedScene };
  /** To every worker before anything is traced. */
  scene: { request: { packed: PackedScene }; response: null };
  job: { request: { camera: CameraDescription; film: FilmMemory; settings: TraceSettings }; response: null };
  /** Samples `first` up to `end` of a tile; answers with its noise. */
  tile: { request: { tile: number; region: Region; first: number; end: number }; response: number };
  /** The mean luminance of a view, in candela per square metre. */
  meter: { request: { camera: CameraDescription; width: number; height: number; seed: number }; response: number };
  denoise: { request: DenoiseRequest; response: null };
  save: { request: SaveRequest; response: Saved };
}
export type RenderTask = keyof RenderTasks;
export type RequestOf<K extends RenderTask> = RenderTasks[K]['request'];
export type ResponseOf<K extends RenderTask> = RenderTasks[K]['response'];

export interface RequestMessage {
  readonly id: number;
  readonly kind: RenderTask;
  readonly request: unknown;
}
export interface ResponseMessage {
  readonly id: number;
  readonly response?: unknown;
  readonly error?: { readonly name: string; readonly code: string; readonly message: string };
}

/** One worker, whatever the platform calls it. */
export interface RenderPort {
  post(message: RequestMessage): void;
  onMessage(listener: (message: ResponseMessage) => void): void;
  onFailure(listener: (reason: string) => void): void;
  terminate(): void;
}
