// The blend modes of core/blend over spans: straight source onto premultiplied backdrop.
// The mode is a constant in every exported function, so inlining leaves one formula in each loop.

const NORMAL: i32 = 0;
const MULTIPLY: i32 = 1;
const SCREEN: i32 = 2;
const DARKEN: i32 = 3;
const LIGHTEN: i32 = 4;
const HARD_LIGHT: i32 = 5;
const OVERLAY: i32 = 6;
const COLOR_DODGE: i32 = 7;
const COLOR_BURN: i32 = 8;
const SOFT_LIGHT: i32 = 9;
const DIFFERENCE: i32 = 10;
const EXCLUSION: i32 = 11;
const SUBTRACT_LIGHT: i32 = 12;
const SUBTRACT_PICTURE: i32 = 13;
const DIVIDE_LIGHT: i32 = 14;
const DIVIDE_PICTURE: i32 = 15;
const HUE: i32 = 0;
const SATURATION: i32 = 1;
const COLOR: i32 = 2;
const LUMINOSITY: i32 = 3;

// @ts-ignore: decorator
@inline
function screenOf(b: v128, s: v128): v128 {
  return f32x4.sub(f32x4.add(b, s), f32x4.mul(b, s));
}

// @ts-ignore: decorator
@inline
function hardLightOf(b: v128, s: v128): v128 {
  // Both branches at once: with d = 2s, multiply gives b·d and screen gives b + (d − 1)(1 − b).
  const d = f32x4.add(s, s);
  const low = f32x4.mul(b, d);
  const high = screenOf(b, f32x4.sub(d, f32x4.splat(1)));
  return v128.bitselect(low, high, f32x4.le(s, f32x4.splat(0.5)));
}

/** B(Cb, Cs) of one channel. */
// @ts-ignore: decorator
@inline
function separable(mode: i32, b: v128, s: v128): v128 {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  if (mode == NORMAL) return s;
  if (mode == MULTIPLY) return f32x4.mul(b, s);
  if (mode == SCREEN) return screenOf(b, s);
  if (mode == DARKEN) return f32x4.pmin(b, s);
  if (mode == LIGHTEN) return f32x4.pmax(b, s);
  if (mode == HARD_LIGHT) return hardLightOf(b, s);
  if (mode == OVERLAY) return hardLightOf(s, b);
  if (mode == COLOR_DODGE) {
    const ratio = f32x4.pmin(one, f32x4.div(b, f32x4.sub(one, s)));
    return v128.andnot(v128.bitselect(one, ratio, f32x4.ge(s, one)), f32x4.eq(b, zero));
  }
  if (mode == COLOR_BURN) {
    const ratio = f32x4.sub(one, f32x4.pmin(one, f32x4.div(f32x4.sub(one, b), s)));
    return v128.bitselect(one, v128.andnot(ratio, f32x4.le(s, zero)), f32x4.ge(b, one));
  }
  if (mode == SOFT_LIGHT) {
    const d2 = f32x4.sub(f32x4.add(s, s), one);
    const dark = f32x4.mul(b, f32x4.sub(one, b));
    const poly = f32x4.mul(f32x4.add(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(16), b), f32x4.splat(12)), b), f32x4.splat(4)), b);
    const d = v128.bitselect(poly, f32x4.sqrt(b), f32x4.le(b, f32x4.splat(0.25)));
    return f32x4.add(b, f32x4.mul(d2, v128.bitselect(dark, f32x4.sub(d, b), f32x4.le(d2, zero))));
  }
  if (mode == DIFFERENCE) return f32x4.abs(f32x4.sub(b, s));
  if (mode == EXCLUSION) {
    const product = f32x4.mul(b, s);
    return f32x4.sub(f32x4.add(b, s), f32x4.add(product, product));
  }
  if (mode == SUBTRACT_LIGHT) return f32x4.sub(b, s);
  if (mode == SUBTRACT_PICTURE) return f32x4.pmax(zero, f32x4.sub(b, s));
  const quotient = v128.and(f32x4.div(b, s), f32x4.gt(s, f32x4.splat(1e-6)));
  return mode == DIVIDE_LIGHT ? quotient : f32x4.pmin(one, quotient);
}

// @ts-ignore: decorator
@inline
function channelOpaque(mode: i32, p: usize, s: v128, a: v128, rest: v128): void {
  const b = v128.load(p);
  v128.store(p, f32x4.add(f32x4.mul(a, separable(mode, b, s)), f32x4.mul(rest, b)));
}

