import type { RequestMessage } from './render/protocol.ts';
import { serveRenderWorker } from './render/worker.ts';

const deflate = async (raw: Uint8Array) => new Uint8Array(await new Response(new Blob([raw as Uint8Array<ArrayBuffer>]).stream().pipeThrough(new CompressionStream('deflate'))).arrayBuffer());
const scope = globalThis as unknown as DedicatedWorkerGlobalScope;
const answer = serveRenderWorker({ deflate, allocateShared: (bytes) => new SharedArrayBuffer(bytes) }, (message) => scope.postMessage(message));
// Held for as long as the worker lives, however it ends: who waits for the lock learns of the end.
const alive = new Promise<void>((held) => {
  void navigator.locks.request(scope.name, () => {
    held();
    return new Promise(() => undefined);
  });
});
scope.onmessage = async (event: MessageEvent<RequestMessage>) => {
  await alive;
  await answer(event.data);
};
