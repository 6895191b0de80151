// Depth of field: what raster/focus.ts of the core defines. Planes are written exactly.
import { put } from "./local";
import { bounded } from "./raster";

// @ts-ignore: decorator
@inline
function unit(x: v128): v128 {
  return f32x4.min(f32x4.splat(1), f32x4.max(f32x4.splat(0), x));
}

/** Mean of the neighbours that lie on one side of a pixel of an edge. */
// @ts-ignore: decorator
@inline
function meanOf(plane: usize, at: usize, rows: usize, which: u32): f32 {
  let sum: f32 = 0;
  let count: f32 = 0;
  let bit: u32 = 1;
  for (let j: i32 = -1; j <= 1; j++) {
    for (let i: i32 = -1; i <= 1; i++) {
      if (which & bit) {
        const value = load<f32>(plane + at + <usize>(j * <i32>rows + i * 4));
        sum += value == value ? min<f32>(65504, max<f32>(-65504, value)) : 0;
        count += 1;
      }
      bit <<= 1;
    }
  }
  return sum / count;
}

/** One side of a pixel: as its neighbours there, or what the other side leaves of it. */
// @ts-ignore: decorator
@inline
function nearOf(plane: usize, at: usize, rows: usize, near: u32, far: u32, own: f32, share: f32, isAlpha: bool): f32 {
  const found = near ? meanOf(plane, at, rows, near) : max<f32>(0, (own - share * meanOf(plane, at, rows, far)) / (1 - share));
  return min<f32>(isAlpha ? 1 : 65504, found);
}

/** What is near and what is far in each pixel: four planes each. */
export function focus_parted(out: usize, planes: usize, sides: usize, width: i32, height: i32): void {
  const rows = (<usize>(width + 2)) << 2;
  const area = (<usize>(width * height)) << 2;
  const inside = rows * <usize>(height + 2);
  for (let y = 0; y < height; y++) {
    const row = rows * <usize>(y + 1) + 4;
    const to = out + ((<usize>(y * width)) << 2);
    for (let plane: usize = 0; plane < 4; plane++) {
      const from = planes + plane * inside + row;
      const near = to + plane * area;
      for (let x = 0; x < width; x += 4) put(near + ((<usize>x) << 2), bounded(v128.load(from + ((<usize>x) << 2))), width - x);
      if (plane == 3) {
        for (let x = 0; x < width; x++) if (load<f32>(near + ((<usize>x) << 2)) > 1) store<f32>(near + ((<usize>x) << 2), 1);
      }
      memory.copy(near + 4 * area, near, (<usize>width) << 2);
    }
    for (let x = 0; x < width; x++) {
      const at = row + ((<usize>x) << 2);
      const share = load<f32>(sides + 2 * inside + at);
      if (!(share > 0)) continue;
      const between = (load<f32>(sides + at) + load<f32>(sides + inside + at)) / 2;
      let near: u32 = 0;
      let far: u32 = 0;
      let bit: u32 = 1;
      for (let j: i32 = -1; j <= 1; j++) {
        for (let i: i32 = -1; i <= 1; i++) {
          const there = sides + at + <usize>(j * <i32>rows + i * 4);
          if ((i != 0 || j != 0) && load<f32>(there + 2 * inside) == 0) {
            if (load<f32>(there) < between) near |= bit;
            else far |= bit;
          }
          bit <<= 1;
        }
      }
      if ((near | far) == 0) continue;
      let off: f32 = 0;
      let apart: f32 = 0;
      for (let plane: usize = 0; plane < 4; plane++) {
        const here = to + plane * area + ((<usize>x) << 2);
        const own = load<f32>(here);
        const ofNear = nearOf(planes + plane * inside, at, rows, near, far, own, share, plane == 3);
        const ofFar = nearOf(planes + plane * inside, at, rows, far, near, own, 1 - share, plane == 3);
        off += Mathf.abs(own - ofNear - share * (ofFar - ofNear));
        apart += Mathf.abs(ofFar - ofNear);
      }
      // Depth that only grows fast, as of ground far away: its pixels are no mixture of their neighbours.
      if (!(off <= <f32>0.25 * apart)) continue;
      for (let plane: usize = 0; plane < 4; plane++) {
        const here = to + plane * area + ((<usize>x) << 2);
        const own = load<f32>(here);
        store<f32>(here, nearOf(planes + plane * inside, at, rows, near, far, own, share, plane == 3));
        store<f32>(here + 4 * area, nearOf(planes + plane * inside, at, rows, far, near, own, 1 - share, plane == 3));
      }
    }
  }
}

