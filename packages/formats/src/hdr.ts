/**
 * Radiance pictures: four bytes a pixel, three mantissas and a common exponent, plain or in run lengths of both kinds.
 * @source G. Ward, "Real Pixels", Graphics Gems II (1991), and the format's header as Radiance documents it: value = byte · 2^(exponent − 136)
 */
import { floatToHalf, halfToFloat, invertMatrix, type Plane, planeView, REC709, rgbToXyz } from '@tazzel/core';
import { type Allocate, type ByteSource, MAX_PIXELS, MAX_SIDE, plainMemory } from './bytes.ts';
import { FormatError } from './errors.ts';
import { SRGB, type StoredPixels } from './icc.ts';

export interface HdrHeader {
  readonly width: number;
  readonly height: number;
  /** RGB or XYZ. */
  readonly isXyz: boolean;
  /** Rows from the bottom, columns from the right, columns before rows. */
  readonly upwards: boolean;
  readonly leftwards: boolean;
  readonly transposed: boolean;
  readonly dataStart: number;
  readonly notes: Readonly<Record<string, string>>;
  /** What values were multiplied by before they were stored. */
  readonly exposure: number;
}

const MAX_HEADER = 65536;

/** @throws FormatError */
export async function readHdrHeader(source: ByteSource): Promise<HdrHeader> {
  const bytes = await source.read(0, Math.min(source.size, MAX_HEADER));
  const corrupt = (what: string) => new FormatError('corrupt', source.name, `${what}. The header is damaged; save the file again.`);
  const notes: Record<string, string> = {};
  let at = 0;
  let format = '';
  let exposure = 1;
  const line = (): string => {
    const end = bytes.indexOf(10, at);
    if (end < 0) throw source.size > bytes.length ? corrupt('the header does not end') : new FormatError('truncated', source.name, 'the file ends inside its header. It was not written or copied completely; save it again.');
    const text = new TextDecoder('latin1').decode(bytes.subarray(at, end));
    at = end + 1;
    return text.replace(/\r$/, '');
  };
  for (let text = line(); text !== ''; text = line()) {
    const [, name, value] = /^([A-Za-z]+)=(.*)$/.exec(text) ?? [];
    if (!name) continue;
    if (name === 'FORMAT') format = value.trim();
    else if (name === 'EXPOSURE') exposure *= Number(value) > 0 ? Number(value) : 1;
    notes[name] = value.trim();
  }
  if (format !== '32-bit_rle_rgbe' && format !== '32-bit_rle_xyze') throw new FormatError('unsupported', source.name, `the pixel format “${format}” is not known. Save it as 32-bit_rle_rgbe, or as OpenEXR.`);
  const size = /^([-+])([XY]) (\d+) ([-+])([XY]) (\d+)$/.exec(line());
  if (!size || size[2] === size[5]) throw corrupt('the size is missing');
  const transposed = size[2] === 'X';
  const [ySign, xSign] = transposed ? [size[4], size[1]] : [size[1], size[4]];
  const [height, width] = transposed ? [Number(size[6]), Number(size[3])] : [Number(size[3]), Number(size[6])];
  if (width < 1 || height < 1) throw corrupt(`the size is ${width} × ${height}`);
  if (width > MAX_SIDE || height > MAX_SIDE || width * height > MAX_PIXELS) throw new FormatError('too-large', source.name, `${width} × ${height} pixels; up to ${MAX_PIXELS / 2 ** 20} million pixels are read. Save it smaller.`);
  return { width, height, isXyz: format.endsWith('xyze'), upwards: ySign === '+', leftwards: xSign === '-', transposed, dataStart: at, notes, exposure };
}

