// Inflate (RFC 1951) in a zlib frame (RFC 1950), for chunks that lie in memory as a whole.
// As fast decoders commonly do it: 64 bits are kept at hand, tables give symbol and length in one step, copies go by whole vectors.

// An entry of a table:
//   bits 0…7   bits to take: the code with the extra bits behind it
//   bits 8…11  bits of the code alone; of literals, how many there are
//   bits 12…15 what it is
//   bits 16…31 one or two literals, base of a length or distance, or where the further table begins
const LITERAL: u32 = 1 << 12;
const END: u32 = 1 << 13;
const FURTHER: u32 = 1 << 14;
const FAULT: u32 = 1 << 15;

/** Bits of the first tables; longer codes go on in further ones, which all have as many entries as the longest code wants. */
const LONG_BITS: u32 = 11;
const DISTANCE_BITS: u32 = 8;
const MOST_BITS: u32 = 15;
const MOST_SYMBOLS: u32 = 320;

// 2^11 entries and at most 143 further tables of 2^4; 2^8 entries and at most 15 further tables of 2^7.
const longTable: usize = memory.data((2048 + 144 * 16) * 4, 16);
const distanceTable: usize = memory.data((256 + 16 * 128) * 4, 16);
/** Lengths of codes, one byte a symbol. */
const lengths: usize = memory.data(<i32>MOST_SYMBOLS, 16);
const ordered: usize = memory.data(<i32>MOST_SYMBOLS * 2, 16);
const counts: usize = memory.data(16 * 4, 16);
const places: usize = memory.data(16 * 4, 16);

const lengthBase: usize = memory.data<u16>([3, 4, 5, 6, 7, 8, 9, 10, 11, 13, 15, 17, 19, 23, 27, 31, 35, 43, 51, 59, 67, 83, 99, 115, 131, 163, 195, 227, 258]);
const lengthExtra: usize = memory.data<u8>([0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 5, 5, 0]);
const distanceBase: usize = memory.data<u16>([1, 2, 3, 4, 5, 7, 9, 13, 17, 25, 33, 49, 65, 97, 129, 193, 257, 385, 513, 769, 1025, 1537, 2049, 3073, 4097, 6145, 8193, 12289, 16385, 24577]);
const lengthOrder: usize = memory.data<u8>([16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15]);

/** Alphabets that are decoded by `makeTable`. */
const LENGTHS_OF_CODES: u32 = 0;
const LITERALS: u32 = 1;
const DISTANCES: u32 = 2;

/** What a symbol stands for, without the length of its code. Entries of extra bits count them in bits 0…7 for now. */
function meaning(alphabet: u32, symbol: u32): u32 {
  if (alphabet == LENGTHS_OF_CODES) return symbol << 16;
  if (alphabet == DISTANCES) {
    if (symbol > 29) return FAULT;
    return ((<u32>load<u16>(distanceBase + (<usize>symbol << 1))) << 16) | (symbol < 4 ? 0 : (symbol >> 1) - 1);
  }
  if (symbol < 256) return (symbol << 16) | LITERAL;
  if (symbol == 256) return END;
  if (symbol > 285) return FAULT;
  const k = <usize>(symbol - 257);
  return ((<u32>load<u16>(lengthBase + (k << 1))) << 16) | <u32>load<u8>(lengthExtra + k);
}

/**
 * Fills a table from the lengths of the codes at `from`. Returns false if the codes are more than there can be, or fewer, unless
 * there is at most one code of one bit, which encoders write for a single distance.
 */
