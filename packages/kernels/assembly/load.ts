// Stored samples to float. These write exactly n samples: a run may be followed by another one's pixels.

const LARGEST: f32 = 65504;

/** NaN to 0, infinities to ±65504. */
// @ts-ignore: decorator
@inline
function finite(x: v128, absMask: v128, infinity: v128, largest: v128): v128 {
  const kept = v128.and(x, f32x4.eq(x, x));
  const isInfinite = f32x4.eq(v128.and(kept, absMask), infinity);
  const limit = v128.or(v128.andnot(kept, absMask), largest);
  return v128.bitselect(limit, kept, isInfinite);
}

// @ts-ignore: decorator
@inline
function finiteScalar(x: f32): f32 {
  if (x != x) return 0;
  if (abs(x) == f32.POSITIVE_INFINITY) return copysign<f32>(LARGEST, x);
  return x;
}

/** Multiplying by the rounded reciprocal is faster than dividing, off by one unit in the last place at most, and 255 still gives exactly 1. */
export function load_u8(dst: usize, src: usize, n: i32): void {
  const scale = f32x4.splat(<f32>1 / <f32>255);
  let i = 0;
  for (; i + 16 <= n; i += 16) {
    const bytes = v128.load(src + i);
    const low = i16x8.extend_low_i8x16_u(bytes);
    const high = i16x8.extend_high_i8x16_u(bytes);
    const at = dst + ((<usize>i) << 2);
    v128.store(at, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(low)), scale));
    v128.store(at, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(low)), scale), 16);
    v128.store(at, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(high)), scale), 32);
    v128.store(at, f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(high)), scale), 48);
  }
  for (; i < n; i++) store<f32>(dst + ((<usize>i) << 2), <f32>load<u8>(src + i) * (<f32>1 / <f32>255));
}

export function load_u16(dst: usize, src: usize, n: i32): void {
  const scale = f32x4.splat(65535);
  let i = 0;
  for (; i + 4 <= n; i += 4) {
    const wide = i32x4.extend_low_i16x8_u(v128.load64_zero(src + ((<usize>i) << 1)));
    v128.store(dst + ((<usize>i) << 2), f32x4.div(f32x4.convert_i32x4_s(wide), scale));
  }
  for (; i < n; i++) store<f32>(dst + ((<usize>i) << 2), <f32>load<u16>(src + ((<usize>i) << 1)) / 65535);
}

/** Through a table of one float per byte value. */
export function load_u8_table(dst: usize, src: usize, n: i32, table: usize): void {
  for (let i = 0; i < n; i++) store<f32>(dst + ((<usize>i) << 2), load<f32>(table + ((<usize>load<u8>(src + i)) << 2)));
}

/** Through a table of one float per 16-bit value. */
export function load_u16_table(dst: usize, src: usize, n: i32, table: usize): void {
  for (let i = 0; i < n; i++) store<f32>(dst + ((<usize>i) << 2), load<f32>(table + ((<usize>load<u16>(src + ((<usize>i) << 1))) << 2)));
}

export function load_u32(dst: usize, src: usize, n: i32): void {
  for (let i = 0; i < n; i++) store<f32>(dst + ((<usize>i) << 2), <f32>load<u32>(src + ((<usize>i) << 2)));
}

export function load_f32(dst: usize, src: usize, n: i32): void {
  const absMask = i32x4.splat(0x7fffffff);
  const infinity = f32x4.splat(f32.POSITIVE_INFINITY);
  const largest = f32x4.splat(LARGEST);
  let i = 0;
  for (; i + 4 <= n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(dst + at, finite(v128.load(src + at), absMask, infinity, largest));
  }
  for (; i < n; i++) store<f32>(dst + ((<usize>i) << 2), finiteScalar(load<f32>(src + ((<usize>i) << 2))));
}

