// Pictures of everything around: what raster/around.ts of the core defines.

/** Three planes of `width` × `height` pixels at places. */
export function around(red: usize, green: usize, blue: usize, from: usize, width: i32, height: i32, isWhole: bool, u: usize, v: usize, n: i32): void {
  const plane = (<usize>(width * height)) << 2;
  const last = width - 1;
  for (let i = 0; i < n; i++) {
    const at = (<usize>i) << 2;
    const x = load<f32>(u + at) - 0.5;
    const y = load<f32>(v + at) - 0.5;
    const left = Mathf.floor(x);
    const top = Mathf.floor(y);
    const fx = x - left;
    const fy = y - top;
    let x0 = <i32>left;
    let x1 = x0 + 1;
    if (isWhole) {
      if (x0 < 0) x0 += width;
      if (x1 > last) x1 -= width;
    }
    x0 = min(last, max(0, x0));
    x1 = min(last, max(0, x1));
    const upper = min(height - 1, max(0, <i32>top)) * width;
    const lower = min(height - 1, max(0, <i32>top + 1)) * width;
    const a = from + ((<usize>(upper + x0)) << 2);
    const b = from + ((<usize>(upper + x1)) << 2);
    const c = from + ((<usize>(lower + x0)) << 2);
    const d = from + ((<usize>(lower + x1)) << 2);
    store<f32>(red + at, between(a, b, c, d, fx, fy));
    store<f32>(green + at, between(a + plane, b + plane, c + plane, d + plane, fx, fy));
    store<f32>(blue + at, between(a + 2 * plane, b + 2 * plane, c + 2 * plane, d + 2 * plane, fx, fy));
  }
}

// @ts-ignore: decorator
@inline
function between(a: usize, b: usize, c: usize, d: usize, fx: f32, fy: f32): f32 {
  const upper = load<f32>(a) + (load<f32>(b) - load<f32>(a)) * fx;
  const lower = load<f32>(c) + (load<f32>(d) - load<f32>(c)) * fx;
  return upper + (lower - upper) * fy;
}
