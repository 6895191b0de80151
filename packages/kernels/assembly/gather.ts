// Tables are looked up four places at a time; there is no vector load from many places.

/** Numbers of a table at four places, which are given in bytes and as what lies beyond. */
// @ts-ignore: decorator
@inline
export function gathered(table: usize, offsets: v128, share: v128): v128 {
  const p0 = table + <usize>i32x4.extract_lane(offsets, 0);
  const p1 = table + <usize>i32x4.extract_lane(offsets, 1);
  const p2 = table + <usize>i32x4.extract_lane(offsets, 2);
  const p3 = table + <usize>i32x4.extract_lane(offsets, 3);
  let from = f32x4.splat(load<f32>(p0));
  from = f32x4.replace_lane(from, 1, load<f32>(p1));
  from = f32x4.replace_lane(from, 2, load<f32>(p2));
  from = f32x4.replace_lane(from, 3, load<f32>(p3));
  let to = f32x4.splat(load<f32>(p0, 4));
  to = f32x4.replace_lane(to, 1, load<f32>(p1, 4));
  to = f32x4.replace_lane(to, 2, load<f32>(p2, 4));
  to = f32x4.replace_lane(to, 3, load<f32>(p3, 4));
  return f32x4.add(from, f32x4.mul(share, f32x4.sub(to, from)));
}
