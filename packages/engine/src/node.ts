/** The engine in Node: worker threads, files by path. */
import { readFile } from 'node:fs/promises';
import { availableParallelism, freemem } from 'node:os';
import { Worker } from 'node:worker_threads';
import { Engine, type EngineOptions } from './engine.ts';
import { type Every, WorkerPool } from './pool.ts';
import type { RequestMessage, ResponseMessage, WorkerPort } from './protocol.ts';
import { DEFAULT_KEPT_BYTES } from './tile-store.ts';

export { nodePlatform, openNodeFile } from './node-platform.ts';
export { hashOfFile } from './worker.ts';

export interface NodeEngineOptions extends Partial<EngineOptions> {
  readonly workers?: number;
  /** The built worker and kernels. */
  readonly workerUrl: URL;
  readonly kernelsUrl: URL;
}

/** Kept pictures take a gigabyte where there are eight free: what a wide glow or a focus reads is then made once. */
const KEPT = { most: 2 ** 30, share: 1 / 8 };

export async function startNodeEngine(options: NodeEngineOptions): Promise<Engine> {
  const module = await WebAssembly.compile(await readFile(options.kernelsUrl));
  const count = options.workers ?? Math.min(16, availableParallelism());
  const pool = new WorkerPool(count, () => nodePort(new Worker(options.workerUrl)), every);
  await pool.start(module);
  return new Engine(pool, { allocateShared: (byteLength) => new SharedArrayBuffer(byteLength), budgetBytes: 6 * 2 ** 30, keptBytes: Math.max(DEFAULT_KEPT_BYTES, Math.min(KEPT.most, freemem() * KEPT.share)), ...options });
}

function nodePort(worker: Worker): WorkerPort {
  return {
    post: (message: RequestMessage) => worker.postMessage(message),
    onMessage: (listener) => void worker.on('message', (message: ResponseMessage) => listener(message)),
    onFailure: (listener) => {
      worker.on('error', (error) => listener((error as NodeJS.ErrnoException).code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'memory ran out' : error.message));
      worker.on('exit', () => listener('it ended without a word'));
    },
    terminate: () => void worker.terminate(),
  };
}

const every: Every = (milliseconds, tick) => {
  const timer = setInterval(tick, milliseconds);
  return () => clearInterval(timer);
};
