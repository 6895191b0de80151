// Loops across pixels. Rows are written four samples at a time; what is written too much lies in the next row or behind the last one.

/** NaN to 0, and what is beyond ±65504 to that. */
// @ts-ignore: decorator
@inline
function finite(x: v128, least: v128, largest: v128): v128 {
  return f32x4.pmax(least, f32x4.pmin(largest, v128.and(x, f32x4.eq(x, x))));
}

/** The same with the limits of light. */
// @ts-ignore: decorator
@inline
export function bounded(x: v128): v128 {
  return finite(x, f32x4.splat(-65504), f32x4.splat(65504));
}

/** Copies samples so that all of them are numbers to compute with. */
export function copy_finite(dst: usize, src: usize, n: i32): void {
  const largest = f32x4.splat(65504);
  const least = f32x4.splat(-65504);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(dst + at, finite(v128.load(src + at), least, largest));
  }
}

/** (2 width + 2) × (2 height + 2) samples to width × height by the weights 1 3 3 1, written exactly. `line` has room for one row of the source. */
export function halve(dst: usize, src: usize, width: i32, height: i32, line: usize): void {
  const across = 2 * width + 2;
  const stride = (<usize>across) << 2;
  const outer = f32x4.splat(0.125);
  const inner = f32x4.splat(0.375);
  const largest = f32x4.splat(65504);
  const least = f32x4.splat(-65504);
  for (let y = 0; y < height; y++) {
    const r0 = src + <usize>(2 * y) * stride;
    const r1 = r0 + stride;
    const r2 = r1 + stride;
    const r3 = r2 + stride;
    for (let x = 0; x < across; x += 4) {
      const at = (<usize>x) << 2;
      const ends = f32x4.add(finite(v128.load(r0 + at), least, largest), finite(v128.load(r3 + at), least, largest));
      const middle = f32x4.add(finite(v128.load(r1 + at), least, largest), finite(v128.load(r2 + at), least, largest));
      v128.store(line + at, f32x4.add(f32x4.mul(ends, outer), f32x4.mul(middle, inner)));
    }
    const to = dst + ((<usize>(y * width)) << 2);
    let x = 0;
    for (; x + 4 <= width; x += 4) v128.store(to + ((<usize>x) << 2), halved(line + ((<usize>x) << 3), outer, inner));
    if (x == width) continue;
    const rest = halved(line + ((<usize>x) << 3), outer, inner);
    const at = to + ((<usize>x) << 2);
    v128.store32_lane(at, rest, 0);
    if (x + 1 < width) v128.store32_lane(at, rest, 1, 4);
    if (x + 2 < width) v128.store32_lane(at, rest, 2, 8);
  }
}

/** Four samples of a row of half the length. */
// @ts-ignore: decorator
@inline
function halved(from: usize, outer: v128, inner: v128): v128 {
  const a = v128.load(from);
  const b = v128.load(from, 16);
  const c = v128.load(from, 8);
  const d = v128.load(from, 24);
  const ends = f32x4.add(v128.shuffle<f32>(a, b, 0, 2, 4, 6), v128.shuffle<f32>(c, d, 1, 3, 5, 7));
  const middle = f32x4.add(v128.shuffle<f32>(a, b, 1, 3, 5, 7), v128.shuffle<f32>(c, d, 0, 2, 4, 6));
  return f32x4.add(f32x4.mul(ends, outer), f32x4.mul(middle, inner));
}

/** Rows of width + taps − 1 samples to rows of width. */
export function convolve_rows(dst: usize, src: usize, width: i32, rows: i32, weights: usize, taps: i32): void {
  const stride = (<usize>(width + taps - 1)) << 2;
  const end = weights + ((<usize>taps) << 2);
  for (let y = 0; y < rows; y++) {
    const row = src + <usize>y * stride;
    const to = dst + ((<usize>(y * width)) << 2);
    for (let x = 0; x < width; x += 8) {
      let from = row + ((<usize>x) << 2);
      let a = f32x4.splat(0);
      let b = f32x4.splat(0);
      for (let w = weights; w < end; w += 4, from += 4) {
        const weight = v128.load32_splat(w);
        a = f32x4.add(a, f32x4.mul(weight, v128.load(from)));
        b = f32x4.add(b, f32x4.mul(weight, v128.load(from, 16)));
      }
      v128.store(to + ((<usize>x) << 2), a);
      v128.store(to + ((<usize>x) << 2), b, 16);
    }
  }
}

