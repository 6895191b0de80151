// Point corrections of light and tone. `params` points to what the correction's `prepare` returned.
import { gathered } from "./gather";

/** Y of Rec. 709 light. */
// @ts-ignore: decorator
@inline
export function luminanceOf(r: v128, g: v128, b: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(r, f32x4.splat(0.2126)), f32x4.mul(g, f32x4.splat(0.7152))), f32x4.mul(b, f32x4.splat(0.0722)));
}

/** log2 of normal positive numbers: the exponent, and an odd polynomial of the mantissa about √2, fitted to the least greatest error (3e-8). */
// @ts-ignore: decorator
@inline
export function log2Of(x: v128): v128 {
  const exponent = i32x4.sub(i32x4.shr_u(x, 23), i32x4.splat(127));
  const mantissa = v128.or(v128.and(x, i32x4.splat(0x007fffff)), i32x4.splat(0x3f800000));
  const root = f32x4.splat(1.4142135);
  const t = f32x4.div(f32x4.sub(mantissa, root), f32x4.add(mantissa, root));
  const t2 = f32x4.mul(t, t);
  const series = f32x4.add(f32x4.splat(2.8853913), f32x4.mul(t2, f32x4.add(f32x4.splat(0.96147081), f32x4.mul(t2, f32x4.splat(0.59897388)))));
  return f32x4.add(f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.splat(0.5)), f32x4.mul(t, series));
}

/** Smaller powers of two, and their shares, would be below the normal numbers, which processors work on many times as slowly. */
export const LEAST_POWER: f32 = -100;
/** 1.5 · 2^23 is so large that nothing but whole numbers fits beside it: the last bits of a sum with it, and the bias, are the exponent. */
const EXPONENTS: f32 = 12583039;

/** The whole part of x as the bits of an exponent, and what x is beyond it. */
// @ts-ignore: decorator
@inline
export function exponentOf(x: v128): v128 {
  return f32x4.add(x, f32x4.splat(EXPONENTS));
}
// @ts-ignore: decorator
@inline
export function beyondOf(x: v128, exponent: v128): v128 {
  return f32x4.sub(x, f32x4.sub(exponent, f32x4.splat(EXPONENTS)));
}

/** 2^f but for 1 and what is linear in f, up to which it is 1 + LINEAR · f. */
export const LINEAR: f32 = 0.69314698;
// @ts-ignore: decorator
@inline
export function curveOf(f: v128): v128 {
  // In pairs, which do not wait for one another.
  const f2 = f32x4.mul(f, f);
  const middle = f32x4.add(f32x4.splat(0.24022242), f32x4.mul(f, f32x4.splat(0.055507337)));
  const high = f32x4.add(f32x4.splat(0.0096715126), f32x4.mul(f, f32x4.splat(0.0013264727)));
  return f32x4.mul(f2, f32x4.add(middle, f32x4.mul(f2, high)));
}

/** 2^x, by a polynomial fitted to the least greatest error (9e-8 of it), which is 1 at 0; beyond ±126 it is the end. */
// @ts-ignore: decorator
@inline
export function exp2Of(x: v128): v128 {
  const inside = f32x4.pmin(f32x4.splat(126), f32x4.pmax(f32x4.splat(-126), x));
  const exponent = exponentOf(inside);
  const f = beyondOf(inside, exponent);
  const series = f32x4.add(f32x4.add(f32x4.splat(1), f32x4.mul(f, f32x4.splat(LINEAR))), curveOf(f));
  return f32x4.mul(series, i32x4.shl(exponent, 23));
}

/** (v · factor + offset) to a power; what is not above the smallest normal number stays as it is. */
// @ts-ignore: decorator
@inline
function powered(v: v128, factor: v128, offset: v128, exponent: v128): v128 {
  const base = f32x4.add(f32x4.mul(v, factor), offset);
  const raised = exp2Of(f32x4.mul(exponent, log2Of(base)));
  return v128.bitselect(raised, base, f32x4.gt(base, f32x4.splat(1.2e-38)));
}

