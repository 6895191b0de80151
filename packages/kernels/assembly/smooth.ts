// One pass of a smoothing that stops at edges: what raster/smooth.ts of the core defines. Planes are written exactly.
import { put } from "./local";
import { exp2Of, log2Of } from "./tone";

/** Light in stops, channel by channel. */
export function smooth_stops(out: usize, planes: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(out + at, log2Of(f32x4.add(f32x4.pmax(f32x4.splat(0), v128.load(planes + at)), f32x4.splat(0.0009765625))));
  }
}

// @ts-ignore: decorator
@inline
function apart(planes: usize, plane: usize, here: usize, there: usize): v128 {
  const x = f32x4.sub(v128.load(planes + here), v128.load(planes + there));
  const y = f32x4.sub(v128.load(planes + plane + here), v128.load(planes + plane + there));
  const z = f32x4.sub(v128.load(planes + 2 * plane + here), v128.load(planes + 2 * plane + there));
  return f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z));
}

/** `from` and `stops` reach beyond by twice the distance; `guides` holds where each lies and what differences are multiplied with. Falloffs are in powers of two. */
export function smooth(out: usize, from: usize, stops: usize, width: i32, height: i32, distance: i32, falloff: f32, guides: usize, count: i32): void {
  const across = width + 4 * distance;
  const inside = (<usize>(across * (height + 4 * distance))) << 2;
  const area = (<usize>(width * height)) << 2;
  const none = f32x4.splat(0);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const here = (<usize>((y + 2 * distance) * across + x + 2 * distance)) << 2;
      let r = none;
      let g = none;
      let b = none;
      let a = none;
      let total = none;
      for (let j = 0; j < 5; j++) {
        const down = j == 2 ? <f32>0.375 : j == 1 || j == 3 ? <f32>0.25 : <f32>0.0625;
        for (let i = 0; i < 5; i++) {
          const share = down * (i == 2 ? <f32>0.375 : i == 1 || i == 3 ? <f32>0.25 : <f32>0.0625);
          const there = (<usize>((y + j * distance) * across + x + i * distance)) << 2;
          let exponent = f32x4.mul(f32x4.splat(falloff), apart(stops, inside, here, there));
          for (let n = 0; n < count; n++) {
            const row = guides + ((<usize>n) << 3);
            exponent = f32x4.add(exponent, f32x4.mul(v128.load32_splat(row + 4), apart(<usize>load<u32>(row), inside, here, there)));
          }
          // What is that much unlike has no part in it: else next to nothing would come to where nothing is.
          const likeness = v128.and(exp2Of(f32x4.neg(exponent)), f32x4.lt(exponent, f32x4.splat(20)));
          const weight = f32x4.mul(f32x4.splat(share), likeness);
          total = f32x4.add(total, weight);
          r = f32x4.add(r, f32x4.mul(weight, v128.load(from + there)));
          g = f32x4.add(g, f32x4.mul(weight, v128.load(from + inside + there)));
          b = f32x4.add(b, f32x4.mul(weight, v128.load(from + 2 * inside + there)));
          a = f32x4.add(a, f32x4.mul(weight, v128.load(from + 3 * inside + there)));
        }
      }
      const to = out + ((<usize>(y * width + x)) << 2);
      const left = width - x;
      put(to, f32x4.div(r, total), left);
      put(to + area, f32x4.div(g, total), left);
      put(to + 2 * area, f32x4.div(b, total), left);
      put(to + 3 * area, f32x4.div(a, total), left);
    }
  }
}
