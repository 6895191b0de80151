import { LIMITS } from '@tazzel/core';

/** Where bytes come from. Codecs see this and never a path, a Blob or a network. */
export interface ByteSource {
  /** For messages. */
  readonly name: string;
  readonly size: number;
  /**
   * Exactly `length` bytes; the caller stays within `size`. They may lie in `room`, if that is given: who reads piece after piece and
   * keeps none gives the same memory each time.
   */
  read(offset: number, length: number, room?: Uint8Array): Promise<Uint8Array>;
}

export type CodecName = `${'jpeg' | 'webp'}-${'decoder' | 'encoder'}`;

/** What the platform does faster than we could; the same functions serve all formats. */
export interface Platform {
  /** Unpacks a zlib stream, however long; chunks are unpacked by the kernels. Rejects if it is damaged or does not hold exactly `length` bytes; never keeps more than that. */
  inflate(packed: Uint8Array, length: number): Promise<Uint8Array> | Uint8Array;
  /** The same piece by piece, for what is too large to be unpacked as a whole. What `each` throws ends it. */
  inflateParts(packed: Uint8Array, each: (part: Uint8Array) => void): Promise<void>;
  deflate(raw: Uint8Array): Promise<Uint8Array> | Uint8Array;
  /** What ships as WebAssembly of its own, compiled when the first file wants it. */
  codec(name: CodecName): Promise<WebAssembly.Module>;
  /** Lower-case hex. */
  sha256(bytes: Uint8Array): Promise<string>;
}

/** Letters of Latin-1 as bytes, as heads of chunks and tags want them. */
export const codesOf = (text: string): number[] => [...text].map((char) => char.charCodeAt(0));

export function concatenate(parts: readonly Uint8Array[], length = parts.reduce((sum, part) => sum + part.length, 0)): Uint8Array<ArrayBuffer> {
  const whole = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

export function byteSource(name: string, bytes: Uint8Array): ByteSource {
  return { name, size: bytes.length, read: async (offset, length) => bytes.subarray(offset, offset + length) };
}

/** A part of something as if it were a file of its own. */
export const sliceOf = (source: ByteSource, offset: number, length: number): ByteSource => ({ name: source.name, size: length, read: (at, count, room) => source.read(offset + at, count, room) });

/**
 * The same bytes, read `bytes` at a time, none of them beyond `end`, for who reads small pieces one behind the other. What is longer or lies
 * elsewhere is read as it was asked for.
 */
export function readAhead(source: ByteSource, end: number, bytes: number): ByteSource {
  let at = 0;
  let held: Uint8Array = new Uint8Array(0);
  return {
    ...source,
    read: async (offset, length, room) => {
      if (offset < at || offset + length > at + held.length) {
        const count = Math.min(end - offset, bytes);
        if (count <= length) return source.read(offset, length, room);
        held = await source.read(offset, count);
        at = offset;
      }
      return held.subarray(offset - at, offset - at + length);
    },
  };
}

/** Limits that are checked before anything is allocated. */
export const { pixels: MAX_PIXELS, side: MAX_SIDE } = LIMITS;

/** Memory for planes; shared between workers in the engine, plain in tests. */
export type Allocate = (byteLength: number) => ArrayBufferLike;
export const plainMemory: Allocate = (byteLength) => new ArrayBuffer(byteLength);
