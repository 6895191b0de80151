/** The unpacker of chunks, against zlib as Node.js has it. */
import { constants, deflateSync, inflateSync } from 'node:zlib';
import { beforeAll, describe, expect, it } from 'vitest';
import { builtKernels } from '../../../tests/built.ts';
import { seeded } from '../../../tests/random.ts';
import type { Kernels } from './kernels.ts';

let kernels: Kernels;
beforeAll(async () => {
  kernels = await builtKernels();
});

/** What chunks hold: nothing, noise, few values, repeated patterns, values that become rare slowly (codes of every length). */
const contents: Record<string, (i: number, random: () => number) => number> = {
  zeros: () => 0,
  noise: (_, random) => random() * 256,
  'few values': (_, random) => random() * random() * 40,
  'patterns of seven': (i, random) => (random() < 0.01 ? random() * 256 : (i % 7) * 31),
  'rare values': (_, random) => -Math.log(random() + 1e-9) * 20,
};
const strategies = { usual: constants.Z_DEFAULT_STRATEGY, filtered: constants.Z_FILTERED, 'no repeats': constants.Z_HUFFMAN_ONLY, runs: constants.Z_RLE, 'fixed codes': constants.Z_FIXED };
/** Around the steps of the checksum (5536) and of stored blocks (65535). */
const sizes = [0, 1, 2, 3, 100, 5535, 5536, 5537, 70_000];

function bytes(name: string, size: number, seed: number): Uint8Array {
  const random = seeded(seed);
  return Uint8Array.from({ length: size }, (_, i) => contents[name](i, random));
}
function byZlib(packed: Uint8Array, length: number): Uint8Array | null {
  try {
    const raw = inflateSync(packed, { maxOutputLength: length + 1 });
    return raw.length === length ? raw : null;
  } catch {
    return null;
  }
}
const isSame = (a: Uint8Array | null, b: Uint8Array | null) => (a === null || b === null ? a === b : Buffer.compare(a, b) === 0);

describe('inflate', () => {
  it.each(Object.keys(contents))('gives back %s, packed in every way', (name) => {
    for (const size of sizes) {
      const raw = bytes(name, size, size + 1);
      for (const level of [0, 1, 4, 9]) {
        for (const [how, strategy] of Object.entries(strategies)) {
          const packed = deflateSync(raw, { level, strategy });
          const label = `${size} bytes at level ${level}, ${how}`;
          expect(isSame(kernels.inflate(packed, size), raw), label).toBe(true);
          expect(kernels.inflate(packed, size + 1), `${label}, one byte too few`).toBeNull();
          if (size > 0) expect(kernels.inflate(packed, size - 1), `${label}, one byte too many`).toBeNull();
        }
      }
    }
  });

  it('says of damaged and cut streams what zlib says', () => {
    const random = seeded(9);
    let accepted = 0;
    for (const name of Object.keys(contents)) {
      for (const strategy of Object.values(strategies)) {
        for (const size of [3, 100, 5000]) {
          const raw = bytes(name, size, size);
          const packed = deflateSync(raw, { level: 6, strategy });
          for (let n = 0; n < 40; n++) {
            const damaged = Uint8Array.from(packed);
            damaged[Math.floor(random() * damaged.length)] ^= 1 << Math.floor(random() * 8);
            const [ours, theirs] = [kernels.inflate(damaged, size), byZlib(damaged, size)];
            if (theirs) accepted++;
            expect(isSame(ours, theirs), `${name}, ${size} bytes, damage ${n}`).toBe(true);
          }
          expect(kernels.inflate(packed.subarray(0, Math.floor(random() * packed.length)), size)).toBeNull();
        }
      }
    }
    // Of 3000: bits of the head and behind the last block change nothing; the checksum catches all others.
    expect(accepted).toBeLessThan(300);
  });

  it('refuses what RFC 1951 rules out', () => {
    const framed = (...body: number[]) => Uint8Array.of(0x78, 0x9c, ...body, 0, 0, 0, 1);
    const damaged: Record<string, Uint8Array> = {
      nothing: new Uint8Array(0),
      'no frame': Uint8Array.of(1, 0, 0, 0xff, 0xff, 0, 0, 0, 1),
      'a block of the reserved kind': framed(0x07),
      'a stored block whose lengths disagree': framed(0x01, 4, 0, 0, 0),
      'a distance before the beginning': framed(0x03 | (1 << 3), 0x02, 0, 0),
      'codes that are too many': framed(0x05, 0xe0, 0x93, 0x24, 0x49, 0x92, 0x24, 0x49, 0x92, 0x24),
      'a preset dictionary': Uint8Array.of(0x78, 0xbb, 0, 0, 0, 0, 3, 0, 0, 0, 0, 1),
    };
    for (const [what, packed] of Object.entries(damaged)) {
      expect(kernels.inflate(packed, 4), what).toBeNull();
      expect(byZlib(packed, 4), `${what}, by zlib`).toBeNull();
    }
  });

  it('unzips chunks as inflating and restoring one after the other does', () => {
    for (const size of [1, 2, 31, 32, 33, 1001, 48_000]) {
      const raw = bytes('few values', size, 4);
      const packed = deflateSync(Uint8Array.from(kernels.exrPrepare(raw)));
      expect(isSame(kernels.exrUnzip(packed, size), raw), `${size} bytes`).toBe(true);
    }
  });
});
