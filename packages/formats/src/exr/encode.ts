/** Writes scanline OpenEXR files of one or several parts. */
import type { PlaneData, Region } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import type { Platform } from '../bytes.ts';
import { EXR_MAGIC } from './header.ts';
import { type PizPlane, packPiz } from './piz-encode.ts';
import { EXR_TYPE_BYTES, EXR_TYPES, type ExrType, type ExrWriteCompression, exrCompression } from './types.ts';

export interface ExrChannelData {
  readonly name: string;
  readonly type: ExrType;
  /** Half samples are their 16-bit patterns. Row-major, as large as the data window. */
  readonly data: PlaneData;
}

export interface ExrPicture {
  /** Names the part in a file of several; each must be its own. */
  readonly name?: string;
  readonly dataWindow: Region;
  readonly displayWindow: Region;
  readonly compression: ExrWriteCompression;
  readonly channels: readonly ExrChannelData[];
  /** Attributes of numbers: one, three, or a matrix of sixteen. */
  readonly numbers?: Readonly<Record<string, readonly number[]>>;
  /** String attributes. */
  readonly notes?: Readonly<Record<string, string>>;
}

const SEVERAL_PARTS = 0x1000;
const LONG_NAMES = 0x400;

/**
 * The file in pieces, in order, ready for a Blob or a stream: one picture, or several as the parts of one file.
 * `onProgress` gets the share that is done, 0…1.
 * @source "OpenEXR File Layout" (Academy Software Foundation)
 */
export async function encodeExr(pictures: ExrPicture | readonly ExrPicture[], platform: Pick<Platform, 'deflate'>, kernels: Kernels, onProgress?: (share: number) => void): Promise<Uint8Array[]> {
  // Readers look channels up in sorted order; the standard asks for order by bytes.
  const parts = [pictures].flat().map((picture) => ({ ...picture, channels: [...picture.channels].sort((a, b) => (a.name < b.name ? -1 : 1)) }));
  const several = parts.length > 1;
  const counts = parts.map(({ dataWindow, compression }) => Math.ceil(dataWindow.height / exrCompression(compression).lines));
  const chunks = counts.reduce((sum, count) => sum + count, 0);
  const header = writeHeaders(parts, counts);
  const table = new DataView(new ArrayBuffer(chunks * 8));
  const pieces: Uint8Array[] = [header, new Uint8Array(table.buffer)];
  let offset = header.length + table.byteLength;
  let done = 0;
  for (const [number, { dataWindow, compression, channels }] of parts.entries()) {
    const { lines } = exrCompression(compression);
    for (let firstRow = 0; firstRow < dataWindow.height; firstRow += lines) {
      const raw = gatherRows(channels, dataWindow.width, firstRow, Math.min(lines, dataWindow.height - firstRow));
      const packed = compression === 'PIZ' ? packPiz(planesOf(channels, dataWindow.width, firstRow, Math.min(lines, dataWindow.height - firstRow))) : await pack(raw, compression, platform, kernels);
      const body = packed.length < raw.length ? packed : raw;
      const head = Int32Array.from([...(several ? [number] : []), dataWindow.y + firstRow, body.length]);
      table.setBigUint64(done * 8, BigInt(offset), true);
      pieces.push(new Uint8Array(head.buffer), body);
      offset += head.byteLength + body.length;
      done++;
      onProgress?.(done / chunks);
    }
  }
  return pieces;
}

function gatherRows(channels: readonly ExrChannelData[], width: number, firstRow: number, rows: number): Uint8Array {
  const out = new Uint8Array(channels.reduce((sum, channel) => sum + EXR_TYPE_BYTES[channel.type], 0) * width * rows);
  let at = 0;
  for (let row = firstRow; row < firstRow + rows; row++) {
    for (const { type, data } of channels) {
      const rowBytes = width * EXR_TYPE_BYTES[type];
      out.set(new Uint8Array(data.buffer, data.byteOffset + row * rowBytes, rowBytes), at);
      at += rowBytes;
    }
  }
  return out;
}

const planesOf = (channels: readonly ExrChannelData[], width: number, firstRow: number, rows: number): PizPlane[] =>
  channels.map(({ type, data }) => {
    const wordsPerSample = type === 'f16' ? 1 : 2;
    const all = new Uint16Array(data.buffer, data.byteOffset, data.byteLength / 2);
    return { words: all.subarray(firstRow * width * wordsPerSample, (firstRow + rows) * width * wordsPerSample), wordsPerSample, width, rows };
  });