function makeTable(table: usize, bits: u32, from: usize, count: u32, alphabet: u32): bool {
  memory.fill(counts, 0, 64);
  for (let i: u32 = 0; i < count; i++) {
    const at = counts + (<usize>load<u8>(from + i) << 2);
    store<u32>(at, load<u32>(at) + 1);
  }
  let left: i32 = 1;
  let longest: u32 = 0;
  let place: u32 = 0;
  for (let length: u32 = 1; length <= MOST_BITS; length++) {
    const n = load<u32>(counts + (<usize>length << 2));
    left = (left << 1) - <i32>n;
    if (left < 0) return false;
    if (n > 0) longest = length;
    store<u32>(places + (<usize>length << 2), place);
    place += n;
  }
  if (left > 0 && (longest > 1 || alphabet == LENGTHS_OF_CODES)) return false;
  for (let i: u32 = 0; i < count; i++) {
    const length = <u32>load<u8>(from + i);
    if (length == 0) continue;
    const at = places + (<usize>length << 2);
    store<u16>(ordered + (<usize>load<u32>(at) << 1), <u16>i);
    store<u32>(at, load<u32>(at) + 1);
  }
  const size: u32 = 1 << bits;
  // Codes that no symbol has are faults, which only incomplete sets show.
  if (left > 0) {
    store<u32>(table, FAULT);
    store<u32>(table, FAULT, 4);
  }
  const furtherBits: u32 = longest > bits ? longest - bits : 0;
  let next = size;
  let code: u32 = 0;
  let prefix: u32 = 0xffffffff;
  let further: u32 = 0;
  let k: u32 = 0;
  for (let length: u32 = 1; length <= longest; length++) {
    // The table holds 2^length entries by now: all shorter codes stand in it as often as they go in.
    if (length > 1 && length <= bits) memory.copy(table + (<usize>2 << length), table, <usize>2 << length);
    for (let n = load<u32>(counts + (<usize>length << 2)); n > 0; n--, k++, code++) {
      const symbol = <u32>load<u16>(ordered + (<usize>k << 1));
      // Codes come with their highest bit first, so they are looked up in reverse.
      const reversed = reverse(code, length);
      const meant = meaning(alphabet, symbol);
      if (length <= bits) {
        store<u32>(table + (<usize>reversed << 2), meant + length + (meant & LITERAL ? 1 << 8 : length << 8));
        continue;
      }
      if ((reversed & (size - 1)) != prefix) {
        prefix = reversed & (size - 1);
        further = next;
        next += 1 << furtherBits;
        store<u32>(table + (<usize>prefix << 2), (further << 16) | FURTHER | (furtherBits << 8) | bits);
      }
      const rest = length - bits;
      const entry = meant + rest + (meant & LITERAL ? 1 << 8 : rest << 8);
      for (let i = reversed >> bits; i < 1 << furtherBits; i += 1 << rest) store<u32>(table + (<usize>(further + i) << 2), entry);
    }
    code <<= 1;
  }
  for (let length = longest > 1 ? longest : 1; length < bits; length++) memory.copy(table + (<usize>4 << length), table, <usize>4 << length);
  return true;
}

// @ts-ignore: decorator
@inline
function reverse(code: u32, length: u32): u32 {
  code = ((code & 0x5555) << 1) | ((code >> 1) & 0x5555);
  code = ((code & 0x3333) << 2) | ((code >> 2) & 0x3333);
  code = ((code & 0x0f0f) << 4) | ((code >> 4) & 0x0f0f);
  code = ((code & 0x00ff) << 8) | ((code >> 8) & 0x00ff);
  return code >> (16 - length);
}

// What is at hand, between the functions below. The source is padded with sixteen bytes, so that whole words can be read at its end.
let hand: u64 = 0;
let inHand: u64 = 0;
let from: usize = 0;

// @ts-ignore: decorator
@inline
function take(count: u32): u32 {
  // At least 56 bits, without a branch: whole bytes are added that fit.
  hand |= load<u64>(from) << inHand;
  from += <usize>((63 - inHand) >> 3);
  inHand |= 56;
  const bits = <u32>hand & ((1 << count) - 1);
  hand >>= <u64>count;
  inHand -= <u64>count;
  return bits;
}

/** Where two literals fit into the bits of a table, one step takes both. */
function pairLiterals(): void {
  // From the last entry on: those that are looked up for the second literal lie before and are still single.
  for (let i: i32 = (1 << LONG_BITS) - 1; i >= 0; i--) {
    const at = longTable + (<usize>i << 2);
    const first = load<u32>(at);
    if (!(first & LITERAL)) continue;
    const length = first & 255;
    const second = load<u32>(longTable + ((<usize>i >> <usize>length) << 2));
    if (!(second & LITERAL) || length + (second & 255) > LONG_BITS) continue;
    store<u32>(at, (first + (second & 255) + (1 << 8)) | (second >> 16 << 24));
  }
}

