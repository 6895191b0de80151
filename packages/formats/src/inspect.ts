import { type FileFormat, groupChannels, type PlaneType, type RoleGuess } from '@tazzel/core';
import type { ByteSource } from './bytes.ts';
import { FormatError } from './errors.ts';
import { EXR_MAGIC, type ExrHeader, readExrFile } from './exr/header.ts';
import { PNG_SIGNATURE, readPngHeader } from './png/chunks.ts';
import { pngColorPlanes, pngHasAlpha } from './png/decode.ts';
import type { ElementReport, FileReport } from './report.ts';

/** Formats that are known by their first bytes but not read, so that the refusal can name them. */
const strangers: readonly { name: string; begins: readonly number[]; at?: number }[] = [
  { name: 'JPEG', begins: [0xff, 0xd8, 0xff] },
  { name: 'TIFF', begins: [0x49, 0x49, 0x2a, 0] },
  { name: 'TIFF', begins: [0x4d, 0x4d, 0, 0x2a] },
  { name: 'Radiance HDR', begins: [0x23, 0x3f] },
  { name: 'WebP', begins: [0x57, 0x45, 0x42, 0x50], at: 8 },
  { name: 'GIF', begins: [0x47, 0x49, 0x46, 0x38] },
  { name: 'BMP', begins: [0x42, 0x4d] },
  { name: 'PDF', begins: [0x25, 0x50, 0x44, 0x46] },
];
const ZIP_BEGINS = [0x50, 0x4b, 3, 4];

const begins = (bytes: Uint8Array, wanted: ArrayLike<number>, at = 0) => Array.from(wanted).every((byte, i) => bytes[at + i] === byte);

/** Tells the format by the first bytes, never by the name. `project` is our own container. @throws FormatError `not-recognised` or `unsupported` */
export async function recognise(source: ByteSource): Promise<FileFormat | 'project'> {
  const head = await source.read(0, Math.min(16, source.size));
  if (head.length === 0) throw new FormatError('truncated', source.name, 'the file is empty. Save it again.');
  if (begins(head, PNG_SIGNATURE)) return 'png';
  if (head.length >= 8 && new DataView(head.buffer, head.byteOffset, 4).getUint32(0, true) === EXR_MAGIC) return 'exr';
  if (begins(head, ZIP_BEGINS)) return 'project';
  const stranger = strangers.find((format) => begins(head, format.begins, format.at));
  if (stranger) throw new FormatError('unsupported', source.name, `this is a ${stranger.name} file, which is not read yet. Save it as PNG or OpenEXR.`);
  throw new FormatError('not-recognised', source.name, 'the contents are neither PNG nor OpenEXR. Save the picture in one of these formats.');
}

/** What a picture file holds, from its header alone. @throws FormatError */
export async function inspectFile(source: ByteSource): Promise<FileReport> {
  const format = await recognise(source);
  if (format === 'png') return inspectPng(source);
  if (format === 'exr') return inspectExr(source);
  throw new FormatError('unsupported', source.name, 'this is a project file or another archive, not a picture. Open it as a project.');
}

async function inspectPng(source: ByteSource): Promise<FileReport> {
  const header = await readPngHeader(source);
  const type: PlaneType = header.depth === 16 ? 'u16' : 'u8';
  const colorChannels = pngColorPlanes(header) === 1 ? ['Y'] : ['R', 'G', 'B'];
  const alphaChannel = pngHasAlpha(header) ? 'A' : null;
  const size = { width: header.width, height: header.height };
  const window = { x: 0, y: 0, ...size };
  const all = alphaChannel ? [...colorChannels, alphaChannel] : colorChannels;
  return {
    format: 'png',
    fileName: source.name,
    byteLength: source.size,
    size,
    parts: [{ part: 0, name: '', window, compression: 'deflate', channels: all.map((name) => ({ name, type })) }],
    elements: [{ name: '', colorChannels, alphaChannel, types: [type], part: 0, window, hint: null }],
    premultiplied: false,
    notes: { stored: `${header.color}, ${header.depth} bits${header.interlaced ? ', interlaced' : ''}` },
    leftOut: [],
  };
}

async function inspectExr(source: ByteSource): Promise<FileReport> {
  const { parts, leftOut } = await readExrFile(source);
  // The standard wants one display window for all parts.
  const { displayWindow } = parts[0];
  const windowOf = ({ dataWindow }: ExrHeader) => ({ ...dataWindow, x: dataWindow.x - displayWindow.x, y: dataWindow.y - displayWindow.y });
  return {
    format: 'exr',
    fileName: source.name,
    byteLength: source.size,
    size: { width: displayWindow.width, height: displayWindow.height },
    parts: parts.map((part) => ({
      part: part.part ?? 0,
      name: part.name,
      window: windowOf(part),
      compression: part.tiles ? `${part.compression}, tiles of ${part.tiles.width} × ${part.tiles.height}` : part.compression,
      channels: part.channels.map(({ name, type }) => ({ name, type })),
    })),
    elements: parts.flatMap((part) => elementsOf(part).map((element) => ({ ...element, part: part.part ?? 0, window: windowOf(part) }))),
    premultiplied: true,
    notes: parts[0].notes,
    leftOut,
  };
}

/** Coverage mattes say so in the header. @source Cryptomatte specification 1.2, "metadata" */
function hintOf(layer: string, notes: ExrHeader['notes']): RoleGuess | null {
  const mattes = Object.entries(notes).filter(([key]) => /^cryptomatte\/[^/]+\/name$/.test(key)).map(([, name]) => name);
  const isMatte = mattes.some((name) => layer === name || (layer.startsWith(name) && /^\d+$/.test(layer.slice(name.length))));
  return isMatte ? { role: 'coverage-matte', reason: 'the file says that it is one (Cryptomatte metadata)', confidence: 1 } : null;
}

function elementsOf({ name, channels, notes }: ExrHeader): Omit<ElementReport, 'part' | 'window'>[] {
  const typeOf = new Map(channels.map((channel) => [channel.name, channel.type]));
  const groups = groupChannels(channels.map((channel) => channel.name));
  // A part that holds one element names it; parts are also often called as the layer that they hold.
  const nameOf = (layer: string) => (layer === '' || (name !== '' && groups.length === 1) ? name : name === '' || layer.startsWith(name) ? layer : `${name} ${layer}`);
  return groups.map((group) => ({
    name: nameOf(group.name),
    hint: hintOf(group.name, notes),
    colorChannels: group.color,
    alphaChannel: group.alpha,
    types: [...new Set(group.color.map((channel) => typeOf.get(channel) as PlaneType))],
  }));
}
