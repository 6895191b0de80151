// Loops across pixels. Rows are written four samples at a time; what is written too much lies in the next row or behind the last one.

/** NaN to 0, and what is beyond ±65504 to that. */
export function make_finite(p: usize, n: i32): void {
  const largest = f32x4.splat(65504);
  const least = f32x4.splat(-65504);
  for (let i = 0; i < n; i += 4) {
    const at = p + ((<usize>i) << 2);
    const x = v128.load(at);
    const kept = v128.and(x, f32x4.eq(x, x));
    v128.store(at, f32x4.pmax(least, f32x4.pmin(largest, kept)));
  }
}

/** (2 width + 2) × (2 height + 2) samples to width × height by the weights 1 3 3 1. `line` has room for one row of the source. */
export function halve(dst: usize, src: usize, width: i32, height: i32, line: usize): void {
  const across = 2 * width + 2;
  const stride = (<usize>across) << 2;
  const outer = f32x4.splat(0.125);
  const inner = f32x4.splat(0.375);
  for (let y = 0; y < height; y++) {
    const r0 = src + <usize>(2 * y) * stride;
    const r1 = r0 + stride;
    const r2 = r1 + stride;
    const r3 = r2 + stride;
    for (let x = 0; x < across; x += 4) {
      const at = (<usize>x) << 2;
      const sum = f32x4.add(
        f32x4.mul(f32x4.add(v128.load(r0 + at), v128.load(r3 + at)), outer),
        f32x4.mul(f32x4.add(v128.load(r1 + at), v128.load(r2 + at)), inner),
      );
      v128.store(line + at, sum);
    }
    const to = dst + ((<usize>(y * width)) << 2);
    for (let x = 0; x < width; x += 4) {
      const from = line + ((<usize>x) << 3);
      const a = v128.load(from);
      const b = v128.load(from, 16);
      const c = v128.load(from, 8);
      const d = v128.load(from, 24);
      const even = v128.shuffle<f32>(a, b, 0, 2, 4, 6);
      const odd = v128.shuffle<f32>(a, b, 1, 3, 5, 7);
      const nextEven = v128.shuffle<f32>(c, d, 0, 2, 4, 6);
      const nextOdd = v128.shuffle<f32>(c, d, 1, 3, 5, 7);
      v128.store(to + ((<usize>x) << 2), f32x4.add(f32x4.mul(f32x4.add(even, nextOdd), outer), f32x4.mul(f32x4.add(odd, nextEven), inner)));
    }
  }
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

/** Four neighbours for each sample of a longer row: `taps` holds, for each, where they begin (an integer) and their four weights. */
export function enlarge_rows(dst: usize, src: usize, width: i32, coarse: i32, rows: i32, taps: usize): void {
  for (let y = 0; y < rows; y++) {
    const row = src + ((<usize>(y * coarse)) << 2);
    let to = dst + ((<usize>(y * width)) << 2);
    let tap = taps;
    for (let x = 0; x < width; x++, to += 4, tap += 20) {
      const from = row + ((<usize>load<i32>(tap)) << 2);
      store<f32>(to, load<f32>(from) * load<f32>(tap, 4) + load<f32>(from, 4) * load<f32>(tap, 8) + (load<f32>(from, 8) * load<f32>(tap, 12) + load<f32>(from, 12) * load<f32>(tap, 16)));
    }
  }
}

/** The same between rows. */
export function enlarge_columns(dst: usize, src: usize, width: i32, height: i32, taps: usize): void {
  const stride = (<usize>width) << 2;
  for (let y = 0; y < height; y++) {
    const tap = taps + <usize>y * 20;
    const r0 = src + <usize>load<i32>(tap) * stride;
    const r1 = r0 + stride;
    const r2 = r1 + stride;
    const r3 = r2 + stride;
    const w0 = v128.load32_splat(tap + 4);
    const w1 = v128.load32_splat(tap + 8);
    const w2 = v128.load32_splat(tap + 12);
    const w3 = v128.load32_splat(tap + 16);
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
