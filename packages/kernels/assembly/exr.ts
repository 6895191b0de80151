// OpenEXR's ZIP and RLE pre-processing: bytes split into even and odd halves, then differences plus 128.

/** Undoes it: n packed bytes at `src` (overwritten) become n bytes at `dst`. */
export function exr_restore(dst: usize, src: usize, n: i32): void {
  // The running sum, sixteen bytes at a time: three shifted additions make the sums within a vector.
  const bias = i8x16.splat(-128);
  const zero = i8x16.splat(0);
  if (n > 0) store<u8>(src, load<u8>(src) ^ 0x80); // the first byte has no bias
  let carry = zero;
  let i = 0;
  for (; i + 16 <= n; i += 16) {
    let x = i8x16.add(v128.load(src + i), bias);
    x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30));
    x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29));
    x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27));
    x = i8x16.add(x, v128.shuffle<u8>(zero, x, 0, 0, 0, 0, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23));
    x = i8x16.add(x, carry);
    v128.store(src + i, x);
    carry = v128.shuffle<u8>(x, x, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15);
  }
  let last = i > 0 ? load<u8>(src + i - 1) : <u8>0;
  for (; i < n; i++) {
    last = last + load<u8>(src + i) - 128;
    store<u8>(src + i, last);
  }
  const half = (n + 1) >> 1;
  let k = 0;
  for (; k + 16 <= n >> 1; k += 16) {
    const even = v128.load(src + k);
    const odd = v128.load(src + half + k);
    v128.store(dst + 2 * k, v128.shuffle<u8>(even, odd, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
    v128.store(dst + 2 * k, v128.shuffle<u8>(even, odd, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16);
  }
  for (; k < half; k++) {
    store<u8>(dst + 2 * k, load<u8>(src + k));
    if (2 * k + 1 < n) store<u8>(dst + 2 * k + 1, load<u8>(src + half + k));
  }
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
