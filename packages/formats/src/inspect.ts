import { type Encoding, type FileFormat, groupChannels, type PlaneType, type RoleGuess } from '@tazzel/core';
import type { ByteSource } from './bytes.ts';
import { FormatError } from './errors.ts';
import { EXR_MAGIC, type ExrHeader } from './exr/header.ts';
import { readExrFile } from './exr/file.ts';
import { NO_FACTS, sceneFactsOf } from './exr/scene-facts.ts';
import { PNG_SIGNATURE, readPngHeader } from './png/chunks.ts';
import { pngColorPlanes, pngHasAlpha } from './png/decode.ts';
import { readHdrHeader } from './hdr.ts';
import { type ColorSpace, inksSentence, SRGB } from './icc.ts';
import { readJpegHeader } from './jpeg.ts';
import { orientationNote, uprightSize } from './orientation.ts';
import type { ElementReport, FileReport } from './report.ts';
import { readTiffPages } from './tiff/pages.ts';
import { readWebpHeader } from './webp.ts';

const signatures: readonly { format: FileFormat; begins: readonly number[]; at?: number }[] = [
  { format: 'jpeg', begins: [0xff, 0xd8, 0xff] },
  { format: 'tiff', begins: [0x49, 0x49, 0x2a, 0] },
  { format: 'tiff', begins: [0x4d, 0x4d, 0, 0x2a] },
  { format: 'tiff', begins: [0x49, 0x49, 0x2b, 0] },
  { format: 'tiff', begins: [0x4d, 0x4d, 0, 0x2b] },
  { format: 'hdr', begins: [0x23, 0x3f] },
  { format: 'webp', begins: [0x57, 0x45, 0x42, 0x50], at: 8 },
];

/** Formats that are known by their first bytes but not read, so that the refusal can name them. */
const strangers: readonly { name: string; begins: readonly number[]; at?: number }[] = [
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
  const known = signatures.find((signature) => begins(head, signature.begins, signature.at));
  if (known) return known.format;
  const stranger = strangers.find((format) => begins(head, format.begins, format.at));
  if (stranger) throw new FormatError('unsupported', source.name, `this is a ${stranger.name} file, which is not read. Save it as PNG or OpenEXR.`);
  throw new FormatError('not-recognised', source.name, 'the contents are no picture that is read: OpenEXR, PNG, TIFF, JPEG, Radiance HDR, WebP. Save it in one of these formats.');
}

/** What a picture file holds, from its header alone. @throws FormatError */
export async function inspectFile(source: ByteSource): Promise<FileReport> {
  const format = await recognise(source);
  switch (format) {
    case 'png':
      return inspectPng(source);
    case 'exr':
      return inspectExr(source);
    case 'jpeg':
      return inspectJpeg(source);
    case 'webp':
      return inspectWebp(source);
    case 'hdr':
      return inspectHdr(source);
    case 'tiff':
      return inspectTiff(source);
    default:
      throw new FormatError('unsupported', source.name, 'this is a project file or another archive, not a picture. Open it as a project.');
  }
}

interface Simple {
  readonly format: FileFormat;
  readonly width: number;
  readonly height: number;
  readonly channels: 1 | 3;
  readonly hasAlpha: boolean;
  readonly type: PlaneType;
  readonly compression: string;
  readonly space: ColorSpace;
  readonly encoding?: Encoding;
  readonly notes?: Readonly<Record<string, string>>;
  readonly orientation?: number;
}

/** What the profile of a picture means for its colours. */
const spaceNotes = ({ name, isUnknown, matrix }: ColorSpace): Record<string, string> => (name === null ? {} : { colours: isUnknown ? `${name}: not converted, read as sRGB` : matrix ? `${name}: converted to sRGB` : name });
const remarksOf = (source: ByteSource, { name, isUnknown }: ColorSpace): string[] => (isUnknown ? [`${source.name}: its colours are “${name}”, which is not converted; they are read as sRGB. Save it as sRGB if they look wrong.`] : []);

/** A picture of one element. */
function simpleReport(source: ByteSource, { format, width, height, channels, hasAlpha, type, compression, space, encoding, notes = {}, orientation = 1 }: Simple): FileReport {
  const colorChannels = channels === 1 ? ['Y'] : ['R', 'G', 'B'];
  const alphaChannel = hasAlpha ? 'A' : null;
  const window = { x: 0, y: 0, width, height };
  const all = alphaChannel ? [...colorChannels, alphaChannel] : colorChannels;
  return {
    format,
    fileName: source.name,
    byteLength: source.size,
    size: { width, height },
    parts: [{ part: 0, name: '', window, compression, channels: all.map((name) => ({ name, type })) }],
    elements: [{ name: '', colorChannels, alphaChannel, types: [type], part: 0, window, hint: null, encoding: encoding ?? (space.isLinear ? 'linear' : null) }],
    premultiplied: false,
    ...NO_FACTS,
    notes: { ...notes, ...orientationNote(orientation), ...spaceNotes(space) },
    leftOut: [],
    remarks: remarksOf(source, space),
  };
}

async function inspectJpeg(source: ByteSource): Promise<FileReport> {
  const header = await readJpegHeader(source);
  const report = simpleReport(source, { ...header, format: 'jpeg', hasAlpha: false, type: 'u8', compression: 'JPEG' });
  return header.hasInks ? { ...report, remarks: [...report.remarks, inksSentence(source.name)] } : report;
}

const inspectWebp = async (source: ByteSource): Promise<FileReport> => simpleReport(source, { ...(await readWebpHeader(source)), format: 'webp', channels: 3, type: 'u8', compression: 'WebP' });

