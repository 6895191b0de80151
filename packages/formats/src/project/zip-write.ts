/**
 * The bones of an archive whose files are stored as they are and never pass through memory: what stands before each, and what stands at the end.
 * @source PKWARE APPNOTE.TXT, sections 4.3.7, 4.3.12, 4.3.14 to 4.3.16 and 4.5.3 (what does not fit into 32 bits)
 */
import { concatenate } from '../bytes.ts';

export interface StoredEntry {
  readonly name: string;
  readonly length: number;
  /** CRC-32 of its bytes. */
  readonly crc: number;
}

const [LOCAL, CENTRAL, END_64, LOCATOR_64, END] = [0x04034b50, 0x02014b50, 0x06064b50, 0x07064b50, 0x06054b50];
const [FULL_16, FULL_32] = [0xffff, 0xffffffff];
/** Names are UTF-8. */
const FLAGS = 0x0800;
/** The first of January 1980: the same files are the same archive. */
const DATE = 0x0021;

/** Numbers of 2, 4 or 8 bytes, one after the other, little endian. */
function packed(fields: readonly (readonly [bytes: 2 | 4 | 8, value: number])[]): Uint8Array<ArrayBuffer> {
  const view = new DataView(new ArrayBuffer(fields.reduce((sum, [bytes]) => sum + bytes, 0)));
  let at = 0;
  for (const [bytes, value] of fields) {
    if (bytes === 2) view.setUint16(at, value, true);
    else if (bytes === 4) view.setUint32(at, value, true);
    else view.setBigUint64(at, BigInt(value), true);
    at += bytes;
  }
  return new Uint8Array(view.buffer);
}

/** The archive is the first head, the first file, the second head, …, the end. */
export function storedZip(entries: readonly StoredEntry[]): { readonly heads: readonly Uint8Array<ArrayBuffer>[]; readonly end: readonly Uint8Array<ArrayBuffer>[] } {
  const encoder = new TextEncoder();
  const heads: Uint8Array<ArrayBuffer>[] = [];
  const directory: Uint8Array<ArrayBuffer>[] = [];
  let at = 0;
  for (const { name, length, crc } of entries) {
    const spoken = encoder.encode(name);
    const isLong = length >= FULL_32;
    const size = isLong ? FULL_32 : length;
    const version = isLong || at >= FULL_32 ? 45 : 20;
    const common = [[2, version], [2, FLAGS], [2, 0], [2, 0], [2, DATE], [4, crc], [4, size], [4, size], [2, spoken.length]] as const;
    const sizes = isLong ? packed([[2, 1], [2, 16], [8, length], [8, length]]) : packed([]);
    const head = concatenate([packed([[4, LOCAL], ...common, [2, sizes.length]]), spoken, sizes]);
    const far = [...(isLong ? [length, length] : []), ...(at >= FULL_32 ? [at] : [])];
    const extra = far.length > 0 ? packed([[2, 1], [2, 8 * far.length], ...far.map((value) => [8, value] as const)]) : packed([]);
    directory.push(packed([[4, CENTRAL], [2, 45], ...common, [2, extra.length], [2, 0], [2, 0], [2, 0], [4, 0], [4, Math.min(at, FULL_32)]]), spoken, extra);
    heads.push(head);
    at += head.length + length;
  }
  const size = directory.reduce((sum, { length }) => sum + length, 0);
  const count = entries.length;
  const isLong = at >= FULL_32 || size >= FULL_32 || count >= FULL_16;
  const long = isLong ? [packed([[4, END_64], [8, 44], [2, 45], [2, 45], [4, 0], [4, 0], [8, count], [8, count], [8, size], [8, at]]), packed([[4, LOCATOR_64], [4, 0], [8, at + size], [4, 1]])] : [];
  const few = Math.min(count, FULL_16);
  return { heads, end: [...directory, ...long, packed([[4, END], [2, 0], [2, 0], [2, few], [2, few], [4, Math.min(size, FULL_32)], [4, Math.min(at, FULL_32)], [2, 0]])] };
}
