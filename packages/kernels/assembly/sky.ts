// Skies behind pixels. The numbers are packed by core's sky/pixel.ts, which is the definition; the field of the clouds is made by sky/clouds.ts.
import { exp2Of, LEAST_POWER, log2Of } from "./tone";

const LOG2E: f32 = 1.44269504;
const LOWEST_COSINE: f32 = 0.01;
const EARTH_METRES: f32 = 6371009;
const CLOUD_SIGHT_METRES: f32 = 45000;
const PER_LEAST_ALPHA: f32 = 50;
const LEAST_WRAP: f32 = 1.0 / 255.0;
const PER_MIRRORED_RISE: f32 = 20;
const LEAST_NORMAL_SQUARE: f32 = 0.04;
const FIELD_BITS: i32 = 9;
/** Four times the square of the largest side, 2^FIELD_BITS. */
const FIELD_SQUARES: f32 = 1048576;
const LAST_LEVEL: f32 = 7;
const STEEP_SHARE: f32 = 0.3;
const SHAKEN: f32 = 0.4;
const FINEST_SHARE: f32 = 0.3;
const LEAST_THROUGH: f32 = 0.01;

// @ts-ignore: decorator
@inline
function at(params: usize, index: i32): v128 {
  return v128.load32_splat(params + ((<usize>index) << 2));
}

