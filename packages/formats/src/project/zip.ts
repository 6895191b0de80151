/**
 * Zip archives, read by their directory: what is not wanted is not touched, what is stored unpacked stays where it is, and nothing is unpacked
 * beyond the length that it states. An archive that was cut off is read from the front as far as it goes.
 *
 * @source PKWARE APPNOTE.TXT, sections 4.3.7 (local header), 4.3.12 (central directory), 4.3.16 (end of it), 4.4.4 (flags)
 */
import type { ByteSource } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { inflatedExactly } from '../inflate.ts';
import { crc32 } from '../png/chunks.ts';

export interface ZipEntry {
  readonly name: string;
  readonly isPacked: boolean;
  readonly crc: number;
  /** Where its bytes begin in the archive. */
  readonly offset: number;
  readonly packedLength: number;
  readonly length: number;
}

const LOCAL = 0x04034b50;
const CENTRAL = 0x02014b50;
const END = 0x06054b50;
const END_LENGTH = 22;
const LONGEST_COMMENT = 65_535;
const MOST_ENTRIES = 20_000;
const MOST_DIRECTORY = 8 * 2 ** 20;
const STORED = 0;
const DEFLATED = 8;
/** Nothing is packed tighter than this by deflate. */
const MOST_RATIO = 1032;

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const nameOf = (bytes: Uint8Array) => new TextDecoder().decode(bytes);

/** Entries of an archive. `isWhole` is false if it was cut off or its directory is damaged. @throws FormatError `unsupported`, `too-large` */
export async function readZip(source: ByteSource): Promise<{ entries: readonly ZipEntry[]; isWhole: boolean }> {
  const directory = await fromDirectory(source);
  return directory ? { entries: directory, isWhole: true } : { entries: await fromFront(source), isWhole: false };
}

async function fromDirectory(source: ByteSource): Promise<ZipEntry[] | null> {
  const length = Math.min(source.size, END_LENGTH + LONGEST_COMMENT);
  const tail = viewOf((await source.read(source.size - length, length)).slice());
  let end = length - END_LENGTH;
  while (end >= 0 && tail.getUint32(end, true) !== END) end--;
  if (end < 0) return null;
  const [count, size, start] = [tail.getUint16(end + 10, true), tail.getUint32(end + 12, true), tail.getUint32(end + 16, true)];
  if (count === 0xffff || size === 0xffffffff || start === 0xffffffff) throw new FormatError('unsupported', source.name, 'it is a zip of the long kind (zip64), which is not read. Save it with less in it.');
  if (count > MOST_ENTRIES || size > MOST_DIRECTORY) throw new FormatError('too-large', source.name, `it holds ${count} files; up to ${MOST_ENTRIES} are read.`);
  if (start + size > source.size) return null;
  const bytes = (await source.read(start, size)).slice();
  const view = viewOf(bytes);
  const entries: ZipEntry[] = [];
  let at = 0;
  for (let n = 0; n < count; n++) {
    if (at + 46 > size || view.getUint32(at, true) !== CENTRAL) return null;
    const [nameLength, extra, comment] = [28, 30, 32].map((offset) => view.getUint16(at + offset, true));
    const header = { flags: view.getUint16(at + 8, true), method: view.getUint16(at + 10, true), crc: view.getUint32(at + 16, true), packedLength: view.getUint32(at + 20, true), length: view.getUint32(at + 24, true) };
    const entry = await located(source, view.getUint32(at + 42, true), nameOf(bytes.subarray(at + 46, at + 46 + nameLength)), header);
    if (entry) entries.push(entry);
    at += 46 + nameLength + extra + comment;
  }
  return entries;
}

interface Header {
  readonly flags: number;
  readonly method: number;
  readonly crc: number;
  readonly packedLength: number;
  readonly length: number;
}

/** Null for what cannot be read: encrypted, packed otherwise, beyond the end. */
async function located(source: ByteSource, at: number, name: string, { flags, method, crc, packedLength, length }: Header): Promise<ZipEntry | null> {
  if (at + 30 > source.size || (flags & 1) === 1 || (method !== STORED && method !== DEFLATED) || (method === STORED && length !== packedLength)) return null;
  const local = viewOf((await source.read(at, 30)).slice());
  if (local.getUint32(0, true) !== LOCAL) return null;
  const offset = at + 30 + local.getUint16(26, true) + local.getUint16(28, true);
  return offset + packedLength > source.size ? null : { name, isPacked: method === DEFLATED, crc, offset, packedLength, length };
}

/** From one local header to the next, for as long as they state their lengths. */
async function fromFront(source: ByteSource): Promise<ZipEntry[]> {
  const entries: ZipEntry[] = [];
  for (let at = 0; at + 30 <= source.size && entries.length < MOST_ENTRIES; ) {
    const view = viewOf((await source.read(at, 30)).slice());
    if (view.getUint32(0, true) !== LOCAL) break;
    const header = { flags: view.getUint16(6, true), method: view.getUint16(8, true), crc: view.getUint32(14, true), packedLength: view.getUint32(18, true), length: view.getUint32(22, true) };
    const nameLength = view.getUint16(26, true);
    // Lengths that follow the data (flag 3) are only in the directory.
    if ((header.flags & 8) !== 0 || at + 30 + nameLength > source.size) break;
    const entry = await located(source, at, nameOf((await source.read(at + 30, nameLength)).slice()), header);
    if (entry) entries.push(entry);
    at += 30 + nameLength + view.getUint16(28, true) + header.packedLength;
  }
  return entries;
}

/** The bytes of an entry, in memory; null if they are damaged. @throws FormatError `too-large` if it states more than `most` */
export async function readEntry(source: ByteSource, entry: ZipEntry, most: number): Promise<Uint8Array | null> {
  const { isPacked, offset, packedLength, length, name } = entry;
  if (length > most || packedLength > most) throw new FormatError('too-large', source.name, `${name} in it has ${Math.round(Math.max(length, packedLength) / 2 ** 20)} MB; up to ${Math.round(most / 2 ** 20)} MB are read.`);
  if (length > packedLength * MOST_RATIO + 1024) return null;
  const packed = (await source.read(offset, packedLength)).slice();
  const bytes = isPacked ? inflatedExactly(packed, length) : packed;
  return bytes && crc32(bytes) === entry.crc ? bytes : null;
}
