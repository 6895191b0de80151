import { type Plane, planeView } from '@tazzel/core';
import { type Allocate, type ByteSource, type Platform, plainMemory } from '../bytes.ts';
import { failure, FormatError } from '../errors.ts';
import type { StoredPixels } from '../icc.ts';
import { turnedUpright } from '../orientation.ts';
import { type PngHeader, readPngHeader } from './chunks.ts';

/** The passes of Adam7: first pixel and step in x and y. A plain picture is one pass. */
const ADAM7 = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
] as const;
const PLAIN = [[0, 0, 1, 1]] as const;

export const pngHasAlpha = (header: PngHeader) => header.color === 'rgba' || header.color === 'grey-alpha' || header.transparency !== null;
export const pngColorPlanes = (header: PngHeader) => (header.color === 'grey' || header.color === 'grey-alpha' ? 1 : 3);

/** One or three colour planes and alpha if the file has any; bytes or 16-bit integers. Alpha is not premultiplied. @throws FormatError */
export async function decodePng(source: ByteSource, platform: Platform, allocate: Allocate = plainMemory): Promise<StoredPixels> {
  const header = await readPngHeader(source);
  const { width, height, depth, samples } = header;
  const passes = (header.interlaced ? ADAM7 : PLAIN)
    .map(([x, y, stepX, stepY]) => ({ x, y, stepX, stepY, columns: Math.ceil((width - x) / stepX), rows: Math.ceil((height - y) / stepY) }))
    .filter((pass) => pass.columns > 0 && pass.rows > 0);
  const rowBytes = (columns: number) => Math.ceil((columns * samples * depth) / 8);
  const rawBytes = passes.reduce((sum, pass) => sum + pass.rows * (rowBytes(pass.columns) + 1), 0);

  const type = depth === 16 ? 'u16' : 'u8';
  const own = header.orientation === 1 ? allocate : plainMemory;
  const plane = (): Plane => ({ type, width, height, data: planeView(type, own(width * height * (depth === 16 ? 2 : 1))) });
  const color = Array.from({ length: pngColorPlanes(header) }, plane);
  const alpha = pngHasAlpha(header) ? plane() : null;
  const write = rowWriter(header, color, alpha, source.name);

  // Rows are put together of the pieces that come, and undone at once: the picture is never there twice.
  const pixelBytes = Math.max(1, (samples * depth) / 8);
  let pass = 0;
  let row = 0;
  let [current, previous] = passes.length === 0 ? [new Uint8Array(), new Uint8Array()] : rowPair(rowBytes(passes[0].columns));
  let filled = 0;
  await unpack(source, header, rawBytes, platform, (part) => {
    for (let from = 0; from < part.length; ) {
      const taken = Math.min(current.length - filled, part.length - from);
      current.set(part.subarray(from, from + taken), filled);
      from += taken;
      filled += taken;
      if (filled < current.length) continue;
      const { x, y, stepX, stepY, columns, rows } = passes[pass];
      unfilter(current[0], current.subarray(1), previous.subarray(1), pixelBytes, source.name);
      write(current.subarray(1), (y + row * stepY) * width + x, stepX, columns);
      [current, previous] = [previous, current];
      filled = 0;
      if (++row < rows) continue;
      row = 0;
      if (++pass < passes.length) [current, previous] = rowPair(rowBytes(passes[pass].columns));
    }
  });
  const upright = (stored: Plane) => turnedUpright(stored, header.orientation, allocate);
  return { color: color.map(upright), alpha: alpha && upright(alpha), space: header.space };
}

/** A row with the number of its filter before it, and the one above. */
const rowPair = (length: number): [Uint8Array, Uint8Array] => [new Uint8Array(length + 1), new Uint8Array(length + 1)];

/** Hands over exactly `rawBytes` bytes, piece by piece. */
async function unpack(source: ByteSource, header: PngHeader, rawBytes: number, platform: Platform, each: (part: Uint8Array) => void): Promise<void> {
  const packed = new Uint8Array(header.data.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of header.data) {
    packed.set(await source.read(part.offset, part.length), at);
    at += part.length;
  }
  // Deflate packs at most about 1032 to 1: a header that promises more than that cannot be true.
  if (rawBytes > packed.length * 1040 + 1024) throw new FormatError('corrupt', source.name, `${header.width} × ${header.height} pixels cannot be packed into ${packed.length} bytes. The file is damaged; save it again.`);
  let came = 0;
  try {
    await platform.inflateParts(packed, (part) => {
      came += part.length;
      if (came > rawBytes) throw new RangeError(`more than ${rawBytes} bytes`);
      each(part);
    });
    if (came < rawBytes) throw new RangeError(`${came} bytes, ${rawBytes} expected`);
  } catch (error) {
    throw failure(error, new FormatError('corrupt', source.name, 'the packed pixels cannot be unpacked. The file is damaged; save it again.'));
  }
}

