// Tables of colours: what color/lut.ts of the core defines. One step after the other over the whole span.
import { correct_matrix } from "./tone";

export function correct_lut(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const steps = <i32>load<f32>(params);
  let at = params + 4;
  for (let step = 0; step < steps; step++) {
    const mark = <i32>load<f32>(at);
    const length = <i32>load<f32>(at, 4);
    const first = at + 8;
    if (mark == 1) correct_matrix(r, g, b, first, n);
    else if (mark == 2) {
      bounded(r, first, n);
      bounded(g, first, n);
      bounded(b, first, n);
    } else if (mark == 3) {
      raised(r, load<f32>(first), n);
      raised(g, load<f32>(first, 4), n);
      raised(b, load<f32>(first, 8), n);
    } else if (mark == 4) {
      curved(r, first, 0, n);
      curved(g, first, 4, n);
      curved(b, first, 8, n);
    } else if (mark == 6) {
      const mirrored = load<f32>(first, 84) == 1;
      pieced(r, first, mirrored, n);
      pieced(g, first + 28, mirrored, n);
      pieced(b, first + 56, mirrored, n);
    } else if (mark == 9) {
      byHalves(r, first, n);
      byHalves(g, first + 4, n);
      byHalves(b, first + 8, n);
    } else if (mark >= 7) {
      logged(r, first, mark == 8, n);
      logged(g, first + 28, mark == 8, n);
      logged(b, first + 56, mark == 8, n);
    } else cubed(r, g, b, first, n);
    at = first + ((<usize>length) << 2);
  }
}

function bounded(p: usize, ends: usize, n: i32): void {
  const low = v128.load32_splat(ends);
  const high = v128.load32_splat(ends + 4);
  for (let i = 0; i < n; i += 4) {
    const to = p + ((<usize>i) << 2);
    v128.store(to, f32x4.pmin(high, f32x4.pmax(low, v128.load(to))));
  }
}

function raised(p: usize, power: f32, n: i32): void {
  for (let i = 0; i < n; i++) {
    const to = p + ((<usize>i) << 2);
    const value = load<f32>(to);
    if (value > 0) store<f32>(to, <f32>Math.pow(<f64>value, <f64>power));
  }
}

function pieced(p: usize, at: usize, mirrored: bool, n: i32): void {
  for (let i = 0; i < n; i++) {
    const to = p + ((<usize>i) << 2);
    const value = <f64>load<f32>(to);
    const sign: f64 = mirrored && value < 0 ? -1 : 1;
    const x = value * sign;
    const made = x >= <f64>load<f32>(at, 20) ? Math.pow(Math.max(0, x * <f64>load<f32>(at) + <f64>load<f32>(at, 4)), <f64>load<f32>(at, 8)) * <f64>load<f32>(at, 12) + <f64>load<f32>(at, 16) : x * <f64>load<f32>(at, 24);
    store<f32>(to, <f32>(sign * made));
  }
}

/** The least normal number of single precision, and the logarithm of the largest. */
const LEAST: f64 = 1.17549435e-38;
const LAST_EXPONENT: f64 = 88.596; // of 3e38

function logged(p: usize, at: usize, back: bool, n: i32): void {
  for (let i = 0; i < n; i++) {
    const to = p + ((<usize>i) << 2);
    const x = <f64>load<f32>(to);
    if (!(x > <f64>load<f32>(at, 16))) {
      store<f32>(to, <f32>(x * <f64>load<f32>(at, 20) + <f64>load<f32>(at, 24)));
      continue;
    }
    const inside = x * <f64>load<f32>(at) + <f64>load<f32>(at, 4);
    const made = back ? Math.exp(Math.min(LAST_EXPONENT, inside)) : Math.log(Math.max(LEAST, inside));
    store<f32>(to, <f32>(made * <f64>load<f32>(at, 8) + <f64>load<f32>(at, 12)));
  }
}

/** Where a value lies among the entries; what is no number lies at the first. */
// @ts-ignore: decorator
@inline
function placeOf(value: f32, head: usize, channel: usize, last: f32): f32 {
  const place = (value - load<f32>(head + channel, 4)) * load<f32>(head + channel, 16);
  return place > 0 ? min<f32>(last, place) : 0;
}