/** Metres to circles. `lens`: near and far metres, near and far radius, the most. Their extremes go into the fifth and sixth number behind it. */
export function focus_circles(out: usize, metres: usize, n: i32, lens: usize): void {
  const one = f32x4.splat(1);
  const none = f32x4.splat(0);
  const nearMetres = v128.load32_splat(lens);
  const farMetres = v128.load32_splat(lens + 4);
  const nearPx = v128.load32_splat(lens + 8);
  const farPx = v128.load32_splat(lens + 12);
  const most = v128.load32_splat(lens + 16);
  const fewest = f32x4.neg(most);
  let least = f32x4.splat(Infinity);
  let largest = f32x4.splat(-Infinity);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const depth = v128.load(metres + at);
    const isThere = v128.and(f32x4.gt(depth, none), f32x4.lt(depth, f32x4.splat(60000)));
    const before = v128.and(f32x4.mul(nearPx, f32x4.sub(one, f32x4.div(nearMetres, depth))), isThere);
    const behind = v128.bitselect(f32x4.mul(farPx, f32x4.sub(one, f32x4.div(farMetres, depth))), farPx, isThere);
    const circle = f32x4.add(f32x4.max(fewest, f32x4.min(none, before)), f32x4.min(most, f32x4.max(none, behind)));
    put(out + at, circle, n - i);
    // What lies behind the end is no pixel.
    const isOne = n - i >= 4 ? v128.not(none) : n - i == 3 ? i32x4(-1, -1, -1, 0) : n - i == 2 ? i32x4(-1, -1, 0, 0) : i32x4(-1, 0, 0, 0);
    least = f32x4.min(least, v128.bitselect(circle, f32x4.splat(Infinity), isOne));
    largest = f32x4.max(largest, v128.bitselect(circle, f32x4.splat(-Infinity), isOne));
  }
  store<f32>(lens + 20, min(min(f32x4.extract_lane(least, 0), f32x4.extract_lane(least, 1)), min(f32x4.extract_lane(least, 2), f32x4.extract_lane(least, 3))));
  store<f32>(lens + 24, max(max(f32x4.extract_lane(largest, 0), f32x4.extract_lane(largest, 1)), max(f32x4.extract_lane(largest, 2), f32x4.extract_lane(largest, 3))));
}

// @ts-ignore: decorator
@inline
function weightOf(circle: v128, from: v128, perFrom: v128, to: v128, perTo: v128): v128 {
  const half = f32x4.splat(0.5);
  const begun = unit(f32x4.add(f32x4.mul(f32x4.sub(circle, from), perFrom), half));
  const ended = unit(f32x4.add(f32x4.mul(f32x4.sub(circle, to), perTo), half));
  return f32x4.max(f32x4.splat(0), f32x4.sub(begun, ended));
}

/** What of a picture (near, far: four planes each, which are bounded) belongs between two limits (`range`: from, 1 / its width, to, 1 / its width): colour and alpha under the weight, the weight fourth. Says whether anything does. */
export function focus_slice(out: usize, planes: usize, circles: usize, share: usize, n: i32, range: usize): bool {
  let most = f32x4.splat(0);
  const area = (<usize>n) << 2;
  const from = v128.load32_splat(range);
  const perFrom = v128.load32_splat(range + 4);
  const to = v128.load32_splat(range + 8);
  const perTo = v128.load32_splat(range + 12);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const left = n - i;
    const part = v128.load(share + at);
    const near = f32x4.mul(f32x4.sub(f32x4.splat(1), part), weightOf(v128.load(circles + at), from, perFrom, to, perTo));
    const far = f32x4.mul(part, weightOf(v128.load(circles + area + at), from, perFrom, to, perTo));
    const weight = f32x4.add(near, far);
    put(out + 3 * area + at, weight, left);
    // Most pixels belong to few slices, and few lie on edges.
    if (!v128.any_true(weight)) {
      for (let plane: usize = 0; plane < 3; plane++) put(out + plane * area + at, weight, left);
      put(out + 4 * area + at, weight, left);
      continue;
    }
    most = f32x4.max(most, weight);
    const hasFar = v128.any_true(far);
    for (let plane: usize = 0; plane < 4; plane++) {
      const here = planes + plane * area + at;
      let sum = f32x4.mul(near, v128.load(here));
      if (hasFar) sum = f32x4.add(sum, f32x4.mul(far, v128.load(here + 4 * area)));
      put(out + (plane == 3 ? 4 : plane) * area + at, sum, left);
    }
  }
  return v128.any_true(f32x4.gt(most, f32x4.splat(0)));
}

/** Each number and the one so many places behind it, added up. */
export function focus_summed(out: usize, from: usize, n: i32, by: i32): void {
  const behind = (<usize>by) << 2;
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    v128.store(out + at, f32x4.add(v128.load(from + at), v128.load(from + at + behind)));
  }
}

