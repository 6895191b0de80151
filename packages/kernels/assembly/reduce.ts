// Two rows to one of half the width, by averaging two by two. `width` is the width of the rows that are read; an odd last
// column stands twice. For an odd last row the caller passes the same row twice.

// @ts-ignore: decorator
@inline
function second(i: i32, width: i32): usize {
  return <usize>min(2 * i + 1, width - 1);
}

export function reduce_u8(out: usize, upper: usize, lower: usize, width: i32): void {
  const half = (width + 1) >> 1;
  for (let i = 0; i < half; i++) {
    const x = <usize>(2 * i);
    const y = second(i, width);
    const sum = <u32>load<u8>(upper + x) + load<u8>(upper + y) + load<u8>(lower + x) + load<u8>(lower + y);
    store<u8>(out + i, <u8>((sum + 2) >> 2));
  }
}

export function reduce_u16(out: usize, upper: usize, lower: usize, width: i32): void {
  const half = (width + 1) >> 1;
  for (let i = 0; i < half; i++) {
    const x = (<usize>(2 * i)) << 1;
    const y = second(i, width) << 1;
    const sum = <u32>load<u16>(upper + x) + load<u16>(upper + y) + load<u16>(lower + x) + load<u16>(lower + y);
    store<u16>(out + ((<usize>i) << 1), <u16>((sum + 2) >> 2));
  }
}

export function reduce_f32(out: usize, upper: usize, lower: usize, width: i32): void {
  const half = (width + 1) >> 1;
  for (let i = 0; i < half; i++) {
    const x = (<usize>(2 * i)) << 2;
    const y = second(i, width) << 2;
    const sum = load<f32>(upper + x) + load<f32>(upper + y) + (load<f32>(lower + x) + load<f32>(lower + y));
    store<f32>(out + ((<usize>i) << 2), sum * 0.25);
  }
}