function curved(p: usize, head: usize, channel: usize, n: i32): void {
  const count = load<f32>(head);
  const table = head + 28 + channel;
  for (let i = 0; i < n; i++) {
    const to = p + ((<usize>i) << 2);
    const place = placeOf(load<f32>(to), head, channel, count - 1);
    const whole = min<f32>(count - 2, floor<f32>(place));
    const from = table + (<usize>whole) * 12;
    const value = load<f32>(from);
    store<f32>(to, value + (place - whole) * (load<f32>(from, 12) - value));
  }
}

/** Between the entries of the two halves about it. */
function byHalves(p: usize, table: usize, n: i32): void {
  for (let i = 0; i < n; i++) {
    const to = p + ((<usize>i) << 2);
    const given = load<f32>(to);
    const far = abs<f32>(given);
    const value = far < 65504 ? far : far == far ? <f32>65504 : <f32>0;
    let whole: i32;
    let share: f32;
    if (value >= 0.00006103515625) {
      const bits = reinterpret<i32>(value) - 0x38000000;
      whole = bits >> 13;
      share = <f32>(bits & 8191) / <f32>8192;
    } else {
      const place = value * <f32>16777216;
      whole = <i32>floor<f32>(place);
      share = place - <f32>whole;
    }
    // The last half has none behind it.
    if (whole > 31742) {
      whole = 31742;
      share = 1;
    }
    const at = table + (<usize>(whole + (given < 0 ? 32768 : 0))) * 12;
    const from = load<f32>(at);
    store<f32>(to, from + share * (load<f32>(at, 12) - from));
  }
}

function cubed(r: usize, g: usize, b: usize, head: usize, n: i32): void {
  const side = load<f32>(head);
  const table = head + 28;
  const across = (<usize>side) * 12;
  const deep = (<usize>side) * across;
  for (let i = 0; i < n; i++) {
    const o = (<usize>i) << 2;
    const x = placeOf(load<f32>(r + o), head, 0, side - 1);
    const y = placeOf(load<f32>(g + o), head, 4, side - 1);
    const z = placeOf(load<f32>(b + o), head, 8, side - 1);
    const wx = min<f32>(side - 2, floor<f32>(x));
    const wy = min<f32>(side - 2, floor<f32>(y));
    const wz = min<f32>(side - 2, floor<f32>(z));
    const fx = x - wx;
    const fy = y - wy;
    const fz = z - wz;
    const at = table + (<usize>wx) * 12 + (<usize>wy) * across + (<usize>wz) * deep;
    // Over the axes in the order of how far the colour lies along them.
    let s1: usize;
    let s2: usize;
    let f1: f32;
    let f2: f32;
    let f3: f32;
    if (fx >= fy) {
      if (fy >= fz) {
        s1 = 12; s2 = 12 + across; f1 = fx; f2 = fy; f3 = fz;
      } else if (fx >= fz) {
        s1 = 12; s2 = 12 + deep; f1 = fx; f2 = fz; f3 = fy;
      } else {
        s1 = deep; s2 = deep + 12; f1 = fz; f2 = fx; f3 = fy;
      }
    } else if (fz > fy) {
      s1 = deep; s2 = deep + across; f1 = fz; f2 = fy; f3 = fx;
    } else if (fz > fx) {
      s1 = across; s2 = across + deep; f1 = fy; f2 = fz; f3 = fx;
    } else {
      s1 = across; s2 = across + 12; f1 = fy; f2 = fx; f3 = fz;
    }
    const end = at + 12 + across + deep;
    const w0: f32 = <f32>1 - f1;
    const w1: f32 = f1 - f2;
    const w2: f32 = f2 - f3;
    store<f32>(r + o, w0 * load<f32>(at) + w1 * load<f32>(at + s1) + w2 * load<f32>(at + s2) + f3 * load<f32>(end));
    store<f32>(g + o, w0 * load<f32>(at, 4) + w1 * load<f32>(at + s1, 4) + w2 * load<f32>(at + s2, 4) + f3 * load<f32>(end, 4));
    store<f32>(b + o, w0 * load<f32>(at, 8) + w1 * load<f32>(at + s1, 8) + w2 * load<f32>(at + s2, 8) + f3 * load<f32>(end, 8));
  }
}
