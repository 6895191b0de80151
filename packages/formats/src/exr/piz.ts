/**
 * PIZ: Huffman-coded Haar wavelets over 16-bit words whose unused values were closed up. Lossless.
 * @source "Technical Introduction to OpenEXR" and the OpenEXR reference implementation's documented layout (BSD-3-Clause): bitmap, Huffman table, wavelet
 */
import type { Kernels, PizLayout, PizTables } from '@tazzel/kernels';

const BITMAP_BYTES = 8192;
const SYMBOLS = 65537;
const LONGEST_CODE = 58;
const SHORT_ZERO_RUN = 59;
const LONG_ZERO_RUN = 63;
/** Longer codes would need more samples than a chunk can hold. */
const LONGEST_READ = 40;
/** Codes up to this length are found in one look. */
const TABLE_BITS = 14;

/** @throws RangeError if the chunk is damaged */
export function unpackPiz(packed: Uint8Array, channels: readonly PizLayout[], kernels: Kernels): Uint8Array {
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
  const { tables, dataStart, bitCount } = readTables(packed.subarray(at, at + length));
  const words = kernels.pizRestore(packed.subarray(at + dataStart, at + length), bitCount, tables, channels, usedValues(bitmap));
  if (!words) throw new RangeError('the codes are damaged');
  return rowByRow(words, channels);
}

/** The values that occur, in order; zero always does. */
function usedValues(bitmap: Uint8Array): Uint16Array {
  const used: number[] = [];
  for (let value = 0; value < 65536; value++) if (value === 0 || bitmap[value >> 3] & (1 << (value & 7))) used.push(value);
  return Uint16Array.from(used);
}

/** From channel after channel to line after line, as all other compressions have it. */
function rowByRow(words: Uint16Array, channels: readonly PizLayout[]): Uint8Array {
  const out = new Uint16Array(words.length);
  const starts: number[] = [];
  let start = 0;
  for (const { words: n, width, height } of channels) {
    starts.push(start);
    start += n * width * height;
  }
  const rows = channels[0]?.height ?? 0;
  let to = 0;
  for (let row = 0; row < rows; row++) {
    for (const [i, { words: n, width }] of channels.entries()) {
      out.set(words.subarray(starts[i] + row * n * width, starts[i] + (row + 1) * n * width), to);
      to += n * width;
    }
  }
  return new Uint8Array(out.buffer);
}

/** The lengths of the codes, and the canonical codes that follow from them: the longest begin at zero, and within a length they rise with the symbol. */
function readTables(bytes: Uint8Array): { tables: PizTables; dataStart: number; bitCount: number } {
  if (bytes.length < 20) throw new RangeError('the table of codes is missing');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [lowest, highest, , bitCount] = [0, 4, 8, 12].map((offset) => view.getUint32(offset, true));
  if (lowest >= SYMBOLS || highest >= SYMBOLS) throw new RangeError('a code for a value beyond 16 bits');
  const table = bytes.subarray(20);
  let at = 0;
  const take = (count: number) => {
    const value = bitsAt(table, at, count);
    at += count;
    return value;
  };
  const byLength = Array.from({ length: LONGEST_CODE + 1 }, () => [] as number[]);
  for (let symbol = lowest; symbol <= highest; symbol++) {
    const length = take(6);
    if (length < SHORT_ZERO_RUN) {
      if (length > 0) byLength[length].push(symbol);
      continue;
    }
    const run = length === LONG_ZERO_RUN ? take(8) + 6 : length - SHORT_ZERO_RUN + 2;
    if (symbol + run > highest + 1) throw new RangeError('a run beyond the table of codes');
    symbol += run - 1;
  }
  const dataStart = 20 + Math.ceil(at / 8);
  if (bitCount > (bytes.length - dataStart) * 8) throw new RangeError('the codes end too early');

  const longest = byLength.findLastIndex((list) => list.length > 0);
  if (longest > LONGEST_READ) throw new RangeError(`a code of more than ${LONGEST_READ} bits`);
  const quick = new Int32Array(1 << TABLE_BITS).fill(-1);
  const long = new BigUint64Array((LONGEST_CODE + 1) * 3);
  let code = 0;
  let place = 0;
  const places = byLength.map((list) => {
    place += list.length;
    return place - list.length;
  });
  for (let length = LONGEST_CODE; length > 0; length--) {
    const list = byLength[length];
    long.set([BigInt(code), BigInt(list.length), BigInt(places[length])], length * 3);
    if (length <= TABLE_BITS) {
      const share = 2 ** (TABLE_BITS - length);
      if ((code + list.length) * share > quick.length) throw new RangeError('codes that overlap');
      for (const [i, symbol] of list.entries()) quick.fill(symbol * 64 + length, (code + i) * share, (code + i + 1) * share);
    }
    code = Math.floor((code + list.length) / 2);
  }
  return { tables: { quick, long, symbols: Uint32Array.from(byLength.flat()), longest: Math.max(0, longest), runSymbol: highest }, dataStart, bitCount };
}

/** `count` bits, at most 17, from bit `at` on, the highest of each byte first; beyond the end zeros follow. */
function bitsAt(bytes: Uint8Array, at: number, count: number): number {
  const i = at >> 3;
  const window = ((bytes[i] ?? 0) << 16) | ((bytes[i + 1] ?? 0) << 8) | (bytes[i + 2] ?? 0);
  return (window >> (24 - count - (at & 7))) & (2 ** count - 1);
}
