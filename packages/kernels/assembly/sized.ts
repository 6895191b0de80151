// Pictures at several sizes, read at places: what raster/sized.ts of the core defines.

/** Of a size in the table: where its planes lie, its corner, its rectangle, and how many of its pixels one of the picture is. */
const ENTRY: usize = 24;

/** What of the four pixels around a place counts, after `around`; and where they are, or 0 beyond a size. */
let weights: v128 = f32x4.splat(0);

// @ts-ignore: decorator
@inline
function around(size: usize, u: f32, v: f32, share: f32): usize {
  const per = load<f32>(size, 20);
  const x = u * per - 0.5 - load<f32>(size, 4);
  const y = v * per - 0.5 - load<f32>(size, 8);
  const width = load<i32>(size, 12);
  if (!(x >= 0 && y >= 0 && x < <f32>(width - 1) && y < <f32>(load<i32>(size, 16) - 1))) return 0;
  const left = <i32>x;
  const top = <i32>y;
  const across = f32x4.splat(x - <f32>left);
  const down = (y - <f32>top) * share;
  // 1 − fx, fx, 1 − fx, fx; and the same with rows.
  const columns = f32x4.add(f32x4(1, 0, 1, 0), f32x4.mul(across, f32x4(-1, 1, -1, 1)));
  weights = f32x4.mul(columns, f32x4.add(f32x4.mul(f32x4.splat(share), f32x4(1, 1, 0, 0)), f32x4.mul(f32x4.splat(down), f32x4(-1, -1, 1, 1))));
  return load<u32>(size) + ((<usize>(top * width + left)) << 2);
}

/** Two pixels, and the two below them. */
// @ts-ignore: decorator
@inline
function square(from: usize, row: usize): v128 {
  return v128.load64_lane(from + row, v128.load64_zero(from), 1);
}

/** `planes` (one or four) planes at `n` places, all moved and blurred at least so much. */
export function sized(out: usize, table: usize, sizes: i32, planes: i32, u: usize, v: usize, wide: usize, n: i32, asideU: f32, asideV: f32, blur: f32): void {
  const stride = (<usize>n) << 2;
  const last = sizes - 1;
  const first = load<f32>(table, 20);
  const none = f32x4.splat(0);
  for (let i = 0; i < n; i++) {
    const at = (<usize>i) << 2;
    const x = load<f32>(u + at) + asideU;
    const y = load<f32>(v + at) + asideV;
    const times = max<f32>(blur, load<f32>(wide + at)) * first;
    let k = 0;
    let share: f32 = 0;
    if (times > 1) {
      // A number is a power of two, and a share of the way to the next.
      const bits = reinterpret<i32>(times);
      k = (bits >> 23) - 127;
      if (k >= last) k = last;
      else share = reinterpret<f32>((bits & 0x7fffff) | 0x3f800000) - 1;
    }
    let red = none;
    let green = none;
    let blue = none;
    let alpha = none;
    const sizesRead = share > 0 ? 2 : 1;
    let size = table + <usize>k * ENTRY;
    for (let s = 0; s < sizesRead; s++, size += ENTRY) {
      const from = around(size, x, y, s == 0 ? 1 - share : share);
      if (!from) continue;
      const row = (<usize>load<i32>(size, 12)) << 2;
      red = f32x4.add(red, f32x4.mul(weights, square(from, row)));
      if (planes < 4) continue;
      const area = row * <usize>load<i32>(size, 16);
      green = f32x4.add(green, f32x4.mul(weights, square(from + area, row)));
      blue = f32x4.add(blue, f32x4.mul(weights, square(from + 2 * area, row)));
      alpha = f32x4.add(alpha, f32x4.mul(weights, square(from + 3 * area, row)));
    }
    // Sums of the four of each: pairs first.
    const one = f32x4.add(v128.shuffle<f32>(red, green, 0, 1, 4, 5), v128.shuffle<f32>(red, green, 2, 3, 6, 7));
    if (planes < 4) {
      store<f32>(out + at, f32x4.extract_lane(one, 0) + f32x4.extract_lane(one, 1));
      continue;
    }
    const other = f32x4.add(v128.shuffle<f32>(blue, alpha, 0, 1, 4, 5), v128.shuffle<f32>(blue, alpha, 2, 3, 6, 7));
    const sums = f32x4.add(v128.shuffle<f32>(one, other, 0, 2, 4, 6), v128.shuffle<f32>(one, other, 1, 3, 5, 7));
    v128.store32_lane(out + at, sums, 0);
    v128.store32_lane(out + at + stride, sums, 1);
    v128.store32_lane(out + at + 2 * stride, sums, 2);
    v128.store32_lane(out + at + 3 * stride, sums, 3);
  }
}