// @ts-ignore: decorator
@inline
function channelGeneral(mode: i32, p: usize, s: v128, a: v128, ab: v128, inverse: v128, one: v128): void {
  const premultiplied = v128.load(p);
  const blended = separable(mode, f32x4.mul(premultiplied, inverse), s);
  // Normal mixes the source with itself, which must not cost it a bit.
  const mixed = mode == NORMAL ? s : f32x4.add(f32x4.mul(f32x4.sub(one, ab), s), f32x4.mul(ab, blended));
  v128.store(p, f32x4.add(f32x4.mul(a, mixed), f32x4.mul(f32x4.sub(one, a), premultiplied)));
}

// @ts-ignore: decorator
@inline
function blendSeparable(mode: i32, r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const end = (<usize>n) << 2;
  if (opaque) {
    for (let i: usize = 0; i < end; i += 16) {
      const alpha = v128.load(sa + i);
      const rest = f32x4.sub(one, alpha);
      channelOpaque(mode, r + i, v128.load(sr + i), alpha, rest);
      channelOpaque(mode, g + i, v128.load(sg + i), alpha, rest);
      channelOpaque(mode, b + i, v128.load(sb + i), alpha, rest);
    }
    return;
  }
  for (let i: usize = 0; i < end; i += 16) {
    const alpha = v128.load(sa + i);
    const ab = v128.load(a + i);
    const inverse = v128.and(f32x4.div(one, ab), f32x4.gt(ab, zero));
    channelGeneral(mode, r + i, v128.load(sr + i), alpha, ab, inverse, one);
    channelGeneral(mode, g + i, v128.load(sg + i), alpha, ab, inverse, one);
    channelGeneral(mode, b + i, v128.load(sb + i), alpha, ab, inverse, one);
    v128.store(a + i, f32x4.add(alpha, f32x4.mul(ab, f32x4.sub(one, alpha))));
  }
}

