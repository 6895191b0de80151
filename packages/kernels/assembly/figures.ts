// Figures in space: what figures/loops.ts of the core defines.
import { put } from "./local";

const LEAST_ALPHA: f32 = 1.0 / 512;
const TOUCH_METRES: f64 = 0.04;
const TOUCH_SHARE: f64 = 0.004;
const EDGE_SHARE: f32 = 0.2;
const SKY_METRES: f32 = 60000;
const MOST_HIDDEN: f32 = 0.95;
const LEAST_NORMAL: f32 = 0.3;
const LEAST_LIGHT: f32 = 1e-6;
const ROUNDNESS: f32 = 0.9;
const MOST_UPRIGHT: f32 = 2.5;
const LEAST_HEIGHT: f32 = 0.05;

/** What places lie within, while they are gathered. */
let left: f32 = Infinity;
let right: f32 = -Infinity;
let top: f32 = Infinity;
let bottom: f32 = -Infinity;
let least: f32 = Infinity;
let widest: f32 = -Infinity;

function begin(): void {
  left = Infinity;
  right = -Infinity;
  top = Infinity;
  bottom = -Infinity;
  least = Infinity;
  widest = -Infinity;
}

function end(found: usize): void {
  store<f32>(found, left);
  store<f32>(found, top, 4);
  store<f32>(found, right, 8);
  store<f32>(found, bottom, 12);
  store<f32>(found, least, 16);
  store<f32>(found, widest, 20);
}

// @ts-ignore: decorator
@inline
function add(at: usize, stride: usize, u: f32, v: f32, wide: f32, number: f32, pixel: i32): void {
  store<f32>(at, u);
  store<f32>(at + stride, v);
  store<f32>(at + 2 * stride, wide);
  store<f32>(at + 3 * stride, number);
  store<i32>(at + 4 * stride, pixel);
  left = min(left, u);
  right = max(right, u);
  top = min(top, v);
  bottom = max(bottom, v);
  least = min(least, wide);
  widest = max(widest, wide);
}

/** A row of a number that goes in straight lines: what there is per metre of depth at its first pixel. */
// @ts-ignore: decorator
@inline
function start(line: usize, y: i32): f64 {
  return load<f64>(line, 8) + load<f64>(line, 24) * <f64>y;
}

// @ts-ignore: decorator
@inline
function longer(lens: usize, x: i32, y: i32): f64 {
  const per = load<f64>(lens, 16);
  const a = (<f64>x - load<f64>(lens)) * per;
  const b = (<f64>y - load<f64>(lens, 8)) * per;
  return sqrt(1 + a * a + b * b);
}

/** `card`: four lines of four numbers (u, v, share, per metre), its box, how wide a pixel is per metre, the lens. Gives how many there are; what they lie within goes to `found`. */
export function figure_met(list: usize, most: i32, card: usize, x: i32, y: i32, width: i32, height: i32, stride: i32, originX: i32, originY: i32, found: usize): i32 {
  const plane = (<usize>most) << 2;
  const lineU = card;
  const lineV = card + 32;
  const lineShare = card + 64;
  const lineMetre = card + 96;
  const boxX = load<f64>(card, 128);
  const boxY = load<f64>(card, 136);
  const endX = boxX + load<f64>(card, 144);
  const endY = boxY + load<f64>(card, 152);
  const perMetre = load<f64>(card, 160);
  const lens = card + 168;
  const stepU = load<f64>(lineU, 16);
  const stepV = load<f64>(lineV, 16);
  const stepShare = load<f64>(lineShare, 16);
  const stepMetre = load<f64>(lineMetre, 16);
  let count = 0;
  begin();
  for (let j = y; j < y + height; j++) {
    const row = (j - originY) * stride - originX;
    const atU = load<f64>(lineU) + start(lineU, j);
    const atV = load<f64>(lineV) + start(lineV, j);
    const atShare = load<f64>(lineShare) + start(lineShare, j);
    const atMetre = load<f64>(lineMetre) + start(lineMetre, j);
    for (let i = x; i < x + width; i++) {
      const share = atShare + stepShare * <f64>i;
      const depth = 1 / (atMetre + stepMetre * <f64>i);
      if (!(share > 0 && depth > 0)) continue;
      const u = (atU + stepU * <f64>i) / share;
      const v = (atV + stepV * <f64>i) / share;
      const wide = depth * perMetre;
      if (!(u > boxX - wide && v > boxY - wide && u < endX + wide && v < endY + wide)) continue;
      add(list + ((<usize>count) << 2), plane, <f32>u, <f32>v, <f32>wide, <f32>(depth * longer(lens, i, j)), row + i);
      count++;
    }
  }
  end(found);
  return count;
}

