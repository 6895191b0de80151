/** TIFF through the geotiff package: 8, 16 and 32 bits, whole numbers and floats, strips and tiles, pages. @source TIFF 6.0 (1992), Technical Note 3 */
import { isShortage, type Plane, type PlaneType, planeView } from '@tazzel/core';
import { fromArrayBuffer, type GeoTIFFImage } from 'geotiff';
import { type Allocate, type ByteSource, MAX_PIXELS, MAX_SIDE, plainMemory } from './bytes.ts';
import { failure, FormatError } from './errors.ts';
import { type ColorSpace, SRGB, type StoredPixels, spaceOfProfile } from './icc.ts';
import { useBoundedUnpackers } from './tiff-unpack.ts';

useBoundedUnpackers();

/** One page of a file. */
export interface TiffPage {
  readonly width: number;
  readonly height: number;
  readonly type: PlaneType;
  readonly channels: 1 | 3;
  readonly hasAlpha: boolean;
  readonly premultiplied: boolean;
  readonly space: ColorSpace;
  readonly name: string;
  readonly compression: string;
}

const MAX_PAGES = 256;
const PHOTOMETRIC = { whiteIsZero: 0, blackIsZero: 1, rgb: 2, palette: 3, separated: 5, ycbcr: 6 } as const;
const COMPRESSIONS: Readonly<Record<number, string>> = { 1: 'none', 5: 'LZW', 6: 'JPEG', 7: 'JPEG', 8: 'deflate', 32946: 'deflate', 32773: 'PackBits' };

type Tags = ReturnType<GeoTIFFImage['getFileDirectory']>;
const numberOf = async (tags: Tags, tag: string): Promise<number | undefined> => {
  if (!tags.hasTag(tag as never)) return undefined;
  const value = (await tags.loadValue(tag as never)) as number | ArrayLike<number>;
  return typeof value === 'number' ? value : value[0];
};

async function open(source: ByteSource): Promise<{ images: GeoTIFFImage[] }> {
  // A copy in memory of its own: the package wants a whole buffer.
  const bytes = new Uint8Array(await source.read(0, source.size));
  checkDirectories(bytes, source.name);
  const images: GeoTIFFImage[] = [];
  try {
    const file = await fromArrayBuffer(bytes.buffer as ArrayBuffer);
    const count = await file.getImageCount();
    if (count > MAX_PAGES) throw new FormatError('too-large', source.name, `more than ${MAX_PAGES} pages. Split it into several files.`);
    for (let i = 0; i < count; i++) images.push(await file.getImage(i));
  } catch (error) {
    throw failure(error, new FormatError('corrupt', source.name, 'the directory of its contents cannot be read. The file is damaged or cut off; save it again.'));
  }
  if (images.length === 0) throw new FormatError('corrupt', source.name, 'it holds no picture. Save it again.');
  return { images };
}

const TYPE_BYTES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8];

