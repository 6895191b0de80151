// A picture scaled, turned and moved through a resampling filter.

/** Distances in the filter's table are counted in these. */
const STEPS: f64 = 256;

// @ts-ignore: decorator
@inline
function weightAt(table: usize, x: f64): f32 {
  const at = abs(x) * STEPS;
  const i = <i32>at;
  const t = <f32>(at - <f64>i);
  const from = table + ((<usize>i) << 2);
  const first = load<f32>(from);
  return first + t * (load<f32>(from, 4) - first);
}

/** Four planes to pixels of four floats, NaN as 0 and nothing beyond ±65504. */
export function interleave(dst: usize, src: usize, n: i32): void {
  const stride = (<usize>n) << 2;
  for (let i = 0; i < n; i++) {
    const at = src + ((<usize>i) << 2);
    const to = dst + ((<usize>i) << 4);
    for (let c: usize = 0; c < 4; c++) {
      const value = load<f32>(at + c * stride);
      store<f32>(to + (c << 2), value == value ? max<f32>(-65504, min<f32>(65504, value)) : 0);
    }
  }
}

/**
 * The map goes from pixels of the result, counted from 0, to pixels of the source. `whole`: it takes pixels to pixels. `columns` and `rows`
 * have room for the weights of one pixel. The result is four planes.
 */
export function warp(dst: usize, src: usize, fromWidth: i32, fromHeight: i32, width: i32, height: i32, a: f64, b: f64, c: f64, d: f64, e: f64, f: f64, stretchX: f64, stretchY: f64, radius: f64, table: usize, columns: usize, rows: usize, whole: bool): void {
  const plane = (<usize>(width * height)) << 2;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const u = a * (<f64>x + 0.5) + b * (<f64>y + 0.5) + e;
      const v = c * (<f64>x + 0.5) + d * (<f64>y + 0.5) + f;
      let sum = f32x4.splat(0);
      if (whole) {
        const i = <i32>floor(u);
        const j = <i32>floor(v);
        if (i >= 0 && j >= 0 && i < fromWidth && j < fromHeight) sum = v128.load(src + ((<usize>(j * fromWidth + i)) << 4));
      } else {
        const left = <i32>ceil(u - 0.5 - radius * stretchX);
        const right = <i32>floor(u - 0.5 + radius * stretchX);
        const top = <i32>ceil(v - 0.5 - radius * stretchY);
        const bottom = <i32>floor(v - 0.5 + radius * stretchY);
        if (right >= 0 && bottom >= 0 && left < fromWidth && top < fromHeight) {
          let across: f32 = 0;
          for (let i = left; i <= right; i++) {
            const weight = weightAt(table, (<f64>i + 0.5 - u) / stretchX);
            store<f32>(columns + ((<usize>(i - left)) << 2), weight);
            across += weight;
          }
          let down: f32 = 0;
          for (let j = top; j <= bottom; j++) {
            const weight = weightAt(table, (<f64>j + 0.5 - v) / stretchY);
            store<f32>(rows + ((<usize>(j - top)) << 2), weight);
            down += weight;
          }
          const firstColumn = max(left, 0);
          const lastColumn = min(right, fromWidth - 1);
          const lastRow = min(bottom, fromHeight - 1);
          for (let j = max(top, 0); j <= lastRow; j++) {
            let line = f32x4.splat(0);
            let from = src + ((<usize>(j * fromWidth + firstColumn)) << 4);
            let weight = columns + ((<usize>(firstColumn - left)) << 2);
            for (let i = firstColumn; i <= lastColumn; i++, from += 16, weight += 4) line = f32x4.add(line, f32x4.mul(v128.load(from), v128.load32_splat(weight)));
            sum = f32x4.add(sum, f32x4.mul(line, v128.load32_splat(rows + ((<usize>(j - top)) << 2))));
          }
          sum = f32x4.div(sum, f32x4.splat(across * down));
        }
      }
      const to = dst + ((<usize>(y * width + x)) << 2);
      store<f32>(to, f32x4.extract_lane(sum, 0));
      store<f32>(to + plane, f32x4.extract_lane(sum, 1));
      store<f32>(to + 2 * plane, f32x4.extract_lane(sum, 2));
      store<f32>(to + 3 * plane, max<f32>(0, min<f32>(1, f32x4.extract_lane(sum, 3))));
    }
  }
}