// @ts-ignore: decorator
@inline
function hides(metres: f32, limit: f64): f64 {
  return metres > 0 && <f64>metres < limit ? 1 : 0;
}

/** `sides`: three planes of `area`, or 0. */
export function figure_shown(list: usize, most: i32, count: i32, alpha: usize, visible: usize, sides: usize, area: i32): i32 {
  const plane = (<usize>most) << 2;
  const inside = (<usize>area) << 2;
  let kept = 0;
  for (let i = 0; i < count; i++) {
    const from = (<usize>i) << 2;
    const own = load<f32>(alpha + from);
    if (!(own >= LEAST_ALPHA)) continue;
    const pixel = load<i32>(list + 4 * plane + from);
    let seen: f64 = 1;
    if (sides) {
      const at = sides + ((<usize>pixel) << 2);
      const metres = <f64>load<f32>(list + 3 * plane + from);
      const limit = metres - TOUCH_METRES - TOUCH_SHARE * metres;
      const share = <f64>load<f32>(at + 2 * inside);
      seen = 1 - (1 - share) * hides(load<f32>(at), limit) - share * hides(load<f32>(at + inside), limit);
    }
    if (!(seen > 0)) continue;
    const to = (<usize>kept) << 2;
    for (let kind: usize = 0; kind < 5; kind++) store<u32>(list + kind * plane + to, load<u32>(list + kind * plane + from));
    store<f32>(alpha + to, own);
    store<f32>(visible + to, <f32>seen);
    kept++;
  }
  return kept;
}

/** `light`: what is steady and sunny of three colours, cosine, sine, side, towards the sun (right, up, us), modelling. `slopes`: two planes, or 0. */
export function figure_lit(colors: usize, count: i32, slopes: usize, light: usize): void {
  const plane = (<usize>count) << 2;
  const cos = load<f32>(light, 24);
  const sin = load<f32>(light, 28);
  const side = load<f32>(light, 32);
  const toRight = load<f32>(light, 36);
  const up = load<f32>(light, 40);
  const toUs = load<f32>(light, 44);
  const modelling = load<f32>(light, 48);
  for (let i = 0; i < count; i++) {
    const at = (<usize>i) << 2;
    let onSun: f32 = 1;
    if (slopes) {
      const dx = -load<f32>(slopes + at) * ROUNDNESS * side;
      const dy = load<f32>(slopes + plane + at) * ROUNDNESS;
      const by: f32 = 1 / max<f32>(1, sqrt<f32>(dx * dx + dy * dy));
      const a = (dx * cos + dy * sin) * by;
      const b = (dy * cos - dx * sin) * by;
      const towards = a * toRight + b * up + sqrt<f32>(max<f32>(0, 1 - a * a - b * b)) * toUs;
      onSun = 1 - modelling + modelling * min<f32>(MOST_UPRIGHT, max<f32>(0, towards) / max<f32>(LEAST_HEIGHT, up));
    }
    const to = colors + at;
    store<f32>(to, load<f32>(to) * (load<f32>(light) + load<f32>(light, 12) * onSun));
    store<f32>(to + plane, load<f32>(to + plane) * (load<f32>(light, 4) + load<f32>(light, 16) * onSun));
    store<f32>(to + 2 * plane, load<f32>(to + 2 * plane) * (load<f32>(light, 8) + load<f32>(light, 20) * onSun));
  }
}

