// Air before pixels. The numbers are packed by core's layers/air-pixel.ts, which is the definition; near, far and share come from raster/sides.ts.
import { put } from "./local";
import { fieldAt } from "./sky";
import { exp2Of, log2Of } from "./tone";

const LOG2E: f32 = 1.44269504;
const SKY_METRES: f32 = 50000;
const SKY_WAY: f32 = 1000000;
const MIST_STEPS: f32 = 3;
const LEAN_X: f32 = 0.9;
const LEAN_Z: f32 = -0.6;

/** (1 − e⁻ᵏ) / k for k ≥ 0: a series where the difference would lose its digits. */
// @ts-ignore: decorator
@inline
function shareOf(k: v128): v128 {
  const one = f32x4.splat(1);
  const series = f32x4.sub(one, f32x4.mul(k, f32x4.sub(f32x4.splat(0.5), f32x4.mul(k, f32x4.sub(f32x4.splat(0.16666667), f32x4.mul(k, f32x4.splat(0.041666668)))))));
  const whole = f32x4.div(f32x4.sub(one, exp2Of(f32x4.mul(k, f32x4.splat(-LOG2E)))), k);
  return v128.bitselect(series, whole, f32x4.lt(k, f32x4.splat(0.02)));
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

/** Optical depth between two distances along rays that climb `dy` for each metre; `crossing` is where they pass the ceiling. */
// @ts-ignore: decorator
@inline
function depthOf(params: usize, start: v128, end: v128, dy: v128, crossing: v128, field: usize, step: f32, dx: v128, dz: v128): v128 {
  const zero = f32x4.splat(0);
  const climbs = f32x4.gt(dy, zero);
  const falls = f32x4.lt(dy, zero);
  const eye = v128.load32_splat(params + 28);
  const perFallOff = v128.load32_splat(params + 36);
  const from = v128.bitselect(f32x4.pmax(start, crossing), start, falls);
  end = f32x4.pmin(end, v128.load32_splat(params + 164));
  let to = v128.bitselect(f32x4.pmin(end, crossing), end, climbs);
  // A level ray over the ceiling meets nothing.
  const isOver = v128.andnot(v128.andnot(f32x4.gt(eye, v128.load32_splat(params + 44)), climbs), falls);
  to = v128.bitselect(from, to, isOver);
  const length = f32x4.sub(to, from);
  // Counted from the lower end nothing grows beyond what numbers can hold.
  const low = f32x4.pmin(f32x4.add(eye, f32x4.mul(dy, from)), f32x4.add(eye, f32x4.mul(dy, to)));
  const k = f32x4.mul(f32x4.mul(f32x4.abs(dy), length), perFallOff);
  const thick = f32x4.mul(v128.load32_splat(params + 32), exp2Of(f32x4.mul(f32x4.mul(low, perFallOff), f32x4.splat(-LOG2E))));
  let depth = f32x4.mul(f32x4.mul(thick, length), shareOf(k));
  if (field != 0) depth = f32x4.mul(depth, banks(params, field, step, from, length, dx, dy, dz));
  return v128.and(depth, f32x4.gt(length, zero));
}

// @ts-ignore: decorator
@inline
function hides(depth: v128, more: v128): v128 {
  return f32x4.sub(f32x4.splat(1), exp2Of(f32x4.mul(f32x4.mul(depth, more), f32x4.splat(-LOG2E))));
}

/** What is hidden of a pixel for light that is scattered `more` than usual. */
// @ts-ignore: decorator
@inline
function hiddenOf(toSky: v128, toNear: v128, toFar: v128, seen: v128, farSeen: v128, share: v128, alpha: v128, sky: v128, more: v128): v128 {
  const before = f32x4.mul(sky, hides(toSky, more));
  let surface = v128.bitselect(hides(toNear, more), before, seen);
  if (v128.any_true(f32x4.gt(share, f32x4.splat(0)))) surface = f32x4.add(f32x4.mul(f32x4.sub(f32x4.splat(1), share), surface), f32x4.mul(share, v128.bitselect(hides(toFar, more), before, farSeen)));
  return f32x4.add(surface, f32x4.mul(f32x4.sub(f32x4.splat(1), alpha), f32x4.sub(before, surface)));
}

// @ts-ignore: decorator
@inline
function isSeen(metres: v128): v128 {
  return v128.and(f32x4.gt(metres, f32x4.splat(0)), f32x4.lt(metres, f32x4.splat(SKY_METRES)));
}

export function generate_air(r: usize, g: usize, b: usize, a: usize, x: usize, y: usize, params: usize, n: i32, step: f32, field: usize, nears: usize, fars: usize, shares: usize, covered: usize, _1: usize, _2: usize, belowR: usize, belowG: usize, belowB: usize, before: usize): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const axisX = v128.load32_splat(params);
  const axisY = v128.load32_splat(params + 4);
  const perFocal = v128.load32_splat(params + 8);
  const areDepths = load<f32>(params + 12) != 0;
  const rise = v128.load32_splat(params + 16);
  const riseX = v128.load32_splat(params + 20);
  const riseY = v128.load32_splat(params + 24);
  const above = f32x4.sub(v128.load32_splat(params + 44), v128.load32_splat(params + 28));
  const start = v128.load32_splat(params + 40);
  const sky = v128.load32_splat(params + 48);
  const hasAlpha = load<f32>(params + 52) != 0;
  const forwardness = load<f32>(params + 80);
  const shafts = v128.load32_splat(params + 160);
  const hasShafts = load<f32>(params + 160) != 0;
  const isBlue = load<f32>(params + 148) != 0;
  const base = f32x4.splat(1 + forwardness * forwardness);
  const twice = f32x4.splat(2 * forwardness);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const across = f32x4.mul(f32x4.sub(v128.load(x + at), axisX), perFocal);
    const up = f32x4.mul(f32x4.sub(axisY, v128.load(y + at)), perFocal);
    const long = f32x4.sqrt(f32x4.add(one, f32x4.add(f32x4.mul(across, across), f32x4.mul(up, up))));
    const dy = f32x4.div(f32x4.add(rise, f32x4.add(f32x4.mul(riseX, across), f32x4.mul(riseY, up))), long);
    const crossing = f32x4.div(above, dy);
    let dx = zero;
    let dz = zero;
    if (field != 0) {
      dx = f32x4.div(f32x4.add(v128.load32_splat(params + 120), f32x4.add(f32x4.mul(v128.load32_splat(params + 124), across), f32x4.mul(v128.load32_splat(params + 128), up))), long);
      dz = f32x4.div(f32x4.add(v128.load32_splat(params + 132), f32x4.add(f32x4.mul(v128.load32_splat(params + 136), across), f32x4.mul(v128.load32_splat(params + 140), up))), long);
    }
    const near = v128.load(nears + at);
    const far = v128.load(fars + at);
    const share = v128.load(shares + at);
    const alpha = hasAlpha ? f32x4.pmin(one, f32x4.pmax(zero, v128.load(covered + at))) : one;
    const seen = isSeen(near);
    const farSeen = isSeen(far);
    const needsSky = v128.any_true(v128.or(f32x4.lt(alpha, one), v128.or(v128.not(seen), v128.not(farSeen))));
    const toSky = needsSky ? depthOf(params, start, f32x4.splat(SKY_WAY), dy, crossing, field, step, dx, dz) : zero;
    const toNear = depthOf(params, start, areDepths ? f32x4.mul(near, long) : near, dy, crossing, field, step, dx, dz);
    const toFar = v128.any_true(f32x4.gt(share, zero)) ? depthOf(params, start, areDepths ? f32x4.mul(far, long) : far, dy, crossing, field, step, dx, dz) : zero;
    const cosine = f32x4.div(f32x4.add(v128.load32_splat(params + 84), f32x4.add(f32x4.mul(v128.load32_splat(params + 88), across), f32x4.mul(v128.load32_splat(params + 92), up))), long);
    const wide = f32x4.sub(base, f32x4.mul(twice, cosine));
    let scatter = f32x4.div(one, f32x4.mul(wide, f32x4.sqrt(wide)));
    if (hasShafts) scatter = f32x4.mul(scatter, f32x4.sub(one, f32x4.mul(shafts, v128.load(before + at))));
    const red = f32x4.add(v128.load32_splat(params + 56), f32x4.mul(v128.load32_splat(params + 68), scatter));
    const green = f32x4.add(v128.load32_splat(params + 60), f32x4.mul(v128.load32_splat(params + 72), scatter));
    const blue = f32x4.add(v128.load32_splat(params + 64), f32x4.mul(v128.load32_splat(params + 76), scatter));
    if (!isBlue) {
      v128.store(a + at, hiddenOf(toSky, toNear, toFar, seen, farSeen, share, alpha, sky, one));
      v128.store(r + at, red);
      v128.store(g + at, green);
      v128.store(b + at, blue);
      continue;
    }
    // Each channel by itself.
    const underR = v128.load(belowR + at);
    const underG = v128.load(belowG + at);
    const underB = v128.load(belowB + at);
    v128.store(r + at, f32x4.add(underR, f32x4.mul(f32x4.sub(red, underR), hiddenOf(toSky, toNear, toFar, seen, farSeen, share, alpha, sky, v128.load32_splat(params + 148)))));
    v128.store(g + at, f32x4.add(underG, f32x4.mul(f32x4.sub(green, underG), hiddenOf(toSky, toNear, toFar, seen, farSeen, share, alpha, sky, v128.load32_splat(params + 152)))));
    v128.store(b + at, f32x4.add(underB, f32x4.mul(f32x4.sub(blue, underB), hiddenOf(toSky, toNear, toFar, seen, farSeen, share, alpha, sky, v128.load32_splat(params + 156)))));
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
