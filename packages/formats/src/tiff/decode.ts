/** The pixels of a page of a TIFF, as planes. @source TIFF 6.0 (1992) sections 7–9, 13–15, Technical Note 3 (predictor 3) */
import { BYTES_PER_SAMPLE, type Plane, type PlaneType, planeView } from '@tazzel/core';
import { type Allocate, type ByteSource, type Platform, plainMemory } from '../bytes.ts';
import { failure, FormatError } from '../errors.ts';
import { withoutInks, type StoredPixels } from '../icc.ts';
import { inflatedFirst } from '../inflate.ts';
import { unpackJpeg } from '../jpeg.ts';
import { turnedUpright } from '../orientation.ts';
import { type TiffDirectory, readDirectories } from './directory.ts';
import { readPage, type StoredLayout, type TiffPage } from './page.ts';
import { jpegOfPart, unpackLzw, unpackPackBits } from './unpack.ts';

const MAX_TABLES = 65_536;

/** Some channels of one page, by their names; alpha only if it is wanted. @throws FormatError */
export async function decodeTiff(source: ByteSource, index: number, wanted: { readonly color: readonly string[]; readonly alpha: boolean }, platform: Platform, allocate: Allocate = plainMemory): Promise<StoredPixels> {
  const directory = (await readDirectories(source))[index];
  if (!directory) throw new FormatError('corrupt', source.name, `there is no page ${index + 1}. Add the file again.`);
  const page = await readPage(directory);
  const { stored, photometric, orientation, space } = page;
  const names = [...wanted.color, ...(wanted.alpha && page.alpha ? [page.alpha] : [])];
  const unknown = names.find((name) => !stored.places.has(name));
  if (unknown) throw new FormatError('corrupt', source.name, `page ${index + 1} has no ${unknown}. Add the file again.`);
  const isColor = wanted.color.every((name) => page.color.includes(name));
  // Of palettes and inks all of what is stored makes each colour.
  const count = photometric === 'inks' ? 4 : 1;
  const mixed = isColor && (photometric === 'palette' || photometric === 'inks');
  const samples = mixed ? [...Array.from({ length: count }, (_, i) => i), ...names.slice(wanted.color.length).map((name) => stored.places.get(name) as number)] : names.map((name) => stored.places.get(name) as number);
  const planes = await readSamples(directory, page, samples, mixed || orientation !== 1 ? plainMemory : allocate, platform);
  let color = planes.slice(0, mixed ? count : wanted.color.length);
  const alpha = planes[color.length] ?? null;
  if (photometric === 'palette' && mixed) color = await fromPalette(directory, color[0], stored.bits);
  else if (photometric === 'inks' && mixed) color = withoutInks(color);
  else if (photometric === 'white-is-zero' && isColor) for (const plane of color) invert(plane);
  const upright = (plane: Plane) => (orientation === 1 && mixed ? shared(plane, allocate) : turnedUpright(plane, orientation, allocate));
  return { color: color.map(upright), alpha: alpha && upright(alpha), space };
}

function shared(plane: Plane, allocate: Allocate): Plane {
  const data = planeView(plane.type, allocate(plane.data.byteLength));
  data.set(plane.data as never);
  return { ...plane, data };
}

function invert({ type, data }: Plane): void {
  const most = type === 'u8' ? 255 : type === 'u16' ? 65535 : 0;
  if (most > 0) for (let i = 0; i < data.length; i++) data[i] = most - data[i];
}

async function fromPalette(directory: TiffDirectory, { width, height, data }: Plane, bits: number): Promise<Plane[]> {
  const entries = 2 ** bits;
  const map = await directory.numbers(320, entries * 3);
  if (map.length < 3) throw new FormatError('corrupt', directory.source.name, 'the palette is missing. The file is damaged; save it again.');
  const third = Math.floor(map.length / 3);
  // Stored numbers were spread to the range of bytes.
  const spread = 255 / (entries - 1);
  return [0, 1, 2].map((c) => ({ type: 'u8', width, height, data: Uint8Array.from(data, (value) => map[c * third + Math.min(third - 1, Math.round(value / spread))] >> 8) }));
}

