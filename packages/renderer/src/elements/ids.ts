/** Numbers, colours and hashes of IDs. */
import type { SceneDescription, Triple } from '../scene/model.ts';

const GOLDEN = 0.618033988749895;

/**
 * The colour that belongs to an ID number: display values in steps of 1/255, neighbouring numbers far apart in hue.
 * Common practice, no published source.
 */
export function colorOfNumber(number: number): Triple {
  const hue = ((number * GOLDEN) % 1) * 6;
  const saturation = [0.85, 0.6, 1][number % 3];
  const value = [0.95, 0.7, 0.5][Math.floor(number / 3) % 3];
  const channel = (shift: number) => {
    const k = (shift + hue) % 6;
    return Math.round(255 * value * (1 - saturation * Math.max(0, Math.min(k, 4 - k, 1)))) / 255;
  };
  return [channel(5), channel(3), channel(1)];
}

export interface IdRow {
  readonly name: string;
  readonly number: number;
  readonly color: Triple;
}

export const materialIds = (scene: SceneDescription): IdRow[] => scene.materials.map(({ name, number, idColor }) => ({ name, number, color: idColor ?? colorOfNumber(number) }));
export const objectIds = (scene: SceneDescription): IdRow[] => scene.objects.map(({ name }, i) => ({ name, number: i + 1, color: colorOfNumber(i + 1) }));

/** Numbers in ascending order, three for each RGB matte. */
export function matteNumbers(rows: readonly { readonly number: number }[]): number[][] {
  const numbers = [...new Set(rows.map((row) => row.number))].sort((a, b) => a - b);
  return Array.from({ length: Math.ceil(numbers.length / 3) }, (_, i) => numbers.slice(i * 3, i * 3 + 3));
}

/** Half a step of 8 bits, and what half floats lose besides. */
const SAME_COLOR = 0.004;

/** The IDs whose colour this is, as one name; null if there are none. */
export function nameOfColor(rows: readonly IdRow[], color: readonly number[]): string | null {
  const names = rows.filter((row) => row.color.every((v, c) => Math.abs(v - color[c]) < SAME_COLOR)).map(({ name }) => name);
  return names.length > 0 ? names.join(' + ') : null;
}

/** MurmurHash3_x86_32 with seed 0 over UTF-8. @source Appleby, MurmurHash3 (public domain) */
export function murmurHash3(text: string): number {
  const bytes = new TextEncoder().encode(text);
  const c1 = 0xcc9e2d51;
  const c2 = 0x1b873593;
  const rotate = (x: number, by: number) => (x << by) | (x >>> (32 - by));
  let hash = 0;
  const whole = bytes.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    const word = bytes[i] | (bytes[i + 1] << 8) | (bytes[i + 2] << 16) | (bytes[i + 3] << 24);
    hash ^= Math.imul(rotate(Math.imul(word, c1), 15), c2);
    hash = (Math.imul(rotate(hash, 13), 5) + 0xe6546b64) | 0;
  }
  let tail = 0;
  for (let i = bytes.length - 1; i >= whole; i--) tail = (tail << 8) | bytes[i];
  if (bytes.length > whole) hash ^= Math.imul(rotate(Math.imul(tail, c1), 15), c2);
  hash ^= bytes.length;
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return (hash ^ (hash >>> 16)) >>> 0;
}

/** Bits of the float that stands for a name: exponents of zero and infinity are avoided. @source Cryptomatte specification 1.2 */
export function cryptoBits(name: string): number {
  const hash = murmurHash3(name);
  const exponent = (hash >>> 23) & 255;
  return (exponent === 0 || exponent === 255 ? hash ^ (1 << 23) : hash) >>> 0;
}

const hex = (bits: number) => bits.toString(16).padStart(8, '0');

/** The metadata of one coverage matte. @source Cryptomatte specification 1.2 */
export function cryptoNotes(layer: string, names: readonly string[]): Record<string, string> {
  const key = `cryptomatte/${hex(murmurHash3(layer)).slice(0, 7)}`;
  return {
    [`${key}/name`]: layer,
    [`${key}/hash`]: 'MurmurHash3_32',
    [`${key}/conversion`]: 'uint32_to_float32',
    [`${key}/manifest`]: JSON.stringify(Object.fromEntries([...new Set(names)].map((name) => [name, hex(cryptoBits(name))]))),
  };
}
