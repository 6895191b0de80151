import { createHash } from 'node:crypto';
import { createRequire } from 'node:module';
import { closeSync, openSync, readSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createInflate, deflateSync, inflateSync } from 'node:zlib';
import { type ByteSource, byteSource, type CodecName } from '@tazzel/formats';
import type { FileRef } from './protocol.ts';
import type { WorkerPlatform } from './worker.ts';

const packaged: Readonly<Record<CodecName, string>> = {
  'jpeg-decoder': '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm',
  'jpeg-encoder': '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm',
  'webp-decoder': '@jsquash/webp/codec/dec/webp_dec.wasm',
  'webp-encoder': '@jsquash/webp/codec/enc/webp_enc_simd.wasm',
};

interface FilePart {
  readonly path: string;
  readonly from: number;
}

/** A file on disk, a part of one, or bytes in memory. Files are opened for each read, so that none stays open. */
export function openNodeFile(file: FileRef): ByteSource {
  if (file.handle instanceof Uint8Array) {
    const bytes = file.handle;
    // Bytes in shared memory are read out as private copies: zlib and TextDecoder want those.
    return { ...byteSource(file.name, bytes), read: async (offset, length) => bytes.slice(offset, offset + length) };
  }
  // A path, or a part of the file at one.
  const { path, from } = typeof file.handle === 'string' ? { path: file.handle, from: 0 } : (file.handle as FilePart);
  return {
    name: file.name,
    size: file.size,
    read: async (offset, length, room) => {
      const bytes = room && room.length >= length ? room : new Uint8Array(length);
      const descriptor = openSync(path, 'r');
      try {
        const read = readSync(descriptor, bytes, 0, length, from + offset);
        return bytes.subarray(0, read);
      } finally {
        closeSync(descriptor);
      }
    },
  };
}

export const nodePlatform: WorkerPlatform = {
  inflate: (packed, length) => {
    // The output is limited to what is expected; one byte more is already an error.
    const raw = inflateSync(packed, { maxOutputLength: length + 1, chunkSize: Math.max(64, length + 1) });
    if (raw.length !== length) throw new RangeError(`${raw.length} bytes, ${length} expected`);
    return raw;
  },
  inflateParts: async (packed, each) => {
    const stream = createInflate({ chunkSize: 2 ** 20 });
    stream.end(packed);
    for await (const part of stream) each(part as Uint8Array);
  },
  deflate: (raw) => deflateSync(raw, { level: 4 }),
  codec: async (name) => {
    // Their decoders hand over pixels as the browser's ImageData.
    (globalThis as { ImageData?: unknown }).ImageData ??= class {
      constructor(
        readonly data: Uint8ClampedArray,
        readonly width: number,
        readonly height: number,
      ) {}
    };
    // Beside the built worker, or in its package while nothing is built.
    const built = await readFile(new URL(`./${name}.wasm`, import.meta.url)).catch(() => null);
    return WebAssembly.compile(built ?? (await readFile(createRequire(import.meta.url).resolve(packaged[name]))));
  },
  sha256: async (bytes) => createHash('sha256').update(bytes).digest('hex'),
  open: openNodeFile,
  allocateShared: (byteLength) => new SharedArrayBuffer(byteLength),
  part: (file, name, offset, length) => ({ name, size: length, handle: typeof file.handle === 'string' ? ({ path: file.handle, from: offset } satisfies FilePart) : (file.handle as Uint8Array).subarray(offset, offset + length) }),
  keep: (name, bytes) => {
    const shared = new Uint8Array(new SharedArrayBuffer(bytes.length));
    shared.set(bytes);
    return { name, size: bytes.length, handle: shared };
  },
};