/** Walks the directories before the package does, which trusts what they say. @throws FormatError */
function checkDirectories(bytes: Uint8Array, name: string): void {
  const corrupt = (what: string) => new FormatError('corrupt', name, `${what}. The file is damaged or cut off; save it again.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 8) throw new FormatError('truncated', name, 'the file ends inside its header. It was not written or copied completely; save it again.');
  const little = view.getUint16(0) === 0x4949;
  const seen = new Set<number>();
  let at = view.getUint32(4, little);
  while (at !== 0) {
    if (seen.has(at)) throw corrupt('its pages go round in a circle');
    if (seen.size >= MAX_PAGES) throw new FormatError('too-large', name, `more than ${MAX_PAGES} pages. Split it into several files.`);
    seen.add(at);
    if (at + 2 > bytes.length) throw corrupt('a directory lies beyond the end');
    const count = view.getUint16(at, little);
    const end = at + 2 + count * 12;
    if (count === 0 || end + 4 > bytes.length) throw corrupt('a directory ends too early');
    const values = new Map<number, { count: number; first: number }>();
    for (let entry = at + 2; entry < end; entry += 12) {
      const [tag, type, length] = [view.getUint16(entry, little), view.getUint16(entry + 2, little), view.getUint32(entry + 4, little)];
      const size = (TYPE_BYTES[type] ?? 1) * length;
      const from = size > 4 ? view.getUint32(entry + 8, little) : entry + 8;
      if (from + size > bytes.length) throw corrupt(`the value of tag ${tag} lies beyond the end`);
      values.set(tag, { count: length, first: type === 3 && length > 0 ? view.getUint16(from, little) : type === 4 && length > 0 ? view.getUint32(from, little) : type === 1 && length > 0 ? bytes[from] : 0 });
    }
    const one = (tag: number, fallback: number) => values.get(tag)?.first ?? fallback;
    const [width, height, samples, bits] = [one(256, 0), one(257, 0), one(277, 1), one(258, 1)];
    if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) throw new FormatError('too-large', name, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read. Save it smaller.`);
    if (samples < 1 || samples > 64 || bits < 1 || bits > 64) throw corrupt(`${samples} channels of ${bits} bits`);
    // As many strips or tiles as the size needs, and none that is far larger than the picture.
    const isTiled = values.has(322);
    const [across, down] = isTiled ? [one(322, 0), one(323, 0)] : [width, Math.min(height, one(278, height))];
    if (across < 1 || down < 1 || across > MAX_SIDE || down > MAX_SIDE) throw corrupt(`parts of ${across} × ${down} pixels`);
    if (across * down * samples > 4 * (width + 4096) * (height + 4096)) throw corrupt(`parts of ${across} × ${down} pixels`);
    const planes = one(284, 1) === 2 ? samples : 1;
    const needed = Math.ceil(width / across) * Math.ceil(height / down) * planes;
    const offsets = values.get(isTiled ? 324 : 273)?.count ?? 0;
    if (offsets < needed || (values.get(isTiled ? 325 : 279)?.count ?? needed) < needed) throw corrupt(`${offsets} parts instead of ${needed}`);
    at = view.getUint32(end, little);
  }
}

