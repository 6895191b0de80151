/**
 * DWAA and DWAB: cosine transforms of blocks for channels of colour, run lengths for alpha, deflate for all others.
 * @source OpenEXR reference implementation's documented layout (BSD-3-Clause): "DWA compressor": header of eleven counts, rules for channels, four streams
 */
import { floatToHalf, halfToFloat } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import { unpackHuffman } from './huffman.ts';
import { unpackRuns } from './runs.ts';
import { EXR_TYPE_BYTES, EXR_TYPES, type ExrType } from './types.ts';
import { fitting, inflateChunk } from './unpacked.ts';

/** A channel within a chunk. */
export interface ChunkChannel {
  readonly name: string;
  readonly type: ExrType;
  readonly isPerceptual: boolean;
  readonly width: number;
  readonly rows: number;
}

type Scheme = 'deflate' | 'cosine' | 'runs';
const SCHEMES: readonly Scheme[] = ['deflate', 'cosine', 'runs'];

interface Rule {
  readonly suffix: string;
  readonly anyCase: boolean;
  readonly scheme: Scheme;
  readonly type: ExrType;
  /** 0…2: red, green or blue of a colour that was packed as luminance and differences; −1 for a channel alone. */
  readonly color: number;
}

const COUNTS = 11;

/** The place in a block, row by row, of each coefficient in the order in which they are stored. */
const ZIGZAG = Uint8Array.from(Array.from({ length: 64 }, (_, i) => i).sort((a, b) => order(a) - order(b)));
function order(place: number): number {
  const [x, y] = [place & 7, place >> 3];
  const diagonal = x + y;
  // Odd diagonals run down, even ones up.
  return diagonal * 8 + (diagonal % 2 === 0 ? x : y);
}

let lightTable: Uint16Array | null = null;
/** Light for each perceptual half: a power of 2.2 up to 1, an exponential of the same slope above. */
function perceptualToLight(): Uint16Array {
  lightTable ??= Uint16Array.from({ length: 65536 }, (_, bits) => {
    const value = halfToFloat(bits);
    if (!Number.isFinite(value)) return 0;
    const size = Math.abs(value);
    return floatToHalf(Math.sign(value) * (size <= 1 ? size ** 2.2 : Math.exp(2.2) ** (size - 1)));
  });
  return lightTable;
}

/** The channels one by one. @throws RangeError if the chunk is damaged */
export function unpackDwa(packed: Uint8Array, channels: readonly ChunkChannel[], kernels: Kernels): readonly Uint8Array[] {
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  const counts = Array.from({ length: COUNTS }, (_, i) => Number(view.getBigUint64(i * 8, true)));
  const [version, deflateSize, deflatePacked, acPacked, dcPacked, runsPacked, runsSize, runsRaw, acCount, dcCount, acCoding] = counts;
  if (version > 2) throw new RangeError(`version ${version} of DWA`);
  // Blocks at the right and lower edge are whole ones.
  const samples = channels.reduce((sum, { width, rows }) => sum + Math.ceil(width / 8) * Math.ceil(rows / 8) * 64, 0);
  if (acCount > samples || dcCount > samples || deflateSize > samples * 4 || runsRaw > samples * 4 || runsSize > samples * 8 + 1024) throw new RangeError('counts beyond the size of the chunk');
  let at = COUNTS * 8;
  const { rules, end } = version < 2 ? { rules: OLD_RULES, end: at } : readRules(packed, view, at);
  at = end;
  const take = (length: number) => {
    if (length < 0 || at + length > packed.length) throw new RangeError('a stream ends too early');
    at += length;
    return packed.subarray(at - length, at);
  };
  const [deflateBytes, acBytes, dcBytes, runBytes] = [take(deflatePacked), take(acPacked), take(dcPacked), take(runsPacked)];
  const deflated = deflateSize > 0 ? inflateChunk(deflateBytes, deflateSize, kernels) : new Uint8Array();
  const runs = runsRaw > 0 ? unpackRuns(inflateChunk(runBytes, runsSize, kernels), runsRaw) : new Uint8Array();
  const dc = dcCount > 0 ? words(fitting(kernels.exrUnzip(dcBytes, dcCount * 2))) : new Uint16Array();
  const ac = acCount === 0 ? new Uint16Array() : acCoding === 1 ? words(inflateChunk(acBytes, acCount * 2, kernels)) : unpackHuffman(acBytes, acCount, kernels);

  const found = channels.map((channel) => rules.find((rule) => fits(rule, channel)) ?? null);
  const planes = new Array<Uint8Array | null>(channels.length).fill(null);
  let [acAt, dcAt, deflateAt, runsAt] = [0, 0, 0, 0];
  const cosine = (indices: readonly number[]) => {
    const { width, rows, isPerceptual } = channels[indices[0]];
    const means = Math.ceil(width / 8) * Math.ceil(rows / 8) * indices.length;
    if (dcAt + means > dc.length) throw new RangeError('the means end too early');
    const light = indices.length === 1 && isPerceptual ? null : perceptualToLight();
    const restored = kernels.dwaBlocks(ac.subarray(acAt), dc.subarray(dcAt, dcAt + means), indices.length as 1 | 3, width, rows, ZIGZAG, light);
    if (!restored) throw new RangeError('the coefficients end too early');
    acAt += restored.used;
    dcAt += means;
    const area = width * rows;
    for (const [i, index] of indices.entries()) planes[index] = typed(restored.planes.slice(i * area, (i + 1) * area), channels[index].type);
  };
  for (const set of colorSets(channels, found)) cosine(set);
  for (const [i, { type, width, rows }] of channels.entries()) {
    if (planes[i]) continue;
    const bytes = EXR_TYPE_BYTES[type] * width * rows;
    const scheme = found[i]?.scheme ?? 'deflate';
    if (scheme === 'cosine') cosine([i]);
    else if (scheme === 'runs') {
      planes[i] = joinBytes(runs.subarray(runsAt, runsAt + bytes), EXR_TYPE_BYTES[type], width * rows);
      runsAt += bytes;
    } else {
      const part = deflated.subarray(deflateAt, deflateAt + bytes);
      if (part.length !== bytes) throw new RangeError('a channel ends too early');
      planes[i] = part;
      deflateAt += bytes;
    }
  }
  return planes as Uint8Array[];
}