/** Undoes a row's filter in place. `before` is the row above, zeros for the first. */
function unfilter(filter: number, row: Uint8Array, before: Uint8Array, step: number, name: string): void {
  const n = row.length;
  switch (filter) {
    case 0:
      return;
    case 1:
      for (let i = step; i < n; i++) row[i] += row[i - step];
      return;
    case 2:
      for (let i = 0; i < n; i++) row[i] += before[i];
      return;
    case 3:
      for (let i = 0; i < step && i < n; i++) row[i] += before[i] >> 1;
      for (let i = step; i < n; i++) row[i] += (row[i - step] + before[i]) >> 1;
      return;
    case 4:
      for (let i = 0; i < step && i < n; i++) row[i] += before[i];
      for (let i = step; i < n; i++) {
        const a = row[i - step];
        const b = before[i];
        const c = before[i - step];
        const pa = Math.abs(b - c);
        const pb = Math.abs(a - c);
        const pc = Math.abs(a + b - c - c);
        row[i] += pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
      }
      return;
    default:
      throw new FormatError('corrupt', name, `filter ${filter} does not exist. The file is damaged; save it again.`);
  }
}

type RowWriter = (row: Uint8Array, start: number, step: number, count: number) => void;

/** How a row's bytes reach the planes, chosen once per picture. */
function rowWriter(header: PngHeader, color: readonly Plane[], alpha: Plane | null, name: string): RowWriter {
  if (header.color === 'palette') return paletteWriter(header, color, alpha, name);
  const { samples, depth, transparency } = header;
  const targets = [...color, ...(alpha && transparency === null ? [alpha] : [])].map((plane) => plane.data);
  const writeSamples: RowWriter = (row, start, step, count) => {
    for (const [sample, target] of targets.entries()) {
      if (depth === 16) for (let i = 0, from = sample * 2, to = start; i < count; i++, from += samples * 2, to += step) target[to] = (row[from] << 8) | row[from + 1];
      else if (depth === 8) for (let i = 0, from = sample, to = start; i < count; i++, from += samples, to += step) target[to] = row[from];
      else for (let i = 0, to = start; i < count; i++, to += step) target[to] = bitsAt(row, i, depth) * (255 / (2 ** depth - 1));
    }
  };
  if (!alpha || transparency === null) return writeSamples;
  // tRNS names one colour that is fully transparent.
  const view = new DataView(transparency.buffer, transparency.byteOffset, transparency.byteLength);
  const key = color.map((_, c) => (depth === 16 ? view.getUint16(c * 2) : (view.getUint16(c * 2) & (2 ** depth - 1)) * (255 / (2 ** depth - 1))));
  const opaque = depth === 16 ? 65535 : 255;
  return (row, start, step, count) => {
    writeSamples(row, start, step, count);
    for (let i = 0, to = start; i < count; i++, to += step) alpha.data[to] = color.every((plane, c) => plane.data[to] === key[c]) ? 0 : opaque;
  };
}

function paletteWriter(header: PngHeader, color: readonly Plane[], alpha: Plane | null, name: string): RowWriter {
  const palette = header.palette as Uint8Array;
  const entries = palette.length / 3;
  return (row, start, step, count) => {
    for (let i = 0, to = start; i < count; i++, to += step) {
      const entry = header.depth === 8 ? row[i] : bitsAt(row, i, header.depth);
      if (entry >= entries) throw new FormatError('corrupt', name, `colour ${entry} of a palette of ${entries} is used. The file is damaged; save it again.`);
      for (let c = 0; c < 3; c++) color[c].data[to] = palette[entry * 3 + c];
      if (alpha) alpha.data[to] = header.transparency?.[entry] ?? 255;
    }
  };
}

const bitsAt = (row: Uint8Array, i: number, depth: number) => (row[(i * depth) >> 3] >> (8 - depth - ((i * depth) & 7))) & (2 ** depth - 1);