/** `shines`: three planes, or 0. */
export function figure_laid(out: usize, area: i32, list: usize, most: i32, colors: usize, visible: usize, count: i32, shines: usize, shine: f32): void {
  const inside = (<usize>area) << 2;
  const plane = (<usize>count) << 2;
  const pixels = list + 4 * ((<usize>most) << 2);
  for (let i = 0; i < count; i++) {
    const at = (<usize>i) << 2;
    const to = (<usize>load<i32>(pixels + at)) << 2;
    const alpha = load<f32>(colors + 3 * plane + at);
    const seen = load<f32>(visible + at);
    const stays: f32 = 1 - alpha * seen;
    for (let c: usize = 0; c < 4; c++) {
      let own = load<f32>(colors + c * plane + at);
      if (shines && c < 3) own += alpha * shine * max<f32>(0, load<f32>(shines + c * inside + to));
      const there = out + c * inside + to;
      store<f32>(there, load<f32>(there) * stays + own * seen);
    }
  }
}

/** Lines of numbers that go straight, four floats each, in what is asked of places that a figure may take light from. */
const TO_RIGHT: usize = 0;
const UP: usize = 16;
const TO_US: usize = 32;
const THROWN_U: usize = 48;
const THROWN_V: usize = 64;
const THROWN_SHARE: usize = 80;
const THROWN_ALONG: usize = 96;
/** Behind them: where the box begins and ends, width per metre and per depth, the lens. */
const BOX: usize = 112;
const WIDTHS: usize = 128;
const LENS: usize = 136;
/** Nearest and farthest depth, contact, reach in square metres, what stands beside; the card's directions on the plan (right, normal). */
const DEPTHS: usize = 148;
const CONTACT: usize = 156;
const REACH: usize = 160;
const BESIDE: usize = 164;
const PLAN: usize = 168;

/** Four places of one surface each: which of them fall onto the card, and where; of both surfaces of four pixels. */
const thrown: usize = memory.data(2 * 64, 16);
let isThrown: i32 = 0;

// @ts-ignore: decorator
@inline
function straight(line: usize, depths: v128, columns: v128, y: f32): v128 {
  return f32x4.add(v128.load32_splat(line), f32x4.mul(depths, straightAt(line, columns, y)));
}

