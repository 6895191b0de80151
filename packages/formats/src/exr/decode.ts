/** The pixels of an OpenEXR file, chunk by chunk, so that workers can share one file between them. */
import { type Plane, planeView, type Region, type Size } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import { type Allocate, type ByteSource, plainMemory, readAhead } from '../bytes.ts';
import { failure, FormatError } from '../errors.ts';
import { type ChunkChannel, unpackDwa } from './dwa.ts';
import { channelSize, chunkRegion, type ExrChannel, type ExrHeader, samplesIn } from './header.ts';
import { pxr24Bytes, unpackB44, unpackPxr24 } from './lossy.ts';
import { unpackPiz } from './piz.ts';
import { unpackRuns } from './runs.ts';
import { EXR_TYPE_BYTES, type ExrCompression } from './types.ts';
import { fitting, inflateChunk } from './unpacked.ts';

/** Where one channel of the file goes; shared memory when several workers fill it. */
export type ExrPlanes = ReadonlyMap<string, Plane>;

export function allocateExrPlanes(header: ExrHeader, channels: Iterable<string>, allocate: Allocate = plainMemory): Map<string, Plane> {
  const planes = new Map<string, Plane>();
  for (const name of channels) {
    const { type, width, height } = planeShape(header, name);
    planes.set(name, { type, width, height, data: planeView(type, allocate(width * height * EXR_TYPE_BYTES[type])) });
  }
  return planes;
}

/** Memory that the planes of some channels take. */
export const exrPlaneBytes = (header: ExrHeader, channels: readonly string[]): number =>
  channels.map((name) => planeShape(header, name)).reduce((sum, { type, width, height }) => sum + width * height * EXR_TYPE_BYTES[type], 0);

function planeShape(header: ExrHeader, name: string): Size & Pick<ExrChannel, 'type'> {
  const channel = header.channels.find((candidate) => candidate.name === name);
  if (!channel) throw new Error(`There is no channel “${name}”.`);
  return { type: channel.type, ...channelSize(header, channel) };
}

/** Where the samples of one channel in a chunk lie in its plane. */
interface ChunkPart extends ChunkChannel {
  readonly bytesPerRow: number;
  readonly plane: Uint8Array | null;
  readonly stride: number;
  /** Byte of the first sample in the plane. */
  readonly start: number;
  /** Whether a line of the picture has samples. */
  readonly hasLine: (y: number) => boolean;
}

function partsOf(header: ExrHeader, planes: ExrPlanes, region: Region): ChunkPart[] {
  const { x: left, y: top } = header.dataWindow;
  const [x, y] = [left + region.x, top + region.y];
  return header.channels.map((channel) => {
    const [stepX, stepY] = channel.sampling;
    const bytes = EXR_TYPE_BYTES[channel.type];
    const data = planes.get(channel.name)?.data;
    const width = samplesIn(stepX, x, x + region.width - 1);
    const stride = channelSize(header, channel).width * bytes;
    const column = Math.ceil(x / stepX) - Math.ceil(left / stepX);
    const row = Math.ceil(y / stepY) - Math.ceil(top / stepY);
    return {
      name: channel.name,
      type: channel.type,
      isPerceptual: channel.isPerceptual,
      width,
      rows: samplesIn(stepY, y, y + region.height - 1),
      bytesPerRow: width * bytes,
      plane: data ? new Uint8Array(data.buffer, data.byteOffset, data.byteLength) : null,
      stride,
      start: row * stride + column * bytes,
      hasLine: stepY === 1 ? () => true : (line) => line % stepY === 0,
    };
  });
}

/**
 * Decodes the chunks `first` to `last` (exclusive) into the planes; channels that are not asked for are passed over.
 * @throws FormatError `corrupt` or `truncated`, naming the line
 */
export function decodeExrChunks(source: ByteSource, header: ExrHeader, planes: ExrPlanes, first: number, last: number, kernels: Kernels): Promise<void> {
  return decodeEach(source, header, planes, Array.from({ length: last - first }, (_, i) => first + i), kernels);
}

/** Read at once where chunks are small. */
const AHEAD_BYTES = 2 ** 21;

async function decodeEach(source: ByteSource, header: ExrHeader, planes: ExrPlanes, chunks: readonly number[], kernels: Kernels): Promise<void> {
  const sorted = Float64Array.from([...header.offsets, source.size]).sort();
  // Chunks of a file follow each other as a rule, and each read from a browser's file costs more than to unpack a small one.
  const last = chunks.reduce((end, chunk) => Math.max(end, header.offsets[chunk]), 0);
  const ahead = readAhead(source, sorted[upperBound(sorted, last)], AHEAD_BYTES);
  // The first chunk is as large as any, but for a line of subsampled channels.
  const room = chunks.length > 1 ? new Uint8Array(Math.min(source.size, 20 + rawBytesOf(partsOf(header, planes, chunkRegion(header, 0))))) : undefined;
  for (const chunk of chunks) {
    const region = chunkRegion(header, chunk);
    const parts = partsOf(header, planes, region);
    const unpacked = await chunkBytes(ahead, header, chunk, region, parts, sorted, kernels, room);
    if (unpacked.kind === 'planes') {
      for (const [i, { plane, rows, bytesPerRow, stride, start }] of parts.entries()) {
        if (plane) for (let row = 0; row < rows; row++) plane.set(unpacked.planes[i].subarray(row * bytesPerRow, (row + 1) * bytesPerRow), start + row * stride);
      }
      continue;
    }
    let at = 0;
    const rows = new Int32Array(parts.length);
    for (let line = header.dataWindow.y + region.y; line < header.dataWindow.y + region.y + region.height; line++) {
      for (const [i, { plane, bytesPerRow, stride, start, hasLine }] of parts.entries()) {
        if (!hasLine(line)) continue;
        plane?.set(unpacked.lines.subarray(at, at + bytesPerRow), start + rows[i]++ * stride);
        at += bytesPerRow;
      }
    }
  }
}