/** Reads the two codes of a block. */
function readCodes(limit: usize): bool {
  const literals = take(5) + 257;
  const distances = take(5) + 1;
  const written = take(4) + 4;
  if (literals > 286 || distances > 30) return false;
  memory.fill(lengths, 0, 19);
  for (let i: u32 = 0; i < written; i++) store<u8>(lengths + <usize>load<u8>(lengthOrder + i), <u8>take(3));
  // Codes of lengths have seven bits at most: they stand in the distances' table for the time being.
  if (!makeTable(distanceTable, DISTANCE_BITS, lengths, 19, LENGTHS_OF_CODES)) return false;
  const total = literals + distances;
  let i: u32 = 0;
  while (i < total) {
    if (from > limit) return false;
    take(0);
    const entry = load<u32>(distanceTable + ((<usize>hand & 255) << 2));
    take(entry & 255);
    const symbol = entry >> 16;
    if (symbol < 16) {
      store<u8>(lengths + <usize>i, <u8>symbol);
      i++;
      continue;
    }
    let value: u8 = 0;
    let run: u32;
    if (symbol == 16) {
      if (i == 0) return false;
      value = load<u8>(lengths + <usize>i - 1);
      run = 3 + take(2);
    } else run = symbol == 17 ? 3 + take(3) : 11 + take(7);
    if (i + run > total) return false;
    memory.fill(lengths + <usize>i, value, <usize>run);
    i += run;
  }
  // A block without an end would never be left.
  if (load<u8>(lengths + 256) == 0) return false;
  if (!makeTable(longTable, LONG_BITS, lengths, literals, LITERALS)) return false;
  pairLiterals();
  return makeTable(distanceTable, DISTANCE_BITS, lengths + <usize>literals, distances, DISTANCES);
}

function fixedCodes(): void {
  memory.fill(lengths, 8, 144);
  memory.fill(lengths + 144, 9, 112);
  memory.fill(lengths + 256, 7, 24);
  memory.fill(lengths + 280, 8, 8);
  makeTable(longTable, LONG_BITS, lengths, 288, LITERALS);
  memory.fill(lengths, 5, 32);
  makeTable(distanceTable, DISTANCE_BITS, lengths, 32, DISTANCES);
}

/**
 * Unpacks the `packed` bytes at `src` to exactly `n` bytes at `dst`. Sixteen bytes behind both areas may be read and written.
 * Returns 0, or 1 if the stream is damaged, of another length or its checksum is wrong.
 */
export function inflate(dst: usize, n: usize, src: usize, packed: usize): i32 {
  if (packed < 8) return 1;
  const method = <u32>load<u8>(src);
  const flags = <u32>load<u8>(src, 1);
  if ((method & 15) != 8 || method >> 4 > 7 || (method * 256 + flags) % 31 != 0 || (flags & 32) != 0) return 1;
  const sourceEnd = src + packed - 4;
  // Whole words are read ahead of what is needed: eight bytes at most.
  const limit = sourceEnd + 8;
  const end = dst + n;
  let to = dst;
  from = src + 2;
  hand = 0;
  inHand = 0;
  let isLast = false;
  while (!isLast) {
    if (from > limit) return 1;
    isLast = take(1) != 0;
    const kind = take(2);
    if (kind == 0) {
      // Stored: what is at hand goes back, up to whole bytes.
      from -= <usize>(inHand >> 3);
      hand = 0;
      inHand = 0;
      if (from + 4 > sourceEnd) return 1;
      const length = <usize>load<u16>(from);
      if (<u32>load<u16>(from, 2) != (<u32>length ^ 0xffff)) return 1;
      from += 4;
      if (length > sourceEnd - from || length > end - to) return 1;
      memory.copy(to, from, length);
      from += length;
      to += length;
      continue;
    }
    if (kind == 3) return 1;
    if (kind == 1) fixedCodes();
    else if (!readCodes(limit)) return 1;
    to = unpackBlock(to, dst, end, limit);
    if (to == 0) return 1;
  }
  if (to != end || from - <usize>(inHand >> 3) != sourceEnd) return 1;
  return adler32(dst, n) == bswap<u32>(load<u32>(sourceEnd)) ? 0 : 1;
}