/** Each pixel of a rectangle from its neighbours: `taps` holds, for each, how many bytes away it lies and its weight; the first `full` have the same one. `stride` and `across` are numbers in a row of each. */
export function focus_disc(out: usize, from: usize, width: i32, height: i32, stride: i32, across: i32, taps: usize, full: i32, count: i32): void {
  const common = v128.load32_splat(taps + 4);
  const edge = taps + ((<usize>full) << 3);
  const end = taps + ((<usize>count) << 3);
  for (let y = 0; y < height; y++) {
    const to = out + ((<usize>(y * stride)) << 2);
    const row = from + ((<usize>(y * across)) << 2);
    let x = 0;
    for (; x + 16 <= width; x += 16) {
      const here = row + ((<usize>x) << 2);
      let a = f32x4.splat(0);
      let b = f32x4.splat(0);
      let c = f32x4.splat(0);
      let d = f32x4.splat(0);
      for (let tap = taps; tap < edge; tap += 8) {
        const there = here + load<i32>(tap);
        a = f32x4.add(a, v128.load(there));
        b = f32x4.add(b, v128.load(there, 16));
        c = f32x4.add(c, v128.load(there, 32));
        d = f32x4.add(d, v128.load(there, 48));
      }
      a = f32x4.mul(a, common);
      b = f32x4.mul(b, common);
      c = f32x4.mul(c, common);
      d = f32x4.mul(d, common);
      for (let tap = edge; tap < end; tap += 8) {
        const there = here + load<i32>(tap);
        const weight = v128.load32_splat(tap + 4);
        a = f32x4.add(a, f32x4.mul(weight, v128.load(there)));
        b = f32x4.add(b, f32x4.mul(weight, v128.load(there, 16)));
        c = f32x4.add(c, f32x4.mul(weight, v128.load(there, 32)));
        d = f32x4.add(d, f32x4.mul(weight, v128.load(there, 48)));
      }
      const at = to + ((<usize>x) << 2);
      v128.store(at, a);
      v128.store(at, b, 16);
      v128.store(at, c, 32);
      v128.store(at, d, 48);
    }
    for (; x < width; x += 4) {
      const here = row + ((<usize>x) << 2);
      let a = f32x4.splat(0);
      for (let tap = taps; tap < edge; tap += 8) a = f32x4.add(a, v128.load(here + load<i32>(tap)));
      a = f32x4.mul(a, common);
      for (let tap = edge; tap < end; tap += 8) a = f32x4.add(a, f32x4.mul(v128.load32_splat(tap + 4), v128.load(here + load<i32>(tap))));
      put(to + ((<usize>x) << 2), a, width - x);
    }
  }
}

/** Lays a slice behind what there is: of each pixel it takes what is left, as far as it covers it. */
export function focus_behind(sum: usize, slice: usize, n: i32): void {
  const area = (<usize>n) << 2;
  const one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const covers = v128.load(slice + 3 * area + at);
    const isThere = f32x4.gt(covers, f32x4.splat(1e-6));
    if (!v128.any_true(isThere)) continue;
    const rest = f32x4.sub(one, v128.load(sum + 3 * area + at));
    const part = v128.and(unit(f32x4.div(rest, covers)), isThere);
    for (let plane: usize = 0; plane < 5; plane++) {
      const here = plane * area + at;
      put(sum + here, f32x4.add(v128.load(sum + here), f32x4.mul(part, v128.and(v128.load(slice + here), isThere))), n - i);
    }
  }
}

/** What is far goes on behind what hides it: it takes what is left, as far as enough (a share) of it is seen. `front` is what is not behind what is sharp. */
export function focus_continued(sum: usize, front: usize, n: i32, enough: f32): void {
  const area = (<usize>n) << 2;
  const one = f32x4.splat(1);
  const none = f32x4.splat(0);
  const perEnough = f32x4.splat(1 / enough);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const covers = v128.load(sum + 3 * area + at);
    const seen = f32x4.sub(covers, v128.load(front + 3 * area + at));
    const goesOn = v128.and(f32x4.lt(covers, one), f32x4.gt(seen, none));
    if (!v128.any_true(goesOn)) continue;
    const more = v128.and(f32x4.div(f32x4.mul(f32x4.min(one, f32x4.mul(seen, perEnough)), f32x4.sub(one, covers)), seen), goesOn);
    for (let plane: usize = 0; plane < 5; plane++) {
      const here = plane * area + at;
      const is = v128.load(sum + here);
      put(sum + here, f32x4.add(is, f32x4.mul(more, f32x4.sub(is, v128.load(front + here)))), n - i);
    }
  }
}

/** Colours and alpha out of sums under a weight (the fourth of five planes), colours times a gain. */
export function focus_weighed(out: usize, sum: usize, n: i32, gain: f32): void {
  const area = (<usize>n) << 2;
  const one = f32x4.splat(1);
  const gains = f32x4.splat(gain);
  for (let i = 0; i < n; i += 4) {
    const at = (<usize>i) << 2;
    const covers = v128.load(sum + 3 * area + at);
    const part = v128.and(f32x4.div(one, covers), f32x4.gt(covers, f32x4.splat(0)));
    for (let c: usize = 0; c < 3; c++) put(out + c * area + at, f32x4.mul(f32x4.mul(v128.load(sum + c * area + at), part), gains), n - i);
    put(out + 3 * area + at, f32x4.min(one, f32x4.mul(v128.load(sum + 4 * area + at), part)), n - i);
  }
}
