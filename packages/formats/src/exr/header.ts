/**
 * OpenEXR headers: one part or several, in lines or tiles. Other kinds are refused by name.
 * @source "OpenEXR File Layout" (Academy Software Foundation)
 */
import type { Primaries, Region, Size } from '@tazzel/core';
import { MAX_PIXELS, MAX_SIDE } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { type Attributes, SCENE_ATTRIBUTES } from './scene-facts.ts';
import { type CompressionRow, EXR_TYPE_BYTES, EXR_TYPES, type ExrCompression, type ExrType, exrCompressions } from './types.ts';

export const EXR_MAGIC = 20000630;

export interface ExrChannel {
  readonly name: string;
  readonly type: ExrType;
  /** Meant to be packed on a logarithmic scale by B44, or without one by DWA; no other compression looks at it. */
  readonly isPerceptual: boolean;
  /** Every how many pixels and lines there is a sample; 1 but for colour differences. */
  readonly sampling: readonly [number, number];
}

/** One part of a file; most files have one. */
export interface ExrHeader {
  /** Name of the part; mostly empty in files of one. */
  readonly name: string;
  /** Number that stands before each chunk in files of several parts; null in files of one. */
  readonly part: number | null;
  /** In the order of the file, which is the order within each line. */
  readonly channels: readonly ExrChannel[];
  readonly compression: ExrCompression;
  readonly linesPerChunk: number;
  /** Size of the tiles; null for a picture in lines. */
  readonly tiles: Size | null;
  readonly dataWindow: Region;
  readonly displayWindow: Region;
  /** What its colours are made of; null where the file does not say, which means Rec. 709. */
  readonly primaries: Primaries | null;
  /** File position of every chunk of the full size: lines from the top, or tiles row by row. */
  readonly offsets: readonly number[];
  /** What it says of camera and sun. */
  readonly sceneAttributes: Attributes;
  readonly notes: Readonly<Record<string, string>>;
}

const MAX_CHANNELS = 1024;
const MAX_PARTS = 1024;
/** Of longer texts the rest is not kept; manifests of coverage mattes are kept whole, or they could not be read. */
const MAX_NOTE = 2 ** 16;
const isManifest = (name: string) => /^cryptomatte\/[^/]+\/manifest$/.test(name);

export interface ExrFile {
  readonly parts: readonly ExrHeader[];
  /** One sentence for each part that is not read: of a kind that is not, or incomplete. */
  readonly leftOut: readonly string[];
}

/** What was read of the file ends inside its header. */
export class OutOfBytes extends Error {}

export type ParsedHeader = Omit<ExrHeader, 'offsets'>;
/** A part that is read, or why it is not. The table of chunks must be passed over in both cases. */
export interface ParsedPart {
  readonly header: ParsedHeader | FormatError;
  /** As the file says; null in files of one part, which leave it to be computed. */
  readonly chunkCount: number | null;
}

/** The headers of all parts, and where they end. @throws FormatError, OutOfBytes */
export function parseFile(bytes: Uint8Array, file: string): { parts: ParsedPart[]; end: number } {
  const cursor = new Cursor(bytes);
  cursor.u32();
  const version = cursor.u32();
  if ((version & 0xff) !== 2) throw new FormatError('unsupported', file, `OpenEXR file version ${version & 0xff} is not known; version 2 is read.`);
  if ((version & 0x1000) === 0) {
    if (version & 0x800) throw notRead(file, 'deep OpenEXR files');
    const header = parseHeader(cursor, file, null, (version & 0x200) !== 0);
    if (header.header instanceof FormatError) throw header.header;
    return { parts: [{ ...header, chunkCount: null }], end: cursor.position };
  }
  const parts: ParsedPart[] = [];
  while (!cursor.isAtZero()) {
    if (parts.length >= MAX_PARTS) throw new FormatError('too-large', file, `more than ${MAX_PARTS} parts. Split the elements over several files.`);
    parts.push(parseHeader(cursor, file, parts.length, false));
  }
  cursor.u8();
  return { parts, end: cursor.position };
}

const notRead = (file: string, what: string) => new FormatError('unsupported', file, `${what} are not read. Save the picture as a flat OpenEXR file.`);

