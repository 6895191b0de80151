/** What a page of a TIFF holds, and how: everything that is not read is refused here, by name. @source TIFF 6.0 (1992), Technical Note 3 (floats), TIFF/EP (orientation) */
import type { PlaneType } from '@tazzel/core';
import { MAX_PIXELS, MAX_SIDE } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { type ColorSpace, SRGB, spaceOfProfile } from '../icc.ts';
import type { TiffDirectory } from './directory.ts';

export type TiffCompression = 'none' | 'LZW' | 'JPEG' | 'deflate' | 'PackBits';
export type Photometric = 'white-is-zero' | 'grey' | 'rgb' | 'palette' | 'inks' | 'ycbcr';

/** One page of a file. */
export interface TiffPage {
  /** Upright. */
  readonly width: number;
  readonly height: number;
  /** Of the planes that it is read as. */
  readonly type: PlaneType;
  /** Names of its channels: R, G, B or Y, A if there is an alpha, `channel 5` and so on for what else there is. */
  readonly color: readonly string[];
  readonly alpha: 'A' | null;
  readonly others: readonly string[];
  readonly premultiplied: boolean;
  readonly space: ColorSpace;
  readonly name: string;
  readonly compression: TiffCompression;
  /** Exif: 1 upright, 2–8 turned or mirrored. */
  readonly orientation: number;
  readonly photometric: Photometric;
  /** How samples are stored. */
  readonly stored: StoredLayout;
}

export interface StoredLayout {
  readonly width: number;
  readonly height: number;
  readonly samples: number;
  readonly bits: number;
  readonly format: 'whole' | 'signed' | 'float';
  readonly predictor: 1 | 2 | 3;
  /** Each channel in parts of its own. */
  readonly separate: boolean;
  readonly part: { readonly width: number; readonly height: number };
  readonly isTiled: boolean;
  /** Number of the colour channel or extra channel by name. */
  readonly places: ReadonlyMap<string, number>;
}

const PHOTOMETRICS: Readonly<Record<number, Photometric>> = { 0: 'white-is-zero', 1: 'grey', 2: 'rgb', 3: 'palette', 5: 'inks', 6: 'ycbcr' };
const STRANGE_PHOTOMETRICS: Readonly<Record<number, string>> = { 4: 'a transparency mask', 8: 'CIELAB', 9: 'ICC Lab', 10: 'ITU Lab', 32803: 'raw data of a camera', 32844: 'LogL', 32845: 'LogLuv', 34892: 'raw data of a camera' };
const STORED: Readonly<Record<Photometric, number>> = { 'white-is-zero': 1, grey: 1, palette: 1, rgb: 3, ycbcr: 3, inks: 4 };
const COMPRESSIONS: Readonly<Record<number, TiffCompression>> = { 1: 'none', 5: 'LZW', 7: 'JPEG', 8: 'deflate', 32946: 'deflate', 32773: 'PackBits' };
const STRANGE_COMPRESSIONS: Readonly<Record<number, string>> = { 2: 'CCITT run lengths', 3: 'CCITT group 3', 4: 'CCITT group 4', 6: 'JPEG of the old kind', 9: 'JBIG', 34676: 'SGI LogLuv', 34712: 'JPEG 2000', 34887: 'LERC', 34925: 'LZMA', 50000: 'Zstandard', 50001: 'WebP', 50002: 'JPEG XL' };
/** Most bytes that one packed byte can stand for. */
const RATIO: Readonly<Record<TiffCompression, number>> = { none: 1, PackBits: 64, deflate: 1040, LZW: 2730, JPEG: 4096 };

const MAX_PROFILE = 4 * 2 ** 20;