/** height + taps − 1 rows to height rows. */
export function convolve_columns(dst: usize, src: usize, width: i32, height: i32, weights: usize, taps: i32): void {
  const stride = (<usize>width) << 2;
  const end = weights + ((<usize>taps) << 2);
  for (let y = 0; y < height; y++) {
    const first = src + <usize>y * stride;
    const to = dst + <usize>y * stride;
    for (let x = 0; x < width; x += 8) {
      let from = first + ((<usize>x) << 2);
      let a = f32x4.splat(0);
      let b = f32x4.splat(0);
      for (let w = weights; w < end; w += 4, from += stride) {
        const weight = v128.load32_splat(w);
        a = f32x4.add(a, f32x4.mul(weight, v128.load(from)));
        b = f32x4.add(b, f32x4.mul(weight, v128.load(from, 16)));
      }
      v128.store(to + ((<usize>x) << 2), a);
      v128.store(to + ((<usize>x) << 2), b, 16);
    }
  }
}

// Enlarging. Sample p of what is enlarged by 2^by lies behind sample f of the other, and is one of 2^by between f and f + 1. `splines` holds, for each
// of these, the weight of f − 1; then the weights of f, f + 1 and f + 2.

// @ts-ignore: decorator
@inline
function before(p: i32, by: i32): i32 {
  return (2 * p + 1 - (1 << by)) >> (by + 1);
}

/** Number of a sample among those between two, from 0. */
// @ts-ignore: decorator
@inline
function phaseOf(p: i32, f: i32, by: i32): i32 {
  return p - (f << by) - (1 << (by - 1));
}

/** Samples `start`… of a row of which `first` is the first that there is. */
export function enlarge_rows(dst: usize, src: usize, width: i32, coarse: i32, rows: i32, start: i32, first: i32, by: i32, splines: usize): void {
  const phases = 1 << by;
  const stride = (<usize>phases) << 2;
  for (let y = 0; y < rows; y++) {
    const row = src + ((<usize>(y * coarse)) << 2);
    const to = dst + ((<usize>(y * width)) << 2);
    let x = 0;
    while (x < width) {
      const f = before(start + x, by);
      const from = row + ((<usize>(f - 1 - first)) << 2);
      let phase = phaseOf(start + x, f, by);
      const s0 = v128.load32_splat(from);
      const s1 = v128.load32_splat(from, 4);
      const s2 = v128.load32_splat(from, 8);
      const s3 = v128.load32_splat(from, 12);
      // What is written beyond the last phase is written again for the next sample.
      const next = x + phases - phase;
      for (; x < next && x < width; x += 4, phase += 4) {
        const w = splines + ((<usize>phase) << 2);
        const sum = f32x4.add(
          f32x4.add(f32x4.mul(s0, v128.load(w)), f32x4.mul(s1, v128.load(w + stride))),
          f32x4.add(f32x4.mul(s2, v128.load(w + 2 * stride)), f32x4.mul(s3, v128.load(w + 3 * stride))),
        );
        v128.store(to + ((<usize>x) << 2), sum);
      }
      x = next;
    }
  }
}

/** The same between rows. */
export function enlarge_columns(dst: usize, src: usize, width: i32, height: i32, start: i32, first: i32, by: i32, splines: usize): void {
  const stride = (<usize>width) << 2;
  const weights = (<usize>1) << (by + 2);
  for (let y = 0; y < height; y++) {
    const f = before(start + y, by);
    const r0 = src + <usize>(f - 1 - first) * stride;
    const r1 = r0 + stride;
    const r2 = r1 + stride;
    const r3 = r2 + stride;
    const w = splines + ((<usize>phaseOf(start + y, f, by)) << 2);
    const w0 = v128.load32_splat(w);
    const w1 = v128.load32_splat(w + weights);
    const w2 = v128.load32_splat(w + 2 * weights);
    const w3 = v128.load32_splat(w + 3 * weights);
    const to = dst + <usize>y * stride;
    for (let x = 0; x < width; x += 4) {
      const at = (<usize>x) << 2;
      v128.store(
        to + at,
        f32x4.add(
          f32x4.add(f32x4.mul(v128.load(r0 + at), w0), f32x4.mul(v128.load(r1 + at), w1)),
          f32x4.add(f32x4.mul(v128.load(r2 + at), w2), f32x4.mul(v128.load(r3 + at), w3)),
        ),
      );
    }
  }
}
