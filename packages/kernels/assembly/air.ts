// Air before pixels. The numbers are packed by core's layers/air-pixel.ts, which is the definition; near, far and share come from raster/sides.ts.
import { put } from "./local";
import { fieldAt } from "./sky";
import { beyondOf, curveOf, exp2Of, exponentOf, LEAST_POWER, LINEAR, log2Of } from "./tone";

const LOG2E: f32 = 1.44269504;
const SKY_METRES: f32 = 50000;
const SKY_WAY: f32 = 1000000;
const MIST_STEPS: f32 = 3;
const NO_CEILING: f32 = 1e30;
/** Rays that climb less are level: a share of nothing has no number. */
const LEAST_CLIMB: f32 = 1e-20;
const LEAN_X: f32 = 0.9;
const LEAN_Z: f32 = -0.6;

/** 1 − e^(−x) for x ≥ 0, to the last digits also of small ones: 2ⁿ and what the rest adds to it are taken from 1 apart. See exp2Of. */
// @ts-ignore: decorator
@inline
function hides(x: v128): v128 {
  const inside = f32x4.pmax(f32x4.splat(LEAST_POWER), f32x4.mul(x, f32x4.splat(-LOG2E)));
  const exponent = exponentOf(inside);
  const f = beyondOf(inside, exponent);
  const rest = f32x4.add(f32x4.mul(f, f32x4.splat(LINEAR)), curveOf(f));
  const whole = i32x4.shl(exponent, 23);
  return f32x4.sub(f32x4.sub(f32x4.splat(1), whole), f32x4.mul(whole, rest));
}

/** How much more than evenly there is of it on the way from a distance on. */
// @ts-ignore: decorator
@inline
function banks(params: usize, field: usize, step: f32, from: v128, way: v128, dx: v128, dy: v128, dz: v128): v128 {
  const tile = v128.load32_splat(params + 100);
  const texels = f32x4.splat(load<f32>(params + 104) * step);
  const part = f32x4.mul(f32x4.pmin(way, v128.load32_splat(params + 116)), f32x4.splat(1 / MIST_STEPS));
  let sum = f32x4.splat(0);
  for (let k: f32 = 0; k < MIST_STEPS; k++) {
    const at = f32x4.add(from, f32x4.mul(f32x4.splat(k + 0.5), part));
    const height = f32x4.add(v128.load32_splat(params + 28), f32x4.mul(dy, at));
    const u = f32x4.mul(tile, f32x4.add(f32x4.add(v128.load32_splat(params + 108), f32x4.mul(dx, at)), f32x4.mul(f32x4.splat(LEAN_X), height)));
    const v = f32x4.mul(tile, f32x4.add(f32x4.add(v128.load32_splat(params + 112), f32x4.mul(dz, at)), f32x4.mul(f32x4.splat(LEAN_Z), height)));
    sum = f32x4.add(sum, fieldAt(field, u, v, log2Of(f32x4.pmax(f32x4.splat(1e-6), f32x4.mul(at, texels)))));
  }
  const more = f32x4.sub(f32x4.mul(sum, f32x4.splat(2 / MIST_STEPS)), f32x4.splat(1));
  return f32x4.pmax(f32x4.splat(0), f32x4.add(f32x4.splat(1), f32x4.mul(v128.load32_splat(params + 96), more)));
}