/** Factor, offset and exponent for each channel, then the saturation about luminance: 10 numbers. */
export function correct_power(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const saturation = v128.load32_splat(params + 36);
  const isSaturated = load<f32>(params, 36) != 1;
  const isStraight = load<f32>(params, 8) == 1 && load<f32>(params, 20) == 1 && load<f32>(params, 32) == 1;
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    let x: v128;
    let y: v128;
    let z: v128;
    if (isStraight) {
      x = f32x4.add(f32x4.mul(v128.load(r + at), v128.load32_splat(params)), v128.load32_splat(params + 4));
      y = f32x4.add(f32x4.mul(v128.load(g + at), v128.load32_splat(params + 12)), v128.load32_splat(params + 16));
      z = f32x4.add(f32x4.mul(v128.load(b + at), v128.load32_splat(params + 24)), v128.load32_splat(params + 28));
    } else {
      x = powered(v128.load(r + at), v128.load32_splat(params), v128.load32_splat(params + 4), v128.load32_splat(params + 8));
      y = powered(v128.load(g + at), v128.load32_splat(params + 12), v128.load32_splat(params + 16), v128.load32_splat(params + 20));
      z = powered(v128.load(b + at), v128.load32_splat(params + 24), v128.load32_splat(params + 28), v128.load32_splat(params + 32));
    }
    if (isSaturated) {
      const luminance = luminanceOf(x, y, z);
      x = f32x4.add(luminance, f32x4.mul(saturation, f32x4.sub(x, luminance)));
      y = f32x4.add(luminance, f32x4.mul(saturation, f32x4.sub(y, luminance)));
      z = f32x4.add(luminance, f32x4.mul(saturation, f32x4.sub(z, luminance)));
    }
    v128.store(r + at, x);
    v128.store(g + at, y);
    v128.store(b + at, z);
  }
}

/** Three rows of a matrix, each with what is added behind it: 12 numbers. */
export function correct_matrix(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const x = v128.load(r + at);
    const y = v128.load(g + at);
    const z = v128.load(b + at);
    v128.store(r + at, mixed(params, x, y, z));
    v128.store(g + at, mixed(params + 16, x, y, z));
    v128.store(b + at, mixed(params + 32, x, y, z));
  }
}

// @ts-ignore: decorator
@inline
function mixed(row: usize, x: v128, y: v128, z: v128): v128 {
  const two = f32x4.add(f32x4.mul(v128.load32_splat(row), x), f32x4.mul(v128.load32_splat(row + 4), y));
  return f32x4.add(f32x4.add(two, f32x4.mul(v128.load32_splat(row + 8), z)), v128.load32_splat(row + 12));
}

/** Holds the brightest channel below an end, from a knee on, and the others in proportion: knee, and one over the way from it to the end. */
export function correct_highlight_limit(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const knee = v128.load32_splat(params);
  const inverse = v128.load32_splat(params + 4);
  const one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const x = v128.load(r + at);
    const y = v128.load(g + at);
    const z = v128.load(b + at);
    const most = f32x4.pmax(x, f32x4.pmax(y, z));
    const over = f32x4.sub(most, knee);
    const held = f32x4.add(knee, f32x4.div(over, f32x4.add(one, f32x4.mul(over, inverse))));
    const gain = v128.bitselect(f32x4.div(held, most), one, f32x4.gt(over, f32x4.splat(0)));
    v128.store(r + at, f32x4.mul(x, gain));
    v128.store(g + at, f32x4.mul(y, gain));
    v128.store(b + at, f32x4.mul(z, gain));
  }
}

/** By how much light is multiplied: a table over 32 stops about 1, 64 entries a stop, and one at the end. */
// @ts-ignore: decorator
@inline
function gainsOf(table: usize, x: v128): v128 {
  const at = f32x4.pmin(f32x4.splat(2048), f32x4.pmax(f32x4.splat(0), f32x4.mul(f32x4.add(log2Of(x), f32x4.splat(16)), f32x4.splat(64))));
  const whole = f32x4.pmin(f32x4.floor(at), f32x4.splat(2047));
  const index = i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 2);
  const found = gathered(table, index, f32x4.sub(at, whole));
  // What is no light stays as dark as it is.
  return v128.bitselect(found, v128.load32_splat(table), f32x4.gt(x, f32x4.splat(1.2e-38)));
}

/** Light of the scene to light of the picture: whether the brightest channel decides for all, then the table. */
export function tone_table(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const byBrightest = load<f32>(params) == 1;
  const table = params + 4;
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const x = v128.load(r + at);
    const y = v128.load(g + at);
    const z = v128.load(b + at);
    if (byBrightest) {
      const gain = gainsOf(table, f32x4.pmax(x, f32x4.pmax(y, z)));
      v128.store(r + at, f32x4.mul(x, gain));
      v128.store(g + at, f32x4.mul(y, gain));
      v128.store(b + at, f32x4.mul(z, gain));
    } else {
      v128.store(r + at, f32x4.mul(x, gainsOf(table, x)));
      v128.store(g + at, f32x4.mul(y, gainsOf(table, y)));
      v128.store(b + at, f32x4.mul(z, gainsOf(table, z)));
    }
  }
}
