/**
 * PIZ: Huffman-coded Haar wavelets over 16-bit words whose unused values were closed up. Lossless.
 * @source "Technical Introduction to OpenEXR" and the OpenEXR reference implementation's documented layout (BSD-3-Clause): bitmap, Huffman table, wavelet
 */
import type { Kernels, PizLayout } from '@tazzel/kernels';
import type { ChunkChannel } from './dwa.ts';
import { readHuffman } from './huffman.ts';

const BITMAP_BYTES = 8192;

/** The channels one after the other; views that the kernels' next call overwrites. @throws RangeError if the chunk is damaged */
export function unpackPiz(packed: Uint8Array, channels: readonly ChunkChannel[], kernels: Kernels): Uint8Array[] {
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  const [first, last] = [view.getUint16(0, true), view.getUint16(2, true)];
  if (first >= BITMAP_BYTES || last >= BITMAP_BYTES) throw new RangeError('the bitmap is too long');
  const bitmap = new Uint8Array(BITMAP_BYTES);
  let at = 4;
  if (first <= last) {
    const bytes = packed.subarray(at, at + last - first + 1);
    if (bytes.length !== last - first + 1) throw new RangeError('the bitmap ends too early');
    bitmap.set(bytes, first);
    at += bytes.length;
  }
  const length = view.getInt32(at, true);
  at += 4;
  if (length < 0 || at + length > packed.length) throw new RangeError('the codes end too early');
  const { tables, dataStart, bitCount } = readHuffman(packed.subarray(at, at + length));
  const layouts = channels.map(({ type, width, rows }): PizLayout => ({ words: type === 'f16' ? 1 : 2, width, height: rows }));
  const words = kernels.pizRestore(packed.subarray(at + dataStart, at + length), bitCount, tables, layouts, usedValues(bitmap));
  if (!words) throw new RangeError('the codes are damaged');
  let start = 0;
  return layouts.map(({ words: n, width, height }) => {
    const plane = words.subarray(start, start + n * width * height);
    start += plane.length;
    return new Uint8Array(plane.buffer, plane.byteOffset, plane.byteLength);
  });
}

/** The values that occur, in order; zero always does. */
function usedValues(bitmap: Uint8Array): Uint16Array {
  const used: number[] = [];
  for (let value = 0; value < 65536; value++) if (value === 0 || bitmap[value >> 3] & (1 << (value & 7))) used.push(value);
  return Uint16Array.from(used);
}