/** The symbols of one block. Returns where it ended; 0 if it is damaged. */
function unpackBlock(to: usize, start: usize, end: usize, limit: usize): usize {
  let word = hand;
  let held = inHand;
  let at = from;
  while (true) {
    // Six literals can go beyond the end before this is seen.
    if (at > limit || to > end) return 0;
    word |= load<u64>(at) << held;
    at += <usize>((63 - held) >> 3);
    held |= 56;
    let entry = load<u32>(longTable + ((<usize>word & 2047) << 2));
    // Twice eleven bits of literals and a code of at most twenty with its extra bits are at hand. Written out: as a loop it took 8 % longer.
    if (entry & LITERAL) {
      word >>= <u64>(entry & 255);
      held -= <u64>(entry & 255);
      store<u16>(to, <u16>(entry >> 16));
      to += <usize>((entry >> 8) & 15);
      entry = load<u32>(longTable + ((<usize>word & 2047) << 2));
      if (entry & LITERAL) {
        word >>= <u64>(entry & 255);
        held -= <u64>(entry & 255);
        store<u16>(to, <u16>(entry >> 16));
        to += <usize>((entry >> 8) & 15);
        entry = load<u32>(longTable + ((<usize>word & 2047) << 2));
        if (entry & LITERAL) {
          word >>= <u64>(entry & 255);
          held -= <u64>(entry & 255);
          store<u16>(to, <u16>(entry >> 16));
          to += <usize>((entry >> 8) & 15);
          continue;
        }
      }
    }
    if (entry & FURTHER) {
      word >>= <u64>LONG_BITS;
      held -= <u64>LONG_BITS;
      entry = load<u32>(longTable + ((<usize>(entry >> 16) + (<usize>word & ((1 << ((entry >> 8) & 15)) - 1))) << 2));
      if (entry & LITERAL) {
        word >>= <u64>(entry & 255);
        held -= <u64>(entry & 255);
        store<u8>(to, <u8>(entry >> 16));
        to++;
        continue;
      }
    }
    if (entry & (END | FAULT)) {
      if (entry & FAULT) return 0;
      hand = word >> <u64>(entry & 255);
      inHand = held - <u64>(entry & 255);
      from = at;
      return to;
    }
    let bits = entry & 255;
    const length = <usize>((entry >> 16) + ((<u32>word & ((1 << bits) - 1)) >> ((entry >> 8) & 15)));
    word >>= <u64>bits;
    held -= <u64>bits;
    word |= load<u64>(at) << held;
    at += <usize>((63 - held) >> 3);
    held |= 56;
    entry = load<u32>(distanceTable + ((<usize>word & 255) << 2));
    if (entry & FURTHER) {
      word >>= <u64>DISTANCE_BITS;
      held -= <u64>DISTANCE_BITS;
      entry = load<u32>(distanceTable + ((<usize>(entry >> 16) + (<usize>word & ((1 << ((entry >> 8) & 15)) - 1))) << 2));
    }
    if (entry & FAULT) return 0;
    bits = entry & 255;
    const distance = <usize>((entry >> 16) + (<u32>(word & ((<u64>1 << <u64>bits) - 1)) >> ((entry >> 8) & 15)));
    word >>= <u64>bits;
    held -= <u64>bits;
    if (distance > to - start || to + length > end) return 0;
    let back = to - distance;
    const stop = to + length;
    if (distance >= 16) {
      do {
        v128.store(to, v128.load(back));
        to += 16;
        back += 16;
      } while (to < stop);
    } else if (distance == 1) {
      const value = i8x16.splat(load<i8>(back));
      do {
        v128.store(to, value);
        to += 16;
      } while (to < stop);
    } else if (distance >= 8) {
      do {
        store<u64>(to, load<u64>(back));
        to += 8;
        back += 8;
      } while (to < stop);
    } else {
      do {
        store<u8>(to, load<u8>(back));
        to++;
        back++;
      } while (to < stop);
    }
    to = stop;
  }
}

/** The checksum of RFC 1950. */
function adler32(at: usize, n: usize): u32 {
  let a: u32 = 1;
  let b: u32 = 0;
  const weights = i16x8(16, 15, 14, 13, 12, 11, 10, 9);
  const ones = i16x8.splat(1);
  const lower = i16x8(8, 7, 6, 5, 4, 3, 2, 1);
  while (n > 0) {
    // As many bytes as fit into 32 bits without a remainder.
    const count = n < 5536 ? n : 5536;
    const blocks = count >> 4;
    let sums = i32x4.splat(0);
    let before = i32x4.splat(0);
    let weighted = i32x4.splat(0);
    for (let i: usize = 0; i < blocks; i++, at += 16) {
      const bytes = v128.load(at);
      before = i32x4.add(before, sums);
      sums = i32x4.add(sums, i32x4.dot_i16x8_s(i16x8.extadd_pairwise_i8x16_u(bytes), ones));
      weighted = i32x4.add(weighted, i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(bytes), weights));
      weighted = i32x4.add(weighted, i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(bytes), lower));
    }
    b += (a * <u32>(blocks << 4)) + (total(before) << 4) + total(weighted);
    a += total(sums);
    for (let i = blocks << 4; i < count; i++, at++) {
      a += <u32>load<u8>(at);
      b += a;
    }
    a %= 65521;
    b %= 65521;
    n -= count;
  }
  return (b << 16) | a;
}

// @ts-ignore: decorator
@inline
function total(v: v128): u32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3);
}
