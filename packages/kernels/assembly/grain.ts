// Grain: what corrections/grain.ts of the core defines. `params` points to its numbers, the field begins behind them.
import { fieldAt } from "./sky";
import { exp2Of, log2Of, luminanceOf } from "./tone";

const LAST: i32 = 7;
const HALF_LN2: f32 = 0.34657359;
const PER_MID_GREY: f32 = 5.5555553;

export function correct_grain(r: usize, g: usize, b: usize, params: usize, n: i32, xs: usize, ys: usize, step: f32): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const amount = v128.load32_splat(params);
  const shadows = f32x4.sub(v128.load32_splat(params + 4), one);
  const lights = f32x4.sub(v128.load32_splat(params + 8), one);
  const common = v128.load32_splat(params + 12);
  const own = v128.load32_splat(params + 16);
  const hasOwn = load<f32>(params + 16) > 0;
  const perField = v128.load32_splat(params + 20);
  const field = params + 128;
  const wanted = <f32>Math.min(<f64>LAST, Math.max(0, Math.log2(<f64>step * <f64>load<f32>(params + 24))));
  const nearest = <i32>(wanted + 0.5);
  const level = f32x4.splat(<f32>nearest);
  const below = <i32>wanted;
  const share = wanted - <f32>below;
  const squares = <f32>(Math.pow(load<f32>(params + (<usize>below << 2), 32), 1 - share) * Math.pow(load<f32>(params + (<usize>(below < LAST ? below + 1 : LAST) << 2), 32), share));
  const even = f32x4.splat(HALF_LN2 * squares);
  const strength = f32x4.splat(sqrt<f32>(squares / load<f32>(params + (<usize>nearest << 2), 64)));
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const red = v128.load(r + at);
    const green = v128.load(g + at);
    const blue = v128.load(b + at);
    const x = f32x4.mul(v128.load(xs + at), perField);
    const y = f32x4.mul(v128.load(ys + at), perField);
    // Met twice, the second time turned.
    const u = f32x4.sub(f32x4.mul(f32x4.splat(0.8), x), f32x4.mul(f32x4.splat(0.6), y));
    const v = f32x4.add(f32x4.mul(f32x4.splat(0.6), x), f32x4.mul(f32x4.splat(0.8), y));
    const tone = f32x4.mul(log2Of(f32x4.mul(f32x4.pmax(f32x4.splat(1e-6), luminanceOf(red, green, blue)), f32x4.splat(PER_MID_GREY))), f32x4.splat(0.25));
    const t = f32x4.pmin(one, f32x4.abs(tone));
    const bend = f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
    const stops = f32x4.mul(amount, f32x4.add(one, f32x4.mul(v128.bitselect(shadows, lights, f32x4.lt(tone, zero)), bend)));
    const less = f32x4.mul(even, f32x4.mul(stops, stops));
    const varied = f32x4.mul(stops, strength);
    const grey = f32x4.mul(common, f32x4.mul(f32x4.splat(0.70710678), f32x4.add(fieldAt(field, x, y, level), fieldAt(field, u, v, level))));
    if (!hasOwn) {
      const gain = exp2Of(f32x4.sub(f32x4.mul(varied, grey), less));
      v128.store(r + at, f32x4.mul(red, gain));
      v128.store(g + at, f32x4.mul(green, gain));
      v128.store(b + at, f32x4.mul(blue, gain));
      continue;
    }
    const inRed = f32x4.mul(own, fieldAt(field, f32x4.add(u, f32x4.splat(0.13671875)), f32x4.add(v, f32x4.splat(0.71875)), level));
    const inGreen = f32x4.mul(own, fieldAt(field, f32x4.add(u, f32x4.splat(0.583984375)), f32x4.add(v, f32x4.splat(0.291015625)), level));
    const inBlue = f32x4.mul(own, fieldAt(field, f32x4.add(u, f32x4.splat(0.87109375)), f32x4.add(v, f32x4.splat(0.45703125)), level));
    v128.store(r + at, f32x4.mul(red, exp2Of(f32x4.sub(f32x4.mul(varied, f32x4.add(grey, inRed)), less))));
    v128.store(g + at, f32x4.mul(green, exp2Of(f32x4.sub(f32x4.mul(varied, f32x4.add(grey, inGreen)), less))));
    v128.store(b + at, f32x4.mul(blue, exp2Of(f32x4.sub(f32x4.mul(varied, f32x4.add(grey, inBlue)), less))));
  }
}
