/** The renderer in Node: worker threads. */
import { readFile } from 'node:fs/promises';
import { availableParallelism, freemem } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { RenderPort, RequestMessage, ResponseMessage } from './render/protocol.ts';
import { Renderer, type RendererOptions } from './render/renderer.ts';

export interface NodeRendererOptions extends Partial<RendererOptions> {
  readonly workers?: number;
  /** The built worker and kernels. */
  readonly workerUrl: URL;
  readonly kernelsUrl: URL;
}

export async function startNodeRenderer({ workers = Math.min(16, availableParallelism()), workerUrl, kernelsUrl, ...options }: NodeRendererOptions): Promise<Renderer> {
  const module = await WebAssembly.compile(await readFile(kernelsUrl));
  const ports = Array.from({ length: workers }, () => nodePort(new Worker(workerUrl)));
  return Renderer.start(ports, module, { allocateShared: (bytes) => new SharedArrayBuffer(bytes), now: () => performance.now(), budgetBytes: Math.max(2 ** 30, freemem() * 0.7), ...options });
}

function nodePort(worker: Worker): RenderPort {
  return {
    post: (message: RequestMessage) => worker.postMessage(message),
    onMessage: (listener) => void worker.on('message', (message: ResponseMessage) => listener(message)),
    onFailure: (listener) => {
      worker.on('error', (error) => listener((error as NodeJS.ErrnoException).code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'memory ran out' : error.message));
      worker.on('exit', () => listener('a worker ended without a word'));
    },
    terminate: () => void worker.terminate(),
  };
}