function parseHeader(cursor: Cursor, file: string, part: number | null, tiledByVersion: boolean): ParsedPart {
  const corrupt = (what: string) => new FormatError('corrupt', file, `${what}. The header is damaged; save the file again.`);
  const notes: Record<string, string> = {};
  const sceneAttributes: Record<string, readonly number[] | string> = {};
  let channels: ExrChannel[] | null = null;
  let compression: CompressionRow | null = null;
  let dataWindow: Region | null = null;
  let displayWindow: Region | null = null;
  let tiles: Size | null = null;
  let isTiled = tiledByVersion;
  let primaries: Primaries | null = null;
  let unread: FormatError | null = null;
  let chunks: number | null = null;
  for (;;) {
    const name = cursor.text(255);
    if (name === '') break;
    const type = cursor.text(255);
    const size = cursor.i32();
    if (size < 0) throw corrupt(`the attribute “${name}” has the size ${size}`);
    const value = cursor.slice(size);
    if (name === 'channels') channels = readChannels(value, file);
    else if (name === 'compression') {
      const code = value.u8();
      compression = exrCompressions.find((row) => row.code === code) ?? null;
      if (!compression) unread = new FormatError('unsupported', file, `compression number ${code} is not known. Save it with ZIP compression.`);
    } else if (name === 'dataWindow') dataWindow = readWindow(value, name, file);
    else if (name === 'displayWindow') displayWindow = readWindow(value, name, file);
    else if (name === 'tiles') tiles = readTiles(value, file);
    else if (name === 'chunkCount') chunks = value.i32();
    else if (name === 'type') {
      const kind = value.restText();
      if (kind === 'tiledimage') isTiled = true;
      else if (kind !== 'scanlineimage') unread = notRead(file, `OpenEXR parts of type “${kind}”`);
    } else if (name === 'chromaticities' && size === 32) {
      const [rx, ry, gx, gy, bx, by, wx, wy] = Array.from({ length: 8 }, value.f32);
      const isSpace = [ry, gy, by, wy].every((y) => y !== 0) && [rx, ry, gx, gy, bx, by, wx, wy].every((number) => Number.isFinite(number) && Math.abs(number) <= 2);
      if (isSpace) primaries = { red: [rx, ry], green: [gx, gy], blue: [bx, by], white: [wx, wy] };
      notes[name] = `red ${short(rx)} ${short(ry)}, green ${short(gx)} ${short(gy)}, blue ${short(bx)} ${short(by)}, white ${short(wx)} ${short(wy)}`;
    } else if (name === 'pixelAspectRatio' && size === 4) {
      const ratio = value.f32();
      if (Number.isFinite(ratio) && ratio > 0 && Math.abs(ratio - 1) > 0.001) notes[name] = short(ratio);
    } else if (!STANDARD.has(name)) {
      if (SCENE_ATTRIBUTES.has(name)) sceneAttributes[name] = type === 'string' ? new Cursor(value.bytes).restText() : numbersOf(type, new Cursor(value.bytes), size);
      const note = noteOf(type, value, size);
      if (note !== null) notes[name] = isManifest(name) ? note : note.slice(0, MAX_NOTE);
    }
  }
  if (part !== null && (chunks === null || chunks < 0)) throw corrupt('the number of chunks of a part is missing');
  if (unread) return { header: unread, chunkCount: chunks };
  if (!channels || channels.length === 0) throw corrupt('the list of channels is missing');
  if (!compression) throw corrupt('the compression is missing');
  if (!dataWindow) throw corrupt('the data window is missing');
  const subsampled = channels.find(({ sampling: [x, y] }) => x !== 1 || y !== 1);
  if (subsampled && (isTiled || ['PXR24', 'B44', 'B44A'].includes(compression.name))) unread = new FormatError('unsupported', file, `the channel “${subsampled.name}” is subsampled${isTiled ? ' in tiles' : ` and packed by ${compression.name}`}, which is not read. Save it with ZIP compression, or as RGB.`);
  if (isTiled && !tiles) throw corrupt('the size of the tiles is missing');
  const bytesPerPixel = channels.reduce((sum, channel) => sum + EXR_TYPE_BYTES[channel.type], 0);
  const chunk = isTiled && tiles ? tiles : { width: dataWindow.width, height: compression.lines };
  if (bytesPerPixel * chunk.width * chunk.height > 2 ** 30) throw new FormatError('too-large', file, `${channels.length} channels of ${chunk.width} pixels make parts too large to read. Split the elements over several files.`);
  if (unread) return { header: unread, chunkCount: chunks };
  const partName = notes.name ?? '';
  delete notes.name;
  return {
    header: { name: partName, part, channels, compression: compression.name, linesPerChunk: compression.lines, tiles: isTiled ? tiles : null, dataWindow, displayWindow: displayWindow ?? dataWindow, primaries, sceneAttributes, notes },
    chunkCount: chunks,
  };
}

