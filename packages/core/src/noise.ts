/** Repeatable noise for patterns. */

/** A number in 0…1 for a lattice point. Integer hash after Wang and Jenkins; any good mixer would do. */
export function latticeNoise(x: number, y: number, z: number): number {
  let h = Math.imul(x | 0, 0x8da6b343) ^ Math.imul(y | 0, 0xd8163841) ^ Math.imul(z | 0, 0xcb1ab31f);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

/** Repeatable numbers of a normal distribution, mean 0 and deviation 1. @source G. E. P. Box, M. E. Muller, Ann. Math. Statist. 29(2), 1958 */
export function seededNormal(seed: number): () => number {
  let n = 0;
  return () => {
    const [a, b] = [latticeNoise(n, 1, seed), latticeNoise(n, 2, seed)];
    n++;
    return Math.sqrt(-2 * Math.log(Math.max(1e-12, a))) * Math.cos(2 * Math.PI * b);
  };
}

const fade = (t: number) => t * t * (3 - 2 * t);

/** Smooth noise in 0…1 with features of length 1. */
export function smoothNoise(x: number, y: number, z: number): number {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  const iz = Math.floor(z);
  const fx = fade(x - ix);
  const fy = fade(y - iy);
  const fz = fade(z - iz);
  const row = (dy: number, dz: number) => {
    const a = latticeNoise(ix, iy + dy, iz + dz);
    return a + (latticeNoise(ix + 1, iy + dy, iz + dz) - a) * fx;
  };
  const front = row(0, 0) + (row(1, 0) - row(0, 0)) * fy;
  const back = row(0, 1) + (row(1, 1) - row(0, 1)) * fy;
  return front + (back - front) * fz;
}

/** Several octaves of smooth noise, 0…1. */
export function fractalNoise(x: number, y: number, z: number, octaves: number): number {
  let sum = 0;
  let weight = 0.5;
  let total = 0;
  let scale = 1;
  for (let i = 0; i < octaves; i++) {
    sum += weight * smoothNoise(x * scale + i * 17.3, y * scale - i * 9.1, z * scale + i * 4.7);
    total += weight;
    weight /= 2;
    scale *= 2.03;
  }
  return sum / total;
}