/** Three planes in linear light: halves, or floats where halves do not hold the light. @throws FormatError */
export async function decodeHdr(source: ByteSource, allocate: Allocate = plainMemory): Promise<StoredPixels> {
  const header = await readHdrHeader(source);
  const { width, height, isXyz, upwards, leftwards, transposed, dataStart, exposure } = header;
  const packed = await source.read(dataStart, source.size - dataStart);
  const [length, lines] = transposed ? [height, width] : [width, height];
  // The densest packing takes two bytes for 127 of one kind: more pixels than that cannot be there.
  if (length * lines * 4 > packed.length * 128 + 4096) throw new FormatError('truncated', source.name, 'the file ends too early. It was not written or copied completely; save it again.');
  let planes = [0, 1, 2].map((): Plane => ({ type: 'f16', width, height, data: planeView('f16', allocate(width * height * 2)) }));
  const scale = Float64Array.from({ length: 256 }, (_, exponent) => (exponent === 0 ? 0 : 2 ** (exponent - 136) / exposure));
  const toRgb = isXyz ? invertMatrix(rgbToXyz(REC709)) : null;
  const row = new Uint8Array(length * 4);
  let at = 0;
  for (let line = 0; line < lines; line++) {
    at = unpackLine(packed, at, row, length, () => new FormatError('corrupt', source.name, `line ${line} cannot be unpacked. The file is damaged; save it again.`));
    for (let i = 0; i < length; i++) {
      const [a, b] = [transposed ? line : i, transposed ? i : line];
      // “+Y” counts lines from the bottom, “−X” columns from the right.
      const x = leftwards ? width - 1 - a : a;
      const y = upwards ? height - 1 - b : b;
      const factor = scale[row[length * 3 + i]];
      const v = [row[i] * factor, row[length + i] * factor, row[length * 2 + i] * factor];
      const rgb = toRgb ? toRgb.map((m) => m[0] * v[0] + m[1] * v[1] + m[2] * v[2]) : v;
      if (planes[0].type === 'f16' && Math.max(...rgb) > LARGEST_HALF) planes = planes.map((plane) => asFloats(plane, allocate));
      const isHalf = planes[0].type === 'f16';
      for (const c of [0, 1, 2]) planes[c].data[y * width + x] = isHalf ? floatToHalf(rgb[c]) : rgb[c];
    }
  }
  return { color: planes, alpha: null, space: SRGB };
}

const LARGEST_HALF = 65504;

function asFloats({ width, height, data: halves }: Plane, allocate: Allocate): Plane {
  const data = planeView('f32', allocate(width * height * 4));
  for (let i = 0; i < data.length; i++) data[i] = halfToFloat(halves[i]);
  return { type: 'f32', width, height, data };
}

/** One line into four planes of bytes after each other. Returns where the next begins. */
function unpackLine(packed: Uint8Array, start: number, out: Uint8Array, length: number, damaged: () => FormatError): number {
  let at = start;
  const isNew = length >= 8 && length < 32768 && packed[at] === 2 && packed[at + 1] === 2 && ((packed[at + 2] << 8) | packed[at + 3]) === length;
  if (isNew) {
    at += 4;
    for (let plane = 0; plane < 4; plane++) {
      for (let i = 0; i < length; ) {
        const count = packed[at++];
        if (count === undefined) throw damaged();
        if (count > 128) {
          const run = count - 128;
          if (i + run > length || at >= packed.length) throw damaged();
          out.fill(packed[at++], plane * length + i, plane * length + i + run);
          i += run;
        } else {
          if (count === 0 || i + count > length || at + count > packed.length) throw damaged();
          out.set(packed.subarray(at, at + count), plane * length + i);
          at += count;
          i += count;
        }
      }
    }
    return at;
  }
  // Plain pixels; three ones and a count repeat the last one, further counts being the higher bytes of it.
  let shift = 0;
  for (let i = 0; i < length; ) {
    if (at + 4 > packed.length) throw damaged();
    const [r, g, b, e] = packed.subarray(at, at + 4);
    at += 4;
    if (r === 1 && g === 1 && b === 1) {
      const run = e * 2 ** shift;
      if (i === 0 || i + run > length) throw damaged();
      for (let plane = 0; plane < 4; plane++) out.fill(out[plane * length + i - 1], plane * length + i, plane * length + i + run);
      i += run;
      shift += 8;
      if (shift > 24) throw damaged();
      continue;
    }
    for (const [plane, value] of [r, g, b, e].entries()) out[plane * length + i] = value;
    i++;
    shift = 0;
  }
  return at;
}
