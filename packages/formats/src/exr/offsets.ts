/**
 * Where the chunks of a file lie. A render that was stopped leaves its table of places empty or half full, and a copy that was stopped ends before its
 * last chunks: what is whole is found again by walking from chunk to chunk.
 * @source "OpenEXR File Layout" (Academy Software Foundation): offset tables, chunk layout
 */
import type { ByteSource } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { chunkCount, type ExrFile, type ExrHeader, type ParsedHeader, type ParsedPart } from './header.ts';

/** The tables of chunks follow each other, one for each part, those that are not read included. @throws FormatError if nothing can be read */
export async function withOffsets(source: ByteSource, parts: readonly ParsedPart[], start: number): Promise<ExrFile> {
  const counts = parts.map(({ header, chunkCount: said }) => said ?? chunkCount(header as ParsedHeader));
  const end = start + counts.reduce((sum, count) => sum + count, 0) * 8;
  if (end > source.size) throw cutOff(source);
  const tables: (number[] | null)[] = [];
  let at = start;
  for (const [i, { header }] of parts.entries()) {
    const tableAt = at;
    at += counts[i] * 8;
    if (header instanceof FormatError) {
      tables.push(null);
      continue;
    }
    const needed = chunkCount(header);
    if (needed > counts[i]) throw new FormatError('corrupt', source.name, `a part says that it has ${counts[i]} chunks and needs ${needed}. The header is damaged; save the file again.`);
    const table = await source.read(tableAt, needed * 8);
    const view = new DataView(table.buffer, table.byteOffset, table.byteLength);
    tables.push(Array.from({ length: needed }, (_, chunk) => Number(view.getBigUint64(chunk * 8, true))));
  }
  const isSound = (offsets: readonly number[]) => offsets.every((offset) => offset >= end && offset + 8 <= source.size);
  const isWhole = await Promise.all(tables.map(async (offsets, i) => {
    const { header } = parts[i];
    // Of files of one part the decoder says at which line they end.
    return offsets === null || header instanceof FormatError || (isSound(offsets) && (header.part === null || (await endsWithin(source, header, offsets))));
  }));
  const found = isWhole.every(Boolean) ? null : await walk(source, parts, end);
  const read: ExrHeader[] = [];
  const unread: FormatError[] = [];
  for (const [i, { header }] of parts.entries()) {
    if (header instanceof FormatError) {
      unread.push(header);
      continue;
    }
    const offsets = isWhole[i] ? (tables[i] as number[]) : (found as ReadonlyMap<number, number>[])[i];
    const needed = chunkCount(header);
    const walked = offsets instanceof Map ? Array.from({ length: needed }, (_, chunk) => offsets.get(chunk) ?? -1) : (offsets as number[]);
    const missing = walked.filter((offset) => offset < 0).length;
    if (missing === 0) read.push({ ...header, offsets: walked });
    else unread.push(incomplete(source, header, Math.floor((100 * (needed - missing)) / needed)));
  }
  if (read.length === 0) throw unread[0] ?? new FormatError('corrupt', source.name, 'the file has no parts. It is damaged; save it again.');
  return { parts: read, leftOut: unread.map((error) => error.message) };
}

const cutOff = ({ name }: ByteSource) => new FormatError('truncated', name, 'the file ends before its last line. It was not written or copied completely; save it again.');

const incomplete = (source: ByteSource, { name, part }: ParsedHeader, percent: number) =>
  part === null || name === '' ? cutOff(source) : new FormatError('truncated', source.name, `the part “${name}” is incomplete: ${percent} % of it is there. The file was not written or copied completely; save it again.`);

const headBytes = ({ part, tiles }: ParsedHeader) => (part === null ? 0 : 4) + (tiles ? 20 : 8);

/** Whether the last chunk of a part ends within the file. */
async function endsWithin(source: ByteSource, header: ParsedHeader, offsets: readonly number[]): Promise<boolean> {
  const last = offsets.reduce((a, b) => Math.max(a, b));
  const head = headBytes(header);
  if (last + head > source.size) return false;
  const bytes = await source.read(last + head - 4, 4);
  const size = new DataView(bytes.buffer, bytes.byteOffset, 4).getInt32(0, true);
  return last + head + Math.max(0, size) <= source.size;
}

/** For each part the chunks that lie in the file as a whole, by their numbers. Ends at the first place that is no chunk. */
async function walk(source: ByteSource, parts: readonly ParsedPart[], start: number): Promise<ReadonlyMap<number, number>[]> {
  const found = parts.map(() => new Map<number, number>());
  const isSingle = parts.length === 1 && (parts[0].header as ParsedHeader).part === null;
  for (let at = start; at + 8 <= source.size; ) {
    const bytes = await source.read(at, Math.min(24, source.size - at));
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const number = isSingle ? 0 : view.getInt32(0, true);
    const header = parts[number]?.header;
    // Parts of a kind that is not read have chunks of another shape: what lies behind one cannot be found.
    if (!header || header instanceof FormatError) break;
    const head = headBytes(header);
    if (bytes.length < head) break;
    const from = isSingle ? 0 : 4;
    const chunk = header.tiles ? tileNumber(header, [0, 4, 8, 12].map((position) => view.getInt32(from + position, true))) : lineNumber(header, view.getInt32(from, true));
    const size = view.getInt32(head - 4, true);
    if (chunk === null || size < 0 || at + head + size > source.size) break;
    if (chunk >= 0) found[number].set(chunk, at);
    at += head + size;
  }
  return found;
}

function lineNumber({ dataWindow, linesPerChunk }: ParsedHeader, line: number): number | null {
  const row = line - dataWindow.y;
  return row >= 0 && row < dataWindow.height && row % linesPerChunk === 0 ? row / linesPerChunk : null;
}

/** −1 for tiles of smaller levels, which are passed over. */
function tileNumber({ dataWindow, tiles }: ParsedHeader, [x, y, levelX, levelY]: readonly number[]): number | null {
  if (!tiles || levelX < 0 || levelY < 0 || levelX > 32 || levelY > 32) return null;
  if (levelX > 0 || levelY > 0) return -1;
  const [across, down] = [Math.ceil(dataWindow.width / tiles.width), Math.ceil(dataWindow.height / tiles.height)];
  if (x < 0 || y < 0 || x >= across || y >= down) return null;
  return y * across + x;
}
