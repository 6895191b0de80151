/** The engine in Node: worker threads, files by path. */
import { readFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { Engine, type EngineOptions } from './engine.ts';
import { WorkerPool } from './pool.ts';
import type { RequestMessage, ResponseMessage, WorkerPort } from './protocol.ts';

export { nodePlatform, openNodeFile } from './node-platform.ts';

export interface NodeEngineOptions extends Partial<EngineOptions> {
  readonly workers?: number;
  /** The built worker and kernels. */
  readonly workerUrl: URL;
  readonly kernelsUrl: URL;
}

export async function startNodeEngine(options: NodeEngineOptions): Promise<Engine> {
  const module = await WebAssembly.compile(await readFile(options.kernelsUrl));
  const count = options.workers ?? Math.min(16, availableParallelism());
  const pool = new WorkerPool(Array.from({ length: count }, () => nodePort(new Worker(options.workerUrl))));
  await pool.start(module);
  return new Engine(pool, { allocateShared: (byteLength) => new SharedArrayBuffer(byteLength), budgetBytes: 6 * 2 ** 30, ...options });
}

function nodePort(worker: Worker): WorkerPort {
  return {
    post: (message: RequestMessage) => worker.postMessage(message),
    onMessage: (listener) => void worker.on('message', (message: ResponseMessage) => listener(message)),
    onFailure: (listener) => void worker.on('error', (error) => listener(error.message)),
    terminate: () => void worker.terminate(),
  };
}
