// Skies behind pixels. The numbers are packed by core's layers/sky-pixel.ts, which is the definition; the field of the clouds is made by sky/clouds.ts.
import { exp2Of, log2Of } from "./tone";

const LOG2E: f32 = 1.44269504;
const LOWEST_COSINE: f32 = 0.01;
const EARTH_METRES: f32 = 6371009;
const CLOUD_SIGHT_METRES: f32 = 45000;
const PER_LEAST_ALPHA: f32 = 50;
const FIELD_SIDE: i32 = 512;
const LAST_LEVEL: f32 = 7;
const STEEP_SHARE: f32 = 0.45;
const LEAST_THROUGH: f32 = 0.01;

// @ts-ignore: decorator
@inline
function at(params: usize, index: i32): v128 {
  return v128.load32_splat(params + ((<usize>index) << 2));
}

// @ts-ignore: decorator
@inline
function expOf(x: v128): v128 {
  return exp2Of(f32x4.mul(x, f32x4.splat(LOG2E)));
}

/** @source Abramowitz and Stegun 4.4.46, to 2e-8 */
// @ts-ignore: decorator
@inline
function acosOf(x: v128): v128 {
  const one = f32x4.splat(1);
  const a = f32x4.abs(x);
  let series = f32x4.add(f32x4.splat(0.0066700901), f32x4.mul(a, f32x4.splat(-0.0012624911)));
  series = f32x4.add(f32x4.splat(-0.0170881256), f32x4.mul(a, series));
  series = f32x4.add(f32x4.splat(0.0308918810), f32x4.mul(a, series));
  series = f32x4.add(f32x4.splat(-0.0501743046), f32x4.mul(a, series));
  series = f32x4.add(f32x4.splat(0.0889789874), f32x4.mul(a, series));
  series = f32x4.add(f32x4.splat(-0.2145988016), f32x4.mul(a, series));
  series = f32x4.add(f32x4.splat(1.5707963050), f32x4.mul(a, series));
  const angle = f32x4.mul(f32x4.sqrt(f32x4.pmax(f32x4.splat(0), f32x4.sub(one, a))), series);
  return v128.bitselect(f32x4.sub(f32x4.splat(3.1415927), angle), angle, f32x4.lt(x, f32x4.splat(0)));
}

/** Seven numbers: scale × (1 + a e^(b × gradation)) × (k + c e^(d γ) + e cos² γ). */
// @ts-ignore: decorator
@inline
function rowOf(params: usize, first: i32, gradation: v128, gamma: v128, square: v128): v128 {
  const rise = f32x4.add(f32x4.splat(1), f32x4.mul(at(params, first + 1), expOf(f32x4.mul(at(params, first + 2), gradation))));
  const around = f32x4.add(at(params, first + 3), f32x4.add(f32x4.mul(at(params, first + 4), expOf(f32x4.mul(at(params, first + 5), gamma))), f32x4.mul(at(params, first + 6), square)));
  return f32x4.mul(at(params, first), f32x4.mul(rise, around));
}

/** The field between four of its numbers, at a place in its own lengths and in one of its copies. */
// @ts-ignore: decorator
@inline
function fieldAt(field: usize, u: f32, v: f32, wanted: f32): f32 {
  const level = <i32>min<f32>(LAST_LEVEL, max<f32>(0, wanted));
  const size = FIELD_SIDE >> level;
  const mask = size - 1;
  // Σ of the squares of the sides before.
  const start = (4 * FIELD_SIDE * FIELD_SIDE - 4 * size * size) / 3;
  const x = (u - floor(u)) * <f32>size + (<f32>size - <f32>0.5);
  const y = (v - floor(v)) * <f32>size + (<f32>size - <f32>0.5);
  // Not negative: cutting is rounding down.
  const left = <i32>x;
  const top = <i32>y;
  const fx = x - <f32>left;
  const fy = y - <f32>top;
  const x0 = left & mask;
  const x1 = (x0 + 1) & mask;
  const y0 = (top & mask) * size;
  const y1 = ((top + 1) & mask) * size;
  const base = field + ((<usize>start) << 2);
  const a = load<f32>(base + ((<usize>(y0 + x0)) << 2));
  const b = load<f32>(base + ((<usize>(y0 + x1)) << 2));
  const c = load<f32>(base + ((<usize>(y1 + x0)) << 2));
  const d = load<f32>(base + ((<usize>(y1 + x1)) << 2));
  const upper = a + (b - a) * fx;
  return upper + (c + (d - c) * fx - upper) * fy;
}