function pack(raw: Uint8Array, compression: Exclude<ExrWriteCompression, 'PIZ'>, platform: Pick<Platform, 'deflate'>, kernels: Kernels): Promise<Uint8Array> | Uint8Array {
  if (compression === 'NONE') return raw;
  const prepared = kernels.exrPrepare(raw).slice();
  return compression === 'RLE' ? packRuns(prepared) : platform.deflate(prepared);
}

/** Run lengths as `unpackRuns` reads them. */
export function packRuns(raw: Uint8Array): Uint8Array {
  const out: number[] = [];
  let at = 0;
  while (at < raw.length) {
    let run = at + 1;
    while (run < raw.length && raw[run] === raw[at] && run - at < 128) run++;
    if (run - at >= 3) {
      out.push(run - at - 1, raw[at]);
      at = run;
      continue;
    }
    let end = at;
    while (end < raw.length && end - at < 127 && !(end + 2 < raw.length && raw[end] === raw[end + 1] && raw[end] === raw[end + 2])) end++;
    out.push(256 - (end - at), ...raw.subarray(at, end));
    at = end;
  }
  return Uint8Array.from(out);
}

const NUMBER_TYPES: Readonly<Record<number, string>> = { 1: 'float', 3: 'v3f', 16: 'm44f' };

function writeHeaders(parts: readonly ExrPicture[], chunkCounts: readonly number[]): Uint8Array {
  const bytes: number[] = [];
  const encoder = new TextEncoder();
  const i32 = (value: number) => bytes.push(value & 255, (value >> 8) & 255, (value >> 16) & 255, (value >> 24) & 255);
  const f32 = (value: number) => i32(new Int32Array(Float32Array.of(value).buffer)[0]);
  const text = (value: string) => bytes.push(...encoder.encode(value), 0);
  const attribute = (name: string, type: string, write: () => void) => {
    text(name);
    text(type);
    const sizeAt = bytes.length;
    i32(0);
    write();
    const size = bytes.length - sizeAt - 4;
    for (let i = 0; i < 4; i++) bytes[sizeAt + i] = (size >> (8 * i)) & 255;
  };
  const window = ({ x, y, width, height }: Region) => {
    for (const value of [x, y, x + width - 1, y + height - 1]) i32(value);
  };
  const several = parts.length > 1;
  const longNames = parts.some(({ name = '', channels }) => [name, ...channels.map((channel) => channel.name)].some((one) => encoder.encode(one).length > 31));
  i32(EXR_MAGIC);
  i32(2 | (longNames ? LONG_NAMES : 0) | (several ? SEVERAL_PARTS : 0));
  for (const [number, { name, channels, compression, dataWindow, displayWindow, numbers = {}, notes = {} }] of parts.entries()) {
    attribute('channels', 'chlist', () => {
      for (const channel of channels) {
        text(channel.name);
        for (const value of [EXR_TYPES.indexOf(channel.type), 0, 1, 1]) i32(value);
      }
      bytes.push(0);
    });
    attribute('compression', 'compression', () => bytes.push(exrCompression(compression).code));
    attribute('dataWindow', 'box2i', () => window(dataWindow));
    attribute('displayWindow', 'box2i', () => window(displayWindow));
    attribute('lineOrder', 'lineOrder', () => bytes.push(0));
    attribute('pixelAspectRatio', 'float', () => f32(1));
    attribute('screenWindowCenter', 'v2f', () => {
      f32(0);
      f32(0);
    });
    attribute('screenWindowWidth', 'float', () => f32(1));
    const string = (key: string, value: string) => attribute(key, 'string', () => {
      for (const byte of encoder.encode(value)) bytes.push(byte);
    });
    if (several || name) string('name', name ?? `part ${number + 1}`);
    if (several) {
      string('type', 'scanlineimage');
      attribute('chunkCount', 'int', () => i32(chunkCounts[number]));
    }
    for (const [key, values] of Object.entries(numbers)) attribute(key, NUMBER_TYPES[values.length], () => values.forEach(f32));
    for (const [key, value] of Object.entries(notes)) string(key, value);
    bytes.push(0);
  }
  if (several) bytes.push(0);
  return Uint8Array.from(bytes);
}
