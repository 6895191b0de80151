// Point corrections. `params` points to what the correction's `prepare` returned.

export function correct_scale(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const factor = f32x4.splat(load<f32>(params));
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(r + at, f32x4.mul(v128.load(r + at), factor));
    v128.store(g + at, f32x4.mul(v128.load(g + at), factor));
    v128.store(b + at, f32x4.mul(v128.load(b + at), factor));
  }
}

/** Odd cube root: an estimate from the exponent, then two steps of Halley's method. */
// @ts-ignore: decorator
@inline
function cubeRoot(x: v128): v128 {
  const absMask = i32x4.splat(0x7fffffff);
  const magnitude = v128.and(x, absMask);
  const third = f32x4.mul(f32x4.convert_i32x4_s(magnitude), f32x4.splat(0.33333334));
  let y = i32x4.add(i32x4.trunc_sat_f32x4_s(third), i32x4.splat(709921077));
  for (let step = 0; step < 2; step++) {
    const cube = f32x4.mul(f32x4.mul(y, y), y);
    const double = f32x4.add(magnitude, magnitude);
    y = f32x4.mul(y, f32x4.div(f32x4.add(cube, double), f32x4.add(f32x4.add(cube, cube), magnitude)));
  }
  // Below this the cube underflows; such light is black.
  const seen = f32x4.gt(magnitude, f32x4.splat(1e-30));
  return v128.or(v128.and(y, seen), v128.andnot(x, absMask));
}

// @ts-ignore: decorator
@inline
function row(params: usize, at: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load32_splat(params + at), x), f32x4.mul(v128.load32_splat(params + at + 4), y)),
    f32x4.mul(v128.load32_splat(params + at + 8), z),
  );
}

// @ts-ignore: decorator
@inline
function cubed(x: v128): v128 {
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

export function correct_scale_offset(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const factor = f32x4.splat(load<f32>(params));
  const offset = f32x4.splat(load<f32>(params + 4));
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(r + at, f32x4.add(f32x4.mul(v128.load(r + at), factor), offset));
    v128.store(g + at, f32x4.add(f32x4.mul(v128.load(g + at), factor), offset));
    v128.store(b + at, f32x4.add(f32x4.mul(v128.load(b + at), factor), offset));
  }
}
