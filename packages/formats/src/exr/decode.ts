/** The pixels of an OpenEXR file, chunk by chunk, so that workers can share one file between them. */
import { type Plane, planeView } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import { type Allocate, type ByteSource, type Platform, plainMemory } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { EXR_TYPE_BYTES, type ExrHeader } from './header.ts';

/** Where one channel of the file goes; shared memory when several workers fill it. */
export type ExrPlanes = ReadonlyMap<string, Plane>;

export function allocateExrPlanes(header: ExrHeader, channels: Iterable<string>, allocate: Allocate = plainMemory): Map<string, Plane> {
  const { width, height } = header.dataWindow;
  const planes = new Map<string, Plane>();
  for (const name of channels) {
    const channel = header.channels.find((candidate) => candidate.name === name);
    if (!channel) throw new Error(`There is no channel “${name}”.`);
    const buffer = allocate(width * height * EXR_TYPE_BYTES[channel.type]);
    planes.set(name, { type: channel.type, width, height, data: planeView(channel.type, buffer) });
  }
  return planes;
}

/**
 * Decodes the chunks `first` to `last` (exclusive) into the planes; channels that are not asked for are passed over.
 * @throws FormatError `corrupt` or `truncated`, naming the line
 */
export async function decodeExrChunks(source: ByteSource, header: ExrHeader, planes: ExrPlanes, first: number, last: number, platform: Platform, kernels: Kernels): Promise<void> {
  const sorted = [...header.offsets, source.size].sort((a, b) => a - b);
  const { width, height } = header.dataWindow;
  const targets = header.channels.map((channel) => {
    const data = planes.get(channel.name)?.data;
    return { rowBytes: width * EXR_TYPE_BYTES[channel.type], bytes: data ? new Uint8Array(data.buffer, data.byteOffset, data.byteLength) : null };
  });
  for (let chunk = first; chunk < last; chunk++) {
    const firstRow = chunk * header.linesPerChunk;
    const rows = Math.min(header.linesPerChunk, height - firstRow);
    const raw = await chunkBytes(source, header, chunk, rows, sorted, platform, kernels);
    let at = 0;
    for (let row = firstRow; row < firstRow + rows; row++) {
      for (const { rowBytes, bytes } of targets) {
        bytes?.set(raw.subarray(at, at + rowBytes), row * rowBytes);
        at += rowBytes;
      }
    }
  }
}

async function chunkBytes(source: ByteSource, header: ExrHeader, chunk: number, rows: number, sorted: readonly number[], platform: Platform, kernels: Kernels): Promise<Uint8Array> {
  const offset = header.offsets[chunk];
  const line = header.dataWindow.y + chunk * header.linesPerChunk;
  const damaged = (what: string) => new FormatError('corrupt', source.name, `${what} at line ${line}. The file is damaged; save it again.`);
  // One read takes the chunk with its head: it cannot be longer than the distance to the next one, nor than raw data.
  const rawBytes = header.bytesPerLine * rows;
  const next = sorted[upperBound(sorted, offset)];
  const bytes = await source.read(offset, Math.min(next - offset, rawBytes + 8));
  if (bytes.length < 8) throw damaged('a chunk without a head');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const y = view.getInt32(0, true);
  const size = view.getInt32(4, true);
  if (y !== line) throw damaged(`a chunk that belongs to line ${y}`);
  if (size < 0 || size > rawBytes) throw damaged(`a chunk of ${size} bytes, at most ${rawBytes} expected`);
  if (size + 8 > bytes.length) {
    if (offset + 8 + size > source.size) throw new FormatError('truncated', source.name, `the file ends at line ${line}. It was not written or copied completely; save it again.`);
    throw damaged('two chunks that overlap');
  }
  const packed = bytes.subarray(8, 8 + size);
  if (size === rawBytes) return packed;
  if (header.compression === 'NONE') throw damaged(`a line of ${size} bytes, ${rawBytes} expected`);
  try {
    return kernels.exrRestore(header.compression === 'RLE' ? unpackRuns(packed, rawBytes) : await platform.inflate(packed, rawBytes));
  } catch {
    throw damaged('packed data that cannot be unpacked');
  }
}

/** Index of the first entry greater than `value`. */
function upperBound(sorted: readonly number[], value: number): number {
  let low = 0;
  let high = sorted.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle] > value) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** OpenEXR's run lengths: a negative count copies, any other repeats the next byte count + 1 times. */
export function unpackRuns(packed: Uint8Array, length: number): Uint8Array {
  const out = new Uint8Array(length);
  let to = 0;
  for (let from = 0; from < packed.length; ) {
    const count = (packed[from++] << 24) >> 24;
    if (count < 0) {
      if (from - count > packed.length || to - count > length) throw new RangeError('copy beyond the end');
      out.set(packed.subarray(from, from - count), to);
      from -= count;
      to -= count;
    } else {
      if (from >= packed.length || to + count + 1 > length) throw new RangeError('run beyond the end');
      out.fill(packed[from++], to, to + count + 1);
      to += count + 1;
    }
  }
  if (to !== length) throw new RangeError(`${to} bytes, ${length} expected`);
  return out;
}