async function pageOf(image: GeoTIFFImage, source: ByteSource): Promise<TiffPage & { photometric: number }> {
  const refuse = (what: string) => new FormatError('unsupported', source.name, `${what} Save it as RGB, 8, 16 or 32 bits.`);
  const tags = image.getFileDirectory();
  const [width, height, samples] = [image.getWidth(), image.getHeight(), image.getSamplesPerPixel()];
  if (!(width >= 1 && height >= 1)) throw new FormatError('corrupt', source.name, `the size is ${width} × ${height}. The file is damaged; save it again.`);
  if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) throw new FormatError('too-large', source.name, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read. Save it smaller.`);
  const [tileWidth, tileHeight] = [image.getTileWidth(), image.getTileHeight()];
  if (!(tileWidth >= 1 && tileHeight >= 1)) throw new FormatError('corrupt', source.name, `tiles of ${tileWidth} × ${tileHeight} pixels. The file is damaged; save it again.`);
  const photometric = (await numberOf(tags, 'PhotometricInterpretation')) ?? (samples >= 3 ? PHOTOMETRIC.rgb : PHOTOMETRIC.blackIsZero);
  if (photometric === PHOTOMETRIC.separated) throw refuse('it holds inks (CMYK), which are not read.');
  if (!(Object.values(PHOTOMETRIC) as number[]).includes(photometric)) throw refuse(`its kind of colour (${photometric}) is not read.`);
  const [bits, format] = [image.getBitsPerSample(), image.getSampleFormat()];
  if (!(bits >= 1 && bits <= 64)) throw refuse(`${bits} bits a sample are not read.`);
  const colors = photometric === PHOTOMETRIC.palette ? 3 : photometric === PHOTOMETRIC.rgb || photometric === PHOTOMETRIC.ycbcr ? 3 : 1;
  const stored = photometric === PHOTOMETRIC.palette ? 1 : colors;
  if (samples < stored) throw new FormatError('corrupt', source.name, `${samples} channels instead of ${stored}. The file is damaged; save it again.`);
  const extra = samples > stored ? await numberOf(tags, 'ExtraSamples') : undefined;
  const type: PlaneType = format === 3 ? 'f32' : bits <= 8 ? 'u8' : bits <= 16 ? 'u16' : colors === 1 ? 'u32' : 'u16';
  const profile = tags.hasTag(34675 as never) ? ((await tags.loadValue(34675 as never)) as unknown as ArrayLike<number>) : null;
  const name = tags.hasTag('PageName' as never) ? String(await tags.loadValue('PageName' as never)).replace(/\0.*$/s, '') : '';
  const compression = (await numberOf(tags, 'Compression')) ?? 1;
  if (!COMPRESSIONS[compression]) throw refuse(`its compression (number ${compression}) is not read. Save it with LZW, deflate or none.`);
  return {
    width,
    height,
    type,
    channels: colors,
    hasAlpha: samples > stored && extra !== 0,
    premultiplied: extra === 1,
    space: profile ? spaceOfProfile(Uint8Array.from(profile)) : SRGB,
    name,
    compression: COMPRESSIONS[compression],
    photometric,
  };
}

/** @throws FormatError if no page can be read */
export async function readTiffPages(source: ByteSource): Promise<{ pages: (TiffPage & { index: number })[]; leftOut: string[] }> {
  const { images } = await open(source);
  const pages: (TiffPage & { index: number })[] = [];
  const refused: FormatError[] = [];
  for (const [index, image] of images.entries()) {
    try {
      // Smaller copies of a page are not pages.
      if (((await numberOf(image.getFileDirectory(), 'NewSubfileType')) ?? 0) & 1) continue;
      pages.push({ ...(await pageOf(image, source)), index });
    } catch (error) {
      if (isShortage(error)) throw error;
      refused.push(error instanceof FormatError ? error : new FormatError('corrupt', source.name, `page ${index + 1} cannot be read. The file is damaged; save it again.`));
    }
  }
  if (pages.length === 0) throw refused[0] ?? new FormatError('corrupt', source.name, 'it holds no picture. Save it again.');
  return { pages, leftOut: refused.map((error) => error.message) };
}

/** The planes of one page. @throws FormatError */
export async function decodeTiff(source: ByteSource, index: number, allocate: Allocate = plainMemory): Promise<StoredPixels> {
  const { images } = await open(source);
  const image = images[index];
  if (!image) throw new FormatError('corrupt', source.name, `there is no page ${index + 1}. Add the file again.`);
  const { width, height, type, channels, hasAlpha, photometric, space } = await pageOf(image, source);
  const bits = image.getBitsPerSample();
  let bands: ArrayLike<number>[];
  try {
    // JPEG inside TIFF stores luminance and differences; everything else is taken as it is.
    const read = photometric === PHOTOMETRIC.ycbcr ? await image.readRGB({ interleave: false }) : await image.readRasters({ interleave: false });
    bands = read as unknown as ArrayLike<number>[];
    if (bands.some((band) => band.length !== width * height)) throw new RangeError('a channel is too short');
  } catch (error) {
    const what = error instanceof Error && /compression/i.test(error.message) ? new FormatError('unsupported', source.name, 'its compression is not read. Save it with LZW, deflate or none.') : null;
    throw what ?? failure(error, new FormatError('corrupt', source.name, 'the pixels cannot be unpacked. The file is damaged; save it again.'));
  }
  if (photometric === PHOTOMETRIC.palette) bands = await paletteBands(image, bands, source);
  const most = photometric === PHOTOMETRIC.palette || type === 'f32' ? 0 : 2 ** bits - 1;
  const stored = type === 'u8' ? 255 : type === 'u16' ? 65535 : 0;
  // Bits that fill no byte are spread to the full range; numbers of 32 bits stay what they are.
  const factor = most > 0 && stored > 0 && most !== stored ? stored / most : 1;
  const plane = (band: ArrayLike<number>): Plane => {
    const data = planeView(type, allocate(width * height * (type === 'u8' ? 1 : type === 'u16' ? 2 : 4)));
    for (let i = 0; i < data.length; i++) {
      const value = photometric === PHOTOMETRIC.whiteIsZero && most > 0 ? most - band[i] : band[i];
      data[i] = factor === 1 ? value : Math.round(value * factor);
    }
    return { type, width, height, data };
  };
  return { color: bands.slice(0, channels).map(plane), alpha: hasAlpha ? plane(bands[photometric === PHOTOMETRIC.palette ? bands.length - 1 : channels]) : null, space };
}

async function paletteBands(image: GeoTIFFImage, bands: readonly ArrayLike<number>[], source: ByteSource): Promise<ArrayLike<number>[]> {
  const map = (await image.getFileDirectory().loadValue('ColorMap' as never)) as unknown as ArrayLike<number> | undefined;
  const entries = map ? map.length / 3 : 0;
  if (!map || entries < 1) throw new FormatError('corrupt', source.name, 'the palette is missing. The file is damaged; save it again.');
  const color = [0, 1, 2].map((c) => Uint8Array.from({ length: bands[0].length }, (_, i) => (map[c * entries + Math.min(entries - 1, bands[0][i])] ?? 0) >> 8));
  return [...color, ...bands.slice(1)];
}
