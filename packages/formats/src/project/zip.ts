/**
 * Zip archives, read by their directory: what is not wanted is not touched, what is stored unpacked stays where it is, and nothing is unpacked
 * beyond the length that it states. An archive that was cut off is read from the front as far as it goes.
 *
 * @source PKWARE APPNOTE.TXT, sections 4.3.7 (local header), 4.3.12 (central directory), 4.3.14 to 4.3.16 (ends of it), 4.4.4 (flags), 4.5.3 (what does not fit into 32 bits)
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
const [END_64, END_64_LENGTH, LOCATOR_64, LOCATOR_LENGTH] = [0x06064b50, 56, 0x07064b50, 20];
const [FULL_16, FULL_32] = [0xffff, 0xffffffff];
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
  const short = [tail.getUint16(end + 10, true), tail.getUint32(end + 12, true), tail.getUint32(end + 16, true)];
  const long = short[0] === FULL_16 || short[1] === FULL_32 || short[2] === FULL_32 ? await longEnd(source, source.size - length + end) : null;
  const [count, size, start] = long ?? short;
  if (count > MOST_ENTRIES || size > MOST_DIRECTORY) throw new FormatError('too-large', source.name, `it holds ${count} files; up to ${MOST_ENTRIES} are read.`);
  if (start + size > source.size) return null;
  const bytes = (await source.read(start, size)).slice();
  const view = viewOf(bytes);
  const entries: ZipEntry[] = [];
  let at = 0;
  for (let n = 0; n < count; n++) {
    if (at + 46 > size || view.getUint32(at, true) !== CENTRAL) return null;
    const [nameLength, extra, comment] = [28, 30, 32].map((offset) => view.getUint16(at + offset, true));
    if (at + 46 + nameLength + extra > size) return null;
    const [packedLength, entryLength, place] = longFields(view, at + 46 + nameLength, extra, [view.getUint32(at + 20, true), view.getUint32(at + 24, true), view.getUint32(at + 42, true)]);
    const header = { flags: view.getUint16(at + 8, true), method: view.getUint16(at + 10, true), crc: view.getUint32(at + 16, true), packedLength, length: entryLength };
    const entry = await located(source, place, nameOf(bytes.subarray(at + 46, at + 46 + nameLength)), header);
    if (entry) entries.push(entry);
    at += 46 + nameLength + extra + comment;
  }
  return entries;
}

/** How many entries, the length of their directory and where it begins, where that does not fit into 32 bits; null if there is no such end. @param at where the short end stands */
async function longEnd(source: ByteSource, at: number): Promise<readonly number[] | null> {
  if (at < LOCATOR_LENGTH) return null;
  const locator = viewOf((await source.read(at - LOCATOR_LENGTH, LOCATOR_LENGTH)).slice());
  const end = Number(locator.getBigUint64(8, true));
  if (locator.getUint32(0, true) !== LOCATOR_64 || end + END_64_LENGTH > source.size) return null;
  const view = viewOf((await source.read(end, END_64_LENGTH)).slice());
  return view.getUint32(0, true) === END_64 ? [32, 40, 48].map((place) => Number(view.getBigUint64(place, true))) : null;
}

/** Packed length, length and place of an entry: those that are full stand in its extra field, the length first. */
function longFields(view: DataView, from: number, count: number, [packedLength, length, place]: readonly number[]): readonly number[] {
  for (let at = from; at + 4 <= from + count; at += 4 + view.getUint16(at + 2, true)) {
    if (view.getUint16(at, true) !== 1) continue;
    const end = Math.min(from + count, at + 4 + view.getUint16(at + 2, true));
    let field = at + 4;
    const next = (short: number) => {
      if (short !== FULL_32 || field + 8 > end) return short;
      field += 8;
      return Number(view.getBigUint64(field - 8, true));
    };
    const whole = next(length);
    return [next(packedLength), whole, next(place)];
  }
  return [packedLength, length, place];
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
