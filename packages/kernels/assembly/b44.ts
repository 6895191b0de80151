// OpenEXR's B44: halves in blocks of four by four, fourteen bytes each, three where all are equal.

/** A shift of 13 and more marks a block of one value. */
const FLAT_MARK: u32 = 13 << 2;

/** Halves are stored so that larger numbers are larger values, negatives turned over. */
// @ts-ignore: decorator
@inline
function fromOrdered(value: u32): u32 {
  return value & 0x8000 ? value & 0x7fff : ~value & 0xffff;
}

// @ts-ignore: decorator
@inline
function next(from: u32, difference: u32, shift: u32): u32 {
  return (from + ((difference & 0x3f) << shift) - (<u32>0x20 << shift)) & 0xffff;
}

// @ts-ignore: decorator
@inline
function put(row: usize, a: u32, b: u32, c: u32, d: u32, columns: i32): void {
  store<u16>(row, <u16>fromOrdered(a));
  if (columns > 1) store<u16>(row, <u16>fromOrdered(b), 2);
  if (columns > 2) store<u16>(row, <u16>fromOrdered(c), 4);
  if (columns > 3) store<u16>(row, <u16>fromOrdered(d), 6);
}

/**
 * Unpacks one channel of halves, `out` being its first sample and `stride` the bytes from line to line. Returns the bytes it
 * took from `src`, or −1 if they end before `end`.
 */
export function b44_channel(out: usize, stride: i32, width: i32, rows: i32, src: usize, end: usize): i32 {
  let at = src;
  for (let y = 0; y < rows; y += 4) {
    for (let x = 0; x < width; x += 4) {
      if (at + 3 > end) return -1;
      const first = ((<u32>load<u8>(at)) << 8) | <u32>load<u8>(at, 1);
      const columns = width - x;
      const to = out + <usize>y * <usize>stride + ((<usize>x) << 1);
      const lines = rows - y;
      if (<u32>load<u8>(at, 2) >= FLAT_MARK) {
        for (let j = 0; j < min(4, lines); j++) put(to + <usize>j * <usize>stride, first, first, first, first, columns);
        at += 3;
        continue;
      }
      if (at + 14 > end) return -1;
      // After 16 bits of value and 6 of shift, fifteen differences of 6 bits: down the first column, then each row to the right.
      const shift = (<u32>load<u8>(at, 2)) >> 2;
      const high = bswap<u64>(load<u64>(at, 2));
      const low = bswap<u64>(load<u64>(at, 6));
      const s4 = next(first, <u32>(high >> 52), shift);
      const s8 = next(s4, <u32>(high >> 46), shift);
      const s12 = next(s8, <u32>(high >> 40), shift);
      const s1 = next(first, <u32>(high >> 34), shift);
      const s5 = next(s4, <u32>(high >> 28), shift);
      const s9 = next(s8, <u32>(high >> 22), shift);
      const s13 = next(s12, <u32>(high >> 16), shift);
      const s2 = next(s1, <u32>(high >> 10), shift);
      const s6 = next(s5, <u32>(high >> 4), shift);
      const s10 = next(s9, <u32>(low >> 30), shift);
      const s14 = next(s13, <u32>(low >> 24), shift);
      const s3 = next(s2, <u32>(low >> 18), shift);
      const s7 = next(s6, <u32>(low >> 12), shift);
      const s11 = next(s10, <u32>(low >> 6), shift);
      const s15 = next(s14, <u32>low, shift);
      put(to, first, s1, s2, s3, columns);
      if (lines > 1) put(to + <usize>stride, s4, s5, s6, s7, columns);
      if (lines > 2) put(to + <usize>stride * 2, s8, s9, s10, s11, columns);
      if (lines > 3) put(to + <usize>stride * 3, s12, s13, s14, s15, columns);
      at += 14;
    }
  }
  return <i32>(at - src);
}