/** How much of the light of the sky a figure takes from four places, in `depths`; those that its shadow may fall on are put down as `side`. `asked` says which count, and `weights` how much. */
function takenFrom(cast: usize, balls: usize, fours: i32, depths: v128, columns: v128, y: f32, asked: v128, weights: v128, normal: usize, inside: usize, hasSun: bool, side: usize): v128 {
  const none = f32x4.splat(0);
  const isThere = v128.and(asked, v128.and(f32x4.ge(depths, v128.load32_splat(cast, DEPTHS)), f32x4.le(depths, v128.load32_splat(cast, DEPTHS + 4))));
  if (!v128.any_true(isThere)) return none;
  if (hasSun) {
    const along = straight(cast + THROWN_ALONG, depths, columns, y);
    const share = straight(cast + THROWN_SHARE, depths, columns, y);
    const wide = f32x4.add(f32x4.mul(along, v128.load32_splat(cast, WIDTHS)), f32x4.mul(depths, v128.load32_splat(cast, WIDTHS + 4)));
    const u = f32x4.div(straight(cast + THROWN_U, depths, columns, y), share);
    const v = f32x4.div(straight(cast + THROWN_V, depths, columns, y), share);
    const isAcross = v128.and(f32x4.gt(u, f32x4.sub(v128.load32_splat(cast, BOX), wide)), f32x4.lt(u, f32x4.add(v128.load32_splat(cast, BOX + 4), wide)));
    const isDown = v128.and(f32x4.gt(v, f32x4.sub(v128.load32_splat(cast, BOX + 8), wide)), f32x4.lt(v, f32x4.add(v128.load32_splat(cast, BOX + 12), wide)));
    const isMet = v128.and(f32x4.gt(along, none), f32x4.gt(share, none));
    const hits = i32x4.bitmask(v128.and(v128.and(isThere, isMet), v128.and(isAcross, isDown)));
    if (hits) {
      const to = thrown + side * 64;
      v128.store(to, u);
      v128.store(to + 16, v);
      v128.store(to + 32, wide);
      v128.store(to + 48, weights);
      isThrown |= hits << (<i32>side * 4);
    }
  }
  const contact = load<f32>(cast, CONTACT);
  if (!(contact > 0)) return none;
  const a = straight(cast + TO_RIGHT, depths, columns, y);
  const n = straight(cast + TO_US, depths, columns, y);
  // From the nearest of what stands there side by side.
  const beside = v128.load32_splat(cast, BESIDE);
  const off = f32x4.sub(a, f32x4.min(beside, f32x4.max(f32x4.neg(beside), a)));
  const square = f32x4.mul(n, n);
  const away = f32x4.add(f32x4.mul(off, off), square);
  const reach = v128.load32_splat(cast, REACH);
  const isNear = v128.and(isThere, f32x4.lt(away, reach));
  if (!v128.any_true(isNear)) return none;
  const h = straight(cast + UP, depths, columns, y);
  const one = f32x4.splat(1);
  let nx = none;
  let ny = one;
  let nz = none;
  if (inside) {
    const x = v128.load(normal);
    const up = v128.load(normal + inside);
    const z = v128.load(normal + 2 * inside);
    const length = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(up, up)), f32x4.mul(z, z)));
    const isKnown = f32x4.ge(length, f32x4.splat(LEAST_NORMAL));
    nx = v128.and(isKnown, f32x4.div(f32x4.add(f32x4.mul(x, v128.load32_splat(cast, PLAN)), f32x4.mul(z, v128.load32_splat(cast, PLAN + 4))), length));
    ny = v128.bitselect(f32x4.div(up, length), one, isKnown);
    nz = v128.and(isKnown, f32x4.div(f32x4.add(f32x4.mul(x, v128.load32_splat(cast, PLAN + 8)), f32x4.mul(z, v128.load32_splat(cast, PLAN + 12))), length));
  }
  const towardsUs = f32x4.mul(n, nz);
  let sum = none;
  for (let k = 0; k < fours; k++, balls += 12) {
    const x = f32x4.sub(v128.load32_splat(balls), a);
    const up = f32x4.sub(v128.load32_splat(balls, 4), h);
    const by = v128.load32_splat(balls, 8);
    const distance = f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(up, up)), square);
    const towards = f32x4.max(none, f32x4.sub(f32x4.add(f32x4.mul(x, nx), f32x4.mul(up, ny)), towardsUs));
    const share = f32x4.div(f32x4.mul(towards, by), f32x4.mul(distance, f32x4.sqrt(distance)));
    sum = f32x4.add(sum, v128.bitselect(share, one, f32x4.gt(distance, by)));
  }
  // It ends where the region does that is looked at.
  const hidden = f32x4.min(f32x4.splat(MOST_HIDDEN), f32x4.mul(f32x4.mul(sum, f32x4.splat(contact)), f32x4.sub(one, f32x4.div(away, reach))));
  return v128.and(isNear, f32x4.mul(weights, hidden));
}

