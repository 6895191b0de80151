/**
 * The directories of a TIFF file: what stands under which number, of both sizes of the format and both orders of bytes.
 * @source TIFF 6.0 (1992) section 2; BigTIFF as the TIFF libraries document it (64-bit offsets, version 43)
 */
import type { ByteSource } from '../bytes.ts';
import { FormatError } from '../errors.ts';

interface Entry {
  readonly type: number;
  readonly count: number;
  /** Where the value stands in the file. */
  readonly offset: number;
}

const MAX_PAGES = 256;
const MAX_ENTRIES = 4096;
/** By number of the type: bytes of one value. */
const TYPE_BYTES: Readonly<Record<number, number>> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4, 16: 8, 17: 8, 18: 8 };
const WHOLE_NUMBERS: Readonly<Record<number, (view: DataView, at: number, little: boolean) => number>> = {
  1: (view, at) => view.getUint8(at),
  3: (view, at, little) => view.getUint16(at, little),
  4: (view, at, little) => view.getUint32(at, little),
  13: (view, at, little) => view.getUint32(at, little),
  16: (view, at, little) => Number(view.getBigUint64(at, little)),
  18: (view, at, little) => Number(view.getBigUint64(at, little)),
};

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** One page's directory. Values are read when they are asked for. */
export class TiffDirectory {
  constructor(
    readonly source: ByteSource,
    readonly little: boolean,
    readonly entries: ReadonlyMap<number, Entry>,
  ) {}

  has(tag: number): boolean {
    return this.entries.has(tag);
  }

  count(tag: number): number {
    return this.entries.get(tag)?.count ?? 0;
  }

  /** Up to `most` whole numbers; empty if the tag is missing or holds something else. */
  async numbers(tag: number, most: number): Promise<number[]> {
    const entry = this.entries.get(tag);
    const read = entry && WHOLE_NUMBERS[entry.type];
    if (!entry || !read) return [];
    const count = Math.min(entry.count, most);
    const size = TYPE_BYTES[entry.type];
    const view = viewOf(await this.source.read(entry.offset, count * size));
    return Array.from({ length: count }, (_, i) => read(view, i * size, this.little));
  }

  async number(tag: number, otherwise: number): Promise<number> {
    return (await this.numbers(tag, 1))[0] ?? otherwise;
  }

  async bytes(tag: number, most: number): Promise<Uint8Array | null> {
    const entry = this.entries.get(tag);
    return entry && TYPE_BYTES[entry.type] === 1 && entry.count <= most ? (await this.source.read(entry.offset, entry.count)).slice() : null;
  }

  /** Text up to its end mark. */
  async text(tag: number): Promise<string> {
    const entry = this.entries.get(tag);
    if (entry?.type !== 2) return '';
    return new TextDecoder().decode((await this.source.read(entry.offset, Math.min(entry.count, 1024))).slice()).replace(/\0.*$/s, '').trim();
  }
}

/** All directories in order. What they say of places is within the file. @throws FormatError */
export async function readDirectories(source: ByteSource): Promise<TiffDirectory[]> {
  const { name, size } = source;
  const corrupt = (what: string) => new FormatError('corrupt', name, `${what}. The file is damaged or cut off; save it again.`);
  if (size < 8) throw new FormatError('truncated', name, 'the file ends inside its header. It was not written or copied completely; save it again.');
  const head = viewOf(await source.read(0, Math.min(16, size)));
  const little = head.getUint16(0) === 0x4949;
  const isBig = head.getUint16(2, little) === 43;
  if (isBig && (size < 16 || head.getUint16(4, little) !== 8)) throw corrupt('its header contradicts itself');
  const offsetBytes = isBig ? 8 : 4;
  const offsetAt = (view: DataView, at: number) => (isBig ? Number(view.getBigUint64(at, little)) : view.getUint32(at, little));
  const [countBytes, entryBytes] = isBig ? [8, 20] : [2, 12];
  const directories: TiffDirectory[] = [];
  const seen = new Set<number>();
  for (let at = offsetAt(head, isBig ? 8 : 4); at !== 0; ) {
    if (seen.has(at)) throw corrupt('its pages go round in a circle');
    if (seen.size >= MAX_PAGES) throw new FormatError('too-large', name, `more than ${MAX_PAGES} pages. Split it into several files.`);
    seen.add(at);
    if (at + countBytes > size) throw corrupt('a directory lies beyond the end');
    const counted = viewOf(await source.read(at, countBytes));
    const count = isBig ? Number(counted.getBigUint64(0, little)) : counted.getUint16(0, little);
    const from = at + countBytes;
    const length = count * entryBytes;
    if (count === 0 || count > MAX_ENTRIES || from + length + offsetBytes > size) throw corrupt('a directory ends too early');
    const view = viewOf(await source.read(from, length + offsetBytes));
    const entries = new Map<number, Entry>();
    for (let i = 0; i < count; i++) {
      const entry = i * entryBytes;
      const [tag, type, values] = [view.getUint16(entry, little), view.getUint16(entry + 2, little), offsetAt(view, entry + 4)];
      const bytes = (TYPE_BYTES[type] ?? 1) * values;
      const inline = entry + 4 + offsetBytes;
      const offset = bytes > offsetBytes ? offsetAt(view, inline) : from + inline;
      if (offset + bytes > size) throw corrupt(`the value of tag ${tag} lies beyond the end`);
      if (!entries.has(tag)) entries.set(tag, { type, count: values, offset });
    }
    directories.push(new TiffDirectory(source, little, entries));
    at = offsetAt(view, length);
  }
  if (directories.length === 0) throw new FormatError('corrupt', name, 'it holds no picture. Save it again.');
  return directories;
}
