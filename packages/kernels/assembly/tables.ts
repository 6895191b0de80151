// Point corrections that look numbers up in tables.
import { cubed, cubeRoot, row } from "./correct";
import { gathered } from "./gather";

/** A number of a table with `steps` + 1 entries for 0…1; what lies beyond counts as the end, NaN as 0. */
// @ts-ignore: decorator
@inline
function looked(table: usize, steps: f32, x: f32): f32 {
  const inside = x > 0 ? (x < 1 ? x : 1) : 0;
  const at = inside * steps;
  // The last entry has none behind it.
  const whole = min<f32>(floor(at), steps - 1);
  const from = table + ((<usize>(<u32>whole)) << 2);
  const a = load<f32>(from);
  return a + (at - whole) * (load<f32>(from, 4) - a);
}

// @ts-ignore: decorator
@inline
export function luminosity(red: f32, green: f32, blue: f32): f32 {
  return <f32>0.3 * red + <f32>0.59 * green + <f32>0.11 * blue;
}

/** Writes a colour whose luminosity becomes `wanted`, brought back into 0…1 along its own direction. @source W3C Compositing and Blending, SetLum */
// @ts-ignore: decorator
@inline
export function storeWithLuminosity(r: usize, g: usize, b: usize, red: f32, green: f32, blue: f32, wanted: f32): void {
  const d = wanted - luminosity(red, green, blue);
  let x = red + d;
  let y = green + d;
  let z = blue + d;
  const l = luminosity(x, y, z);
  const least = min(x, min(y, z));
  const most = max(x, max(y, z));
  if (least < 0 && l > least) {
    const scale = l / (l - least);
    x = l + (x - l) * scale;
    y = l + (y - l) * scale;
    z = l + (z - l) * scale;
  }
  if (most > 1 && most > l) {
    const scale = (<f32>1 - l) / (most - l);
    x = l + (x - l) * scale;
    y = l + (y - l) * scale;
    z = l + (z - l) * scale;
  }
  store<f32>(r, x);
  store<f32>(g, y);
  store<f32>(b, z);
}

/** Whether luminosity has a curve, the number of steps; then the tables of red, green, blue, luminosity. */
export function correct_curves(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const hasLuminosity = load<f32>(params) != 0;
  const steps = load<f32>(params, 4);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const red = params + 8;
  const green = red + length;
  const blue = green + length;
  const light = blue + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const x = looked(red, steps, load<f32>(r + at));
    const y = looked(green, steps, load<f32>(g + at));
    const z = looked(blue, steps, load<f32>(b + at));
    if (hasLuminosity) storeWithLuminosity(r + at, g + at, b + at, x, y, z, looked(light, steps, luminosity(x, y, z)));
    else {
      store<f32>(r + at, x);
      store<f32>(g + at, y);
      store<f32>(b + at, z);
    }
  }
}

/** Whether the luminosity stays, the number of steps; then what red, green and blue are moved by, over luminosity. */
export function correct_tone_shift(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const staysLight = load<f32>(params) != 0;
  const steps = load<f32>(params, 4);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const red = params + 8;
  const green = red + length;
  const blue = green + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const x = load<f32>(r + at);
    const y = load<f32>(g + at);
    const z = load<f32>(b + at);
    const l = luminosity(x, y, z);
    const x2 = x + looked(red, steps, l);
    const y2 = y + looked(green, steps, l);
    const z2 = z + looked(blue, steps, l);
    if (staysLight) storeWithLuminosity(r + at, g + at, b + at, x2, y2, z2, l);
    else {
      store<f32>(r + at, min<f32>(1, max<f32>(0, x2)));
      store<f32>(g + at, min<f32>(1, max<f32>(0, y2)));
      store<f32>(b + at, min<f32>(1, max<f32>(0, z2)));
    }
  }
}

/** What cones see of light, as OKLab takes it: a row of a matrix, and its cube root. */
// @ts-ignore: decorator
@inline
function conesOf(matrices: usize, at: usize, red: v128, green: v128, blue: v128): v128 {
  return cubeRoot(row(matrices, at, red, green, blue));
}

/** Writes the light of four colours in Lab, by two matrices: to cones, and from their cubes to light. */
// @ts-ignore: decorator
@inline
function storeLab(r: usize, g: usize, b: usize, matrices: usize, lightness: v128, greenRed: v128, blueYellow: v128): void {
  const l = cubed(row(matrices, 0, lightness, greenRed, blueYellow));
  const m = cubed(row(matrices, 12, lightness, greenRed, blueYellow));
  const s = cubed(row(matrices, 24, lightness, greenRed, blueYellow));
  v128.store(r, row(matrices, 36, l, m, s));
  v128.store(g, row(matrices, 48, l, m, s));
  v128.store(b, row(matrices, 60, l, m, s));
}