function readRules(packed: Uint8Array, view: DataView, start: number): { rules: Rule[]; end: number } {
  const end = start + view.getUint16(start, true);
  if (end < start + 2 || end > packed.length) throw new RangeError('the rules for channels end too early');
  const rules: Rule[] = [];
  let at = start + 2;
  while (at < end) {
    const zero = packed.indexOf(0, at);
    if (zero < 0 || zero + 3 > end) throw new RangeError('a rule for channels ends too early');
    const flags = packed[zero + 1];
    const type = EXR_TYPES[packed[zero + 2]];
    const scheme = SCHEMES[(flags >> 2) & 3];
    if (!type || !scheme) throw new RangeError('an unknown rule for channels');
    rules.push({ suffix: new TextDecoder().decode(packed.subarray(at, zero)), anyCase: (flags & 1) !== 0, scheme, type, color: (flags >> 4) - 1 });
    at = zero + 3;
  }
  return { rules, end };
}

/** Files before version 2 do not carry their rules. */
const OLD_RULES: readonly Rule[] = [
  ...[['r', 0], ['red', 0], ['g', 1], ['grn', 1], ['green', 1], ['b', 2], ['blu', 2], ['blue', 2], ['y', -1], ['by', -1], ['ry', -1]].flatMap(([suffix, color]) =>
    (['f16', 'f32'] as const).map((type): Rule => ({ suffix: suffix as string, anyCase: true, scheme: 'cosine', type, color: color as number })),
  ),
  ...(['u32', 'f16', 'f32'] as const).map((type): Rule => ({ suffix: 'a', anyCase: true, scheme: 'runs', type, color: -1 })),
];

const suffixOf = (name: string) => name.slice(name.lastIndexOf('.') + 1);
function fits({ suffix, anyCase, type }: Rule, channel: ChunkChannel): boolean {
  const own = suffixOf(channel.name);
  return type === channel.type && (own === suffix || (anyCase && own.toLowerCase() === suffix.toLowerCase()));
}

/** Red, green and blue of one layer that were packed together, in the order of their layers. */
function colorSets(channels: readonly ChunkChannel[], rules: readonly (Rule | null)[]): number[][] {
  const layers = new Map<string, number[]>();
  for (const [i, { name }] of channels.entries()) {
    const rule = rules[i];
    const layer = name.slice(0, name.length - suffixOf(name).length);
    const set = layers.get(layer) ?? [-1, -1, -1];
    layers.set(layer, set);
    if (rule?.scheme === 'cosine' && rule.color >= 0) set[rule.color] = i;
  }
  return [...layers.values()].filter(([r, g, b]) => {
    if (r < 0 || g < 0 || b < 0) return false;
    return channels[r].width === channels[g].width && channels[r].width === channels[b].width && channels[r].rows === channels[g].rows && channels[r].rows === channels[b].rows;
  });
}

/** A copy, because views of the kernels' memory are overwritten. */
const words = (bytes: Uint8Array) => new Uint16Array(new Uint8Array(bytes).buffer, 0, bytes.length >> 1);

/** Transformed channels are halves while they are packed, whatever they are stored as. */
function typed(halves: Uint16Array, type: ExrType): Uint8Array {
  const values = type === 'f32' ? Float32Array.from(halves, halfToFloat) : halves;
  return new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
}

/** Planes of bytes, the lowest first, to samples. */
function joinBytes(split: Uint8Array, size: number, count: number): Uint8Array {
  if (split.length !== size * count) throw new RangeError('run lengths end too early');
  const out = new Uint8Array(split.length);
  for (let byte = 0; byte < size; byte++) for (let i = 0; i < count; i++) out[i * size + byte] = split[byte * count + i];
  return out;
}