/** Half to float, exact for every bit pattern: the subnormal path goes over the integer mantissa. */
// @ts-ignore: decorator
@inline
function halfBits(h: v128, signMask: v128, magnitudeMask: v128, rebias: v128, denormalLimit: v128, specialLimit: v128, unit: v128): v128 {
  const sign = i32x4.shl(v128.and(h, signMask), 16);
  const magnitude = v128.and(h, magnitudeMask);
  const shifted = i32x4.shl(magnitude, 13);
  let bits = i32x4.add(shifted, rebias);
  bits = i32x4.add(bits, v128.and(i32x4.ge_s(magnitude, specialLimit), rebias));
  const small = f32x4.mul(f32x4.convert_i32x4_s(magnitude), unit);
  return v128.or(v128.bitselect(small, bits, i32x4.lt_s(magnitude, denormalLimit)), sign);
}

export function load_f16(dst: usize, src: usize, n: i32): void {
  const signMask = i32x4.splat(0x8000);
  const magnitudeMask = i32x4.splat(0x7fff);
  const rebias = i32x4.splat(112 << 23);
  const denormalLimit = i32x4.splat(0x400);
  const specialLimit = i32x4.splat(0x7c00);
  const unit = f32x4.splat(5.9604644775390625e-8); // 2^-24
  const absMask = i32x4.splat(0x7fffffff);
  const infinity = f32x4.splat(f32.POSITIVE_INFINITY);
  const largest = f32x4.splat(LARGEST);
  const shortMagnitude = i16x8.splat(0x7fff);
  const normalSpan = i16x8.splat(0x7800);
  const leastNormal = i16x8.splat(0x400);
  const none = i16x8.splat(0);
  let i = 0;
  for (; i + 8 <= n; i += 8) {
    const raw = v128.load(src + ((<usize>i) << 1));
    const at = dst + ((<usize>i) << 2);
    // Nearly all light is zero or a normal number: these only move their bits.
    const magnitudes = v128.and(raw, shortMagnitude);
    const isZero = i16x8.eq(magnitudes, none);
    if (i16x8.all_true(v128.or(isZero, i16x8.lt_u(i16x8.sub(magnitudes, leastNormal), normalSpan)))) {
      const zeroLow = i32x4.extend_low_i16x8_s(isZero);
      const zeroHigh = i32x4.extend_high_i16x8_s(isZero);
      const wideLow = i32x4.extend_low_i16x8_u(raw);
      const wideHigh = i32x4.extend_high_i16x8_u(raw);
      const bitsLow = v128.andnot(i32x4.add(i32x4.shl(v128.and(wideLow, magnitudeMask), 13), rebias), zeroLow);
      const bitsHigh = v128.andnot(i32x4.add(i32x4.shl(v128.and(wideHigh, magnitudeMask), 13), rebias), zeroHigh);
      v128.store(at, v128.or(bitsLow, i32x4.shl(v128.and(wideLow, signMask), 16)));
      v128.store(at, v128.or(bitsHigh, i32x4.shl(v128.and(wideHigh, signMask), 16)), 16);
      continue;
    }
    const low = halfBits(i32x4.extend_low_i16x8_u(raw), signMask, magnitudeMask, rebias, denormalLimit, specialLimit, unit);
    const high = halfBits(i32x4.extend_high_i16x8_u(raw), signMask, magnitudeMask, rebias, denormalLimit, specialLimit, unit);
    v128.store(at, finite(low, absMask, infinity, largest));
    v128.store(at, finite(high, absMask, infinity, largest), 16);
  }
  for (; i < n; i++) {
    const one = halfBits(i32x4.splat(<i32>load<u16>(src + ((<usize>i) << 1))), signMask, magnitudeMask, rebias, denormalLimit, specialLimit, unit);
    store<f32>(dst + ((<usize>i) << 2), finiteScalar(f32x4.extract_lane(one, 0)));
  }
}

