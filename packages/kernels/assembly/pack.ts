// Floats to stored samples.

/** Straight value in 0…1 of a premultiplied channel; NaN gives 0. */
// @ts-ignore: decorator
@inline
function unit(x: v128, zero: v128, one: v128): v128 {
  return f32x4.pmin(one, f32x4.pmax(zero, x));
}

// @ts-ignore: decorator
@inline
function code(p: usize, inverse: v128, scale: v128, threshold: v128, zero: v128, one: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(unit(f32x4.mul(v128.load(p), inverse), zero, one), scale), threshold));
}

/**
 * Interleaved straight RGBA bytes: code = floor(255·v + threshold). `thresholds` points to 16 floats, the row of the
 * dither matrix twice over (all 0.5 for plain rounding); `phase` is x modulo 8. Writes up to three pixels too many.
 */
export function pack_rgba8(out: usize, r: usize, g: usize, b: usize, a: usize, n: i32, opaque: bool, thresholds: usize, phase: i32): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const scale = f32x4.splat(255);
  const half = f32x4.splat(0.5);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const alpha = v128.load(a + at);
    const inverse = opaque ? one : v128.and(f32x4.div(one, alpha), f32x4.gt(alpha, zero));
    const threshold = v128.load(thresholds + ((<usize>((phase + i) & 7)) << 2));
    const red = code(r + at, inverse, scale, threshold, zero, one);
    const green = code(g + at, inverse, scale, threshold, zero, one);
    const blue = code(b + at, inverse, scale, threshold, zero, one);
    const cover = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(unit(alpha, zero, one), scale), half));
    v128.store(out + at, v128.or(v128.or(red, i32x4.shl(green, 8)), v128.or(i32x4.shl(blue, 16), i32x4.shl(cover, 24))));
  }
}

/** Interleaved straight RGBA, 16 bits, rounded. */
export function pack_rgba16(out: usize, r: usize, g: usize, b: usize, a: usize, n: i32, opaque: bool): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const scale = f32x4.splat(65535);
  const half = f32x4.splat(0.5);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const alpha = v128.load(a + at);
    const inverse = opaque ? one : v128.and(f32x4.div(one, alpha), f32x4.gt(alpha, zero));
    const red = code(r + at, inverse, scale, half, zero, one);
    const green = code(g + at, inverse, scale, half, zero, one);
    const blue = code(b + at, inverse, scale, half, zero, one);
    const cover = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(unit(alpha, zero, one), scale), half));
    const low = v128.or(red, i32x4.shl(green, 16));
    const high = v128.or(blue, i32x4.shl(cover, 16));
    const to = out + ((<usize>i) << 3);
    v128.store(to, v128.shuffle<u32>(low, high, 0, 4, 1, 5));
    v128.store(to, v128.shuffle<u32>(low, high, 2, 6, 3, 7), 16);
  }
}

/** Float to half, nearest even; values from 65520 on become infinity. Exactly n samples. */
export function to_half(out: usize, src: usize, n: i32): void {
  for (let i = 0; i < n; i++) {
    const bits = load<u32>(src + ((<usize>i) << 2));
    const sign = (bits >> 16) & 0x8000;
    const magnitude = bits & 0x7fffffff;
    let half: u32;
    if (magnitude > 0x7f800000) half = 0x7e00;
    else if (magnitude >= 0x477ff000) half = 0x7c00;
    else if (magnitude < 0x38800000) {
      // Adding 0.5 puts the subnormal's unit, 2^-24, into the last place; the addition itself rounds to even.
      half = reinterpret<u32>(reinterpret<f32>(magnitude) + 0.5) - 0x3f000000;
    } else half = (magnitude + 0xfff + ((magnitude >> 13) & 1) - 0x38000000) >> 13;
    store<u16>(out + ((<usize>i) << 1), <u16>(sign | half));
  }
}