/** Optical depth up to a distance along rays that climb `dy` for each metre. */
// @ts-ignore: decorator
@inline
function depthTo(params: usize, end: v128, x: v128, y: v128, dy: v128, perLong: v128, field: usize, step: f32): v128 {
  const zero = f32x4.splat(0);
  const eye = v128.load32_splat(params + 28);
  let from = v128.load32_splat(params + 40);
  let to = f32x4.pmin(end, v128.load32_splat(params + 164));
  if (load<f32>(params + 44) < NO_CEILING) {
    const ceiling = v128.load32_splat(params + 44);
    const crossing = f32x4.div(f32x4.sub(ceiling, eye), dy);
    const climbs = f32x4.gt(dy, zero);
    const falls = f32x4.lt(dy, zero);
    from = v128.bitselect(f32x4.pmax(from, crossing), from, falls);
    to = v128.bitselect(f32x4.pmin(to, crossing), to, climbs);
    // A level ray over the ceiling meets nothing.
    to = v128.bitselect(from, to, v128.andnot(v128.andnot(f32x4.gt(eye, ceiling), climbs), falls));
  }
  const length = f32x4.sub(to, from);
  let depth = f32x4.mul(v128.load32_splat(params + 32), length);
  if (load<f32>(params + 36) != 0) {
    const perFallOff = v128.load32_splat(params + 36);
    // Counted from the lower end nothing grows beyond what numbers can hold.
    const low = f32x4.add(eye, f32x4.pmin(f32x4.mul(dy, from), f32x4.mul(dy, to)));
    const k = f32x4.pmax(f32x4.splat(LEAST_CLIMB), f32x4.mul(f32x4.mul(f32x4.abs(dy), length), perFallOff));
    depth = f32x4.mul(f32x4.mul(depth, exp2Of(f32x4.mul(low, f32x4.mul(perFallOff, f32x4.splat(-LOG2E))))), f32x4.div(hides(k), k));
  }
  if (field != 0) {
    const across = acrossOf(params, x);
    const up = upOf(params, y);
    depth = f32x4.mul(depth, banks(params, field, step, from, length, f32x4.mul(alongOf(params + 120, across, up), perLong), dy, f32x4.mul(alongOf(params + 132, across, up), perLong)));
  }
  return v128.and(depth, f32x4.gt(length, zero));
}

// @ts-ignore: decorator
@inline
function isSeen(metres: v128): v128 {
  return v128.and(f32x4.gt(metres, f32x4.splat(0)), f32x4.lt(metres, f32x4.splat(SKY_METRES)));
}

/** Along the camera's axes, for a metre of depth: a constant, by x, by y. */
// @ts-ignore: decorator
@inline
function alongOf(params: usize, across: v128, up: v128): v128 {
  return f32x4.add(v128.load32_splat(params), f32x4.add(f32x4.mul(v128.load32_splat(params + 4), across), f32x4.mul(v128.load32_splat(params + 8), up)));
}

// @ts-ignore: decorator
@inline
function acrossOf(params: usize, x: v128): v128 {
  return f32x4.mul(f32x4.sub(x, v128.load32_splat(params)), v128.load32_splat(params + 8));
}

// @ts-ignore: decorator
@inline
function upOf(params: usize, y: v128): v128 {
  return f32x4.mul(f32x4.sub(v128.load32_splat(params + 4), y), v128.load32_splat(params + 8));
}

/** What is hidden by air so deep, up to a thing or the sky. */
// @ts-ignore: decorator
@inline
function hiddenBy(params: usize, depth: v128, seen: v128, more: v128): v128 {
  return f32x4.mul(hides(f32x4.mul(more, depth)), v128.bitselect(f32x4.splat(1), v128.load32_splat(params + 48), seen));
}

/** What is hidden of a pixel that may show two things and a share of sky, for light that is scattered `more` than usual. */
// @ts-ignore: decorator
@inline
function hiddenOf(params: usize, depth: v128, seen: v128, hasFar: bool, toFar: v128, farSeen: v128, share: v128, hasSky: bool, toSky: v128, alpha: v128, more: v128): v128 {
  let hidden = hiddenBy(params, depth, seen, more);
  if (hasFar) hidden = f32x4.add(hidden, f32x4.mul(share, f32x4.sub(hiddenBy(params, toFar, farSeen, more), hidden)));
  if (hasSky) hidden = f32x4.add(hidden, f32x4.mul(f32x4.sub(f32x4.splat(1), alpha), f32x4.sub(hiddenBy(params, toSky, f32x4.splat(0), more), hidden)));
  return hidden;
}

/** Optical depth up to the far one of two things, or to the sky. */
function depthToFar(params: usize, far: v128, x: v128, y: v128, dy: v128, perLong: v128, long: v128, field: usize, step: f32): v128 {
  const metres = load<f32>(params + 12) != 0 ? f32x4.mul(far, long) : far;
  return depthTo(params, v128.bitselect(metres, f32x4.splat(SKY_WAY), isSeen(far)), x, y, dy, perLong, field, step);
}

