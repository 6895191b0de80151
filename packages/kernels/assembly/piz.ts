// OpenEXR's PIZ: Huffman codes, wavelet, table of values. Same as formats/exr/piz.ts, which is their definition.

const TABLE_BITS: i32 = 14;

// @ts-ignore: decorator
@inline
function window(src: usize, at: u64): u32 {
  // Four bytes from the one that holds bit `at`, the highest first. The caller pads the source.
  return bswap<u32>(load<u32>(src + <usize>(at >> 3)));
}

/** `count` bits, at most 40, from bit `at` on. */
function bitsAt(src: usize, at: u64, count: i32): u64 {
  if (count <= 25) return <u64>((window(src, at) << <u32>(at & 7)) >> <u32>(32 - count));
  return (bitsAt(src, at, 16) << (count - 16)) | bitsAt(src, at + 16, count - 16);
}

/**
 * Decodes exactly `n` symbols. `quick`: for every 14 bits symbol × 64 + length, or −1; `long`: for each length from 0 to 58
 * three u64 (first code, count, index of its first symbol), `symbols`: those of all lengths in order. Returns 0, or 1 if the codes are damaged.
 */
export function piz_symbols(out: usize, n: i32, src: usize, bitCount: u32, quick: usize, long: usize, symbols: usize, longest: i32, runSymbol: u32): i32 {
  let at: u64 = 0;
  let to = 0;
  while (to < n) {
    const found = load<i32>(quick + ((<usize>((window(src, at) << <u32>(at & 7)) >> (32 - TABLE_BITS))) << 2));
    let symbol: u32;
    if (found >= 0) {
      symbol = <u32>(found >> 6);
      at += <u64>(found & 63);
    } else {
      let length = TABLE_BITS + 1;
      symbol = 0xffffffff;
      for (; length <= longest; length++) {
        const row = long + <usize>length * 24;
        const code = bitsAt(src, at, length);
        const first = load<u64>(row);
        if (code < first || code - first >= load<u64>(row, 8)) continue;
        symbol = load<u32>(symbols + ((<usize>(load<u64>(row, 16) + code - first)) << 2));
        break;
      }
      if (symbol == 0xffffffff) return 1;
      at += <u64>length;
    }
    if (symbol == runSymbol) {
      let run = <i32>bitsAt(src, at, 8);
      at += 8;
      if (to == 0 || to + run > n) return 1;
      const value = load<u16>(out + ((<usize>(to - 1)) << 1));
      for (; run > 0; run--, to++) store<u16>(out + ((<usize>to) << 1), value);
    } else {
      store<u16>(out + ((<usize>to) << 1), <u16>symbol);
      to++;
    }
    if (at > <u64>bitCount) return 1;
  }
  return 0;
}

// @ts-ignore: decorator
@inline
function pair(wide: bool, low: usize, high: usize): void {
  if (wide) {
    const difference = <i32>load<u16>(high);
    const b = (<i32>load<u16>(low) - (difference >> 1)) & 0xffff;
    store<u16>(high, <u16>b);
    store<u16>(low, <u16>(difference + b - 0x8000));
  } else {
    const difference = <i32>load<i16>(high);
    const a = <i32>load<i16>(low) + (difference & 1) + (difference >> 1);
    store<u16>(low, <u16>a);
    store<u16>(high, <u16>(a - difference));
  }
}

// @ts-ignore: decorator
@inline
function wavelet(wide: bool, data: usize, width: i32, stepX: usize, height: i32, stepY: usize): void {
  let p = 1;
  while (p <= min(width, height)) p <<= 1;
  p >>= 1;
  let p2 = p;
  p >>= 1;
  while (p >= 1) {
    const x1 = stepX * <usize>p;
    const x2 = stepX * <usize>p2;
    const y1 = stepY * <usize>p;
    const y2 = stepY * <usize>p2;
    let row = data;
    const lastRow = data + stepY * <usize>(height - p2);
    for (; row <= lastRow; row += y2) {
      let at = row;
      const last = row + stepX * <usize>(width - p2);
      for (; at <= last; at += x2) {
        pair(wide, at, at + y1);
        pair(wide, at + x1, at + x1 + y1);
        pair(wide, at, at + x1);
        pair(wide, at + y1, at + y1 + x1);
      }
      if (width & p) pair(wide, at, at + y1);
    }
    if (height & p) {
      const last = row + stepX * <usize>(width - p2);
      for (let at = row; at <= last; at += x2) pair(wide, at, at + x1);
    }
    p2 = p;
    p >>= 1;
  }
}

/** Undoes the wavelet in place; steps are in bytes. `wide`: the values need more than 14 bits. */
export function piz_wavelet(data: usize, width: i32, stepX: i32, height: i32, stepY: i32, wide: bool): void {
  if (wide) wavelet(true, data, width, <usize>stepX, height, <usize>stepY);
  else wavelet(false, data, width, <usize>stepX, height, <usize>stepY);
}

/** Places in the list of values become the values. */
export function piz_values(data: usize, n: i32, table: usize): void {
  for (let i = 0; i < n; i++) {
    const at = data + ((<usize>i) << 1);
    store<u16>(at, load<u16>(table + ((<usize>load<u16>(at)) << 1)));
  }
}