/** Attributes that every file has, or that are read by name: nothing to tell people. */
const STANDARD = new Set(['lineOrder', 'pixelAspectRatio', 'screenWindowCenter', 'screenWindowWidth', 'version', 'preview']);

const short = (value: number) => String(Number(value.toPrecision(6)));

/** The numbers of an attribute; none if it is of another type. */
function numbersOf(type: string, value: Cursor, size: number): number[] {
  const isDouble = type === 'double' || /^[vm]\d+d$/.test(type);
  const read = isDouble ? value.f64 : type === 'float' || /^[vm]\d+f$/.test(type) ? value.f32 : type === 'int' ? value.i32 : null;
  return read && size <= 128 ? Array.from({ length: Math.floor(size / (isDouble ? 8 : 4)) }, read) : [];
}

/** What an attribute says, for people; null for types that say nothing in a line. */
function noteOf(type: string, value: Cursor, size: number): string | null {
  const list = (bytes: number, read: () => number) => Array.from({ length: size / bytes }, read).map(short).join(' ');
  switch (type) {
    case 'string':
      return value.restText();
    case 'float':
      return size === 4 ? short(value.f32()) : null;
    case 'double':
      return size === 8 ? short(value.f64()) : null;
    case 'int':
      return size === 4 ? String(value.i32()) : null;
    case 'rational': {
      const [above, below] = [value.i32(), value.u32()];
      return below === 0 ? null : short(above / below);
    }
    case 'v2f':
    case 'v3f':
    case 'm33f':
    case 'm44f':
    case 'box2f':
      return size % 4 === 0 && size <= 64 ? list(4, value.f32) : null;
    case 'v2d':
    case 'v3d':
    case 'm33d':
    case 'm44d':
      return size % 8 === 0 && size <= 128 ? list(8, value.f64) : null;
    case 'v2i':
    case 'v3i':
    case 'box2i':
      return size % 4 === 0 && size <= 16 ? list(4, value.i32) : null;
    case 'timecode': {
      // Two decimal digits a byte: frames, seconds, minutes, hours, with flags in the highest bits. @source SMPTE 12M
      const packed = value.u32();
      const digits = (shift: number, mask: number) => String(((packed >>> shift) & 15) + 10 * ((packed >>> (shift + 4)) & mask)).padStart(2, '0');
      return `${digits(24, 3)}:${digits(16, 7)}:${digits(8, 7)}:${digits(0, 3)}`;
    }
    case 'stringvector': {
      const texts: string[] = [];
      while (value.position < size && texts.length < 100) texts.push(value.slice(value.i32()).restText());
      return texts.join(', ');
    }
    default:
      return null;
  }
}

/** Levels below the full size are not read: its tiles come first in the file's table. */
function readTiles(value: Cursor, file: string): Size {
  const [width, height] = [value.u32(), value.u32()];
  if (width < 1 || height < 1 || width > MAX_SIDE || height > MAX_SIDE) throw new FormatError('corrupt', file, `tiles of ${width} × ${height} pixels. The header is damaged; save the file again.`);
  return { width, height };
}