/** Samples of a page, by their numbers, as planes in the way that they are stored. */
async function readSamples(directory: TiffDirectory, page: TiffPage, samples: readonly number[], allocate: Allocate, platform: Platform): Promise<Plane[]> {
  const { source } = directory;
  const { width, height, part, isTiled, separate, samples: all } = page.stored;
  const { type } = page;
  const planes = samples.map((): Plane => ({ type, width, height, data: planeView(type, allocate(width * height * BYTES_PER_SAMPLE[type])) }));
  const [across, down] = [Math.ceil(width / part.width), Math.ceil(height / part.height)];
  const each = across * down;
  const offsets = await directory.numbers(isTiled ? 324 : 273, each * (separate ? all : 1));
  const counts = await directory.numbers(isTiled ? 325 : 279, each * (separate ? all : 1));
  const tables = page.compression === 'JPEG' ? await directory.bytes(347, MAX_TABLES) : null;
  const unpack = new PartReader(directory, page, tables, platform);
  const layers = separate ? samples.map((sample, i) => ({ sample, planes: [planes[i]], places: [0], step: 1 })) : [{ sample: 0, planes, places: samples, step: all }];
  for (const { sample, planes: targets, places, step } of layers) {
    for (let i = 0; i < each; i++) {
      const x = (i % across) * part.width;
      const y = Math.floor(i / across) * part.height;
      const columns = Math.min(part.width, width - x);
      const rows = Math.min(part.height, height - y);
      const nth = i + (separate ? sample * each : 0);
      const offset = offsets[nth];
      const count = counts[nth] ?? Math.ceil((part.width * step * page.stored.bits) / 8) * rows;
      if (offset + count > source.size) throw new FormatError('truncated', source.name, 'the file ends in the middle of its pixels. It was not written or copied completely; save it again.');
      const values = await unpack.read(await source.read(offset, count), step, rows);
      for (const [k, { data }] of targets.entries()) {
        for (let row = 0; row < rows; row++) {
          let from = row * part.width * step + places[k];
          const to = (y + row) * width + x;
          for (let column = 0; column < columns; column++, from += step) data[to + column] = values[from];
        }
      }
    }
  }
  return planes;
}

/** One strip or tile after the other, as numbers of the planes' type. */
class PartReader {
  constructor(
    readonly directory: TiffDirectory,
    readonly page: TiffPage,
    readonly tables: Uint8Array | null,
    readonly platform: Platform,
  ) {}

  async read(packed: Uint8Array, step: number, rows: number): Promise<ArrayLike<number>> {
    const { stored, compression, photometric } = this.page;
    const { name } = this.directory.source;
    const damaged = new FormatError('corrupt', name, 'the pixels cannot be unpacked. The file is damaged; save it again.');
    try {
      if (compression === 'JPEG') return await this.#fromJpeg(packed, step, rows, photometric === 'ycbcr');
      const rowLength = stored.part.width * step;
      const raw = await this.#unpacked(packed, Math.ceil((rowLength * stored.bits) / 8) * rows);
      return numbersOf(raw, stored, this.page.type, this.directory.little, step, rowLength, rows);
    } catch (error) {
      throw failure(error, damaged);
    }
  }

  async #unpacked(packed: Uint8Array, length: number): Promise<Uint8Array> {
    const { compression } = this.page;
    if (compression === 'none') {
      if (packed.length < length) throw new RangeError('a part is too short');
      return packed.slice(0, length);
    }
    if (compression === 'deflate') {
      const bytes = await this.#inflated(packed, length);
      if (!bytes) throw new RangeError('a part is too short');
      return bytes;
    }
    const out = new Uint8Array(length);
    if ((compression === 'LZW' ? unpackLzw(packed, out) : unpackPackBits(packed, out)) < length) throw new RangeError('a part is too short');
    return out;
  }

  /** The platform's way is faster and wants the exact length; some writers fill the last strip up. */
  async #inflated(packed: Uint8Array, length: number): Promise<Uint8Array | null> {
    try {
      return await this.platform.inflate(packed.slice(), length);
    } catch {
      return inflatedFirst(packed, length);
    }
  }

  async #fromJpeg(packed: Uint8Array, step: number, rows: number, isYcbcr: boolean): Promise<Uint8Array> {
    const { width, height, data } = await unpackJpeg(jpegOfPart(packed, this.tables, isYcbcr), this.platform);
    if (width !== this.page.stored.part.width || height < rows) throw new RangeError(`${width} × ${height}`);
    const out = new Uint8Array(width * rows * step);
    for (let i = 0; i < width * rows; i++) for (let c = 0; c < Math.min(step, 4); c++) out[i * step + c] = data[i * 4 + c];
    return out;
  }
}

