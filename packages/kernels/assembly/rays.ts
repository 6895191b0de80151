// Rays through a tree with four children a node, boxes and triangles four at a time.
//
// Node, 128 bytes: low x, high x, low y, high y, low z, high z of the four children, then their codes. A code from 0 on is
// a node; below 0 its complement is a leaf: the number of its first block times 8 plus the number of its blocks.
// Block, 160 bytes: corner x, y, z, first edge x, y, z, second edge x, y, z of four triangles, then their numbers; the
// highest bit of a number says that light may pass.
// Source: Möller, Trumbore 1997 (triangles); Ize 2013, "Robust BVH Ray Traversal" (the margin of the slabs).

const MARGIN: f32 = 1.0000005;
const EDGE: f32 = 1e-6;

// @ts-ignore: decorator
@inline
function inverse(v: f32): f32 {
  return <f32>1 / (abs(v) < <f32>1e-20 ? (v < 0 ? <f32>-1e-20 : <f32>1e-20) : v);
}

// @ts-ignore: decorator
@inline
function slabs(n: usize, ox: v128, oy: v128, oz: v128, ix: v128, iy: v128, iz: v128, near: v128, far: v128, low: usize): i32 {
  const ax = f32x4.mul(f32x4.sub(v128.load(n), ox), ix);
  const bx = f32x4.mul(f32x4.sub(v128.load(n, 16), ox), ix);
  const ay = f32x4.mul(f32x4.sub(v128.load(n, 32), oy), iy);
  const by = f32x4.mul(f32x4.sub(v128.load(n, 48), oy), iy);
  const az = f32x4.mul(f32x4.sub(v128.load(n, 64), oz), iz);
  const bz = f32x4.mul(f32x4.sub(v128.load(n, 80), oz), iz);
  const first = f32x4.max(f32x4.max(f32x4.min(ax, bx), f32x4.min(ay, by)), f32x4.max(f32x4.min(az, bz), near));
  const last = f32x4.min(f32x4.min(f32x4.max(ax, bx), f32x4.max(ay, by)), f32x4.min(f32x4.max(az, bz), far));
  v128.store(low, first);
  return i32x4.bitmask(f32x4.le(first, f32x4.mul(last, f32x4.splat(MARGIN))));
}

/**
 * Walks one ray. `work` points to 16 bytes for distances, then a stack of 8 bytes an entry. Without `any`: the number of the
 * nearest triangle between `near` and `far`, or −1. With `any`: −2 if something opaque is in the way, else how many triangles
 * that let light pass were met; their numbers are at `out`, at most `room` of them.
 */
export function ray_walk(nodes: usize, blocks: usize, work: usize, out: usize, room: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, near: f32, far: f32, any: bool): i32 {
  const vox = f32x4.splat(ox);
  const voy = f32x4.splat(oy);
  const voz = f32x4.splat(oz);
  const vdx = f32x4.splat(dx);
  const vdy = f32x4.splat(dy);
  const vdz = f32x4.splat(dz);
  const ix = f32x4.splat(inverse(dx));
  const iy = f32x4.splat(inverse(dy));
  const iz = f32x4.splat(inverse(dz));
  const vnear = f32x4.splat(near);
  const least = f32x4.splat(-EDGE);
  const most = f32x4.splat(1 + EDGE);
  const stack = work + 16;
  let best = far;
  let found = -1;
  let passed = 0;
  let top = stack;
  let code = 0;
  let more = true;
  while (more) {
    if (code >= 0) {
      const n = nodes + ((<usize>code) << 7);
      let mask = slabs(n, vox, voy, voz, ix, iy, iz, vnear, f32x4.splat(best), work);
      if (mask != 0) {
        let lane = <usize>ctz(mask);
        let nextT = load<f32>(work + (lane << 2));
        let next = load<i32>(n + 96 + (lane << 2));
        mask &= mask - 1;
        while (mask != 0) {
          lane = <usize>ctz(mask);
          mask &= mask - 1;
          const t = load<f32>(work + (lane << 2));
          const other = load<i32>(n + 96 + (lane << 2));
          if (t < nextT) {
            store<i32>(top, next);
            store<f32>(top, nextT, 4);
            next = other;
            nextT = t;
          } else {
            store<i32>(top, other);
            store<f32>(top, t, 4);
          }
          top += 8;
        }
        code = next;
        continue;
      }
    } else {
      const leaf = ~code;
      let b = blocks + <usize>(leaf >> 3) * 160;
      const end = b + <usize>(leaf & 7) * 160;
      for (; b < end; b += 160) {
        const e1x = v128.load(b, 48);
        const e1y = v128.load(b, 64);
        const e1z = v128.load(b, 80);
        const e2x = v128.load(b, 96);
        const e2y = v128.load(b, 112);
        const e2z = v128.load(b, 128);
        const px = f32x4.sub(f32x4.mul(vdy, e2z), f32x4.mul(vdz, e2y));
        const py = f32x4.sub(f32x4.mul(vdz, e2x), f32x4.mul(vdx, e2z));
        const pz = f32x4.sub(f32x4.mul(vdx, e2y), f32x4.mul(vdy, e2x));
        const inv = f32x4.div(f32x4.splat(1), f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz)));
        const tx = f32x4.sub(vox, v128.load(b));
        const ty = f32x4.sub(voy, v128.load(b, 16));
        const tz = f32x4.sub(voz, v128.load(b, 32));
        const u = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(tx, px), f32x4.mul(ty, py)), f32x4.mul(tz, pz)), inv);
        const qx = f32x4.sub(f32x4.mul(ty, e1z), f32x4.mul(tz, e1y));
        const qy = f32x4.sub(f32x4.mul(tz, e1x), f32x4.mul(tx, e1z));
        const qz = f32x4.sub(f32x4.mul(tx, e1y), f32x4.mul(ty, e1x));
        const v = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(vdx, qx), f32x4.mul(vdy, qy)), f32x4.mul(vdz, qz)), inv);
        const t = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), inv);
        const inside = v128.and(v128.and(f32x4.ge(u, least), f32x4.ge(v, least)), v128.and(f32x4.le(f32x4.add(u, v), most), v128.and(f32x4.gt(t, vnear), f32x4.lt(t, f32x4.splat(best)))));
        let hits = i32x4.bitmask(inside);
        if (hits == 0) continue;
        v128.store(work, t);
        while (hits != 0) {
          const lane = <usize>ctz(hits);
          hits &= hits - 1;
          const id = load<i32>(b + 144 + (lane << 2));
          if (any) {
            if (id >= 0) return -2;
            if (passed < room) store<i32>(out + ((<usize>(passed++)) << 2), id & 0x7fffffff);
          } else {
            const at = load<f32>(work + (lane << 2));
            if (at < best) {
              best = at;
              found = id & 0x7fffffff;
            }
          }
        }
      }
    }
    // Back to the last place that can still hold something.
    more = false;
    while (top != stack) {
      top -= 8;
      if (load<f32>(top, 4) < best) {
        code = load<i32>(top);
        more = true;
        break;
      }
    }
  }
  return any ? passed : found;
}