// @ts-ignore: decorator
@inline
function expOf(x: v128): v128 {
  return exp2Of(f32x4.pmax(f32x4.splat(LEAST_POWER), f32x4.mul(x, f32x4.splat(LOG2E))));
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

/** Numbers of the field at four places. */
// @ts-ignore: decorator
@inline
function four(field: usize, index: v128): v128 {
  const offset = i32x4.shl(index, 2);
  let found = v128.load32_splat(field + <usize>i32x4.extract_lane(offset, 0));
  found = f32x4.replace_lane(found, 1, load<f32>(field + <usize>i32x4.extract_lane(offset, 1)));
  found = f32x4.replace_lane(found, 2, load<f32>(field + <usize>i32x4.extract_lane(offset, 2)));
  return f32x4.replace_lane(found, 3, load<f32>(field + <usize>i32x4.extract_lane(offset, 3)));
}

/** The field between four of its numbers, at places in its own lengths and each in one of its copies. */
// @ts-ignore: decorator
@inline
export function fieldAt(field: usize, u: v128, v: v128, wanted: v128): v128 {
  const level = i32x4.trunc_sat_f32x4_s(f32x4.pmin(f32x4.splat(LAST_LEVEL), f32x4.pmax(f32x4.splat(0), wanted)));
  // FIELD_SIDE / 2^level, as a number by its exponent.
  const size = i32x4.shl(i32x4.sub(i32x4.splat(127 + FIELD_BITS), level), 23);
  const side = i32x4.trunc_sat_f32x4_s(size);
  const mask = i32x4.sub(side, i32x4.splat(1));
  // Σ of the squares of the sides before: whole numbers, which single precision holds.
  const start = i32x4.trunc_sat_f32x4_s(f32x4.div(f32x4.sub(f32x4.splat(FIELD_SQUARES), f32x4.mul(f32x4.splat(4), f32x4.mul(size, size))), f32x4.splat(3)));
  const half = f32x4.sub(size, f32x4.splat(0.5));
  const x = f32x4.add(f32x4.mul(f32x4.sub(u, f32x4.floor(u)), size), half);
  const y = f32x4.add(f32x4.mul(f32x4.sub(v, f32x4.floor(v)), size), half);
  // Not negative: cutting is rounding down.
  const left = i32x4.trunc_sat_f32x4_s(x);
  const top = i32x4.trunc_sat_f32x4_s(y);
  const fx = f32x4.sub(x, f32x4.convert_i32x4_s(left));
  const fy = f32x4.sub(y, f32x4.convert_i32x4_s(top));
  const x0 = v128.and(left, mask);
  const x1 = v128.and(i32x4.add(left, i32x4.splat(1)), mask);
  const y0 = i32x4.add(start, i32x4.mul(v128.and(top, mask), side));
  const y1 = i32x4.add(start, i32x4.mul(v128.and(i32x4.add(top, i32x4.splat(1)), mask), side));
  const a = four(field, i32x4.add(y0, x0));
  const c = four(field, i32x4.add(y1, x0));
  const upper = f32x4.add(a, f32x4.mul(fx, f32x4.sub(four(field, i32x4.add(y0, x1)), a)));
  const lower = f32x4.add(c, f32x4.mul(fx, f32x4.sub(four(field, i32x4.add(y1, x1)), c)));
  return f32x4.add(upper, f32x4.mul(fy, f32x4.sub(lower, upper)));
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

/** So many pixels go through one step before the next: in short steps neighbours do not wait for one another, and what is handed on stays in the cache. */
const BLOCK: i32 = 256;
/** Where those that show any sky lie, and what their steps hand on. */
const places: usize = memory.data(BLOCK, 16);
const dxs: usize = memory.data(BLOCK * 4, 16);
const dys: usize = memory.data(BLOCK * 4, 16);
const dzs: usize = memory.data(BLOCK * 4, 16);
const cosines: usize = memory.data(BLOCK * 4, 16);
const gammas: usize = memory.data(BLOCK * 4, 16);
const gradations: usize = memory.data(BLOCK * 4, 16);

export function generate_sky(r: usize, g: usize, b: usize, a: usize, x: usize, y: usize, params: usize, n: i32, step: f32, field: usize, covered: usize, _1: usize, _2: usize, belowR: usize, belowG: usize, belowB: usize, oldR: usize, oldG: usize, oldB: usize, readR: usize, readG: usize, readB: usize, softened: usize, _3: usize, _4: usize): void {
  const isRead = load<f32>(params + 240) != 0;
  const mirrors = load<f32>(params + 252) != 0;
  for (let first = 0; first < n; first += BLOCK) {
    const count = open(r, g, b, a, params, first, min(n, first + BLOCK), covered, softened);
    if (isRead) {
      for (let k = 0; k < count; k++) {
        const here = placeOf(k);
        v128.store(r + here, f32x4.mul(v128.load(readR + here), at(params, 47)));
        v128.store(g + here, f32x4.mul(v128.load(readG + here), at(params, 48)));
        v128.store(b + here, f32x4.mul(v128.load(readB + here), at(params, 49)));
      }
    } else {
      look(params, count, x, y, readR, readG, readB);
      turn(params, count);
      shine(params, count, r, g, b);
      if (load<f32>(params + 188) != 0) glowAtDusk(params, count, r, g, b);
      if (load<f32>(params + 236) != 0) cloud(params, count, r, g, b, x, y, step, field);
      else if (load<f32>(params + 212) != 0) showDisc(params, count, r, g, b);
      dimLand(count, r, g, b);
    }
    if (mirrors) mirror(count, r, g, b, a, belowR, belowG, belowB, readR, readG, readB);
    else putBehind(params, count, r, g, b, a, covered, softened, belowR, belowG, belowB, oldR, oldG, oldB);
  }
}

// @ts-ignore: decorator
@inline
function placeOf(k: i32): usize {
  return <usize>load<u32>(places + ((<usize>k) << 2));
}

// @ts-ignore: decorator
@inline
function alphaAt(params: usize, covered: usize): v128 {
  return load<f32>(params + 12) != 0 ? f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v128.load(covered))) : f32x4.splat(0);
}

/** Light around edges, over what stands before the sky. */
// @ts-ignore: decorator
@inline
function veilOf(params: usize, alpha: v128, softened: usize): v128 {
  const zero = f32x4.splat(0);
  return load<f32>(params + 248) != 0 ? f32x4.mul(f32x4.mul(at(params, 62), alpha), f32x4.pmax(zero, f32x4.sub(f32x4.splat(1 - LEAST_WRAP), v128.load(softened)))) : zero;
}

/** Finds what shows any sky; the rest is done with. */
function open(r: usize, g: usize, b: usize, a: usize, params: usize, first: i32, last: i32, covered: usize, softened: usize): i32 {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const isLight = load<f32>(params + 244) != 0;
  let count = 0;
  for (let i = first; i < last; i += 4) {
    const here = (<usize>i) << 2;
    const alpha = alphaAt(params, covered + here);
    if (v128.any_true(f32x4.gt(f32x4.add(f32x4.sub(one, alpha), veilOf(params, alpha, softened + here)), zero))) {
      store<u32>(places + ((<usize>count) << 2), <u32>here);
      count++;
      continue;
    }
    v128.store(r + here, zero);
    v128.store(g + here, zero);
    v128.store(b + here, zero);
    v128.store(a + here, isLight ? one : zero);
  }
  return count;
}

