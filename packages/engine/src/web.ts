/** The engine in the browser: module workers, files as Blobs. */
import { Engine, type EngineOptions } from './engine.ts';
import { EngineError } from './errors.ts';
import { type Every, WorkerPool } from './pool.ts';
import type { RequestMessage, ResponseMessage, WorkerPort } from './protocol.ts';
import { DEFAULT_KEPT_BYTES } from './tile-store.ts';

export interface WebEngineOptions extends Partial<EngineOptions> {
  readonly kernelsUrl: string;
  /** `name` is the worker's name. */
  readonly createWorker: (name: string) => Worker;
}

/** Of kept pictures, for each gigabyte of the machine; browsers tell at most eight, and some tell nothing. */
const KEPT_PER_GIGABYTE = 64 * 2 ** 20;
const gigabytes = () => (navigator as { readonly deviceMemory?: number }).deviceMemory ?? 0;

/** @throws EngineError `worker-failed` if the program of the workers cannot be loaded now; it may be tried again */
export async function startWebEngine({ kernelsUrl, createWorker, ...options }: WebEngineOptions): Promise<Engine> {
  const module = await WebAssembly.compileStreaming(fetch(kernelsUrl)).catch(() => {
    throw new EngineError('worker-failed', 'The computation could not be started: a part of the program could not be loaded. Check that the server is reachable and try again.');
  });
  const count = Math.min(8, Math.max(2, navigator.hardwareConcurrency ?? 2));
  const pool = new WorkerPool(count, () => webPort(createWorker), every);
  await pool.start(module);
  return new Engine(pool, { allocateShared: (byteLength) => new SharedArrayBuffer(byteLength), keptBytes: Math.max(DEFAULT_KEPT_BYTES, gigabytes() * KEPT_PER_GIGABYTE), ...options });
}

function webPort(createWorker: (name: string) => Worker): WorkerPort {
  const name = `tazzel-worker-${crypto.randomUUID()}`;
  const worker = createWorker(name);
  let isWatched = false;
  let isOver = false;
  let failed: (reason: string) => void = () => undefined;
  /** The lock of a worker is free when it has ended. It is asked for once the worker has answered, so that the worker has it first. */
  const watch = () => {
    if (isWatched) return;
    isWatched = true;
    void navigator.locks.request(name, () => {
      if (!isOver) failed('it ended without a word');
    });
  };
  return {
    post: (message: RequestMessage) => worker.postMessage(message),
    onMessage: (listener) =>
      worker.addEventListener('message', (event: MessageEvent<ResponseMessage>) => {
        watch();
        listener(event.data);
      }),
    onFailure: (listener) => {
      failed = listener;
      worker.addEventListener('error', (event) => listener(event.message || 'a worker broke down'));
    },
    terminate: () => {
      isOver = true;
      worker.terminate();
    },
  };
}

const every: Every = (milliseconds, tick) => {
  const timer = setInterval(tick, milliseconds);
  return () => clearInterval(timer);
};
