/** The renderer in the browser: module workers. */
import type { RenderPort, RequestMessage, ResponseMessage } from './render/protocol.ts';
import { Renderer, type RendererOptions } from './render/renderer.ts';

export interface WebRendererOptions extends Partial<RendererOptions> {
  readonly kernelsUrl: string;
  readonly createWorker: () => Worker;
}

export async function startWebRenderer({ kernelsUrl, createWorker, ...options }: WebRendererOptions): Promise<Renderer> {
  const module = await WebAssembly.compileStreaming(fetch(kernelsUrl));
  const count = Math.min(16, Math.max(1, navigator.hardwareConcurrency ?? 2));
  const ports = Array.from({ length: count }, () => webPort(createWorker()));
  return Renderer.start(ports, module, { allocateShared: (bytes) => new SharedArrayBuffer(bytes), now: () => performance.now(), budgetBytes: 3 * 2 ** 30, ...options });
}

function webPort(worker: Worker): RenderPort {
  return {
    post: (message: RequestMessage) => worker.postMessage(message),
    onMessage: (listener) => worker.addEventListener('message', (event: MessageEvent<ResponseMessage>) => listener(event.data)),
    onFailure: (listener) => worker.addEventListener('error', (event) => listener(event.message || 'a worker broke down')),
    terminate: () => worker.terminate(),
  };
}