/** Directions of length 1 in which the camera looks, or what it sees mirrored lies. */
function look(params: usize, count: i32, x: usize, y: usize, normalX: usize, normalY: usize, normalZ: usize): void {
  const one = f32x4.splat(1);
  const mirrors = load<f32>(params + 252) != 0;
  for (let k = 0; k < count; k++) {
    const here = placeOf(k);
    const to = (<usize>k) << 4;
    const across = f32x4.mul(f32x4.sub(v128.load(x + here), at(params, 0)), at(params, 2));
    const up = f32x4.mul(f32x4.sub(at(params, 1), v128.load(y + here)), at(params, 2));
    const perLength = f32x4.div(one, f32x4.sqrt(f32x4.add(one, f32x4.add(f32x4.mul(across, across), f32x4.mul(up, up)))));
    let dx = f32x4.mul(perLength, f32x4.add(at(params, 4), f32x4.add(f32x4.mul(at(params, 7), across), f32x4.mul(at(params, 10), up))));
    let dy = f32x4.mul(perLength, f32x4.add(at(params, 5), f32x4.add(f32x4.mul(at(params, 8), across), f32x4.mul(at(params, 11), up))));
    let dz = f32x4.mul(perLength, f32x4.add(at(params, 6), f32x4.add(f32x4.mul(at(params, 9), across), f32x4.mul(at(params, 12), up))));
    if (mirrors) {
      const nx = v128.load(normalX + here);
      const ny = v128.load(normalY + here);
      const nz = v128.load(normalZ + here);
      const along = f32x4.add(f32x4.mul(dx, nx), f32x4.add(f32x4.mul(dy, ny), f32x4.mul(dz, nz)));
      const twice = f32x4.div(f32x4.add(along, along), f32x4.pmax(f32x4.splat(1e-9), squareOf(nx, ny, nz)));
      dx = f32x4.sub(dx, f32x4.mul(twice, nx));
      dy = f32x4.sub(dy, f32x4.mul(twice, ny));
      dz = f32x4.sub(dz, f32x4.mul(twice, nz));
    }
    v128.store(dxs + to, dx);
    v128.store(dys + to, dy);
    v128.store(dzs + to, dz);
  }
}

// @ts-ignore: decorator
@inline
function squareOf(x: v128, y: v128, z: v128): v128 {
  return f32x4.add(f32x4.mul(x, x), f32x4.add(f32x4.mul(y, y), f32x4.mul(z, z)));
}

/** Their angles to the sun, and one by how high they rise. */
function turn(params: usize, count: i32): void {
  const one = f32x4.splat(1);
  for (let k = 0; k < count; k++) {
    const from = (<usize>k) << 4;
    const dy = v128.load(dys + from);
    const cosine = f32x4.pmin(one, f32x4.pmax(f32x4.splat(-1), f32x4.add(f32x4.mul(v128.load(dxs + from), at(params, 13)), f32x4.add(f32x4.mul(dy, at(params, 14)), f32x4.mul(v128.load(dzs + from), at(params, 15))))));
    v128.store(cosines + from, cosine);
    v128.store(gammas + from, acosOf(cosine));
    v128.store(gradations + from, f32x4.div(one, f32x4.pmax(f32x4.splat(LOWEST_COSINE), dy)));
  }
}

/** Light of a sky without clouds. */
function shine(params: usize, count: i32, r: usize, g: usize, b: usize): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let k = 0; k < count; k++) {
    const here = placeOf(k);
    const from = (<usize>k) << 4;
    const cosine = v128.load(cosines + from);
    const gamma = v128.load(gammas + from);
    const gradation = v128.load(gradations + from);
    const cosineSquare = f32x4.mul(cosine, cosine);
    const bigY = rowOf(params, 17, gradation, gamma, cosineSquare);
    const cx = rowOf(params, 24, gradation, gamma, cosineSquare);
    const cy = rowOf(params, 31, gradation, gamma, cosineSquare);
    const perY = f32x4.div(bigY, cy);
    const bigX = f32x4.mul(cx, perY);
    const bigZ = f32x4.mul(f32x4.sub(f32x4.sub(one, cx), cy), perY);
    v128.store(r + here, f32x4.pmax(zero, f32x4.add(f32x4.mul(at(params, 38), bigX), f32x4.add(f32x4.mul(at(params, 39), bigY), f32x4.mul(at(params, 40), bigZ)))));
    v128.store(g + here, f32x4.pmax(zero, f32x4.add(f32x4.mul(at(params, 41), bigX), f32x4.add(f32x4.mul(at(params, 42), bigY), f32x4.mul(at(params, 43), bigZ)))));
    v128.store(b + here, f32x4.pmax(zero, f32x4.add(f32x4.mul(at(params, 44), bigX), f32x4.add(f32x4.mul(at(params, 45), bigY), f32x4.mul(at(params, 46), bigZ)))));
  }
}

