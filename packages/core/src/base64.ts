/** Numbers as text that JSON keeps as it is: halves, two bytes each, in base64 (RFC 4648, 2006). */
import { halfToFloat, floatToHalf } from './raster/half.ts';

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
const valueOfLetter = new Map([...LETTERS].map((letter, i) => [letter, i]));

export function halvesToText(numbers: ArrayLike<number>): string {
  const bytes = new Uint8Array(numbers.length * 2);
  for (let i = 0; i < numbers.length; i++) {
    const half = floatToHalf(numbers[i]);
    bytes[2 * i] = half & 255;
    bytes[2 * i + 1] = half >> 8;
  }
  const out: string[] = [];
  for (let i = 0; i < bytes.length; i += 3) {
    const word = (bytes[i] << 16) | ((bytes[i + 1] ?? 0) << 8) | (bytes[i + 2] ?? 0);
    const left = bytes.length - i;
    out.push(LETTERS[word >> 18] + LETTERS[(word >> 12) & 63] + (left > 1 ? LETTERS[(word >> 6) & 63] : '=') + (left > 2 ? LETTERS[word & 63] : '='));
  }
  return out.join('');
}

/** Null if the text holds anything else. */
export function textToHalves(text: string): Float32Array | null {
  if (text.length % 4 !== 0) return null;
  const padding = text.endsWith('==') ? 2 : text.endsWith('=') ? 1 : 0;
  const bytes = new Uint8Array((text.length / 4) * 3);
  for (let i = 0, to = 0; i < text.length; i += 4) {
    let word = 0;
    for (let j = 0; j < 4; j++) {
      const value = i + j >= text.length - padding ? 0 : valueOfLetter.get(text[i + j]);
      if (value === undefined) return null;
      word = (word << 6) | value;
    }
    bytes[to++] = word >> 16;
    bytes[to++] = (word >> 8) & 255;
    bytes[to++] = word & 255;
  }
  const count = bytes.length - padding;
  if (count % 2 !== 0) return null;
  return Float32Array.from({ length: count / 2 }, (_, i) => halfToFloat(bytes[2 * i] | (bytes[2 * i + 1] << 8)));
}
