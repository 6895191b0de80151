/**
 * Exact Euclidean distance to the nearest pixel of a set.
 * @source Felzenszwalb, Huttenlocher: "Distance Transforms of Sampled Functions", Theory of Computing 8 (2012)
 */

/** Far away from everything: no pixel is in the set. */
export const FAR = 1e20;

/**
 * For every pixel the index of the nearest pixel of the set, −1 if the set is empty. Distances are between pixel centres.
 *
 * @param isIn one entry a pixel, row-major, not 0 inside the set
 */
export function nearestInSet(isIn: Uint8Array, width: number, height: number): Int32Array {
  const nearest = new Int32Array(width * height).fill(-1);
  const squared = new Float32Array(width * height).fill(FAR);
  // Down every column: the nearest in it, by two sweeps.
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (isIn[i] !== 0) nearest[i] = i;
      else if (y > 0) nearest[i] = nearest[i - width];
    }
  }
  for (let y = height - 1; y >= 0; y--) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const below = y < height - 1 ? nearest[i + width] : -1;
      const own = nearest[i] < 0 ? Number.POSITIVE_INFINITY : y - Math.floor(nearest[i] / width);
      const other = below < 0 ? Number.POSITIVE_INFINITY : Math.floor(below / width) - y;
      if (other < own) nearest[i] = below;
      if (nearest[i] >= 0) squared[i] = Math.min(own, other) ** 2;
    }
  }
  // Along every row: the lower envelope of the parabolas that stand on the columns' distances.
  const at = new Int32Array(width);
  const from = new Float64Array(width + 1);
  const found = new Int32Array(width);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    let last = -1;
    for (let x = 0; x < width; x++) {
      if (squared[row + x] >= FAR) continue;
      let meets = Number.NEGATIVE_INFINITY;
      while (last >= 0) {
        const p = at[last];
        meets = (squared[row + x] + x * x - squared[row + p] - p * p) / (2 * (x - p));
        if (meets > from[last]) break;
        last--;
      }
      last++;
      at[last] = x;
      from[last] = last === 0 ? Number.NEGATIVE_INFINITY : meets;
      from[last + 1] = Number.POSITIVE_INFINITY;
    }
    if (last < 0) continue;
    let k = 0;
    for (let x = 0; x < width; x++) {
      while (from[k + 1] < x) k++;
      found[x] = nearest[row + at[k]];
    }
    nearest.set(found, row);
  }
  return nearest;
}

/**
 * Grows coverage by a distance (shrinks it below 0), in place. The edge is where coverage is a half; between pixels it is placed by the
 * coverage of the pixel that it crosses, so antialiased edges stay so and move by fractions of a pixel.
 */
export function growCoverage(coverage: Float32Array, width: number, height: number, distancePx: number): void {
  if (distancePx === 0) return;
  const outwards = distancePx > 0;
  const isIn = Uint8Array.from(coverage, (value) => ((outwards ? value : 1 - value) >= 0.5 ? 1 : 0));
  const nearest = nearestInSet(isIn, width, height);
  const reach = Math.abs(distancePx);
  const before = coverage.slice();
  for (let i = 0; i < coverage.length; i++) {
    const n = nearest[i];
    if (n < 0) continue;
    const [dx, dy] = [(i % width) - (n % width), Math.floor(i / width) - Math.floor(n / width)];
    const edge = outwards ? before[n] : 1 - before[n];
    const grown = Math.min(1, Math.max(0, 0.5 + reach - (Math.sqrt(dx * dx + dy * dy) + (n === i ? 0 : 0.5 - edge))));
    const own = outwards ? before[i] : 1 - before[i];
    const value = Math.max(own, n === i ? Math.min(1, own + reach) : grown);
    coverage[i] = outwards ? value : 1 - value;
  }
}
