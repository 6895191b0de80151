/** The pixels of an OpenEXR file, chunk by chunk, so that workers can share one file between them. */
import { type Plane, planeView, type Region } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import { type Allocate, type ByteSource, type Platform, plainMemory } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { chunkRegion, type ExrHeader } from './header.ts';
import { pxr24Bytes, unpackB44, unpackPxr24 } from './lossy.ts';
import { unpackPiz } from './piz.ts';
import { EXR_TYPE_BYTES } from './types.ts';

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
  const { width } = header.dataWindow;
  const targets = header.channels.map((channel) => {
    const data = planes.get(channel.name)?.data;
    return { sampleBytes: EXR_TYPE_BYTES[channel.type], bytes: data ? new Uint8Array(data.buffer, data.byteOffset, data.byteLength) : null };
  });
  for (let chunk = first; chunk < last; chunk++) {
    const region = chunkRegion(header, chunk);
    const raw = await chunkBytes(source, header, chunk, region, sorted, platform, kernels);
    let at = 0;
    for (let row = region.y; row < region.y + region.height; row++) {
      for (const { sampleBytes, bytes } of targets) {
        const length = region.width * sampleBytes;
        bytes?.set(raw.subarray(at, at + length), (row * width + region.x) * sampleBytes);
        at += length;
      }
    }
  }
}

/** Decodes only the chunks that hold some of the rows (counted from the data window's upper line); all other samples stay 0. @throws FormatError */
export async function decodeExrRows(source: ByteSource, header: ExrHeader, channels: readonly string[], rows: readonly number[], platform: Platform, kernels: Kernels): Promise<Map<string, Plane>> {
  const planes = allocateExrPlanes(header, new Set(channels));
  for (let chunk = 0; chunk < header.offsets.length; chunk++) {
    const { y, height } = chunkRegion(header, chunk);
    if (rows.some((row) => row >= y && row < y + height)) await decodeExrChunks(source, header, planes, chunk, chunk + 1, platform, kernels);
  }
  return planes;
}

async function chunkBytes(source: ByteSource, header: ExrHeader, chunk: number, region: Region, sorted: readonly number[], platform: Platform, kernels: Kernels): Promise<Uint8Array> {
  const offset = header.offsets[chunk];
  const line = header.dataWindow.y + region.y;
  const damaged = (what: string) => new FormatError('corrupt', source.name, `${what} at line ${line}. The file is damaged; save it again.`);
  // One read takes the chunk with its head: it cannot be longer than the distance to the next one, nor than raw data.
  const rawBytes = header.bytesPerPixel * region.width * region.height;
  const partBytes = header.part === null ? 0 : 4;
  const headBytes = partBytes + (header.tiles ? 20 : 8);
  const next = sorted[upperBound(sorted, offset)];
  const bytes = await source.read(offset, Math.min(next - offset, rawBytes + headBytes));
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
  if (size === rawBytes) return packed;
  if (header.compression === 'NONE') throw damaged(`a line of ${size} bytes, ${rawBytes} expected`);
  try {
    return await unpack(packed, header, region, rawBytes, platform, kernels);
  } catch {
    throw damaged('packed data that cannot be unpacked');
  }
}

/** To lines of channels, as an unpacked file has them. @throws if the data does not fit */
async function unpack(packed: Uint8Array, header: ExrHeader, { width, height }: Region, rawBytes: number, platform: Platform, kernels: Kernels): Promise<Uint8Array> {
  const types = header.channels.map((channel) => channel.type);
  switch (header.compression) {
    case 'RLE':
      return kernels.exrRestore(unpackRuns(packed, rawBytes));
    case 'PIZ':
      return unpackPiz(packed, types.map((type) => ({ words: type === 'f16' ? 1 : 2, width, height })), kernels);
    case 'PXR24':
      return unpackPxr24(await platform.inflate(packed, pxr24Bytes(types, width * height)), types, width, height);
    case 'B44':
    case 'B44A':
      return unpackB44(packed, types, width, height, kernels);
    default:
      return kernels.exrRestore(await platform.inflate(packed, rawBytes));
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
