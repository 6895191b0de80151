/**
 * Huffman codes of 16-bit words, as PIZ and DWA store them.
 * @source OpenEXR reference implementation's documented layout (BSD-3-Clause): table of code lengths, canonical codes, a symbol for runs
 */
import type { Kernels, PizTables } from '@tazzel/kernels';

const SYMBOLS = 65537;
const LONGEST_CODE = 58;
const SHORT_ZERO_RUN = 59;
const LONG_ZERO_RUN = 63;
/** Longer codes would need more samples than a chunk can hold. */
const LONGEST_READ = 40;
/** Codes up to this length are found in one look. */
const TABLE_BITS = 14;

export interface Huffman {
  readonly tables: PizTables;
  /** Where the codes begin. */
  readonly dataStart: number;
  readonly bitCount: number;
}

/** Exactly `count` words. @throws RangeError if the codes are damaged */
export function unpackHuffman(packed: Uint8Array, count: number, kernels: Kernels): Uint16Array {
  const { tables, dataStart, bitCount } = readHuffman(packed);
  const words = kernels.huffmanWords(packed.subarray(dataStart), bitCount, tables, count);
  if (!words) throw new RangeError('the codes are damaged');
  return words;
}

/** The lengths of the codes, and the canonical codes that follow from them: the longest begin at zero, and within a length they rise with the symbol. */
export function readHuffman(bytes: Uint8Array): Huffman {
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
