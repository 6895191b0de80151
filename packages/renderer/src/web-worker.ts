import type { RequestMessage } from './render/protocol.ts';
import { serveRenderWorker } from './render/worker.ts';

const deflate = async (raw: Uint8Array) => new Uint8Array(await new Response(new Blob([raw as Uint8Array<ArrayBuffer>]).stream().pipeThrough(new CompressionStream('deflate'))).arrayBuffer());
const scope = globalThis as unknown as DedicatedWorkerGlobalScope;
const answer = serveRenderWorker({ deflate, allocateShared: (bytes) => new SharedArrayBuffer(bytes) }, (message) => scope.postMessage(message));
scope.onmessage = (event: MessageEvent<RequestMessage>) => void answer(event.data);