/** The band over a sun that is down. */
function glowAtDusk(params: usize, count: i32, r: usize, g: usize, b: usize): void {
  const one = f32x4.splat(1);
  for (let k = 0; k < count; k++) {
    const here = placeOf(k);
    const from = (<usize>k) << 4;
    const dx = v128.load(dxs + from);
    const dz = v128.load(dzs + from);
    const rise = f32x4.pmax(f32x4.splat(0), v128.load(dys + from));
    const level = f32x4.sqrt(f32x4.pmax(f32x4.splat(1e-12), f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dz, dz))));
    const toSun = f32x4.div(f32x4.add(f32x4.mul(dx, at(params, 51)), f32x4.mul(dz, at(params, 52))), level);
    addTo(params, 47, here, expOf(f32x4.sub(f32x4.mul(f32x4.neg(at(params, 50)), rise), f32x4.mul(f32x4.splat(1.3), f32x4.sub(one, toSun)))), r, g, b);
  }
}

/** So much of a colour of the parameters is added. */
// @ts-ignore: decorator
@inline
function addTo(params: usize, color: i32, here: usize, share: v128, r: usize, g: usize, b: usize): void {
  v128.store(r + here, f32x4.add(v128.load(r + here), f32x4.mul(at(params, color), share)));
  v128.store(g + here, f32x4.add(v128.load(g + here), f32x4.mul(at(params, color + 1), share)));
  v128.store(b + here, f32x4.add(v128.load(b + here), f32x4.mul(at(params, color + 2), share)));
}

function showDisc(params: usize, count: i32, r: usize, g: usize, b: usize): void {
  for (let k = 0; k < count; k++) addTo(params, 53, placeOf(k), discOf(params, v128.load(cosines + ((<usize>k) << 4)), f32x4.splat(1)), r, g, b);
}

