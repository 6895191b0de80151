// Pictures as another lens would have drawn them: what raster/bend.ts of the core defines.
import { bounded } from "./raster";

/** Samples at places, of sixteen around each: Catmull–Rom in both directions. */
export function bend_sample(out: usize, from: usize, across: i32, u: usize, v: usize, n: i32): void {
  const row = (<usize>across) << 2;
  for (let i = 0; i < n; i++) {
    const at = (<usize>i) << 2;
    const x = load<f32>(u + at) - 0.5;
    const y = load<f32>(v + at) - 0.5;
    const left = Mathf.floor(x);
    const top = Mathf.floor(y);
    const s = x - left;
    const t = y - top;
    const first = from + ((<usize>((<i32>top - 1) * across + <i32>left - 1)) << 2);
    const wx = f32x4(((-0.5 * s + 1) * s - 0.5) * s, (1.5 * s - 2.5) * s * s + 1, ((-1.5 * s + 2) * s + 0.5) * s, (0.5 * s - 0.5) * s * s);
    let sum = f32x4.mul(f32x4.splat(((-0.5 * t + 1) * t - 0.5) * t), bounded(v128.load(first)));
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat((1.5 * t - 2.5) * t * t + 1), bounded(v128.load(first + row))));
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(((-1.5 * t + 2) * t + 0.5) * t), bounded(v128.load(first + 2 * row))));
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat((0.5 * t - 0.5) * t * t), bounded(v128.load(first + 3 * row))));
    sum = f32x4.mul(sum, wx);
    store<f32>(out + at, f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3));
  }
}