/** `cast`: see above. `balls`: how far aside, how high and the square of the radius of each. `spans`: two columns for each row. */
export function figure_taken(list: usize, most: i32, open: usize, cast: usize, balls: usize, count: i32, spans: usize, sides: usize, normals: usize, area: i32, y: i32, height: i32, stride: i32, originX: i32, originY: i32, found: usize): i32 {
  const plane = (<usize>most) << 2;
  const inside = (<usize>area) << 2;
  const hasSun = load<f32>(cast, THROWN_ALONG) != 0 || load<f32>(cast, THROWN_ALONG + 4) != 0;
  const per = v128.load32_splat(cast, LENS + 8);
  const isDistance = load<f32>(cast, LENS + 8) != 0;
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  const lanes = i32x4(0, 1, 2, 3);
  let places = 0;
  begin();
  for (let j = y; j < y + height; j++) {
    const last = load<i32>(spans + ((<usize>(j - y)) << 3), 4);
    const row = (j - originY) * stride - originX;
    const beside = (<f32>j - load<f32>(cast, LENS + 4)) * load<f32>(cast, LENS + 8);
    for (let i = load<i32>(spans + ((<usize>(j - y)) << 3)); i <= last; i += 4) {
      const pixel = row + i;
      const at = (<usize>pixel) << 2;
      const columns = f32x4.add(f32x4.splat(<f32>i), f32x4(0, 1, 2, 3));
      const asked = i32x4.le_s(i32x4.add(i32x4.splat(i), lanes), i32x4.splat(last));
      let near: v128;
      let far = none;
      let isEdge = none;
      let weights = one;
      let share = none;
      if (sides) {
        near = v128.load(sides + at);
        far = v128.load(sides + inside + at);
        share = v128.load(sides + 2 * inside + at);
        isEdge = v128.and(f32x4.gt(share, none), f32x4.gt(f32x4.sub(far, near), f32x4.mul(f32x4.splat(EDGE_SHARE), near)));
        weights = v128.bitselect(f32x4.sub(one, share), one, isEdge);
        near = v128.bitselect(near, f32x4.add(near, f32x4.mul(f32x4.sub(far, near), share)), isEdge);
      } else near = f32x4.div(f32x4.neg(v128.load32_splat(cast, UP)), straightAt(cast + UP, columns, <f32>j));
      let perDistance = one;
      if (isDistance && sides) {
        const across = f32x4.mul(f32x4.sub(columns, v128.load32_splat(cast, LENS)), per);
        perDistance = f32x4.div(one, f32x4.sqrt(f32x4.add(f32x4.splat(1 + beside * beside), f32x4.mul(across, across))));
      }
      isThrown = 0;
      let hidden = takenFrom(cast, balls, count, f32x4.mul(near, perDistance), columns, <f32>j, v128.and(asked, seen(near)), weights, normals + at, normals ? inside : 0, hasSun, 0);
      if (v128.any_true(isEdge)) hidden = f32x4.add(hidden, takenFrom(cast, balls, count, f32x4.mul(far, perDistance), columns, <f32>j, v128.and(v128.and(asked, isEdge), seen(far)), share, normals + at, normals ? inside : 0, hasSun, 1));
      if (v128.any_true(f32x4.gt(hidden, none))) v128.store(open + at, f32x4.mul(v128.load(open + at), f32x4.sub(one, hidden)));
      if (!isThrown) continue;
      for (let k = 0; k < 4; k++) {
        for (let side = 0; side < 2; side++) {
          if (!((isThrown >> (side * 4 + k)) & 1)) continue;
          const from = thrown + ((<usize>side) << 6) + ((<usize>k) << 2);
          add(list + ((<usize>places) << 2), plane, load<f32>(from), load<f32>(from, 16), load<f32>(from, 32), load<f32>(from, 48), pixel + k);
          places++;
        }
      }
    }
  }
  end(found);
  return places;
}

/** What there is per metre of depth, at four columns of a row. */
// @ts-ignore: decorator
@inline
function straightAt(line: usize, columns: v128, y: f32): v128 {
  return f32x4.add(f32x4.splat(load<f32>(line, 4) + load<f32>(line, 12) * y), f32x4.mul(v128.load32_splat(line, 8), columns));
}

/** Whether something is there, and no sky. */
// @ts-ignore: decorator
@inline
function seen(metres: v128): v128 {
  return v128.and(f32x4.gt(metres, f32x4.splat(0)), f32x4.lt(metres, f32x4.splat(SKY_METRES)));
}

/** `bySun` and `byAll`: three planes each, or 0; else `usual` has a share for each. */
export function figure_shaded(out: usize, lit: usize, open: usize, bySun: usize, byAll: usize, usual: usize, area: i32): void {
  const inside = (<usize>area) << 2;
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let c: usize = 0; c < 3; c++) {
    const to = out + c * inside;
    for (let i = 0; i < area; i += 4) {
      const at = (<usize>i) << 2;
      let share = v128.load32_splat(usual + (c << 2));
      if (bySun) {
        const all = v128.load(byAll + c * inside + at);
        share = v128.and(f32x4.max(none, f32x4.min(one, f32x4.div(v128.load(bySun + c * inside + at), all))), f32x4.gt(all, f32x4.splat(LEAST_LIGHT)));
      }
      const left = v128.load(open + at);
      put(to + at, f32x4.mul(v128.load(to + at), f32x4.add(left, f32x4.mul(share, f32x4.sub(v128.load(lit + at), left)))), area - i);
    }
  }
}
