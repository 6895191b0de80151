/** The identity of flat colours: what is stored, exactly. */
import { sampleReader } from '../raster/read.ts';
import type { Plane } from '../raster/planes.ts';

export type Rgb = readonly [number, number, number];

/**
 * The exact stored colour as one integer below 2^48: three 16-bit samples. A single integer channel (an ID number) is
 * its own key; float samples are told apart by the upper 16 bits of their pattern.
 */
export function colorKeyAt(planes: readonly Plane[], index: number): number {
  if (planes.length === 1) return sampleBits(planes[0], planes[0].data[index]);
  const [red, green, blue] = planes;
  return (sampleBits(red, red.data[index]) & 0xffff) * 2 ** 32 + (sampleBits(green, green.data[index]) & 0xffff) * 2 ** 16 + (sampleBits(blue, blue.data[index]) & 0xffff);
}

/** Whether two pixels have the same key, without making the keys. */
export function sameColors(planes: readonly Plane[]): (i: number, k: number) => boolean {
  // Of 32-bit floats the upper halves count: the second of two words.
  const isFloat = planes.map(({ type }) => type === 'f32');
  const [a, b, c] = planes.map(({ data }, n) => (isFloat[n] ? new Uint16Array(data.buffer, data.byteOffset, data.length * 2) : data));
  if (isFloat.every((float) => float)) return (i, k) => a[2 * i + 1] === a[2 * k + 1] && (b === undefined || (b[2 * i + 1] === b[2 * k + 1] && c[2 * i + 1] === c[2 * k + 1]));
  if (isFloat.includes(true)) return (i, k) => colorKeyAt(planes, i) === colorKeyAt(planes, k);
  return (i, k) => a[i] === a[k] && (b === undefined || (b[i] === b[k] && c[i] === c[k]));
}

/** The key of three stored samples. */
export const colorKey = (planes: readonly Plane[], stored: Rgb): number =>
  (sampleBits(planes[0], stored[0]) & 0xffff) * 2 ** 32 + (sampleBits(planes[1], stored[1]) & 0xffff) * 2 ** 16 + (sampleBits(planes[2], stored[2]) & 0xffff);

const f32 = new Float32Array(1);
const u32 = new Uint32Array(f32.buffer);
function sampleBits({ type }: Plane, stored: number): number {
  if (type !== 'f32') return stored;
  f32[0] = stored;
  return u32[0] >>> 16;
}

/** The colour that a key stands for, as numbers. Of 32-bit floats the lower bits are gone. */
export function colorOfKey(planes: readonly Plane[], key: number): Rgb {
  const value = ({ type }: Plane, bits: number) => {
    if (type !== 'f32') return sampleReader({ type, width: 1, height: 1, data: type === 'u32' ? Uint32Array.of(bits) : type === 'u8' ? Uint8Array.of(bits) : Uint16Array.of(bits) })(0);
    u32[0] = bits << 16;
    return f32[0];
  };
  if (planes.length === 1) {
    const only = value(planes[0], key);
    return [only, only, only];
  }
  return [value(planes[0], Math.floor(key / 2 ** 32)), value(planes[1], Math.floor(key / 2 ** 16) % 65536), value(planes[2], key % 65536)];
}