export function blend_normal(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(NORMAL, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_multiply(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(MULTIPLY, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_screen(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(SCREEN, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_darken(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(DARKEN, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_lighten(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(LIGHTEN, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_hard_light(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(HARD_LIGHT, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_overlay(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(OVERLAY, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_color_dodge(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(COLOR_DODGE, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_color_burn(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(COLOR_BURN, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_soft_light(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(SOFT_LIGHT, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_difference(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(DIFFERENCE, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_exclusion(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(EXCLUSION, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_subtract_light(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(SUBTRACT_LIGHT, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_subtract_picture(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(SUBTRACT_PICTURE, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_divide_light(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(DIVIDE_LIGHT, r, g, b, a, sr, sg, sb, sa, n, opaque);
}
export function blend_divide_picture(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendSeparable(DIVIDE_PICTURE, r, g, b, a, sr, sg, sb, sa, n, opaque);
}

// @ts-ignore: decorator
@inline
function blendLighter(bounded: bool, r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32): void {
  const one = f32x4.splat(1);
  const end = (<usize>n) << 2;
  for (let i: usize = 0; i < end; i += 16) {
    const alpha = v128.load(sa + i);
    const red = f32x4.add(v128.load(r + i), f32x4.mul(alpha, v128.load(sr + i)));
    const green = f32x4.add(v128.load(g + i), f32x4.mul(alpha, v128.load(sg + i)));
    const blue = f32x4.add(v128.load(b + i), f32x4.mul(alpha, v128.load(sb + i)));
    v128.store(r + i, bounded ? f32x4.pmin(one, red) : red);
    v128.store(g + i, bounded ? f32x4.pmin(one, green) : green);
    v128.store(b + i, bounded ? f32x4.pmin(one, blue) : blue);
    v128.store(a + i, f32x4.pmin(one, f32x4.add(v128.load(a + i), alpha)));
  }
}

export function blend_add_light(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendLighter(false, r, g, b, a, sr, sg, sb, sa, n);
}
export function blend_add_picture(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendLighter(true, r, g, b, a, sr, sg, sb, sa, n);
}

// @ts-ignore: decorator
@inline
function luminosityOf(r: v128, g: v128, b: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(0.3), r), f32x4.mul(f32x4.splat(0.59), g)), f32x4.mul(f32x4.splat(0.11), b));
}

// @ts-ignore: decorator
@inline
function min3(r: v128, g: v128, b: v128): v128 {
  return f32x4.pmin(r, f32x4.pmin(g, b));
}

// @ts-ignore: decorator
@inline
function max3(r: v128, g: v128, b: v128): v128 {
  return f32x4.pmax(r, f32x4.pmax(g, b));
}

/** One channel of ClipColor: factors are 1 where nothing has to be clipped. */
// @ts-ignore: decorator
@inline
function towards(l: v128, v: v128, factor: v128): v128 {
  return f32x4.add(l, f32x4.mul(f32x4.sub(v, l), factor));
}

// @ts-ignore: decorator
@inline
function blendNonSeparable(mode: i32, r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const end = (<usize>n) << 2;
  for (let i: usize = 0; i < end; i += 16) {
    const alpha = v128.load(sa + i);
    const ab = v128.load(a + i);
    const inverse = v128.and(f32x4.div(one, ab), f32x4.gt(ab, zero));
    const pr = v128.load(r + i);
    const pg = v128.load(g + i);
    const pb = v128.load(b + i);
    const br = f32x4.mul(pr, inverse);
    const bg = f32x4.mul(pg, inverse);
    const bb = f32x4.mul(pb, inverse);
    const cr = v128.load(sr + i);
    const cg = v128.load(sg + i);
    const cb = v128.load(sb + i);

    let xr = cr;
    let xg = cg;
    let xb = cb;
    if (mode == LUMINOSITY || mode == SATURATION) {
      xr = br;
      xg = bg;
      xb = bb;
    }
    if (mode == HUE || mode == SATURATION) {
      const least = min3(xr, xg, xb);
      const range = f32x4.sub(max3(xr, xg, xb), least);
      const wanted = mode == HUE ? f32x4.sub(max3(br, bg, bb), min3(br, bg, bb)) : f32x4.sub(max3(cr, cg, cb), min3(cr, cg, cb));
      const factor = v128.and(f32x4.div(wanted, range), f32x4.gt(range, zero));
      xr = f32x4.mul(f32x4.sub(xr, least), factor);
      xg = f32x4.mul(f32x4.sub(xg, least), factor);
      xb = f32x4.mul(f32x4.sub(xb, least), factor);
    }
    const l = mode == LUMINOSITY ? luminosityOf(cr, cg, cb) : luminosityOf(br, bg, bb);
    const d = f32x4.sub(l, luminosityOf(xr, xg, xb));
    xr = f32x4.add(xr, d);
    xg = f32x4.add(xg, d);
    xb = f32x4.add(xb, d);
    const least = min3(xr, xg, xb);
    const most = max3(xr, xg, xb);
    const below = v128.and(f32x4.lt(least, zero), f32x4.gt(l, least));
    const above = v128.and(f32x4.gt(most, one), f32x4.gt(most, l));
    const lift = v128.bitselect(f32x4.div(l, f32x4.sub(l, least)), one, below);
    xr = towards(l, xr, lift);
    xg = towards(l, xg, lift);
    xb = towards(l, xb, lift);
    const lower = v128.bitselect(f32x4.div(f32x4.sub(one, l), f32x4.sub(most, l)), one, above);
    xr = towards(l, xr, lower);
    xg = towards(l, xg, lower);
    xb = towards(l, xb, lower);

    const outside = f32x4.sub(one, ab);
    const rest = f32x4.sub(one, alpha);
    v128.store(r + i, f32x4.add(f32x4.mul(alpha, f32x4.add(f32x4.mul(outside, cr), f32x4.mul(ab, xr))), f32x4.mul(rest, pr)));
    v128.store(g + i, f32x4.add(f32x4.mul(alpha, f32x4.add(f32x4.mul(outside, cg), f32x4.mul(ab, xg))), f32x4.mul(rest, pg)));
    v128.store(b + i, f32x4.add(f32x4.mul(alpha, f32x4.add(f32x4.mul(outside, cb), f32x4.mul(ab, xb))), f32x4.mul(rest, pb)));
    v128.store(a + i, f32x4.add(alpha, f32x4.mul(ab, rest)));
  }
}

export function blend_hue(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendNonSeparable(HUE, r, g, b, a, sr, sg, sb, sa, n);
}
export function blend_saturation(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendNonSeparable(SATURATION, r, g, b, a, sr, sg, sb, sa, n);
}
export function blend_color(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendNonSeparable(COLOR, r, g, b, a, sr, sg, sb, sa, n);
}
export function blend_luminosity(r: usize, g: usize, b: usize, a: usize, sr: usize, sg: usize, sb: usize, sa: usize, n: i32, opaque: bool): void {
  blendNonSeparable(LUMINOSITY, r, g, b, a, sr, sg, sb, sa, n);
}