/** Rows of packed bytes as numbers, differences undone. The bytes are changed. */
function numbersOf(raw: Uint8Array, { bits, format, predictor }: StoredLayout, type: PlaneType, little: boolean, step: number, rowLength: number, rows: number): ArrayLike<number> {
  if (predictor === 3) undoFloatDifferences(raw, bits / 8, step, rowLength, rows);
  else if (!little && bits >= 16) swapBytes(raw, bits / 8);
  const values = nativeNumbers(raw, bits, format, rowLength, rows);
  if (predictor === 2) {
    for (let row = 0; row < rows; row++) for (let i = row * rowLength + step; i < (row + 1) * rowLength; i++) values[i] += values[i - step];
  }
  if (format === 'float') return values;
  if (format === 'signed' && type === 'f32') {
    const most = 2 ** (bits - 1) - 1;
    const out = new Float32Array(values.length);
    for (let i = 0; i < out.length; i++) out[i] = Math.max(-1, values[i] / most);
    return out;
  }
  // Bits that fill no byte are spread to the full range; single channels of 32 bits stay what they are.
  const stored = type === 'u8' ? 255 : type === 'u16' ? 65535 : 0;
  const most = 2 ** bits - 1;
  if (stored === 0 || stored === most) return values;
  const out = new Uint16Array(values.length);
  for (let i = 0; i < out.length; i++) out[i] = Math.round((values[i] * stored) / most);
  return out;
}

type Numbers = Uint8Array | Uint16Array | Uint32Array | Int8Array | Int16Array | Int32Array | Float32Array | Float64Array;

function nativeNumbers(raw: Uint8Array, bits: number, format: StoredLayout['format'], rowLength: number, rows: number): Numbers {
  if (bits % 8 !== 0) {
    // Rows begin with a byte of their own.
    const out = new Uint16Array(rowLength * rows);
    const rowBytes = Math.ceil((rowLength * bits) / 8);
    for (let row = 0; row < rows; row++) {
      for (let i = 0, bit = row * rowBytes * 8; i < rowLength; i++, bit += bits) {
        const at = bit >> 3;
        const word = (raw[at] << 16) | ((raw[at + 1] ?? 0) << 8) | (raw[at + 2] ?? 0);
        out[row * rowLength + i] = (word >> (24 - bits - (bit & 7))) & ((1 << bits) - 1);
      }
    }
    return out;
  }
  const aligned = raw.byteOffset % (bits / 8) === 0 ? raw : raw.slice();
  const view = <T>(Kind: new (buffer: ArrayBufferLike, offset: number, length: number) => T): T => new Kind(aligned.buffer, aligned.byteOffset, rowLength * rows);
  if (format === 'float') return bits === 16 ? view(Uint16Array) : bits === 32 ? view(Float32Array) : view(Float64Array);
  if (format === 'signed') return bits === 8 ? view(Int8Array) : bits === 16 ? view(Int16Array) : view(Int32Array);
  return bits === 8 ? view(Uint8Array) : bits === 16 ? view(Uint16Array) : view(Uint32Array);
}

function swapBytes(bytes: Uint8Array, size: number): void {
  for (let at = 0; at + size <= bytes.length; at += size) {
    for (let low = at, high = at + size - 1; low < high; low++, high--) {
      const byte = bytes[low];
      bytes[low] = bytes[high];
      bytes[high] = byte;
    }
  }
}

/** Rows of byte planes, highest first, of which neighbours were subtracted: back to numbers in this machine's order of bytes. */
function undoFloatDifferences(bytes: Uint8Array, size: number, step: number, rowLength: number, rows: number): void {
  const row = new Uint8Array(rowLength * size);
  for (let r = 0; r < rows; r++) {
    const line = bytes.subarray(r * row.length, (r + 1) * row.length);
    for (let i = step; i < line.length; i++) line[i] += line[i - step];
    for (let i = 0; i < rowLength; i++) for (let b = 0; b < size; b++) row[i * size + size - 1 - b] = line[b * rowLength + i];
    line.set(row);
  }
}
