// Alpha, coverage and mixing.

/** One loop for each combination, so that nothing is decided per pixel: `hasAlpha`, `hasMask` and `invert` are constants. */
// @ts-ignore: decorator
@inline
function weigh(out: usize, end: usize, strength: v128, alpha: usize, mask: usize, hasAlpha: bool, hasMask: bool, invert: bool): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let at: usize = 0; at < end; at += 16) {
    let value = strength;
    if (hasAlpha) value = f32x4.mul(value, f32x4.pmin(one, f32x4.pmax(zero, v128.load(alpha + at))));
    if (hasMask) value = f32x4.mul(value, invert ? f32x4.sub(one, v128.load(mask + at)) : v128.load(mask + at));
    v128.store(out + at, value);
  }
}

/**
 * out = opacity × clamp(alpha) × mask; null pointers count as 1. Returns 0 if all n are 0, 2 if all are 1, else 1.
 * `out` may be the mask's own register.
 */
export function coverage(out: usize, n: i32, opacity: f32, alpha: usize, mask: usize, invertMask: bool): i32 {
  const strength = f32x4.splat(opacity);
  const end = (<usize>n) << 2;
  if (alpha && mask) {
    if (invertMask) weigh(out, end, strength, alpha, mask, true, true, true);
    else weigh(out, end, strength, alpha, mask, true, true, false);
  } else if (alpha) weigh(out, end, strength, alpha, mask, true, false, false);
  else if (mask) {
    if (invertMask) weigh(out, end, strength, alpha, mask, false, true, true);
    else weigh(out, end, strength, alpha, mask, false, true, false);
  } else weigh(out, end, strength, alpha, mask, false, false, false);
  return extent(out, n);
}

/** Stops at the first value that settles it; the padding behind the span holds old numbers and must not decide. */
function extent(p: usize, n: i32): i32 {
  const first = load<f32>(p);
  if (n == 0) return 0;
  if (first != 0 && first != 1) return 1;
  const wanted = f32x4.splat(first);
  let i = 0;
  for (; i + 4 <= n; i += 4) if (!i32x4.all_true(f32x4.eq(v128.load(p + ((<usize>i) << 2)), wanted))) return 1;
  for (; i < n; i++) if (load<f32>(p + ((<usize>i) << 2)) != first) return 1;
  return first == 0 ? 0 : 2;
}

export function multiply_alpha(p: usize, alpha: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(p + at, f32x4.mul(v128.load(p + at), v128.load(alpha + at)));
  }
}

export function divide_alpha(p: usize, alpha: usize, n: i32): void {
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const a = v128.load(alpha + at);
    v128.store(p + at, v128.and(f32x4.div(v128.load(p + at), a), f32x4.gt(a, zero)));
  }
}

/** target becomes (1 − weight) × target + weight × changed: in this form both ends are exact, so that a span gives the same whether it is covered in full or pixel by pixel. */
export function mix(target: usize, changed: usize, weight: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const t = v128.load(target + at);
    const w = v128.load(weight + at);
    v128.store(target + at, f32x4.add(f32x4.mul(f32x4.sub(f32x4.splat(1), w), t), f32x4.mul(w, v128.load(changed + at))));
  }
}
