/** The renderer in the browser: module workers. */
import { RenderError } from './errors.ts';
import type { RenderPort, RequestMessage, ResponseMessage } from './render/protocol.ts';
import { Renderer, type RendererOptions } from './render/renderer.ts';

export interface WebRendererOptions extends Partial<RendererOptions> {
  readonly kernelsUrl: string;
  /** `name` is the worker's name. */
  readonly createWorker: (name: string) => Worker;
}

export async function startWebRenderer({ kernelsUrl, createWorker, ...options }: WebRendererOptions): Promise<Renderer> {
  const module = await WebAssembly.compileStreaming(fetch(kernelsUrl)).catch(() => {
    throw new RenderError('worker-failed', 'The renderer could not be started: a part of the program could not be loaded. Check that the server is reachable and try again.');
  });
  const count = Math.min(16, Math.max(1, navigator.hardwareConcurrency ?? 2));
  const ports = Array.from({ length: count }, () => webPort(createWorker));
  return Renderer.start(ports, module, { allocateShared: (bytes) => new SharedArrayBuffer(bytes), now: () => performance.now(), budgetBytes: 3 * 2 ** 30, ...options });
}

function webPort(createWorker: (name: string) => Worker): RenderPort {
  const name = `tazzel-renderer-${crypto.randomUUID()}`;
  const worker = createWorker(name);
  let isOver = false;
  return {
    post: (message: RequestMessage) => worker.postMessage(message),
    onMessage: (listener) => worker.addEventListener('message', (event: MessageEvent<ResponseMessage>) => listener(event.data)),
    onFailure: (listener) => {
      worker.addEventListener('error', (event) => listener(event.message || 'a worker broke down'));
      // The worker holds the lock of its name for as long as it lives; it has it before it answers.
      worker.addEventListener('message', () => void navigator.locks.request(name, () => isOver || listener('a worker ended without a word')), { once: true });
    },
    terminate: () => {
      isOver = true;
      worker.terminate();
    },
  };
}