async function inspectHdr(source: ByteSource): Promise<FileReport> {
  const header = await readHdrHeader(source);
  return simpleReport(source, { ...header, format: 'hdr', channels: 3, hasAlpha: false, type: 'f16', compression: 'run lengths', space: SRGB, encoding: 'linear' });
}

async function inspectTiff(source: ByteSource): Promise<FileReport> {
  const { pages, leftOut } = await readTiffPages(source);
  const [first] = pages;
  const windowOf = ({ width, height }: (typeof pages)[number]) => ({ x: 0, y: 0, width, height });
  return {
    format: 'tiff',
    fileName: source.name,
    byteLength: source.size,
    size: { width: first.width, height: first.height },
    parts: pages.map((page) => ({
      part: page.index,
      name: page.name,
      window: windowOf(page),
      compression: page.compression,
      channels: [...page.color, ...(page.alpha ? [page.alpha] : []), ...page.others].map((name) => ({ name, type: page.type })),
    })),
    elements: pages.flatMap((page): ElementReport[] => {
      const name = page.name || (pages.length > 1 ? `page ${page.index + 1}` : '');
      const whole = { types: [page.type], part: page.index, window: windowOf(page), hint: null };
      return [
        { ...whole, name, colorChannels: page.color, alphaChannel: page.alpha, premultiplied: page.premultiplied, encoding: page.space.isLinear ? 'linear' : null },
        ...page.others.map((channel): ElementReport => ({ ...whole, name: name ? `${name} ${channel}` : channel, colorChannels: [channel], alphaChannel: null, encoding: 'data' })),
      ];
    }),
    premultiplied: false,
    ...NO_FACTS,
    notes: { ...spaceNotes(first.space), ...orientationNote(first.orientation) },
    leftOut,
    remarks: [...remarksOf(source, first.space), ...(pages.some(({ photometric }) => photometric === 'inks') ? [inksSentence(source.name)] : [])],
  };
}

async function inspectPng(source: ByteSource): Promise<FileReport> {
  const header = await readPngHeader(source);
  return simpleReport(source, {
    ...header,
    ...uprightSize(header, header.orientation),
    format: 'png',
    channels: pngColorPlanes(header) === 1 ? 1 : 3,
    hasAlpha: pngHasAlpha(header),
    type: header.depth === 16 ? 'u16' : 'u8',
    compression: 'deflate',
    notes: { stored: `${header.color}, ${header.depth} bits${header.interlaced ? ', interlaced' : ''}` },
  });
}

async function inspectExr(source: ByteSource): Promise<FileReport> {
  const { parts, leftOut } = await readExrFile(source);
  // The standard wants one display window for all parts.
  const { displayWindow } = parts[0];
  const matteNotes = matteNotesOf(parts);
  const skew = parts.find(({ notes }) => notes.pixelAspectRatio)?.notes.pixelAspectRatio;
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
    elements: parts.flatMap((part) => elementsOf(part, matteNotes).map((element) => ({ ...element, part: part.part ?? 0, window: windowOf(part) }))),
    premultiplied: true,
    ...sceneFactsOf(Object.assign({}, ...parts.map((part) => part.sceneAttributes).reverse()), displayWindow),
    notes: { ...parts[0].notes, ...matteNotes },
    leftOut,
    remarks: skew === undefined ? [] : [`${source.name}: its pixels are not square (${skew} to 1); they are shown as if they were. Render it with square pixels.`],
  };
}

/** What is said of coverage mattes may stand in any part. */
export const matteNotesOf = (parts: readonly ExrHeader[]): Record<string, string> => Object.fromEntries(parts.flatMap(({ notes }) => Object.entries(notes).filter(([key]) => key.startsWith('cryptomatte/'))));

/** Coverage mattes say so in the header. @source Cryptomatte specification 1.2, "metadata" */
function hintOf(layer: string, partName: string, notes: ExrHeader['notes']): RoleGuess | null {
  const mattes = Object.entries(notes).filter(([key]) => /^cryptomatte\/[^/]+\/name$/.test(key)).map(([, name]) => name);
  // Some writers put the name of the part before that of the layer, some call only the part so.
  const names = [layer, partName, `${partName}.${layer}`].flatMap((name) => [name, name.replace(/^[^.]*\./, '')]);
  const isMatte = mattes.some((matte) => names.some((name) => name.replace(/\d+$/, '') === matte || name === matte));
  return isMatte ? { role: 'coverage-matte', reason: 'the file says that it is one (Cryptomatte metadata)', confidence: 1 } : null;
}

function elementsOf({ name: partName, part, channels }: ExrHeader, notes: ExrHeader['notes']): Omit<ElementReport, 'part' | 'window'>[] {
  const typeOf = new Map(channels.map((channel) => [channel.name, channel.type]));
  const groups = groupChannels(channels.map((channel) => channel.name));
  const name = part === null && groups.length > 1 ? '' : partName;
  // A part that holds one element names it; parts are also often called as the layer that they hold. A file of one part with many
  // elements says by its name what it is as a whole.
  const nameOf = (layer: string) => (layer === '' || (name !== '' && groups.length === 1) ? name : name === '' || layer.startsWith(name) ? layer : `${name} ${layer}`);
  return groups.map((group) => ({
    name: nameOf(group.name),
    hint: hintOf(group.name, partName, notes),
    encoding: null,
    colorChannels: group.color,
    alphaChannel: group.alpha,
    types: [...new Set(group.color.map((channel) => typeOf.get(channel) as PlaneType))],
  }));
}
