// Light taken apart by size: what raster/local.ts of the core defines. Planes are written exactly.
import { gathered } from "./gather";
import { exp2Of, log2Of, luminanceOf } from "./tone";

/** Four numbers, or as many as are left. */
// @ts-ignore: decorator
@inline
export function put(to: usize, values: v128, left: i32): void {
  if (left >= 4) {
    v128.store(to, values);
    return;
  }
  v128.store32_lane(to, values, 0);
  if (left > 1) v128.store32_lane(to, values, 1, 4);
  if (left > 2) v128.store32_lane(to, values, 2, 8);
}

/** Luminance of premultiplied light in stops. */
// @ts-ignore: decorator
@inline
function stopsAt(planes: usize, stride: usize, at: usize): v128 {
  const alpha = v128.load(planes + 3 * stride + at);
  const light = luminanceOf(v128.load(planes + at), v128.load(planes + stride + at), v128.load(planes + 2 * stride + at));
  const straight = v128.and(f32x4.div(light, alpha), f32x4.gt(alpha, f32x4.splat(1e-6)));
  // What is no number counts as black.
  const known = v128.and(straight, f32x4.gt(straight, f32x4.splat(0)));
  return log2Of(f32x4.add(f32x4.pmin(f32x4.splat(65504), known), f32x4.splat(0.0009765625)));
}

/** Σ gain × plane over `rows` of an address and a gain each. */
export function sum_planes(out: usize, rows: usize, count: i32, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    let sum = f32x4.splat(0);
    for (let k = 0; k < count; k++) {
      const row = rows + ((<usize>k) << 3);
      sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(row + 4), v128.load(<usize>load<u32>(row) + at)));
    }
    put(out + at, sum, n - i);
  }
}

export function local_moments(out: usize, planes: usize, area: i32): void {
  const stride = (<usize>area) << 2;
  for (let i = 0; i < area; i += 4) {
    const at = (<usize>i) << 2;
    const stops = stopsAt(planes, stride, at);
    const alpha = v128.load(planes + 3 * stride + at);
    const weighed = f32x4.mul(stops, alpha);
    put(out + at, weighed, area - i);
    put(out + stride + at, f32x4.mul(stops, weighed), area - i);
    put(out + 2 * stride + at, alpha, area - i);
  }
}

export function local_fit(out: usize, moments: usize, area: i32, variance: f32): void {
  const stride = (<usize>area) << 2;
  const edge = f32x4.splat(variance);
  const least = f32x4.splat(1e-6);
  for (let i = 0; i < area; i += 4) {
    const at = (<usize>i) << 2;
    const alpha = v128.load(moments + 2 * stride + at);
    const isThere = f32x4.gt(alpha, least);
    const mean = v128.and(f32x4.div(v128.load(moments + at), alpha), isThere);
    const square = v128.and(f32x4.div(v128.load(moments + stride + at), alpha), isThere);
    const varied = f32x4.pmax(f32x4.splat(0), f32x4.sub(square, f32x4.mul(mean, mean)));
    const a = f32x4.div(varied, f32x4.add(varied, edge));
    put(out + at, a, area - i);
    put(out + stride + at, f32x4.sub(mean, f32x4.mul(a, mean)), area - i);
  }
}

/** What of a difference lies beyond a threshold. */
// @ts-ignore: decorator
@inline
function beyond(difference: v128, threshold: v128): v128 {
  const most = f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.abs(difference), threshold));
  return v128.bitselect(f32x4.neg(most), most, f32x4.lt(difference, f32x4.splat(0)));
}

/** A curve of 257 numbers over 16 stops from ten below 1. */
// @ts-ignore: decorator
@inline
function curveAt(curve: usize, stops: v128): v128 {
  const at = f32x4.pmin(f32x4.splat(256), f32x4.pmax(f32x4.splat(0), f32x4.mul(f32x4.add(stops, f32x4.splat(10)), f32x4.splat(16))));
  const whole = f32x4.pmin(f32x4.floor(at), f32x4.splat(255));
  const index = i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 2);
  return gathered(curve, index, f32x4.sub(at, whole));
}

/** `params`: for each base its amount, its threshold, and where its line lies; `curve` is 0 if there is none. */
export function local_join(out: usize, planes: usize, area: i32, params: usize, bases: i32, curve: usize): void {
  const stride = (<usize>area) << 2;
  for (let i = 0; i < area; i += 4) {
    const at = (<usize>i) << 2;
    const stops = stopsAt(planes, stride, at);
    let finer = stops;
    let change = f32x4.splat(0);
    for (let n = 0; n < bases; n++) {
      const row = params + <usize>n * 12;
      const line = <usize>load<u32>(row, 8);
      const base = f32x4.add(f32x4.mul(v128.load(line + at), stops), v128.load(line + stride + at));
      change = f32x4.add(change, f32x4.mul(v128.load32_splat(row), beyond(f32x4.sub(finer, base), v128.load32_splat(row + 4))));
      finer = base;
    }
    if (curve != 0) change = f32x4.add(change, curveAt(curve, finer));
    const gain = exp2Of(f32x4.pmin(f32x4.splat(8), f32x4.pmax(f32x4.splat(-8), change)));
    put(out + at, f32x4.mul(v128.load(planes + at), gain), area - i);
    put(out + stride + at, f32x4.mul(v128.load(planes + stride + at), gain), area - i);
    put(out + 2 * stride + at, f32x4.mul(v128.load(planes + 2 * stride + at), gain), area - i);
    put(out + 3 * stride + at, v128.load(planes + 3 * stride + at), area - i);
  }
}
