/** The chunk structure of PNG. @source PNG Specification, 3rd edition (W3C 2025), §5 and §11 */
import { type Primaries, REC709 } from '@tazzel/core';
import { type ByteSource, MAX_PIXELS, MAX_SIDE } from '../bytes.ts';
import { FormatError } from '../errors.ts';
import { inflatedWithin } from '../inflate.ts';
import { type ColorSpace, displayP3, linearSrgb, SRGB, spaceOfPrimaries, spaceOfProfile, unknownSpace } from '../icc.ts';
import { exifOrientation } from '../orientation.ts';

export const PNG_SIGNATURE = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a);

export type PngColor = 'grey' | 'rgb' | 'palette' | 'grey-alpha' | 'rgba';
const colorTypes: Record<number, { color: PngColor; samples: number; depths: readonly number[] }> = {
  0: { color: 'grey', samples: 1, depths: [1, 2, 4, 8, 16] },
  2: { color: 'rgb', samples: 3, depths: [8, 16] },
  3: { color: 'palette', samples: 1, depths: [1, 2, 4, 8] },
  4: { color: 'grey-alpha', samples: 2, depths: [8, 16] },
  6: { color: 'rgba', samples: 4, depths: [8, 16] },
};

export interface PngHeader {
  readonly width: number;
  readonly height: number;
  readonly depth: number;
  readonly color: PngColor;
  /** Stored samples a pixel. */
  readonly samples: number;
  readonly interlaced: boolean;
  readonly palette: Uint8Array | null;
  readonly transparency: Uint8Array | null;
  /** By cICP, iCCP, sRGB or gAMA with cHRM, in this order of precedence. */
  readonly space: ColorSpace;
  /** Exif: 1 upright, 2–8 turned or mirrored. */
  readonly orientation: number;
  /** Positions of the packed pixels in the file. */
  readonly data: readonly { readonly offset: number; readonly length: number }[];
}

/** Walks the whole file from chunk to chunk without unpacking. @throws FormatError */
export async function readPngHeader(source: ByteSource): Promise<PngHeader> {
  const { name, size } = source;
  const corrupt = (what: string) => new FormatError('corrupt', name, `${what}. The file is damaged; save it again.`);
  const truncated = () => new FormatError('truncated', name, 'the file ends too early. It was not written or copied completely; save it again.');
  let header: Pick<PngHeader, 'width' | 'height' | 'depth' | 'color' | 'samples' | 'interlaced'> | null = null;
  let palette: Uint8Array | null = null;
  let transparency: Uint8Array | null = null;
  const spaces: Partial<Record<'cICP' | 'iCCP' | 'sRGB' | 'gAMA', ColorSpace>> = {};
  let primaries: Primaries | null = null;
  let orientation = 1;
  const data: { offset: number; length: number }[] = [];
  let at = PNG_SIGNATURE.length;
  for (;;) {
    if (at + 12 > size) throw truncated();
    const head = await source.read(at, 8);
    const length = new DataView(head.buffer, head.byteOffset, 8).getUint32(0);
    const type = String.fromCharCode(head[4], head[5], head[6], head[7]);
    if (!/^[A-Za-z]{4}$/.test(type)) throw corrupt('a chunk without a name was found');
    if (at + 12 + length > size) throw truncated();
    if (!header && type !== 'IHDR') throw corrupt(`the file begins with ${type} instead of its header`);
    if (type === 'IEND') break;
    if (type === 'IDAT') data.push({ offset: at + 8, length });
    else if (['IHDR', 'PLTE', 'tRNS'].includes(type)) {
      if (length > 4096) throw corrupt(`the chunk ${type} has ${length} bytes`);
      const whole = await source.read(at + 4, length + 8);
      const body = whole.subarray(4, 4 + length);
      // Pixels are guarded by the zlib checksum; the small chunks only by this one.
      if (new DataView(whole.buffer, whole.byteOffset + 4 + length, 4).getUint32(0) !== crc32(whole.subarray(0, 4 + length))) throw corrupt(`the checksum of ${type} is wrong`);
      if (type === 'IHDR') {
        if (header) throw corrupt('a second header was found');
        header = readIhdr(body, name);
      } else if (type === 'PLTE') {
        if (length % 3 !== 0 || length === 0 || length > 768) throw corrupt(`the palette has ${length} bytes`);
        palette = body.slice();
      } else transparency = body.slice();
    } else if (type === 'cICP' || type === 'iCCP' || type === 'sRGB' || type === 'gAMA') {
      if (length <= MAX_PROFILE) spaces[type] = colorOf(type, await source.read(at + 8, length));
    } else if (type === 'cHRM' && length === 32) primaries = primariesOf(await source.read(at + 8, length));
    else if (type === 'eXIf') orientation = exifOrientation(await source.read(at + 8, Math.min(length, 65_536)));
    else if (type[0] === type[0].toUpperCase()) throw new FormatError('unsupported', name, `the required chunk ${type} is not known. Save it as a plain PNG.`);
    at += 12 + length;
  }
  if (!header || data.length === 0) throw corrupt('the file holds no pixels');
  if (header.color === 'palette' && !palette) throw corrupt('the palette is missing');
  const expected = { grey: 2, rgb: 6 } as Partial<Record<PngColor, number>>;
  if (transparency && header.color !== 'palette' && transparency.length !== expected[header.color]) throw corrupt('the transparency does not fit the kind of picture');
  return { ...header, palette, transparency, space: spaces.cICP ?? spaces.iCCP ?? spaces.sRGB ?? spaceOf(spaces.gAMA, primaries), orientation, data };
}