/** How much smaller the field is the second time: its inverse, and log2 of that. */
const PER_DETAIL: f32 = 4.347826;
const DETAIL_LEVELS: f32 = 2.1202942;

/** @source interleaved gradient noise, Jimenez 2014 */
// @ts-ignore: decorator
@inline
function ditherOf(x: v128, y: v128): v128 {
  const at = f32x4.add(f32x4.mul(f32x4.splat(0.06711056), x), f32x4.mul(f32x4.splat(0.00583715), y));
  const share = f32x4.mul(f32x4.splat(52.9829189), f32x4.sub(at, f32x4.floor(at)));
  return f32x4.sub(share, f32x4.floor(share));
}

/** Light of the disc of the sun, as far as something lets it through. */
// @ts-ignore: decorator
@inline
function discOf(params: usize, cosine: v128, through: v128): v128 {
  const inner = at(params, 56);
  const outer = at(params, 57);
  const share = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), f32x4.div(f32x4.sub(cosine, outer), f32x4.sub(inner, outer))));
  return f32x4.mul(share, through);
}

export function generate_sky(r: usize, g: usize, b: usize, a: usize, x: usize, y: usize, params: usize, n: i32, step: f32, field: usize, covered: usize, _1: usize, _2: usize, belowR: usize, belowG: usize, belowB: usize, oldR: usize, oldG: usize, oldB: usize): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const hasAlpha = load<f32>(params + 12) != 0;
  const exchanges = load<f32>(params + 64) != 0;
  const hasClouds = load<f32>(params + 236) != 0;
  const clouds = params + 248;
  for (let i = 0; i < n; i += 4) {
    const here = (<usize>i) << 2;
    const alpha = hasAlpha ? f32x4.pmin(one, f32x4.pmax(zero, v128.load(covered + here))) : zero;
    const free = f32x4.sub(one, alpha);
    const isFree = f32x4.gt(free, zero);
    if (!v128.any_true(isFree)) {
      v128.store(r + here, zero);
      v128.store(g + here, zero);
      v128.store(b + here, zero);
      v128.store(a + here, zero);
      continue;
    }
    const across = f32x4.mul(f32x4.sub(v128.load(x + here), at(params, 0)), at(params, 2));
    const up = f32x4.mul(f32x4.sub(at(params, 1), v128.load(y + here)), at(params, 2));
    const perLength = f32x4.div(one, f32x4.sqrt(f32x4.add(one, f32x4.add(f32x4.mul(across, across), f32x4.mul(up, up)))));
    const dx = f32x4.mul(perLength, f32x4.add(at(params, 4), f32x4.add(f32x4.mul(at(params, 7), across), f32x4.mul(at(params, 10), up))));
    const dy = f32x4.mul(perLength, f32x4.add(at(params, 5), f32x4.add(f32x4.mul(at(params, 8), across), f32x4.mul(at(params, 11), up))));
    const dz = f32x4.mul(perLength, f32x4.add(at(params, 6), f32x4.add(f32x4.mul(at(params, 9), across), f32x4.mul(at(params, 12), up))));
    const rise = f32x4.pmax(zero, dy);
    const cosine = f32x4.pmin(one, f32x4.pmax(f32x4.splat(-1), f32x4.add(f32x4.mul(dx, at(params, 13)), f32x4.add(f32x4.mul(dy, at(params, 14)), f32x4.mul(dz, at(params, 15))))));
    const gamma = acosOf(cosine);
    const square = f32x4.mul(cosine, cosine);
    const gradation = f32x4.div(one, f32x4.pmax(f32x4.splat(LOWEST_COSINE), rise));
    const bigY = rowOf(params, 17, gradation, gamma, square);
    const cx = rowOf(params, 24, gradation, gamma, square);
    const cy = rowOf(params, 31, gradation, gamma, square);
    const perY = f32x4.div(bigY, cy);
    const bigX = f32x4.mul(cx, perY);
    const bigZ = f32x4.mul(f32x4.sub(f32x4.sub(one, cx), cy), perY);
    const level = f32x4.sqrt(f32x4.pmax(f32x4.splat(1e-12), f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dz, dz))));
    const toSun = f32x4.div(f32x4.add(f32x4.mul(dx, at(params, 51)), f32x4.mul(dz, at(params, 52))), level);
    const band = expOf(f32x4.sub(f32x4.mul(f32x4.neg(at(params, 50)), rise), f32x4.mul(f32x4.splat(1.3), f32x4.sub(one, toSun))));
    let red = f32x4.add(f32x4.pmax(zero, f32x4.add(f32x4.mul(at(params, 38), bigX), f32x4.add(f32x4.mul(at(params, 39), bigY), f32x4.mul(at(params, 40), bigZ)))), f32x4.mul(at(params, 47), band));
    let green = f32x4.add(f32x4.pmax(zero, f32x4.add(f32x4.mul(at(params, 41), bigX), f32x4.add(f32x4.mul(at(params, 42), bigY), f32x4.mul(at(params, 43), bigZ)))), f32x4.mul(at(params, 48), band));
    let blue = f32x4.add(f32x4.pmax(zero, f32x4.add(f32x4.mul(at(params, 44), bigX), f32x4.add(f32x4.mul(at(params, 45), bigY), f32x4.mul(at(params, 46), bigZ)))), f32x4.mul(at(params, 49), band));
    const isUp = f32x4.gt(dy, zero);
    let through = one;
    if (hasClouds && v128.any_true(v128.and(isUp, isFree))) {
      const tile = at(clouds, 1);
      const wx = at(clouds, 2);
      const wz = at(clouds, 3);
      const rises = f32x4.mul(f32x4.splat(EARTH_METRES), rise);
      const squareRise = f32x4.mul(rises, rises);
      const detail = load<f32>(clouds, 17 << 2);
      const shiftU = load<f32>(clouds, 15 << 2);
      const shiftV = load<f32>(clouds, 16 << 2);
      const sheets = load<f32>(clouds, 19 << 2);
      const perSoft = at(clouds, 6);
      let deep = f32x4.splat(load<f32>(clouds, 7 << 2) * <f32>0.6);
      const ahead = f32x4.pmax(zero, cosine);
      const ahead2 = f32x4.mul(ahead, ahead);
      const ahead4 = f32x4.mul(ahead2, ahead2);
      const ahead8 = f32x4.mul(f32x4.splat(2.5), f32x4.mul(ahead4, ahead4));
      const towards = f32x4.add(f32x4.splat(0.55), f32x4.mul(f32x4.splat(0.45), ahead));
      let cloudR = zero;
      let cloudG = zero;
      let cloudB = zero;
      let seen = zero;
      const dither = ditherOf(v128.load(x + here), v128.load(y + here));
      const base = load<f32>(clouds);
      const steep = f32x4.div(f32x4.splat(EARTH_METRES + base), f32x4.sqrt(f32x4.add(squareRise, f32x4.splat(base * (2 * EARTH_METRES + base)))));
      const count = f32x4.ceil(f32x4.mul(f32x4.splat(sheets), f32x4.pmin(one, f32x4.mul(f32x4.splat(STEEP_SHARE), steep))));
      const perCount = f32x4.div(one, count);
      const spread = f32x4.mul(f32x4.splat(sheets), perCount);
      deep = f32x4.mul(deep, perCount);
      for (let sheet: f32 = 0; sheet < sheets; sheet++) {
        const isOpen = v128.and(v128.and(isUp, f32x4.lt(f32x4.splat(sheet), count)), f32x4.gt(through, f32x4.splat(LEAST_THROUGH)));
        if (!v128.any_true(isOpen)) break;
        const place = f32x4.mul(spread, f32x4.add(f32x4.splat(sheet), dither));
        const height = f32x4.add(at(clouds, 0), f32x4.mul(place, at(clouds, 20)));
        const more = f32x4.mul(height, f32x4.add(f32x4.splat(2 * EARTH_METRES), height));
        const root = f32x4.sqrt(f32x4.add(squareRise, more));
        const way = f32x4.div(more, f32x4.add(rises, root));
        if (sheet == 0) seen = expOf(f32x4.mul(way, f32x4.splat(-1 / CLOUD_SIGHT_METRES)));
        const perSlope = f32x4.div(f32x4.add(f32x4.splat(EARTH_METRES), height), root);
        const px = f32x4.mul(dx, way);
        const pz = f32x4.mul(dz, way);
        const u = f32x4.mul(f32x4.mul(f32x4.add(f32x4.mul(px, wx), f32x4.mul(pz, wz)), tile), at(clouds, 4));
        const v = f32x4.mul(f32x4.sub(f32x4.mul(pz, wx), f32x4.mul(px, wz)), tile);
        const far = f32x4.add(dither, log2Of(f32x4.pmax(f32x4.splat(1e-6), f32x4.mul(f32x4.mul(way, f32x4.mul(at(clouds, 18), f32x4.splat(step))), perSlope))));
        const raised = f32x4.add(at(clouds, 5), f32x4.mul(place, at(clouds, 21)));
        let forms = zero;
        let before = zero;
        for (let lane = 0; lane < 4; lane++) {
          const from = lane == 0 ? f32x4.extract_lane(u, 0) : lane == 1 ? f32x4.extract_lane(u, 1) : lane == 2 ? f32x4.extract_lane(u, 2) : f32x4.extract_lane(u, 3);
          const to = lane == 0 ? f32x4.extract_lane(v, 0) : lane == 1 ? f32x4.extract_lane(v, 1) : lane == 2 ? f32x4.extract_lane(v, 2) : f32x4.extract_lane(v, 3);
          const fine = lane == 0 ? f32x4.extract_lane(far, 0) : lane == 1 ? f32x4.extract_lane(far, 1) : lane == 2 ? f32x4.extract_lane(far, 2) : f32x4.extract_lane(far, 3);
          const least = lane == 0 ? f32x4.extract_lane(raised, 0) : lane == 1 ? f32x4.extract_lane(raised, 1) : lane == 2 ? f32x4.extract_lane(raised, 2) : f32x4.extract_lane(raised, 3);
          // Most of the sky is so empty that no detail makes a cloud of it; and where there is no cloud nothing has to be lit.
          let form = (<f32>1 - detail) * fieldAt(field, from, to, fine);
          if (form + detail > least) form += detail * fieldAt(field, from * PER_DETAIL + <f32>0.37, to * PER_DETAIL + <f32>0.61, fine + DETAIL_LEVELS);
          const shaded = form > least ? fieldAt(field, from + shiftU, to + shiftV, fine + 1) : <f32>0;
          const isLane = i32x4.eq(i32x4.splat(lane), i32x4(0, 1, 2, 3));
          forms = v128.bitselect(f32x4.splat(form), forms, isLane);
          before = v128.bitselect(f32x4.splat(shaded), before, isLane);
        }
        if (!v128.any_true(f32x4.gt(forms, raised))) continue;
        const thick = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(f32x4.sub(forms, raised), perSoft)));
        before = f32x4.pmin(f32x4.splat(2), f32x4.pmax(zero, f32x4.mul(f32x4.sub(before, raised), perSoft)));
        const path = f32x4.mul(f32x4.pmin(f32x4.splat(3), perSlope), deep);
        const cover = f32x4.sub(one, expOf(f32x4.neg(f32x4.mul(thick, path))));
        const over = f32x4.sub(one, f32x4.mul(f32x4.splat(sheet + 1), perCount));
        const lit = expOf(f32x4.neg(f32x4.mul(at(clouds, 8), f32x4.add(f32x4.mul(f32x4.splat(0.5), over), f32x4.add(f32x4.mul(f32x4.splat(0.3), thick), f32x4.mul(f32x4.splat(0.75), before))))));
        const glow = f32x4.mul(lit, f32x4.mul(towards, f32x4.add(one, f32x4.mul(ahead8, f32x4.sub(one, thick)))));
        const ambient = f32x4.mul(f32x4.sub(one, f32x4.mul(f32x4.splat(0.45), over)), f32x4.sub(one, f32x4.mul(f32x4.splat(0.35), thick)));
        const share = v128.and(f32x4.mul(through, cover), isOpen);
        cloudR = f32x4.add(cloudR, f32x4.mul(share, f32x4.add(f32x4.mul(at(clouds, 9), glow), f32x4.mul(at(clouds, 12), ambient))));
        cloudG = f32x4.add(cloudG, f32x4.mul(share, f32x4.add(f32x4.mul(at(clouds, 10), glow), f32x4.mul(at(clouds, 13), ambient))));
        cloudB = f32x4.add(cloudB, f32x4.mul(share, f32x4.add(f32x4.mul(at(clouds, 11), glow), f32x4.mul(at(clouds, 14), ambient))));
        through = v128.bitselect(f32x4.mul(through, f32x4.sub(one, cover)), through, isOpen);
      }
      const disc = f32x4.mul(through, discOf(params, cosine, f32x4.mul(through, f32x4.mul(through, through))));
      // Clouds fade into the sky with distance.
      const sky = f32x4.sub(one, f32x4.mul(seen, f32x4.sub(one, through)));
      red = f32x4.add(f32x4.mul(sky, red), f32x4.add(f32x4.mul(at(params, 53), disc), f32x4.mul(seen, cloudR)));
      green = f32x4.add(f32x4.mul(sky, green), f32x4.add(f32x4.mul(at(params, 54), disc), f32x4.mul(seen, cloudG)));
      blue = f32x4.add(f32x4.mul(sky, blue), f32x4.add(f32x4.mul(at(params, 55), disc), f32x4.mul(seen, cloudB)));
    } else {
      const disc = discOf(params, cosine, through);
      red = f32x4.add(red, f32x4.mul(at(params, 53), disc));
      green = f32x4.add(green, f32x4.mul(at(params, 54), disc));
      blue = f32x4.add(blue, f32x4.mul(at(params, 55), disc));
    }
    const dim = v128.bitselect(f32x4.add(f32x4.splat(0.25), f32x4.mul(f32x4.splat(0.55), expOf(f32x4.mul(f32x4.splat(14), dy)))), one, f32x4.lt(dy, zero));
    red = f32x4.mul(red, dim);
    green = f32x4.mul(green, dim);
    blue = f32x4.mul(blue, dim);
    if (exchanges) {
      const keeps = f32x4.pmin(one, f32x4.mul(alpha, f32x4.splat(PER_LEAST_ALPHA)));
      red = f32x4.add(f32x4.mul(free, red), f32x4.mul(keeps, f32x4.pmax(zero, f32x4.sub(v128.load(belowR + here), f32x4.mul(free, v128.load(oldR + here))))));
      green = f32x4.add(f32x4.mul(free, green), f32x4.mul(keeps, f32x4.pmax(zero, f32x4.sub(v128.load(belowG + here), f32x4.mul(free, v128.load(oldG + here))))));
      blue = f32x4.add(f32x4.mul(free, blue), f32x4.mul(keeps, f32x4.pmax(zero, f32x4.sub(v128.load(belowB + here), f32x4.mul(free, v128.load(oldB + here))))));
    }
    v128.store(r + here, v128.and(red, isFree));
    v128.store(g + here, v128.and(green, isFree));
    v128.store(b + here, v128.and(blue, isFree));
    v128.store(a + here, v128.and(exchanges ? one : free, isFree));
  }
}
