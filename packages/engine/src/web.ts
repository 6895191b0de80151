/** The engine in the browser: module workers, files as Blobs. */
import { Engine, type EngineOptions } from './engine.ts';
import { WorkerPool } from './pool.ts';
import type { RequestMessage, ResponseMessage, WorkerPort } from './protocol.ts';

export interface WebEngineOptions extends Partial<EngineOptions> {
  readonly kernelsUrl: string;
  readonly createWorker: () => Worker;
}

export async function startWebEngine({ kernelsUrl, createWorker, ...options }: WebEngineOptions): Promise<Engine> {
  const module = await WebAssembly.compileStreaming(fetch(kernelsUrl));
  const count = Math.min(8, Math.max(2, navigator.hardwareConcurrency ?? 2));
  const pool = new WorkerPool(Array.from({ length: count }, () => webPort(createWorker())));
  await pool.start(module);
  return new Engine(pool, { allocateShared: (byteLength) => new SharedArrayBuffer(byteLength), ...options });
}

function webPort(worker: Worker): WorkerPort {
  return {
    post: (message: RequestMessage) => worker.postMessage(message),
    onMessage: (listener) => worker.addEventListener('message', (event: MessageEvent<ResponseMessage>) => listener(event.data)),
    onFailure: (listener) => worker.addEventListener('error', (event) => listener(event.message || 'a worker broke down')),
    terminate: () => worker.terminate(),
  };
}
