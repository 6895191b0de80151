/** Smoothing of one plane that follows the edges of another. */

/** Means over squares of 2r + 1 pixels, cut off at the edges of the picture. */
export function boxMean(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const rows = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    let sum = 0;
    for (let x = 0; x <= Math.min(radius, width - 1); x++) sum += plane[row + x];
    for (let x = 0; x < width; x++) {
      const [first, last] = [Math.max(0, x - radius), Math.min(width - 1, x + radius)];
      rows[row + x] = sum / (last - first + 1);
      if (x + radius + 1 < width) sum += plane[row + x + radius + 1];
      if (x - radius >= 0) sum -= plane[row + x - radius];
    }
  }
  const out = new Float32Array(plane.length);
  const sums = new Float64Array(width);
  for (let y = 0; y <= Math.min(radius, height - 1); y++) for (let x = 0; x < width; x++) sums[x] += rows[y * width + x];
  for (let y = 0; y < height; y++) {
    const count = Math.min(height - 1, y + radius) - Math.max(0, y - radius) + 1;
    for (let x = 0; x < width; x++) {
      out[y * width + x] = sums[x] / count;
      if (y + radius + 1 < height) sums[x] += rows[(y + radius + 1) * width + x];
      if (y - radius >= 0) sums[x] -= rows[(y - radius) * width + x];
    }
  }
  return out;
}

/**
 * Guided filter with a grey guide.
 *
 * @param plane what is smoothed, width × height
 * @param guide as large, 0…1
 * @param epsilon variance of the guide below which it is taken for flat
 * @source He, Sun, Tang: "Guided Image Filtering", ECCV 2010, algorithm 1
 */
export function guidedFilter(plane: Float32Array, guide: Float32Array, width: number, height: number, radius: number, epsilon: number): Float32Array {
  const mean = (values: Float32Array) => boxMean(values, width, height, radius);
  const [meanI, meanP] = [mean(guide), mean(plane)];
  const meanII = mean(guide.map((v) => v * v));
  const meanIP = mean(guide.map((v, i) => v * plane[i]));
  const a = meanI.map((m, i) => (meanIP[i] - m * meanP[i]) / (meanII[i] - m * m + epsilon));
  const b = meanP.map((m, i) => m - a[i] * meanI[i]);
  const [meanA, meanB] = [mean(a), mean(b)];
  return guide.map((v, i) => meanA[i] * v + meanB[i]);
}
