// What of a correction is taken over: definitions in core's blend/correction-blends.ts. `r`, `g`, `b` hold what it made and get the result; `r0`, `g0`, `b0` what was there.
import { luminosity, storeWithLuminosity } from "./tables";
import { luminanceOf } from "./tone";

// @ts-ignore: decorator
@inline
function joinLight(r: usize, g: usize, b: usize, r0: usize, g0: usize, b0: usize, n: i32, keepsColor: bool): void {
  const least = f32x4.splat(1e-6);
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 16) {
    const after = luminanceOf(v128.load(r + at), v128.load(g + at), v128.load(b + at));
    const before = luminanceOf(v128.load(r0 + at), v128.load(g0 + at), v128.load(b0 + at));
    const own = keepsColor ? before : after;
    const wanted = keepsColor ? after : before;
    const seen = f32x4.gt(own, least);
    const factor = f32x4.div(wanted, own);
    v128.store(r + at, v128.bitselect(f32x4.mul(v128.load((keepsColor ? r0 : r) + at), factor), wanted, seen));
    v128.store(g + at, v128.bitselect(f32x4.mul(v128.load((keepsColor ? g0 : g) + at), factor), wanted, seen));
    v128.store(b + at, v128.bitselect(f32x4.mul(v128.load((keepsColor ? b0 : b) + at), factor), wanted, seen));
  }
}

export function join_lightness_light(r: usize, g: usize, b: usize, r0: usize, g0: usize, b0: usize, n: i32): void {
  joinLight(r, g, b, r0, g0, b0, n, true);
}

export function join_colour_light(r: usize, g: usize, b: usize, r0: usize, g0: usize, b0: usize, n: i32): void {
  joinLight(r, g, b, r0, g0, b0, n, false);
}

export function join_lightness_picture(r: usize, g: usize, b: usize, r0: usize, g0: usize, b0: usize, n: i32): void {
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 16) {
    const wanted = luminosity(v128.load(r + at), v128.load(g + at), v128.load(b + at));
    storeWithLuminosity(r + at, g + at, b + at, v128.load(r0 + at), v128.load(g0 + at), v128.load(b0 + at), wanted);
  }
}

export function join_colour_picture(r: usize, g: usize, b: usize, r0: usize, g0: usize, b0: usize, n: i32): void {
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 16) {
    const wanted = luminosity(v128.load(r0 + at), v128.load(g0 + at), v128.load(b0 + at));
    storeWithLuminosity(r + at, g + at, b + at, v128.load(r + at), v128.load(g + at), v128.load(b + at), wanted);
  }
}

// @ts-ignore: decorator
@inline
function multiplied(to: usize, from: usize, end: usize): void {
  for (let at: usize = 0; at < end; at += 16) v128.store(to + at, f32x4.mul(v128.load(to + at), v128.load(from + at)));
}

export function join_multiply(r: usize, g: usize, b: usize, r0: usize, g0: usize, b0: usize, n: i32): void {
  const end = (<usize>n) << 2;
  multiplied(r, r0, end);
  multiplied(g, g0, end);
  multiplied(b, b0, end);
}

// @ts-ignore: decorator
@inline
function screened(to: usize, from: usize, end: usize): void {
  for (let at: usize = 0; at < end; at += 16) {
    const after = v128.load(to + at);
    const before = v128.load(from + at);
    v128.store(to + at, f32x4.sub(f32x4.add(before, after), f32x4.mul(before, after)));
  }
}

export function join_screen(r: usize, g: usize, b: usize, r0: usize, g0: usize, b0: usize, n: i32): void {
  const end = (<usize>n) << 2;
  screened(r, r0, end);
  screened(g, g0, end);
  screened(b, b0, end);
}
