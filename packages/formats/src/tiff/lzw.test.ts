import fc from 'fast-check';
import { expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { packLzw } from './lzw.ts';
import { unpackLzw } from './unpack.ts';

const back = (bytes: Uint8Array) => {
  const out = new Uint8Array(bytes.length);
  expect(unpackLzw(packLzw(bytes), out)).toBe(bytes.length);
  return out;
};

it('the worked example of the standard', () => {
  // TIFF 6.0, section 13: 7 7 7 8 8 7 7 6 6 becomes Clear 7 258 8 8 258 6 6 End, in nine bits each.
  const codes = [256, 7, 258, 8, 8, 258, 6, 6, 257];
  const bits = codes.map((code) => code.toString(2).padStart(9, '0')).join('').padEnd(88, '0');
  expect([...packLzw(Uint8Array.of(7, 7, 7, 8, 8, 7, 7, 6, 6))]).toEqual(Array.from({ length: 11 }, (_, i) => Number.parseInt(bits.slice(8 * i, 8 * i + 8), 2)));
});
it('comes back: nothing, one byte, all alike, all different, long enough for every width and for clearing', () => {
  const random = seeded(4);
  for (const length of [0, 1, 2, 253, 254, 255, 3000, 4000, 200_000]) {
    for (const make of [() => 0, (i: number) => i & 255, () => Math.floor(random() * 256), () => Math.floor(random() * 3)]) {
      const bytes = Uint8Array.from({ length }, (_, i) => make(i));
      expect(Buffer.compare(back(bytes), bytes)).toBe(0);
    }
  }
  fc.assert(fc.property(fc.uint8Array({ maxLength: 6000 }), (bytes) => Buffer.compare(back(bytes), bytes) === 0));
});
it('every length around where codes grow and the table is cleared', () => {
  const random = seeded(9);
  const bytes = Uint8Array.from({ length: 8200 }, () => Math.floor(random() * 256));
  for (let length = 230; length < bytes.length; length += length % 3900 < 20 || length < 300 ? 1 : 37) expect(Buffer.compare(back(bytes.subarray(0, length)), bytes.subarray(0, length)), String(length)).toBe(0);
});
