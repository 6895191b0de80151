/** Writes single-part scanline OpenEXR files. */
import type { PlaneData, Region } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import type { Platform } from '../bytes.ts';
import { EXR_MAGIC } from './header.ts';
import { EXR_TYPE_BYTES, EXR_TYPES, type ExrType, type ExrWriteCompression, exrCompression } from './types.ts';

export interface ExrChannelData {
  readonly name: string;
  readonly type: ExrType;
  /** Half samples are their 16-bit patterns. Row-major, as large as the data window. */
  readonly data: PlaneData;
}

export interface ExrPicture {
  readonly dataWindow: Region;
  readonly displayWindow: Region;
  readonly compression: ExrWriteCompression;
  readonly channels: readonly ExrChannelData[];
  /** String attributes. */
  readonly notes?: Readonly<Record<string, string>>;
}

/** The file in parts, in order, ready for a Blob or a stream. `onProgress` gets the share that is done, 0…1. */
export async function encodeExr(picture: ExrPicture, platform: Platform, kernels: Kernels, onProgress?: (share: number) => void): Promise<Uint8Array[]> {
  const { dataWindow } = picture;
  // Readers look channels up in sorted order; the standard asks for order by bytes.
  const channels = [...picture.channels].sort((a, b) => (a.name < b.name ? -1 : 1));
  const { lines } = exrCompression(picture.compression);
  const header = writeHeader(picture, channels);
  const chunkCount = Math.ceil(dataWindow.height / lines);
  const table = new DataView(new ArrayBuffer(chunkCount * 8));
  const parts: Uint8Array[] = [header, new Uint8Array(table.buffer)];
  let offset = header.length + table.byteLength;
  for (let chunk = 0; chunk < chunkCount; chunk++) {
    const firstRow = chunk * lines;
    const rows = Math.min(lines, dataWindow.height - firstRow);
    const raw = gatherRows(channels, dataWindow.width, firstRow, rows);
    const packed = await pack(raw, picture.compression, platform, kernels);
    const body = packed.length < raw.length ? packed : raw;
    const head = new DataView(new ArrayBuffer(8));
    head.setInt32(0, dataWindow.y + firstRow, true);
    head.setInt32(4, body.length, true);
    table.setBigUint64(chunk * 8, BigInt(offset), true);
    parts.push(new Uint8Array(head.buffer), body);
    offset += 8 + body.length;
    onProgress?.((chunk + 1) / chunkCount);
  }
  return parts;
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

function pack(raw: Uint8Array, compression: ExrWriteCompression, platform: Platform, kernels: Kernels): Promise<Uint8Array> | Uint8Array {
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

function writeHeader(picture: ExrPicture, channels: readonly ExrChannelData[]): Uint8Array {
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
  const longNames = channels.some((channel) => encoder.encode(channel.name).length > 31);
  i32(EXR_MAGIC);
  i32(2 | (longNames ? 0x400 : 0));
  attribute('channels', 'chlist', () => {
    for (const channel of channels) {
      text(channel.name);
      for (const value of [EXR_TYPES.indexOf(channel.type), 0, 1, 1]) i32(value);
    }
    bytes.push(0);
  });
  attribute('compression', 'compression', () => bytes.push(exrCompression(picture.compression).code));
  attribute('dataWindow', 'box2i', () => window(picture.dataWindow));
  attribute('displayWindow', 'box2i', () => window(picture.displayWindow));
  attribute('lineOrder', 'lineOrder', () => bytes.push(0));
  attribute('pixelAspectRatio', 'float', () => f32(1));
  attribute('screenWindowCenter', 'v2f', () => {
    f32(0);
    f32(0);
  });
  attribute('screenWindowWidth', 'float', () => f32(1));
  for (const [name, value] of Object.entries(picture.notes ?? {})) attribute(name, 'string', () => bytes.push(...encoder.encode(value)));
  bytes.push(0);
  return Uint8Array.from(bytes);
}
