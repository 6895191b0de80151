import type { ByteSource, CodecName } from '@tazzel/formats';
import jpegDecoder from '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm?url';
import jpegEncoder from '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm?url';
import webpDecoder from '@jsquash/webp/codec/dec/webp_dec.wasm?url';
import webpEncoder from '@jsquash/webp/codec/enc/webp_enc_simd.wasm?url';
import type { FileRef, RequestMessage } from './protocol.ts';
import { serveWorker, type WorkerPlatform } from './worker.ts';

const codecs: Readonly<Record<CodecName, string>> = { 'jpeg-decoder': jpegDecoder, 'jpeg-encoder': jpegEncoder, 'webp-decoder': webpDecoder, 'webp-encoder': webpEncoder };

/** Hands over a stream piece by piece; what `each` throws cancels it. */
async function readParts(stream: ReadableStream<Uint8Array>, each: (part: Uint8Array) => void): Promise<void> {
  const reader = stream.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    try {
      each(value);
    } catch (error) {
      await reader.cancel();
      throw error;
    }
  }
}

/** Reads a stream into exactly `length` bytes and stops at the first byte beyond. */
async function readExactly(stream: ReadableStream<Uint8Array>, length: number): Promise<Uint8Array> {
  const out = new Uint8Array(length);
  let at = 0;
  await readParts(stream, (part) => {
    if (at + part.length > length) throw new RangeError(`more than ${length} bytes`);
    out.set(part, at);
    at += part.length;
  });
  if (at !== length) throw new RangeError(`${at} bytes, ${length} expected`);
  return out;
}

const through = (bytes: Uint8Array, transform: CompressionStream | DecompressionStream) =>
  new Blob([bytes as Uint8Array<ArrayBuffer>]).stream().pipeThrough(transform as ReadableWritablePair<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>);

export const webPlatform: WorkerPlatform = {
  inflate: (packed, length) => readExactly(through(packed, new DecompressionStream('deflate')), length),
  inflateParts: (packed, each) => readParts(through(packed, new DecompressionStream('deflate')), each),
  deflate: async (raw) => new Uint8Array(await new Response(through(raw, new CompressionStream('deflate'))).arrayBuffer()),
  codec: async (name) => WebAssembly.compileStreaming(fetch(codecs[name])),
  sha256: async (bytes) => {
    const hash = await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>);
    return Array.from(new Uint8Array(hash), (byte) => byte.toString(16).padStart(2, '0')).join('');
  },
  open: (file: FileRef): ByteSource => {
    const blob = file.handle as Blob;
    return { name: file.name, size: blob.size, read: async (offset, length) => new Uint8Array(await blob.slice(offset, offset + length).arrayBuffer()) };
  },
  allocateShared: (byteLength) => new SharedArrayBuffer(byteLength),
  part: (file, name, offset, length) => ({ name, size: length, handle: (file.handle as Blob).slice(offset, offset + length) }),
  keep: (name, bytes) => ({ name, size: bytes.length, handle: new Blob([bytes as Uint8Array<ArrayBuffer>]) }),
};

const scope = globalThis as unknown as DedicatedWorkerGlobalScope;
const answer = serveWorker(webPlatform, (message, transfer) => scope.postMessage(message, transfer));
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