/** @throws FormatError */
export async function readPage(directory: TiffDirectory): Promise<TiffPage> {
  const fileName = directory.source.name;
  const refuse = (what: string) => new FormatError('unsupported', fileName, `${what} Save it as RGB, 8, 16 or 32 bits.`);
  const corrupt = (what: string) => new FormatError('corrupt', fileName, `${what}. The file is damaged or cut off; save it again.`);
  const number = (tag: number, otherwise: number) => directory.number(tag, otherwise);
  const [width, height, samples] = [await number(256, 0), await number(257, 0), await number(277, 1)];
  if (width < 1 || height < 1) throw corrupt(`the size is ${width} × ${height}`);
  if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) throw new FormatError('too-large', fileName, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read. Save it smaller.`);
  if (samples < 1 || samples > 64) throw corrupt(`${samples} channels`);
  const depths = await directory.numbers(258, samples);
  const formats = await directory.numbers(339, samples);
  const bits = depths[0] ?? 1;
  if ([...depths].some((depth) => depth !== bits)) throw refuse(`its channels have different depths (${depths.join(', ')} bits), which is not read.`);
  if (formats.some((format) => format !== formats[0])) throw refuse('its channels are of different kinds of numbers, which is not read.');
  const format = ({ 1: 'whole', 2: 'signed', 3: 'float', 4: 'whole' } as const)[formats[0] ?? 1];
  if (!format) throw refuse('it holds complex numbers, which are not read.');
  const depthsRead = { whole: [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 32], signed: [8, 16, 32], float: [16, 32, 64] }[format];
  if (!depthsRead.includes(bits)) throw refuse(`${bits} bits a sample (${format === 'float' ? 'floats' : `${format} numbers`}) are not read.`);

  const kind = await number(262, samples >= 3 ? 2 : 1);
  const photometric = PHOTOMETRICS[kind];
  if (!photometric) throw refuse(`its kind of colour (${STRANGE_PHOTOMETRICS[kind] ?? `number ${kind}`}) is not read.`);
  if (photometric === 'inks' && (await number(332, 1)) !== 1) throw refuse('it holds inks other than cyan, magenta, yellow and black, which are not read.');
  if (samples < STORED[photometric]) throw corrupt(`${samples} channels instead of ${STORED[photometric]}`);
  if (photometric === 'palette' && (bits > 8 || format !== 'whole')) throw refuse(`a palette with ${bits} bits is not read.`);
  if (photometric === 'inks' && (format !== 'whole' || (bits !== 8 && bits !== 16))) throw refuse(`inks with ${bits} bits are not read.`);

  const packing = await number(259, 1);
  const compression = COMPRESSIONS[packing];
  if (!compression) throw new FormatError('unsupported', fileName, `its compression (${STRANGE_COMPRESSIONS[packing] ?? `number ${packing}`}) is not read. Save it with LZW, deflate or none.`);
  if (compression === 'JPEG' && (bits !== 8 || format !== 'whole' || photometric === 'inks')) throw refuse(`JPEG with ${photometric === 'inks' ? 'inks' : `${bits} bits`} in a TIFF is not read.`);
  if (photometric === 'ycbcr' && compression !== 'JPEG') throw refuse('it holds luminance and colour differences, which are read in JPEG only.');
  const predictor = await number(317, 1);
  if (compression !== 'JPEG' && predictor !== 1 && !(predictor === 2 && format !== 'float' && [8, 16, 32].includes(bits)) && !(predictor === 3 && format === 'float')) {
    throw new FormatError('unsupported', fileName, `its differences (predictor ${predictor} with ${bits} bits) are not read. Save it without a predictor.`);
  }

  // As many strips or tiles as the size needs, and none that is far larger than the picture.
  const isTiled = directory.has(322);
  const part = isTiled ? { width: await number(322, 0), height: await number(323, 0) } : { width, height: Math.min(height, await number(278, height)) };
  if (part.width < 1 || part.height < 1 || part.width > MAX_SIDE || part.height > MAX_SIDE || part.width * part.height > 4 * (width + 4096) * (height + 4096)) throw corrupt(`parts of ${part.width} × ${part.height} pixels`);
  const separate = (await number(284, 1)) === 2;
  const needed = Math.ceil(width / part.width) * Math.ceil(height / part.height) * (separate ? samples : 1);
  const [offsets, counts] = isTiled ? [324, 325] : [273, 279];
  if (directory.count(offsets) < needed || (directory.has(counts) && directory.count(counts) < needed)) throw corrupt(`${directory.count(offsets)} parts instead of ${needed}`);
  // What is promised must be in the file: else a few bytes would ask for gigabytes.
  const unpacked = (width * height * samples * bits) / 8;
  if (unpacked > directory.source.size * RATIO[compression] + 65_536) throw corrupt(`${width} × ${height} pixels of ${samples} channels cannot be packed into ${directory.source.size} bytes`);

  const extras = await directory.numbers(338, samples);
  const first = STORED[photometric];
  const extra = Array.from({ length: samples - first }, (_, i) => extras[i] ?? (extras.length === 0 && i === 0 ? 2 : 0));
  const alphaAt = extra.findIndex((meaning) => meaning === 1 || meaning === 2);
  const color = first === 1 && photometric !== 'palette' ? ['Y'] : ['R', 'G', 'B'];
  const places = new Map(color.map((name, i) => [name, Math.min(i, first - 1)]));
  if (alphaAt >= 0) places.set('A', first + alphaAt);
  const others = extra.flatMap((_, i) => (i === alphaAt ? [] : [`channel ${first + i + 1}`]));
  for (const other of others) places.set(other, Number(other.slice(8)) - 1);

  const orientation = await number(274, 1);
  const isTurned = orientation >= 5 && orientation <= 8;
  const profile = await directory.bytes(34675, MAX_PROFILE);
  const description = await directory.text(270);
  return {
    width: isTurned ? height : width,
    height: isTurned ? width : height,
    type: planeType(format, bits, color.length),
    color,
    alpha: alphaAt >= 0 ? 'A' : null,
    others,
    premultiplied: extra[alphaAt] === 1,
    space: photometric === 'inks' ? SRGB : profile ? spaceOfProfile(profile) : SRGB,
    // A description is a name if it is as short as one.
    name: (await directory.text(285)) || (description.length <= 60 && !/[\n{<=]/.test(description) ? description : ''),
    compression,
    orientation: orientation >= 1 && orientation <= 8 ? orientation : 1,
    photometric,
    stored: { width, height, samples, bits, format, predictor: (compression === 'JPEG' ? 1 : predictor) as 1 | 2 | 3, separate, part, isTiled, places },
  };
}

/** Signed numbers become floats from −1 to 1; single channels of 32 bits are IDs and stay what they are. */
function planeType(format: StoredLayout['format'], bits: number, channels: number): PlaneType {
  if (format === 'float') return bits === 16 ? 'f16' : 'f32';
  if (bits === 32) return channels === 1 ? 'u32' : format === 'signed' ? 'f32' : 'u16';
  if (format === 'signed') return 'f32';
  return bits <= 8 ? 'u8' : 'u16';
}
