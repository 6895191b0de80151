// OpenEXR's ZIP and RLE pre-processing: bytes split into even and odd halves, then differences plus 128.

/** Running sums of sixteen differences behind those before, which end in every byte of `carry`. */
// @ts-ignore: decorator
@inline
function summed(x: v128, carry: v128): v128 {
  // Four shifted additions make the sums within a vector.
  const zero = i8x16.splat(0);
  x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30));
  x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29));
  x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27));
  x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 0, 0, 0, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23));
  return i8x16.add(x, carry);
}

// @ts-ignore: decorator
@inline
function lastOf(x: v128): v128 {
  return v128.shuffle<u8>(x, x, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15);
}

/** Undoes it: n packed bytes at `src` become n bytes at `dst`. */
export function exr_restore(dst: usize, src: usize, n: i32): void {
  if (n <= 0) return;
  const half = <usize>((n + 1) >> 1);
  const pairs = <usize>(n >> 1);
  // Both halves are summed side by side, the odd one from where the even one ends.
  let even: u8 = 128; // the first byte has no bias
  let odd: u8 = 128 + sumOf(src, half);
  let k: usize = 0;
  if (pairs >= 16) {
    const bias = i8x16.splat(-128);
    let evenCarry = i8x16.splat(<i8>even);
    let oddCarry = i8x16.splat(<i8>odd);
    for (; k + 16 <= pairs; k += 16) {
      const a = summed(i8x16.add(v128.load(src + k), bias), evenCarry);
      const b = summed(i8x16.add(v128.load(src + half + k), bias), oddCarry);
      evenCarry = lastOf(a);
      oddCarry = lastOf(b);
      v128.store(dst + 2 * k, v128.shuffle<u8>(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
      v128.store(dst + 2 * k, v128.shuffle<u8>(a, b, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16);
    }
    even = i8x16.extract_lane_u(evenCarry, 0);
    odd = i8x16.extract_lane_u(oddCarry, 0);
  }
  for (; k < half; k++) {
    even = even + load<u8>(src + k) - 128;
    store<u8>(dst + 2 * k, even);
    if (k >= pairs) break;
    odd = odd + load<u8>(src + half + k) - 128;
    store<u8>(dst + 2 * k + 1, odd);
  }
}

/** What `n` differences, each with its bias, add up to. */
function sumOf(src: usize, n: usize): u8 {
  let sums = i8x16.splat(0);
  let i: usize = 0;
  for (; i + 16 <= n; i += 16) sums = i8x16.add(sums, v128.load(src + i));
  let sum: u8 = 0;
  for (; i < n; i++) sum += load<u8>(src + i);
  sums = i8x16.add(sums, v128.shuffle<u8>(sums, sums, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  sums = i8x16.add(sums, v128.shuffle<u8>(sums, sums, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3));
  sums = i8x16.add(sums, v128.shuffle<u8>(sums, sums, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1));
  sums = i8x16.add(sums, v128.shuffle<u8>(sums, sums, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 0));
  // An even count of biases cancels out in eight bits.
  return sum + i8x16.extract_lane_u(sums, 0) + (n & 1 ? 128 : 0);
}

/** Applies it: n bytes at `src` become n bytes at `dst`, ready to be packed. */
export function exr_prepare(dst: usize, src: usize, n: i32): void {
  const half = (n + 1) >> 1;
  for (let k = 0; k < half; k++) {
    store<u8>(dst + k, load<u8>(src + 2 * k));
    if (2 * k + 1 < n) store<u8>(dst + half + k, load<u8>(src + 2 * k + 1));
  }
  for (let i = n - 1; i > 0; i--) store<u8>(dst + i, load<u8>(dst + i) - load<u8>(dst + i - 1) + 128);
}
