// Pixels from a formula. The numbers are packed by core's evaluate/fill.ts.

/** A colour, a linear or a radial ramp at the places x, y: straight colour and alpha. */
export function generate_fill(r: usize, g: usize, b: usize, a: usize, x: usize, y: usize, params: usize, n: i32): void {
  const radial = load<f32>(params) != 0;
  const startX = v128.load32_splat(params + 4);
  const startY = v128.load32_splat(params + 8);
  const alongX = v128.load32_splat(params + 12);
  const alongY = v128.load32_splat(params + 16);
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const dx = f32x4.sub(v128.load(x + at), startX);
    const dy = f32x4.sub(v128.load(y + at), startY);
    const raw = radial
      ? f32x4.mul(f32x4.sqrt(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy))), alongX)
      : f32x4.add(f32x4.mul(dx, alongX), f32x4.mul(dy, alongY));
    const t = f32x4.pmin(one, f32x4.pmax(zero, raw));
    const alpha = mixed(params, 32, t);
    const seen = f32x4.gt(alpha, zero);
    v128.store(r + at, v128.and(f32x4.div(mixed(params, 20, t), alpha), seen));
    v128.store(g + at, v128.and(f32x4.div(mixed(params, 24, t), alpha), seen));
    v128.store(b + at, v128.and(f32x4.div(mixed(params, 28, t), alpha), seen));
    v128.store(a + at, alpha);
  }
}

// @ts-ignore: decorator
@inline
function mixed(params: usize, at: usize, t: v128): v128 {
  const from = v128.load32_splat(params + at);
  return f32x4.add(from, f32x4.mul(t, f32x4.sub(v128.load32_splat(params + at + 16), from)));
}
