// Figures in space: what figures/loops.ts of the core defines. Places are found in double precision.

const LEAST_ALPHA: f32 = 1.0 / 512;
const TOUCH_METRES: f64 = 0.04;
const TOUCH_SHARE: f64 = 0.004;
const EDGE_SHARE: f64 = 0.2;
const SKY_METRES: f64 = 60000;
const MOST_HIDDEN: f64 = 0.95;
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
function add(at: usize, stride: usize, u: f64, v: f64, wide: f64, number: f64, pixel: i32): void {
  const x = <f32>u;
  const y = <f32>v;
  const w = <f32>wide;
  store<f32>(at, x);
  store<f32>(at + stride, y);
  store<f32>(at + 2 * stride, w);
  store<f32>(at + 3 * stride, <f32>number);
  store<i32>(at + 4 * stride, pixel);
  left = min(left, x);
  right = max(right, x);
  top = min(top, y);
  bottom = max(bottom, y);
  least = min(least, w);
  widest = max(widest, w);
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
      add(list + ((<usize>count) << 2), plane, u, v, wide, depth * longer(lens, i, j), row + i);
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

/**
 * `cast`: seven lines of four numbers (to the right, up, to us; u, v, share and length along the sun, or noughts), the box, width per metre and per depth, the lens; contact, reach in square metres, what stands beside; the
 * card's directions on the plan (right, normal); how many balls, and for each how far aside, how high and how large. `spans`: two columns for each row.
 */
export function figure_taken(list: usize, most: i32, open: usize, cast: usize, spans: usize, sides: usize, normals: usize, area: i32, y: i32, height: i32, stride: i32, originX: i32, originY: i32, found: usize): i32 {
  const plane = (<usize>most) << 2;
  const inside = (<usize>area) << 2;
  const toRight = cast;
  const up = cast + 32;
  const toUs = cast + 64;
  const thrownU = cast + 96;
  const thrownV = cast + 128;
  const thrownShare = cast + 160;
  const thrownAlong = cast + 192;
  const boxX = load<f64>(cast, 224);
  const boxY = load<f64>(cast, 232);
  const endX = boxX + load<f64>(cast, 240);
  const endY = boxY + load<f64>(cast, 248);
  const perMetre = load<f64>(cast, 256);
  const perDepth = load<f64>(cast, 264);
  const lens = cast + 272;
  const contact = load<f64>(cast, 296);
  const reach = load<f64>(cast, 304);
  const beside = load<f64>(cast, 312);
  const hasSun = load<f64>(thrownAlong) != 0 || load<f64>(thrownAlong, 8) != 0;
  const stepU = load<f64>(thrownU, 16);
  const stepV = load<f64>(thrownV, 16);
  const stepShare = load<f64>(thrownShare, 16);
  const stepAlong = load<f64>(thrownAlong, 16);
  const stepRight = load<f64>(toRight, 16);
  const stepUs = load<f64>(toUs, 16);
  const stepUp = load<f64>(up, 16);
  const isDistance = sides != 0 && load<f64>(lens, 16) != 0;
  let count = 0;
  begin();
  for (let j = y; j < y + height; j++) {
    const last = load<i32>(spans + ((<usize>(j - y)) << 3), 4);
    const row = (j - originY) * stride - originX;
    const rowU = start(thrownU, j);
    const rowV = start(thrownV, j);
    const rowShare = start(thrownShare, j);
    const rowAlong = start(thrownAlong, j);
    const rowRight = start(toRight, j);
    const rowUs = start(toUs, j);
    const rowUp = start(up, j);
    for (let i = load<i32>(spans + ((<usize>(j - y)) << 3)); i <= last; i++) {
      const x = <f64>i;
      const pixel = row + i;
      const at = (<usize>pixel) << 2;
      let near: f64;
      let far: f64;
      let share: f64 = 0;
      if (sides) {
        near = load<f32>(sides + at);
        far = load<f32>(sides + inside + at);
        share = load<f32>(sides + 2 * inside + at);
      } else {
        near = -load<f64>(up) / (rowUp + stepUp * x);
        far = near;
      }
      const isEdge = share > 0 && far - near > EDGE_SHARE * near;
      // Where nothing is known, the ground lies in a depth.
      const perDistance: f64 = isDistance ? 1 / longer(lens, i, j) : 1;
      let hidden: f64 = 0;
      const surfaces = isEdge ? 2 : 1;
      for (let side = 0; side < surfaces; side++) {
        const weight: f64 = isEdge ? (side == 0 ? 1 - share : share) : 1;
        const metres = isEdge ? (side == 0 ? near : far) : near + (far - near) * share;
        if (!(metres > 0) || metres >= SKY_METRES) continue;
        const depth = metres * perDistance;
        if (hasSun) {
          const along = load<f64>(thrownAlong) + depth * (rowAlong + stepAlong * x);
          const by = load<f64>(thrownShare) + depth * (rowShare + stepShare * x);
          if (along > 0 && by > 0) {
            const wide = along * perMetre + depth * perDepth;
            const u = (load<f64>(thrownU) + depth * (rowU + stepU * x)) / by;
            if (u > boxX - wide && u < endX + wide) {
              const v = (load<f64>(thrownV) + depth * (rowV + stepV * x)) / by;
              if (v > boxY - wide && v < endY + wide) {
                add(list + ((<usize>count) << 2), plane, u, v, wide, weight, pixel);
                count++;
              }
            }
          }
        }
        if (!(contact > 0)) continue;
        const a = load<f64>(toRight) + depth * (rowRight + stepRight * x);
        const n = load<f64>(toUs) + depth * (rowUs + stepUs * x);
        const off = a - min(beside, max(-beside, a));
        const away = off * off + n * n;
        if (away >= reach) continue;
        const h = load<f64>(up) + depth * (rowUp + stepUp * x);
        const sum = skyTaken(cast + 320, normals + at, normals ? inside : 0, a, h, n);
        hidden += weight * min(MOST_HIDDEN, sum * contact * (1 - away / reach));
      }
      if (hidden > 0) store<f32>(open + at, <f32>(<f64>load<f32>(open + at) * (1 - hidden)));
    }
  }
  end(found);
  return count;
}

/** The share of the even light of the sky that balls take from a place in metres from a figure's foot. `card`: its directions on the plan, how many balls, and those. `inside`: from plane to plane of the normals; 0 without. */
function skyTaken(card: usize, normal: usize, inside: usize, a: f64, h: f64, n: f64): f64 {
  let nx: f64 = 0;
  let ny: f64 = 1;
  let nz: f64 = 0;
  if (inside) {
    const x = load<f32>(normal);
    const y = load<f32>(normal + inside);
    const z = load<f32>(normal + 2 * inside);
    const length = sqrt<f32>(x * x + y * y + z * z);
    if (length >= LEAST_NORMAL) {
      nx = (<f64>x * load<f64>(card) + <f64>z * load<f64>(card, 8)) / <f64>length;
      ny = <f64>(y / length);
      nz = (<f64>x * load<f64>(card, 16) + <f64>z * load<f64>(card, 24)) / <f64>length;
    }
  }
  const balls = <i32>load<f64>(card, 32);
  let ball = card + 40;
  let sum: f64 = 0;
  for (let k = 0; k < balls; k++, ball += 24) {
    const x = load<f64>(ball) - a;
    const y = load<f64>(ball, 8) - h;
    const radius = load<f64>(ball, 16);
    const square = x * x + y * y + n * n;
    const by = radius * radius;
    if (square <= by) sum += 1;
    else {
      const towards = x * nx + y * ny - n * nz;
      if (towards > 0) sum += (towards * by) / (square * sqrt(square));
    }
  }
  return sum;
}

/** `bySun` and `byAll`: three planes each, or 0; else `usual` has a share for each. */
export function figure_shaded(out: usize, lit: usize, open: usize, bySun: usize, byAll: usize, usual: usize, area: i32): void {
  const inside = (<usize>area) << 2;
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let c: usize = 0; c < 3; c++) {
    const to = out + c * inside;
    for (let i = 0; i + 4 <= area; i += 4) {
      const at = (<usize>i) << 2;
      let share = v128.load32_splat(usual + (c << 2));
      if (bySun) {
        const all = v128.load(byAll + c * inside + at);
        share = v128.and(f32x4.max(none, f32x4.min(one, f32x4.div(v128.load(bySun + c * inside + at), all))), f32x4.gt(all, f32x4.splat(LEAST_LIGHT)));
      }
      const left = v128.load(open + at);
      v128.store(to + at, f32x4.mul(v128.load(to + at), f32x4.add(left, f32x4.mul(share, f32x4.sub(v128.load(lit + at), left)))));
    }
    for (let i = area & ~3; i < area; i++) {
      const at = (<usize>i) << 2;
      let share = load<f32>(usual + (c << 2));
      if (bySun) {
        const all = load<f32>(byAll + c * inside + at);
        share = all > LEAST_LIGHT ? max<f32>(0, min<f32>(1, load<f32>(bySun + c * inside + at) / all)) : 0;
      }
      const left = load<f32>(open + at);
      store<f32>(to + at, load<f32>(to + at) * (left + share * (load<f32>(lit + at) - left)));
    }
  }
}