/** Decodes only the chunks that hold some of the rows (counted from the data window's upper line); all other samples stay 0. @throws FormatError */
export async function decodeExrRows(source: ByteSource, header: ExrHeader, channels: readonly string[], rows: readonly number[], kernels: Kernels): Promise<Map<string, Plane>> {
  const planes = allocateExrPlanes(header, new Set(channels));
  const wanted = [...header.offsets.keys()].filter((chunk) => {
    const { y, height } = chunkRegion(header, chunk);
    return rows.some((row) => row >= y && row < y + height);
  });
  await decodeEach(source, header, planes, wanted, kernels);
  return planes;
}

const rawBytesOf = (parts: readonly ChunkPart[]) => parts.reduce((sum, { bytesPerRow, rows }) => sum + bytesPerRow * rows, 0);

/** Lines of channels, as an unpacked file has them, or the channels one by one. */
type Unpacked = { readonly kind: 'lines'; readonly lines: Uint8Array } | { readonly kind: 'planes'; readonly planes: readonly Uint8Array[] };
const inLines = (lines: Uint8Array): Unpacked => ({ kind: 'lines', lines });

async function chunkBytes(source: ByteSource, header: ExrHeader, chunk: number, region: Region, parts: readonly ChunkPart[], sorted: Float64Array, kernels: Kernels, room?: Uint8Array): Promise<Unpacked> {
  const offset = header.offsets[chunk];
  const line = header.dataWindow.y + region.y;
  const damaged = (what: string) => new FormatError('corrupt', source.name, `${what} at line ${line}. The file is damaged; save it again.`);
  // One read takes the chunk with its head: it cannot be longer than the distance to the next one, nor than raw data.
  const rawBytes = rawBytesOf(parts);
  const partBytes = header.part === null ? 0 : 4;
  const headBytes = partBytes + (header.tiles ? 20 : 8);
  const next = sorted[upperBound(sorted, offset)];
  const bytes = await source.read(offset, Math.min(next - offset, rawBytes + headBytes), room);
  if (bytes.length < headBytes) throw damaged('a chunk without a head');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (header.part !== null && view.getInt32(0, true) !== header.part) throw damaged(`a chunk of part ${view.getInt32(0, true)} in part ${header.part}`);
  if (header.tiles) {
    const place = [region.x / header.tiles.width, region.y / header.tiles.height, 0, 0];
    const found = [0, 4, 8, 12].map((position) => view.getInt32(partBytes + position, true));
    if (found.join() !== place.join()) throw damaged(`tile ${found.join(', ')} where ${place.join(', ')} should be`);
  } else {
    const y = view.getInt32(partBytes, true);
    if (y !== line) throw damaged(`a chunk that belongs to line ${y}`);
  }
  const size = view.getInt32(headBytes - 4, true);
  if (size < 0 || size > rawBytes) throw damaged(`a chunk of ${size} bytes, at most ${rawBytes} expected`);
  if (size + headBytes > bytes.length) {
    if (offset + headBytes + size > source.size) throw new FormatError('truncated', source.name, `the file ends at line ${line}. It was not written or copied completely; save it again.`);
    throw damaged('two chunks that overlap');
  }
  const packed = bytes.subarray(headBytes, headBytes + size);
  if (size === rawBytes) return inLines(packed);
  if (header.compression === 'NONE') throw damaged(`a line of ${size} bytes, ${rawBytes} expected`);
  try {
    return unpack(packed, header.compression, parts, rawBytes, kernels);
  } catch (error) {
    throw failure(error, damaged('packed data that cannot be unpacked'));
  }
}

/** @throws if the data does not fit */
function unpack(packed: Uint8Array, compression: ExrCompression, parts: readonly ChunkPart[], rawBytes: number, kernels: Kernels): Unpacked {
  const types = parts.map((part) => part.type);
  // The compressions below the others are refused for subsampled channels, so all of theirs are alike.
  const [{ width, rows }] = parts;
  switch (compression) {
    case 'RLE':
      return inLines(kernels.exrRestore(unpackRuns(packed, rawBytes)));
    case 'PIZ':
      return { kind: 'planes', planes: unpackPiz(packed, parts, kernels) };
    case 'DWAA':
    case 'DWAB':
      return { kind: 'planes', planes: unpackDwa(packed, parts, kernels) };
    case 'PXR24':
      return inLines(unpackPxr24(inflateChunk(packed, pxr24Bytes(types, width * rows), kernels), types, width, rows));
    case 'B44':
    case 'B44A':
      return inLines(unpackB44(packed, parts, width, rows, kernels));
    default:
      return inLines(fitting(kernels.exrUnzip(packed, rawBytes)));
  }
}

/** Index of the first entry greater than `value`. */
function upperBound(sorted: Float64Array, value: number): number {
  let low = 0;
  let high = sorted.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle] > value) high = middle;
    else low = middle + 1;
  }
  return low;
}