/** Clouds, sheet by sheet from below, and the disc of the sun as far as they let it through. */
function cloud(params: usize, groups: i32, r: usize, g: usize, b: usize, x: usize, y: usize, step: f32, field: usize): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const clouds = params + 264;
  for (let k = 0; k < groups; k++) {
    const here = placeOf(k);
    const from = (<usize>k) << 4;
    const dx = v128.load(dxs + from);
    const dy = v128.load(dys + from);
    const dz = v128.load(dzs + from);
    const cosine = v128.load(cosines + from);
    const rise = f32x4.pmax(zero, dy);
    const isUp = f32x4.gt(dy, zero);
    let through = one;
    let cloudR = zero;
    let cloudG = zero;
    let cloudB = zero;
    let seen = zero;
    if (v128.any_true(isUp)) {
      const tile = at(clouds, 1);
      const wx = at(clouds, 2);
      const wz = at(clouds, 3);
      const rises = f32x4.mul(f32x4.splat(EARTH_METRES), rise);
      const squareRise = f32x4.mul(rises, rises);
      const detail = load<f32>(clouds, 17 << 2);
      const shiftU = at(clouds, 15);
      const shiftV = at(clouds, 16);
      const sheets = load<f32>(clouds, 19 << 2);
      const perSoft = at(clouds, 6);
      let deep = f32x4.splat(load<f32>(clouds, 7 << 2) * <f32>0.6);
      const ahead = f32x4.pmax(zero, cosine);
      const ahead2 = f32x4.mul(ahead, ahead);
      const ahead4 = f32x4.mul(ahead2, ahead2);
      const ahead8 = f32x4.mul(f32x4.splat(2.5), f32x4.mul(ahead4, ahead4));
      const forward = f32x4.add(f32x4.splat(0.55), f32x4.mul(f32x4.splat(0.45), ahead));
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
        const place = f32x4.mul(spread, f32x4.add(f32x4.splat(sheet), f32x4.mul(f32x4.splat(SHAKEN), dither)));
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
        // Most of the sky is so empty that no detail makes a cloud of it; and where there is no cloud nothing has to be lit.
        let forms = f32x4.mul(f32x4.splat(1 - detail), fieldAt(field, u, v, far));
        if (!v128.any_true(v128.and(isOpen, f32x4.gt(f32x4.add(forms, f32x4.splat(detail)), raised)))) continue;
        const u2 = f32x4.add(f32x4.mul(u, f32x4.splat(PER_DETAIL)), f32x4.splat(0.37));
        const v2 = f32x4.add(f32x4.mul(v, f32x4.splat(PER_DETAIL)), f32x4.splat(0.61));
        forms = f32x4.add(forms, f32x4.mul(f32x4.splat(detail * (<f32>1 - FINEST_SHARE)), fieldAt(field, u2, v2, f32x4.add(far, f32x4.splat(DETAIL_LEVELS)))));
        if (!v128.any_true(v128.and(isOpen, f32x4.gt(f32x4.add(forms, f32x4.splat(detail * FINEST_SHARE)), raised)))) continue;
        forms = f32x4.add(forms, f32x4.mul(f32x4.splat(detail * FINEST_SHARE), fieldAt(field, f32x4.add(f32x4.mul(u2, f32x4.splat(PER_DETAIL)), f32x4.splat(0.37)), f32x4.add(f32x4.mul(v2, f32x4.splat(PER_DETAIL)), f32x4.splat(0.61)), f32x4.add(far, f32x4.splat(2 * DETAIL_LEVELS)))));
        if (!v128.any_true(v128.and(isOpen, f32x4.gt(forms, raised)))) continue;
        let before = fieldAt(field, f32x4.add(u, shiftU), f32x4.add(v, shiftV), f32x4.add(far, one));
        const thick = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(f32x4.sub(forms, raised), perSoft)));
        before = f32x4.pmin(f32x4.splat(2), f32x4.pmax(zero, f32x4.mul(f32x4.sub(before, raised), perSoft)));
        const path = f32x4.mul(f32x4.pmin(f32x4.splat(3), perSlope), deep);
        const cover = f32x4.sub(one, expOf(f32x4.neg(f32x4.mul(thick, path))));
        const over = f32x4.sub(one, f32x4.mul(f32x4.splat(sheet + 1), perCount));
        const lit = expOf(f32x4.neg(f32x4.mul(at(clouds, 8), f32x4.add(f32x4.mul(f32x4.splat(0.5), over), f32x4.add(f32x4.mul(f32x4.splat(0.3), thick), f32x4.mul(f32x4.splat(0.75), before))))));
        const glow = f32x4.mul(lit, f32x4.mul(forward, f32x4.add(one, f32x4.mul(ahead8, f32x4.sub(one, thick)))));
        const ambient = f32x4.mul(f32x4.sub(one, f32x4.mul(f32x4.splat(0.45), over)), f32x4.sub(one, f32x4.mul(f32x4.splat(0.35), thick)));
        const share = v128.and(f32x4.mul(through, cover), isOpen);
        cloudR = f32x4.add(cloudR, f32x4.mul(share, f32x4.add(f32x4.mul(at(clouds, 9), glow), f32x4.mul(at(clouds, 12), ambient))));
        cloudG = f32x4.add(cloudG, f32x4.mul(share, f32x4.add(f32x4.mul(at(clouds, 10), glow), f32x4.mul(at(clouds, 13), ambient))));
        cloudB = f32x4.add(cloudB, f32x4.mul(share, f32x4.add(f32x4.mul(at(clouds, 11), glow), f32x4.mul(at(clouds, 14), ambient))));
        through = v128.bitselect(f32x4.mul(through, f32x4.sub(one, cover)), through, isOpen);
      }
    }
    // Clouds fade into the sky with distance.
    const sky = f32x4.sub(one, f32x4.mul(seen, f32x4.sub(one, through)));
    v128.store(r + here, f32x4.add(f32x4.mul(sky, v128.load(r + here)), f32x4.mul(seen, cloudR)));
    v128.store(g + here, f32x4.add(f32x4.mul(sky, v128.load(g + here)), f32x4.mul(seen, cloudG)));
    v128.store(b + here, f32x4.add(f32x4.mul(sky, v128.load(b + here)), f32x4.mul(seen, cloudB)));
    addTo(params, 53, here, f32x4.mul(through, discOf(params, cosine, f32x4.mul(through, f32x4.mul(through, through)))), r, g, b);
  }
}

