// Point corrections that look numbers up in tables.
import { cubed, cubeRoot, row } from "./correct";
import { gathered } from "./gather";

/** Numbers of a table with `steps` + 1 entries for 0…1; what lies beyond counts as the end, NaN as 0. */
// @ts-ignore: decorator
@inline
function looked(table: usize, steps: f32, x: v128): v128 {
  const at = f32x4.mul(f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), x)), f32x4.splat(steps));
  // The last entry has none behind it.
  const whole = f32x4.pmin(f32x4.floor(at), f32x4.splat(steps - <f32>1));
  return gathered(table, i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 2), f32x4.sub(at, whole));
}

// @ts-ignore: decorator
@inline
export function luminosity(red: v128, green: v128, blue: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(0.3), red), f32x4.mul(f32x4.splat(0.59), green)), f32x4.mul(f32x4.splat(0.11), blue));
}

/** A channel about a luminosity: `scale` of its distance where `isSo`. */
// @ts-ignore: decorator
@inline
function drawnIn(x: v128, l: v128, scale: v128, isSo: v128): v128 {
  return v128.bitselect(f32x4.add(l, f32x4.mul(f32x4.sub(x, l), scale)), x, isSo);
}

/** Writes colours whose luminosity becomes `wanted`, brought back into 0…1 along their own direction. @source W3C Compositing and Blending, SetLum */
// @ts-ignore: decorator
@inline
export function storeWithLuminosity(r: usize, g: usize, b: usize, red: v128, green: v128, blue: v128, wanted: v128): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const d = f32x4.sub(wanted, luminosity(red, green, blue));
  const x = f32x4.add(red, d);
  const y = f32x4.add(green, d);
  const z = f32x4.add(blue, d);
  const l = luminosity(x, y, z);
  const least = f32x4.pmin(x, f32x4.pmin(y, z));
  const most = f32x4.pmax(x, f32x4.pmax(y, z));
  const isUnder = v128.and(f32x4.lt(least, zero), f32x4.gt(l, least));
  const up = f32x4.div(l, f32x4.sub(l, least));
  const isOver = v128.and(f32x4.gt(most, one), f32x4.gt(most, l));
  const down = f32x4.div(f32x4.sub(one, l), f32x4.sub(most, l));
  v128.store(r, drawnIn(drawnIn(x, l, up, isUnder), l, down, isOver));
  v128.store(g, drawnIn(drawnIn(y, l, up, isUnder), l, down, isOver));
  v128.store(b, drawnIn(drawnIn(z, l, up, isUnder), l, down, isOver));
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
  for (let at: usize = 0; at < end; at += 16) {
    const x = looked(red, steps, v128.load(r + at));
    const y = looked(green, steps, v128.load(g + at));
    const z = looked(blue, steps, v128.load(b + at));
    if (hasLuminosity) storeWithLuminosity(r + at, g + at, b + at, x, y, z, looked(light, steps, luminosity(x, y, z)));
    else {
      v128.store(r + at, x);
      v128.store(g + at, y);
      v128.store(b + at, z);
    }
  }
}

// @ts-ignore: decorator
@inline
function storeInUnit(p: usize, x: v128): void {
  v128.store(p, f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), x)));
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
  for (let at: usize = 0; at < end; at += 16) {
    const x = v128.load(r + at);
    const y = v128.load(g + at);
    const z = v128.load(b + at);
    const l = luminosity(x, y, z);
    const x2 = f32x4.add(x, looked(red, steps, l));
    const y2 = f32x4.add(y, looked(green, steps, l));
    const z2 = f32x4.add(z, looked(blue, steps, l));
    if (staysLight) storeWithLuminosity(r + at, g + at, b + at, x2, y2, z2, l);
    else {
      storeInUnit(r + at, x2);
      storeInUnit(g + at, y2);
      storeInUnit(b + at, z2);
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

/** What a table of fours has at one place, and at the next as far as `share` goes. */
// @ts-ignore: decorator
@inline
function fourAt(table: usize, offset: usize, share: v128): v128 {
  const from = v128.load(table + offset);
  return f32x4.add(from, f32x4.mul(share, f32x4.sub(v128.load(table + offset, 16), from)));
}

/** Four matrices (to cones, to Lab, to cones, to light), the chroma from which light changes fully, the number of steps; then around the circle: along, across, light, nothing. */
export function correct_hue_families(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const fullChroma = load<f32>(params, 144);
  const steps = load<f32>(params, 148);
  const table = params + 152;
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
    const offsets = i32x4.shl(i32x4.trunc_sat_f32x4_s(whole), 4);
    const beyond = f32x4.sub(place, whole);
    const p0 = fourAt(table, <usize>i32x4.extract_lane(offsets, 0), i32x4.shuffle(beyond, beyond, 0, 0, 0, 0));
    const p1 = fourAt(table, <usize>i32x4.extract_lane(offsets, 1), i32x4.shuffle(beyond, beyond, 1, 1, 1, 1));
    const p2 = fourAt(table, <usize>i32x4.extract_lane(offsets, 2), i32x4.shuffle(beyond, beyond, 2, 2, 2, 2));
    const p3 = fourAt(table, <usize>i32x4.extract_lane(offsets, 3), i32x4.shuffle(beyond, beyond, 3, 3, 3, 3));
    const low01 = i32x4.shuffle(p0, p1, 0, 4, 1, 5);
    const low23 = i32x4.shuffle(p2, p3, 0, 4, 1, 5);
    const cosine = i32x4.shuffle(low01, low23, 0, 1, 4, 5);
    const sine = i32x4.shuffle(low01, low23, 2, 3, 6, 7);
    const lighter = i32x4.shuffle(i32x4.shuffle(p0, p1, 2, 6, 2, 6), i32x4.shuffle(p2, p3, 2, 6, 2, 6), 0, 1, 4, 5);
    const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(a0, a0), f32x4.mul(b0, b0)));
    const share = f32x4.pmin(one, f32x4.div(chroma, f32x4.splat(fullChroma)));
    const gain = f32x4.add(one, f32x4.mul(share, f32x4.sub(lighter, one)));
    const turnedA = f32x4.sub(f32x4.mul(cosine, a0), f32x4.mul(sine, b0));
    const turnedB = f32x4.add(f32x4.mul(sine, a0), f32x4.mul(cosine, b0));
    storeLab(r + at, g + at, b + at, params + 72, f32x4.mul(row(params, 36, l, m, s), gain), f32x4.mul(turnedA, gain), f32x4.mul(turnedB, gain));
  }
}

// @ts-ignore: decorator
@inline
function storeBetween(p: usize, x: v128, other: v128, share: v128): void {
  v128.store(p, f32x4.add(x, f32x4.mul(share, f32x4.sub(other, x))));
}

/** How much of the colour is mixed in, the number of steps; then the tables of red, green and blue over luminosity. */
export function correct_ramp(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const amount = v128.load32_splat(params);
  const steps = load<f32>(params, 4);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const red = params + 8;
  const green = red + length;
  const blue = green + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 16) {
    const x = v128.load(r + at);
    const y = v128.load(g + at);
    const z = v128.load(b + at);
    const l = luminosity(x, y, z);
    storeBetween(r + at, x, looked(red, steps, l), amount);
    storeBetween(g + at, y, looked(green, steps, l), amount);
    storeBetween(b + at, z, looked(blue, steps, l), amount);
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
