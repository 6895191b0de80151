/**
 * Sample points of a pixel: Owen-scrambled Sobol' points in pairs of dimensions, each pair in an order and with a scramble
 * of its own. Values depend on the seed, the pixel and the sample number only, never on which worker asks.
 * @source Burley, "Practical Hash-based Owen Scrambling", JCGT 9 (2020); Joe, Kuo 2008 (second Sobol' dimension)
 */
const INDEX_BITS = 16;
const SCALE = 2 ** -32;

/** Second Sobol' dimension for all index values in use. The first is the reversal of the index's bits. */
const second = new Uint32Array(1 << INDEX_BITS);
for (let i = 0; i < second.length; i++) {
  let v = 1 << 31;
  for (let bits = i; bits; bits >>>= 1) {
    if (bits & 1) second[i] ^= v;
    v ^= v >>> 1;
  }
}

export function hash32(x: number): number {
  let h = x | 0;
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d);
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b);
  return h ^ (h >>> 16);
}

function reverseBits(x: number): number {
  let v = x;
  v = ((v >>> 1) & 0x55555555) | ((v & 0x55555555) << 1);
  v = ((v >>> 2) & 0x33333333) | ((v & 0x33333333) << 2);
  v = ((v >>> 4) & 0x0f0f0f0f) | ((v & 0x0f0f0f0f) << 4);
  v = ((v >>> 8) & 0x00ff00ff) | ((v & 0x00ff00ff) << 8);
  return (v >>> 16) | (v << 16);
}

/** Laine and Karras' permutation: each bit is flipped by a hash of the bits below it. */
function permute(x: number, seed: number): number {
  let v = (x + seed) | 0;
  v ^= Math.imul(v, 0x6c50b47c);
  v ^= Math.imul(v, 0xb82f1e52);
  v ^= Math.imul(v, 0xc7afe638);
  v ^= Math.imul(v, 0x8d22f6e6);
  return v;
}

export class Sampler {
  /** The second number of the last pair; `next` returns the first. */
  y = 0;
  #pixel = 0;
  #index = 0;
  #pair = 0;

  start(pixel: number, sample: number, seed: number): void {
    this.#pixel = hash32(Math.imul(pixel, 0x9e3779b1) ^ hash32(seed));
    this.#index = sample;
    this.#pair = 0;
  }

  /** The next two numbers in 0…1, the first returned, the second left in `y`. */
  next(): number {
    const seed = hash32(this.#pixel + Math.imul(++this.#pair, 0x85ebca6b));
    const index = reverseBits(permute(reverseBits(this.#index), seed)) & ((1 << INDEX_BITS) - 1);
    const a = reverseBits(permute(index, hash32(seed ^ 0x68bc21eb)));
    const b = reverseBits(permute(reverseBits(second[index]), hash32(seed ^ 0x02e5be93)));
    this.y = (b >>> 0) * SCALE;
    return (a >>> 0) * SCALE;
  }
}
