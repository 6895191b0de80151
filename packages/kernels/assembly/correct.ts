// Point corrections. `params` points to what the correction's `prepare` returned.
import { exp2Of, log2Of, luminanceOf } from "./tone";

/** Odd cube root: one over it is estimated from the exponent and made better in two steps without a division (to 1e-7). */
// @ts-ignore: decorator
@inline
export function cubeRoot(x: v128): v128 {
  const one = f32x4.splat(1);
  const absMask = i32x4.splat(0x7fffffff);
  const magnitude = v128.and(x, absMask);
  const third = f32x4.mul(f32x4.convert_i32x4_s(magnitude), f32x4.splat(0.33333334));
  // At most 0.034 off, which leaves 0.102 of x z³.
  const z = i32x4.sub(i32x4.splat(0x54a1f800), i32x4.trunc_sat_f32x4_s(third));
  const e = f32x4.sub(one, f32x4.mul(f32x4.mul(magnitude, z), f32x4.mul(z, z)));
  // The series of (1 - e)^(-1/3), and behind the next step that of (1 - e)^(-2/3).
  const series = f32x4.add(f32x4.splat(0.33333333), f32x4.mul(e, f32x4.add(f32x4.splat(0.22222222), f32x4.mul(e, f32x4.splat(0.17283951)))));
  const better = f32x4.add(z, f32x4.mul(f32x4.mul(z, e), series));
  const root = f32x4.mul(magnitude, f32x4.mul(better, better));
  const rest = f32x4.sub(one, f32x4.mul(root, better));
  const y = f32x4.add(root, f32x4.mul(f32x4.mul(root, rest), f32x4.splat(0.66666667)));
  // Below this the cubes leave the range of numbers; such light is black.
  const seen = f32x4.gt(magnitude, f32x4.splat(1e-30));
  return v128.or(v128.and(y, seen), v128.andnot(x, absMask));
}

// @ts-ignore: decorator
@inline
export function row(params: usize, at: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load32_splat(params + at), x), f32x4.mul(v128.load32_splat(params + at + 4), y)),
    f32x4.mul(v128.load32_splat(params + at + 8), z),
  );
}

// @ts-ignore: decorator
@inline
export function cubed(x: v128): v128 {
  return f32x4.mul(f32x4.mul(x, x), x);
}

/** Matrix, cube root, matrix, cube, matrix: 27 numbers. */
export function correct_oklab_matrix(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const red = v128.load(r + at);
    const green = v128.load(g + at);
    const blue = v128.load(b + at);
    const l = cubeRoot(row(params, 0, red, green, blue));
    const m = cubeRoot(row(params, 12, red, green, blue));
    const s = cubeRoot(row(params, 24, red, green, blue));
    const l2 = cubed(row(params, 36, l, m, s));
    const m2 = cubed(row(params, 48, l, m, s));
    const s2 = cubed(row(params, 60, l, m, s));
    v128.store(r + at, row(params, 72, l2, m2, s2));
    v128.store(g + at, row(params, 84, l2, m2, s2));
    v128.store(b + at, row(params, 96, l2, m2, s2));
  }
}

/** Light by the distance from a centre: 11 numbers, and the places of the pixels. */
export function correct_vignette(r: usize, g: usize, b: usize, params: usize, n: i32, xs: usize, ys: usize): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const two = f32x4.splat(2);
  const three = f32x4.splat(3);
  const cx = v128.load32_splat(params);
  const cy = v128.load32_splat(params + 4);
  const ax = v128.load32_splat(params + 8);
  const ay = v128.load32_splat(params + 12);
  const begin = v128.load32_splat(params + 16);
  const slope = v128.load32_splat(params + 20);
  const redChange = v128.load32_splat(params + 24);
  const greenChange = v128.load32_splat(params + 28);
  const blueChange = v128.load32_splat(params + 32);
  const power = load<f32>(params + 36);
  const perPixel = v128.load32_splat(params + 40);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const x = f32x4.sub(v128.load(xs + at), cx);
    const y = f32x4.sub(v128.load(ys + at), cy);
    const dx = f32x4.mul(x, ax);
    const dy = f32x4.mul(y, ay);
    const distance = f32x4.sqrt(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)));
    const t = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(f32x4.sub(distance, begin), slope)));
    const bend = f32x4.mul(f32x4.mul(t, t), f32x4.sub(three, f32x4.mul(two, t)));
    const natural = power == 0 ? one : exp2Of(f32x4.mul(f32x4.splat(-power), log2Of(f32x4.add(one, f32x4.mul(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), perPixel)))));
    v128.store(r + at, f32x4.mul(f32x4.mul(v128.load(r + at), f32x4.add(one, f32x4.mul(redChange, bend))), natural));
    v128.store(g + at, f32x4.mul(f32x4.mul(v128.load(g + at), f32x4.add(one, f32x4.mul(greenChange, bend))), natural));
    v128.store(b + at, f32x4.mul(f32x4.mul(v128.load(b + at), f32x4.add(one, f32x4.mul(blueChange, bend))), natural));
  }
}

// @ts-ignore: decorator
@inline
function repainted(old: usize, filter: v128, direct: usize, indirect: usize, beauty: usize, color: v128, ratio: v128, amount: v128): void {
  const now = v128.load(old);
  const then = v128.load(beauty);
  const factor = f32x4.pmin(f32x4.splat(64), f32x4.pmax(f32x4.splat(0), f32x4.div(now, then)));
  const since = v128.bitselect(factor, f32x4.splat(1), f32x4.gt(then, f32x4.splat(1e-5)));
  const light = f32x4.mul(f32x4.mul(amount, since), f32x4.add(v128.load(direct), v128.load(indirect)));
  v128.store(old, f32x4.add(now, f32x4.mul(light, f32x4.sub(f32x4.mul(color, ratio), filter))));
}

/** Another filter under the same raw light: 6 numbers; filter, direct and indirect light and the beauty beside. */
export function correct_repaint(r: usize, g: usize, b: usize, params: usize, n: i32, xs: usize, ys: usize, fr: usize, fg: usize, fb: usize, dr: usize, dg: usize, db: usize, ir: usize, ig: usize, ib: usize, br: usize, bg: usize, bb: usize): void {
  const one = f32x4.splat(1);
  const red = v128.load32_splat(params);
  const green = v128.load32_splat(params + 4);
  const blue = v128.load32_splat(params + 8);
  const texture = v128.load32_splat(params + 12);
  const inverse = v128.load32_splat(params + 16);
  const amount = v128.load32_splat(params + 20);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const filterRed = v128.load(fr + at);
    const filterGreen = v128.load(fg + at);
    const filterBlue = v128.load(fb + at);
    const ratio = f32x4.add(one, f32x4.mul(texture, f32x4.sub(f32x4.mul(luminanceOf(filterRed, filterGreen, filterBlue), inverse), one)));
    repainted(r + at, filterRed, dr + at, ir + at, br + at, red, ratio, amount);
    repainted(g + at, filterGreen, dg + at, ig + at, bg + at, green, ratio, amount);
    repainted(b + at, filterBlue, db + at, ib + at, bb + at, blue, ratio, amount);
  }
}