/** Adds `gain` times the samples that load_f16 would write. Written out: with one inlined loop for both, loading took 1.6 times as long. */
export function add_f16(dst: usize, src: usize, n: i32, gain: f32): void {
  const signMask = i32x4.splat(0x8000);
  const magnitudeMask = i32x4.splat(0x7fff);
  const rebias = i32x4.splat(112 << 23);
  const denormalLimit = i32x4.splat(0x400);
  const specialLimit = i32x4.splat(0x7c00);
  const unit = f32x4.splat(5.9604644775390625e-8); // 2^-24
  const absMask = i32x4.splat(0x7fffffff);
  const infinity = f32x4.splat(f32.POSITIVE_INFINITY);
  const largest = f32x4.splat(LARGEST);
  const shortMagnitude = i16x8.splat(0x7fff);
  const normalSpan = i16x8.splat(0x7800);
  const leastNormal = i16x8.splat(0x400);
  const none = i16x8.splat(0);
  const by = f32x4.splat(gain);
  let i = 0;
  for (; i + 8 <= n; i += 8) {
    const raw = v128.load(src + ((<usize>i) << 1));
    const at = dst + ((<usize>i) << 2);
    const magnitudes = v128.and(raw, shortMagnitude);
    const isZero = i16x8.eq(magnitudes, none);
    let low: v128;
    let high: v128;
    if (i16x8.all_true(v128.or(isZero, i16x8.lt_u(i16x8.sub(magnitudes, leastNormal), normalSpan)))) {
      const zeroLow = i32x4.extend_low_i16x8_s(isZero);
      const zeroHigh = i32x4.extend_high_i16x8_s(isZero);
      const wideLow = i32x4.extend_low_i16x8_u(raw);
      const wideHigh = i32x4.extend_high_i16x8_u(raw);
      low = v128.or(v128.andnot(i32x4.add(i32x4.shl(v128.and(wideLow, magnitudeMask), 13), rebias), zeroLow), i32x4.shl(v128.and(wideLow, signMask), 16));
      high = v128.or(v128.andnot(i32x4.add(i32x4.shl(v128.and(wideHigh, magnitudeMask), 13), rebias), zeroHigh), i32x4.shl(v128.and(wideHigh, signMask), 16));
    } else {
      low = finite(halfBits(i32x4.extend_low_i16x8_u(raw), signMask, magnitudeMask, rebias, denormalLimit, specialLimit, unit), absMask, infinity, largest);
      high = finite(halfBits(i32x4.extend_high_i16x8_u(raw), signMask, magnitudeMask, rebias, denormalLimit, specialLimit, unit), absMask, infinity, largest);
    }
    v128.store(at, f32x4.add(v128.load(at), f32x4.mul(low, by)));
    v128.store(at, f32x4.add(v128.load(at, 16), f32x4.mul(high, by)), 16);
  }
  for (; i < n; i++) {
    const at = dst + ((<usize>i) << 2);
    const one = halfBits(i32x4.splat(<i32>load<u16>(src + ((<usize>i) << 1))), signMask, magnitudeMask, rebias, denormalLimit, specialLimit, unit);
    store<f32>(at, load<f32>(at) + gain * finiteScalar(f32x4.extract_lane(one, 0)));
  }
}

/** out += gain × from */
export function add_scaled(dst: usize, from: usize, n: i32, gain: f32): void {
  const by = f32x4.splat(gain);
  let i = 0;
  for (; i + 4 <= n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(dst + at, f32x4.add(v128.load(dst + at), f32x4.mul(v128.load(from + at), by)));
  }
  for (; i < n; i++) {
    const at = (<usize>i) << 2;
    store<f32>(dst + at, load<f32>(dst + at) + gain * load<f32>(from + at));
  }
}

export function fill(dst: usize, value: f32, n: i32): void {
  const wide = f32x4.splat(value);
  let i = 0;
  for (; i + 4 <= n; i += 4) v128.store(dst + ((<usize>i) << 2), wide);
  for (; i < n; i++) store<f32>(dst + ((<usize>i) << 2), value);
}
