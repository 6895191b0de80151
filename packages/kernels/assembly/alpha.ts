// Alpha, coverage and mixing.

/**
 * out = opacity × clamp(alpha) × mask; null pointers count as 1. Returns 0 if all n are 0, 2 if all are 1, else 1.
 * `out` may be the mask's own register.
 */
export function coverage(out: usize, n: i32, opacity: f32, alpha: usize, mask: usize, invertMask: bool): i32 {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const strength = f32x4.splat(opacity);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    let value = strength;
    if (alpha) value = f32x4.mul(value, f32x4.pmin(one, f32x4.pmax(zero, v128.load(alpha + at))));
    if (mask) {
      const m = v128.load(mask + at);
      value = f32x4.mul(value, invertMask ? f32x4.sub(one, m) : m);
    }
    v128.store(out + at, value);
  }
  // The padding behind the span holds old numbers and must not decide.
  let empty = true;
  let full = true;
  for (let i = 0; i < n; i++) {
    const value = load<f32>(out + ((<usize>i) << 2));
    if (value != 0) empty = false;
    if (value != 1) full = false;
    if (!empty && !full) return 1;
  }
  return empty ? 0 : 2;
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

/** target += weight × (changed − target) */
export function mix(target: usize, changed: usize, weight: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const t = v128.load(target + at);
    v128.store(target + at, f32x4.add(t, f32x4.mul(v128.load(weight + at), f32x4.sub(v128.load(changed + at), t))));
  }
}
