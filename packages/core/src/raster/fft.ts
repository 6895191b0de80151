/** Fourier transforms of planes whose sides are powers of two. */

/** Twiddles by size: they are asked for again and again. */
const known = new Map<number, { readonly cos: Float64Array; readonly sin: Float64Array; readonly reversed: Uint32Array }>();
function tables(n: number) {
  const before = known.get(n);
  if (before) return before;
  const bits = Math.log2(n);
  if (!Number.isInteger(bits)) throw new RangeError(`A transform of ${n} numbers: there must be a power of two.`);
  const made = {
    cos: Float64Array.from({ length: n / 2 }, (_, k) => Math.cos((2 * Math.PI * k) / n)),
    sin: Float64Array.from({ length: n / 2 }, (_, k) => Math.sin((2 * Math.PI * k) / n)),
    reversed: Uint32Array.from({ length: n }, (_, i) => {
      let r = 0;
      for (let b = 0; b < bits; b++) r |= ((i >> b) & 1) << (bits - 1 - b);
      return r;
    }),
  };
  known.set(n, made);
  return made;
}

/** Columns that are transformed together, a power of two. */
const TOGETHER = 8;

/** One row, in place: Σ x(k) e^(−2πi jk/n). @source J. W. Cooley, J. W. Tukey, Math. Comp. 19, 1965 */
function transformRow(re: Float64Array, im: Float64Array): void {
  const n = re.length;
  const { cos, sin, reversed } = tables(n);
  for (let i = 0; i < n; i++) {
    const j = reversed[i];
    if (j <= i) continue;
    let swap = re[i];
    re[i] = re[j];
    re[j] = swap;
    swap = im[i];
    im[i] = im[j];
    im[j] = swap;
  }
  for (let half = 1; half < n; half *= 2) {
    const step = n / (2 * half);
    for (let start = 0; start < n; start += 2 * half) {
      for (let k = 0, t = 0; k < half; k++, t += step) {
        const a = start + k;
        const b = a + half;
        const c = cos[t];
        const s = sin[t];
        const x = re[b] * c + im[b] * s;
        const y = im[b] * c - re[b] * s;
        re[b] = re[a] - x;
        im[b] = im[a] - y;
        re[a] += x;
        im[a] += y;
      }
    }
  }
}

/** A plane of complex numbers, in place, rows then columns. */
export function transform(re: Float64Array, im: Float64Array, width: number, height: number): void {
  for (let y = 0; y < height; y++) transformRow(re.subarray(y * width, (y + 1) * width), im.subarray(y * width, (y + 1) * width));
  // Some columns at a time: what lies beside each other in memory is read together.
  const columns = Array.from({ length: Math.min(TOGETHER, width) }, () => ({ re: new Float64Array(height), im: new Float64Array(height) }));
  for (let x = 0; x < width; x += columns.length) {
    for (let y = 0; y < height; y++) {
      for (let k = 0; k < columns.length; k++) {
        columns[k].re[y] = re[y * width + x + k];
        columns[k].im[y] = im[y * width + x + k];
      }
    }
    for (const column of columns) transformRow(column.re, column.im);
    for (let y = 0; y < height; y++) {
      for (let k = 0; k < columns.length; k++) {
        re[y * width + x + k] = columns[k].re[y];
        im[y * width + x + k] = columns[k].im[y];
      }
    }
  }
}

/** The way back. The parts exchanged, it is the same way. */
export function transformBack(re: Float64Array, im: Float64Array, width: number, height: number): void {
  transform(im, re, width, height);
  const by = 1 / (width * height);
  for (let i = 0; i < re.length; i++) {
    re[i] *= by;
    im[i] *= by;
  }
}
