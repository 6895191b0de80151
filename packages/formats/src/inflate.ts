/** Unpacking of small things and of what is not trusted: it stops at the first byte beyond what is allowed. @source RFC 1950, RFC 1951 (through fflate) */
import { Inflate, Unzlib } from 'fflate';

const STEP = 16_384;

/** Up to `most` bytes of a stream; null if it is damaged. `isWhole`: it ended within them. */
function unpacked(Stream: typeof Inflate | typeof Unzlib, packed: Uint8Array, most: number): { bytes: Uint8Array; isWhole: boolean } | null {
  const out = new Uint8Array(most);
  let at = 0;
  let isWhole = true;
  const stream = new Stream((part: Uint8Array) => {
    const fitting = part.subarray(0, most - at);
    out.set(fitting, at);
    at += fitting.length;
    if (fitting.length < part.length) isWhole = false;
  });
  try {
    for (let from = 0; from < packed.length && isWhole; from += STEP) stream.push(packed.subarray(from, from + STEP), from + STEP >= packed.length);
  } catch {
    return null;
  }
  return { bytes: out.subarray(0, at), isWhole };
}

/** Exactly `length` bytes of a bare deflate stream, or null. */
export function inflatedExactly(packed: Uint8Array, length: number): Uint8Array | null {
  const found = unpacked(Inflate, packed, length);
  return found?.isWhole && found.bytes.length === length ? found.bytes : null;
}

/** A zlib stream of at most `most` bytes, or null. */
export function inflatedWithin(packed: Uint8Array, most: number): Uint8Array | null {
  const found = unpacked(Unzlib, packed, most);
  return found?.isWhole ? found.bytes : null;
}

/** The first `length` bytes of a zlib stream, whatever else it holds; null if there are fewer. */
export function inflatedFirst(packed: Uint8Array, length: number): Uint8Array | null {
  const found = unpacked(Unzlib, packed, length);
  return found?.bytes.length === length ? found.bytes : null;
}