/** So many pixels go through one step before the next: in short steps neighbours do not wait for one another, and what is handed on stays in the cache. */
const BLOCK: i32 = 512;

export function generate_air(r: usize, g: usize, b: usize, a: usize, x: usize, y: usize, params: usize, n: i32, step: f32, field: usize, nears: usize, fars: usize, shares: usize, covered: usize, _1: usize, _2: usize, belowR: usize, belowG: usize, belowB: usize, before: usize): void {
  for (let first = 0; first < n; first += BLOCK) {
    const last = min(n, first + BLOCK);
    raysOf(r, g, b, x, y, params, first, last);
    depthsOf(a, r, g, b, x, y, params, first, last, step, field, nears);
    lightOf(r, g, b, a, x, y, params, first, last, step, field, nears, fars, shares, covered, belowR, belowG, belowB, before);
  }
}

/** How long rays are for a metre of depth, one by that, and how much they climb. */
function raysOf(perLongs: usize, climbs: usize, longs: usize, x: usize, y: usize, params: usize, first: i32, last: i32): void {
  const one = f32x4.splat(1);
  for (let i = first; i < last; i += 4) {
    const at = (<usize>i) << 2;
    const across = acrossOf(params, v128.load(x + at));
    const up = upOf(params, v128.load(y + at));
    const long = f32x4.sqrt(f32x4.add(one, f32x4.add(f32x4.mul(across, across), f32x4.mul(up, up))));
    const perLong = f32x4.div(one, long);
    v128.store(longs + at, long);
    v128.store(perLongs + at, perLong);
    v128.store(climbs + at, f32x4.mul(alongOf(params + 16, across, up), perLong));
  }
}

/** Optical depth up to what is near, or to the sky where nothing is. */
function depthsOf(depths: usize, perLongs: usize, climbs: usize, longs: usize, x: usize, y: usize, params: usize, first: i32, last: i32, step: f32, field: usize, nears: usize): void {
  const areDepths = load<f32>(params + 12) != 0;
  for (let i = first; i < last; i += 4) {
    const at = (<usize>i) << 2;
    const near = v128.load(nears + at);
    const metres = areDepths ? f32x4.mul(near, v128.load(longs + at)) : near;
    const end = v128.bitselect(metres, f32x4.splat(SKY_WAY), isSeen(near));
    v128.store(depths + at, depthTo(params, end, v128.load(x + at), v128.load(y + at), v128.load(climbs + at), v128.load(perLongs + at), field, step));
  }
}