/** Below the horizon lies the land in haze. */
function dimLand(count: i32, r: usize, g: usize, b: usize): void {
  for (let k = 0; k < count; k++) {
    const here = placeOf(k);
    const dy = v128.load(dys + ((<usize>k) << 4));
    const isLand = f32x4.lt(dy, f32x4.splat(0));
    if (!v128.any_true(isLand)) continue;
    const dim = v128.bitselect(f32x4.add(f32x4.splat(0.25), f32x4.mul(f32x4.splat(0.55), expOf(f32x4.mul(f32x4.splat(14), dy)))), f32x4.splat(1), isLand);
    v128.store(r + here, f32x4.mul(v128.load(r + here), dim));
    v128.store(g + here, f32x4.mul(v128.load(g + here), dim));
    v128.store(b + here, f32x4.mul(v128.load(b + here), dim));
  }
}

/** What an element of reflections gains or loses. */
function mirror(count: i32, r: usize, g: usize, b: usize, a: usize, belowR: usize, belowG: usize, belowB: usize, normalX: usize, normalY: usize, normalZ: usize): void {
  const one = f32x4.splat(1);
  for (let k = 0; k < count; k++) {
    const here = placeOf(k);
    const square = squareOf(v128.load(normalX + here), v128.load(normalY + here), v128.load(normalZ + here));
    const towards = v128.load(dys + ((<usize>k) << 4));
    const share = v128.and(f32x4.pmin(one, f32x4.pmax(f32x4.splat(0), f32x4.mul(towards, f32x4.splat(PER_MIRRORED_RISE)))), f32x4.ge(square, f32x4.splat(LEAST_NORMAL_SQUARE)));
    v128.store(r + here, f32x4.mul(f32x4.mul(share, v128.load(belowR + here)), f32x4.sub(v128.load(r + here), one)));
    v128.store(g + here, f32x4.mul(f32x4.mul(share, v128.load(belowG + here)), f32x4.sub(v128.load(g + here), one)));
    v128.store(b + here, f32x4.mul(f32x4.mul(share, v128.load(belowB + here)), f32x4.sub(v128.load(b + here), one)));
    v128.store(a + here, one);
  }
}

/** The light of the sky behind what stands before it, whose edges get rid of the old one. */
function putBehind(params: usize, count: i32, r: usize, g: usize, b: usize, a: usize, covered: usize, softened: usize, belowR: usize, belowG: usize, belowB: usize, oldR: usize, oldG: usize, oldB: usize): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const exchanges = load<f32>(params + 64) != 0;
  const isLight = load<f32>(params + 244) != 0;
  for (let k = 0; k < count; k++) {
    const here = placeOf(k);
    const alpha = alphaAt(params, covered + here);
    const free = f32x4.sub(one, alpha);
    const veil = veilOf(params, alpha, softened + here);
    const isSky = f32x4.gt(free, zero);
    const isFree = f32x4.gt(f32x4.add(free, veil), zero);
    let red = v128.load(r + here);
    let green = v128.load(g + here);
    let blue = v128.load(b + here);
    if (exchanges) {
      const keeps = f32x4.pmin(one, f32x4.mul(alpha, f32x4.splat(PER_LEAST_ALPHA)));
      // Where nothing is sky its light lies over what is there.
      const shines = v128.bitselect(f32x4.add(free, veil), one, isSky);
      red = f32x4.add(f32x4.mul(shines, red), f32x4.mul(keeps, f32x4.pmax(zero, f32x4.sub(v128.load(belowR + here), f32x4.mul(free, v128.load(oldR + here))))));
      green = f32x4.add(f32x4.mul(shines, green), f32x4.mul(keeps, f32x4.pmax(zero, f32x4.sub(v128.load(belowG + here), f32x4.mul(free, v128.load(oldG + here))))));
      blue = f32x4.add(f32x4.mul(shines, blue), f32x4.mul(keeps, f32x4.pmax(zero, f32x4.sub(v128.load(belowB + here), f32x4.mul(free, v128.load(oldB + here))))));
    }
    v128.store(r + here, v128.and(red, isFree));
    v128.store(g + here, v128.and(green, isFree));
    v128.store(b + here, v128.and(blue, isFree));
    v128.store(a + here, isLight ? one : v128.and(exchanges ? v128.bitselect(one, veil, isSky) : free, isFree));
  }
}