/** Where directions lie around the circle, from 0 to 4: grows with their angles and needs no arc tangent. */
// @ts-ignore: decorator
@inline
function roundOf(a: v128, b: v128): v128 {
  const zero = f32x4.splat(0);
  const sum = f32x4.add(f32x4.abs(a), f32x4.abs(b));
  const share = f32x4.div(b, sum);
  const right = v128.bitselect(share, f32x4.add(f32x4.splat(4), share), f32x4.ge(b, zero));
  const place = v128.bitselect(right, f32x4.sub(f32x4.splat(2), share), f32x4.ge(a, zero));
  return v128.and(place, f32x4.gt(sum, zero));
}

/** Four matrices (to cones, to Lab, to cones, to light), the chroma from which light changes fully, the number of steps; then tables around the circle: along, across, light. */
export function correct_hue_families(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const fullChroma = load<f32>(params, 144);
  const steps = load<f32>(params, 148);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const along = params + 152;
  const across = along + length;
  const light = across + length;
  const one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const red = v128.load(r + at);
    const green = v128.load(g + at);
    const blue = v128.load(b + at);
    const l = conesOf(params, 0, red, green, blue);
    const m = conesOf(params, 12, red, green, blue);
    const s = conesOf(params, 24, red, green, blue);
    const a0 = row(params, 48, l, m, s);
    const b0 = row(params, 60, l, m, s);
    const place = f32x4.pmin(f32x4.splat(steps), f32x4.pmax(f32x4.splat(0), f32x4.mul(roundOf(a0, b0), f32x4.splat(steps * <f32>0.25))));
    const whole = f32x4.pmin(f32x4.floor(place), f32x4.splat(steps - <f32>1));
    const offsets = i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 2);
    const beyond = f32x4.sub(place, whole);
    const cosine = gathered(along, offsets, beyond);
    const sine = gathered(across, offsets, beyond);
    const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(a0, a0), f32x4.mul(b0, b0)));
    const share = f32x4.pmin(one, f32x4.div(chroma, f32x4.splat(fullChroma)));
    const gain = f32x4.add(one, f32x4.mul(share, f32x4.sub(gathered(light, offsets, beyond), one)));
    const turnedA = f32x4.sub(f32x4.mul(cosine, a0), f32x4.mul(sine, b0));
    const turnedB = f32x4.add(f32x4.mul(sine, a0), f32x4.mul(cosine, b0));
    storeLab(r + at, g + at, b + at, params + 72, f32x4.mul(row(params, 36, l, m, s), gain), f32x4.mul(turnedA, gain), f32x4.mul(turnedB, gain));
  }
}

/** How much of the colour is mixed in, the number of steps; then the tables of red, green and blue over luminosity. */
export function correct_ramp(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const amount = load<f32>(params);
  const steps = load<f32>(params, 4);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const red = params + 8;
  const green = red + length;
  const blue = green + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const x = load<f32>(r + at);
    const y = load<f32>(g + at);
    const z = load<f32>(b + at);
    const l = luminosity(x, y, z);
    store<f32>(r + at, x + amount * (looked(red, steps, l) - x));
    store<f32>(g + at, y + amount * (looked(green, steps, l) - y));
    store<f32>(b + at, z + amount * (looked(blue, steps, l) - z));
  }
}

/** Four matrices (to cones, to Lab, to cones, to light), how much more chroma greys get, and the chroma at which half of it is left. */
export function correct_vibrance(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const amount = load<f32>(params, 144);
  const half = load<f32>(params, 148);
  const one = f32x4.splat(1);
  const most = f32x4.splat(amount * half);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const red = v128.load(r + at);
    const green = v128.load(g + at);
    const blue = v128.load(b + at);
    const l = conesOf(params, 0, red, green, blue);
    const m = conesOf(params, 12, red, green, blue);
    const s = conesOf(params, 24, red, green, blue);
    const a0 = row(params, 48, l, m, s);
    const b0 = row(params, 60, l, m, s);
    const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(a0, a0), f32x4.mul(b0, b0)));
    const gain = f32x4.add(one, f32x4.div(most, f32x4.add(f32x4.splat(half), chroma)));
    storeLab(r + at, g + at, b + at, params + 72, row(params, 36, l, m, s), f32x4.mul(a0, gain), f32x4.mul(b0, gain));
  }
}