function readChannels(value: Cursor, file: string): ExrChannel[] {
  const channels: ExrChannel[] = [];
  for (;;) {
    const name = value.text(255);
    if (name === '') return channels;
    const type = EXR_TYPES[value.i32()];
    const isPerceptual = (value.i32() & 0xff) !== 0;
    const sampling: [number, number] = [value.i32(), value.i32()];
    if (!type) throw new FormatError('corrupt', file, `the channel “${name}” has an unknown type. The header is damaged; save the file again.`);
    if (sampling.some((step) => step < 1 || step > MAX_SIDE)) throw new FormatError('corrupt', file, `the channel “${name}” has a sample every ${sampling.join(' × ')} pixels. The header is damaged; save the file again.`);
    if (channels.some((channel) => channel.name === name)) throw new FormatError('corrupt', file, `the channel “${name}” is listed twice. The header is damaged; save the file again.`);
    if (channels.length >= MAX_CHANNELS) throw new FormatError('too-large', file, `more than ${MAX_CHANNELS} channels. Split the elements over several files.`);
    channels.push({ name, type, isPerceptual, sampling });
  }
}

function readWindow(value: Cursor, name: string, file: string): Region {
  const [xMin, yMin, xMax, yMax] = [value.i32(), value.i32(), value.i32(), value.i32()];
  const [width, height] = [xMax - xMin + 1, yMax - yMin + 1];
  if (width < 1 || height < 1) throw new FormatError('corrupt', file, `the ${name} (${xMin} ${yMin} – ${xMax} ${yMax}) is empty. The header is damaged; save the file again.`);
  if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) {
    throw new FormatError('too-large', file, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read. Render or save it smaller.`);
  }
  return { x: xMin, y: yMin, width, height };
}

/** How many multiples of `step` lie from `first` to `last`: the samples of a channel in a run of pixels. */
export const samplesIn = (step: number, first: number, last: number): number => Math.max(0, Math.floor(last / step) - Math.ceil(first / step) + 1);

/** The size of a channel's plane; smaller than the data window where it is subsampled. */
export function channelSize({ dataWindow: { x, y, width, height } }: Pick<ExrHeader, 'dataWindow'>, { sampling: [stepX, stepY] }: ExrChannel): Size {
  return { width: samplesIn(stepX, x, x + width - 1), height: samplesIn(stepY, y, y + height - 1) };
}

/** How many chunks make up the full size. */
export function chunkCount({ dataWindow, tiles, linesPerChunk }: ParsedHeader): number {
  return tiles ? Math.ceil(dataWindow.width / tiles.width) * Math.ceil(dataWindow.height / tiles.height) : Math.ceil(dataWindow.height / linesPerChunk);
}

/** What a chunk covers, in pixels from the data window's upper left. */
export function chunkRegion({ dataWindow, tiles, linesPerChunk }: ExrHeader, chunk: number): Region {
  const size = tiles ?? { width: dataWindow.width, height: linesPerChunk };
  const columns = Math.ceil(dataWindow.width / size.width);
  const x = (chunk % columns) * size.width;
  const y = Math.floor(chunk / columns) * size.height;
  return { x, y, width: Math.min(size.width, dataWindow.width - x), height: Math.min(size.height, dataWindow.height - y) };
}

/** Reads little-endian values and says when the bytes are used up. */
class Cursor {
  position = 0;
  readonly #view: DataView;
  constructor(readonly bytes: Uint8Array) {
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  #advance(length: number): number {
    const at = this.position;
    if (at + length > this.bytes.length) throw new OutOfBytes();
    this.position += length;
    return at;
  }
  /** Whether the next byte is the zero that ends a list. */
  isAtZero(): boolean {
    if (this.position >= this.bytes.length) throw new OutOfBytes();
    return this.bytes[this.position] === 0;
  }
  u8 = () => this.#view.getUint8(this.#advance(1));
  i32 = () => this.#view.getInt32(this.#advance(4), true);
  u32 = () => this.#view.getUint32(this.#advance(4), true);
  f32 = () => this.#view.getFloat32(this.#advance(4), true);
  f64 = () => this.#view.getFloat64(this.#advance(8), true);
  slice(length: number): Cursor {
    const at = this.#advance(length);
    return new Cursor(this.bytes.subarray(at, at + length));
  }
  /** A text that a zero byte ends. */
  text(maxLength: number): string {
    const end = this.bytes.indexOf(0, this.position);
    if (end < 0 || end - this.position > maxLength) throw new OutOfBytes();
    const from = this.#advance(end + 1 - this.position);
    return new TextDecoder().decode(this.bytes.subarray(from, end));
  }
  restText = () => new TextDecoder().decode(this.bytes.subarray(this.position)).replace(/\0+$/, '');
}