/** Light of the air, and how much of what is behind it hides. */
function lightOf(r: usize, g: usize, b: usize, a: usize, x: usize, y: usize, params: usize, first: i32, last: i32, step: f32, field: usize, nears: usize, fars: usize, shares: usize, covered: usize, belowR: usize, belowG: usize, belowB: usize, before: usize): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const hasAlpha = load<f32>(params + 52) != 0;
  const forwardness = load<f32>(params + 80);
  const shafts = v128.load32_splat(params + 160);
  const hasShafts = load<f32>(params + 160) != 0;
  const glows = load<f32>(params + 68) != 0 || load<f32>(params + 72) != 0 || load<f32>(params + 76) != 0;
  const isBlue = load<f32>(params + 148) != 0;
  const base = f32x4.splat(1 + forwardness * forwardness);
  const twice = f32x4.splat(2 * forwardness);
  let red = v128.load32_splat(params + 56);
  let green = v128.load32_splat(params + 60);
  let blue = v128.load32_splat(params + 64);
  for (let i = first; i < last; i += 4) {
    const at = (<usize>i) << 2;
    const near = v128.load(nears + at);
    const far = v128.load(fars + at);
    const share = v128.load(shares + at);
    const alpha = hasAlpha ? f32x4.pmin(one, f32x4.pmax(zero, v128.load(covered + at))) : one;
    const seen = isSeen(near);
    const farSeen = isSeen(far);
    const depth = v128.load(a + at);
    const perLong = v128.load(r + at);
    const dy = v128.load(g + at);
    const long = v128.load(b + at);
    const hasFar = v128.any_true(f32x4.gt(share, zero));
    // A share of sky is only told from what is not sky anyway.
    const hasSky = hasAlpha && v128.any_true(v128.and(f32x4.lt(alpha, one), v128.or(seen, farSeen)));
    const toFar = hasFar ? depthToFar(params, far, v128.load(x + at), v128.load(y + at), dy, perLong, long, field, step) : depth;
    const toSky = hasSky ? depthToFar(params, zero, v128.load(x + at), v128.load(y + at), dy, perLong, long, field, step) : depth;
    if (glows) {
      const cosine = f32x4.mul(alongOf(params + 84, acrossOf(params, v128.load(x + at)), upOf(params, v128.load(y + at))), perLong);
      const wide = f32x4.sub(base, f32x4.mul(twice, cosine));
      let scatter = f32x4.div(one, f32x4.mul(wide, f32x4.sqrt(wide)));
      if (hasShafts) scatter = f32x4.mul(scatter, f32x4.sub(one, f32x4.mul(shafts, v128.load(before + at))));
      red = f32x4.add(v128.load32_splat(params + 56), f32x4.mul(v128.load32_splat(params + 68), scatter));
      green = f32x4.add(v128.load32_splat(params + 60), f32x4.mul(v128.load32_splat(params + 72), scatter));
      blue = f32x4.add(v128.load32_splat(params + 64), f32x4.mul(v128.load32_splat(params + 76), scatter));
    }
    if (!isBlue) {
      v128.store(a + at, hiddenOf(params, depth, seen, hasFar, toFar, farSeen, share, hasSky, toSky, alpha, one));
      v128.store(r + at, red);
      v128.store(g + at, green);
      v128.store(b + at, blue);
      continue;
    }
    // Each channel by itself.
    const underR = v128.load(belowR + at);
    const underG = v128.load(belowG + at);
    const underB = v128.load(belowB + at);
    v128.store(r + at, f32x4.add(underR, f32x4.mul(f32x4.sub(red, underR), hiddenOf(params, depth, seen, hasFar, toFar, farSeen, share, hasSky, toSky, alpha, v128.load32_splat(params + 148)))));
    v128.store(g + at, f32x4.add(underG, f32x4.mul(f32x4.sub(green, underG), hiddenOf(params, depth, seen, hasFar, toFar, farSeen, share, hasSky, toSky, alpha, v128.load32_splat(params + 152)))));
    v128.store(b + at, f32x4.add(underB, f32x4.mul(f32x4.sub(blue, underB), hiddenOf(params, depth, seen, hasFar, toFar, farSeen, share, hasSky, toSky, alpha, v128.load32_splat(params + 156)))));
    v128.store(a + at, one);
  }
}

/** Near, far and share of width × height pixels, of numbers that reach a pixel beyond on each side. */
export function sides(out: usize, from: usize, width: i32, height: i32): void {
  const across = (<usize>(width + 2)) << 2;
  const area = (<usize>(width * height)) << 2;
  const jump = f32x4.splat(0.1);
  const jumpShare = f32x4.splat(0.05);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 4) {
      const at = from + (<usize>y) * across + ((<usize>x) << 2);
      const own = v128.load(at + across + 4);
      let least = own;
      let most = own;
      for (let j: usize = 0; j < 3; j++) {
        for (let i: usize = 0; i < 3; i++) {
          const value = v128.load(at + j * across + (i << 2));
          least = f32x4.pmin(least, value);
          most = f32x4.pmax(most, value);
        }
      }
      const isJump = f32x4.gt(f32x4.sub(most, least), f32x4.add(jump, f32x4.mul(jumpShare, least)));
      const isEdge = v128.and(isJump, v128.and(f32x4.gt(own, least), f32x4.lt(own, most)));
      const to = out + ((<usize>(y * width + x)) << 2);
      const left = width - x;
      put(to, v128.bitselect(least, own, isEdge), left);
      put(to + area, v128.bitselect(most, own, isEdge), left);
      put(to + 2 * area, v128.and(f32x4.div(f32x4.sub(own, least), f32x4.sub(most, least)), isEdge), left);
    }
  }
}