const MAX_PROFILE = 4 * 2 ** 20;

/** @source PNG 3rd edition §11.3.2: cICP, iCCP, gAMA; numbers of ITU-T H.273 */
function colorOf(type: 'cICP' | 'iCCP' | 'sRGB' | 'gAMA', body: Uint8Array): ColorSpace {
  if (type === 'sRGB') return SRGB;
  if (type === 'gAMA') {
    const gamma = body.length >= 4 ? new DataView(body.buffer, body.byteOffset, 4).getUint32(0) / 100_000 : 1 / 2.2;
    if (Math.abs(gamma - 1) < 0.01) return linearSrgb('gamma 1');
    return Math.abs(gamma - 1 / 2.2) < 0.02 ? SRGB : unknownSpace(`gamma ${(1 / gamma).toFixed(2)}`);
  }
  if (type === 'cICP') {
    const [primaries, transfer] = body;
    const isLinear = transfer === 8;
    if (!isLinear && transfer !== 13 && transfer !== 1) return unknownSpace(transfer === 16 ? 'PQ' : transfer === 18 ? 'HLG' : `transfer ${transfer}`);
    if (primaries === 12) return displayP3(isLinear);
    if (primaries !== 1) return unknownSpace(primaries === 9 ? 'Rec. 2020' : `primaries ${primaries}`);
    return isLinear ? linearSrgb('linear Rec. 709') : SRGB;
  }
  const zero = body.indexOf(0);
  const profile = inflatedWithin(body.subarray(zero + 2), MAX_PROFILE);
  return profile ? spaceOfProfile(profile) : unknownSpace(new TextDecoder('latin1').decode(body.subarray(0, Math.max(0, zero))));
}

/** @source PNG 3rd edition §11.3.2.1: white, red, green, blue, each x and y in hundred thousandths */
function primariesOf(body: Uint8Array): Primaries | null {
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  const [white, red, green, blue] = [0, 8, 16, 24].map((at): [number, number] => [view.getUint32(at) / 100_000, view.getUint32(at + 4) / 100_000]);
  return [white, red, green, blue].every(([x, y]) => x < 1 && y > 0 && y < 1) ? { white, red, green, blue } : null;
}

/** Primaries count where the curve is one for the screen; those of sRGB say nothing new. */
function spaceOf(gamma: ColorSpace | undefined, primaries: Primaries | null): ColorSpace {
  if (!primaries || gamma?.isUnknown || gamma?.isLinear) return gamma ?? SRGB;
  const isSrgb = (['red', 'green', 'blue', 'white'] as const).every((name) => primaries[name].every((value, i) => Math.abs(value - REC709[name][i]) < 0.002));
  return isSrgb ? (gamma ?? SRGB) : spaceOfPrimaries(primaries);
}

function readIhdr(body: Uint8Array, name: string) {
  const corrupt = (what: string) => new FormatError('corrupt', name, `${what}. The header is damaged; save the file again.`);
  if (body.length !== 13) throw corrupt(`the header has ${body.length} bytes instead of 13`);
  const view = new DataView(body.buffer, body.byteOffset, 13);
  const [width, height] = [view.getUint32(0), view.getUint32(4)];
  const kind = colorTypes[body[9]];
  if (width === 0 || height === 0) throw corrupt(`the size is ${width} × ${height}`);
  if (!kind?.depths.includes(body[8])) throw corrupt(`colour type ${body[9]} with ${body[8]} bits is not a PNG`);
  if (body[10] !== 0 || body[11] !== 0 || body[12] > 1) throw corrupt('an unknown compression, filter or interlace method is named');
  if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) {
    throw new FormatError('too-large', name, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read. Render or save it smaller.`);
  }
  return { width, height, depth: body[8], color: kind.color, samples: kind.samples, interlaced: body[12] === 1 };
}

const table = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/** CRC-32 of ISO 3309, as PNG uses it. `seed` continues an earlier result. */
export function crc32(bytes: Uint8Array, seed = 0): number {
  let c = ~seed;
  for (let i = 0; i < bytes.length; i++) c = table[(c ^ bytes[i]) & 255] ^ (c >>> 8);
  return ~c >>> 0;
}
