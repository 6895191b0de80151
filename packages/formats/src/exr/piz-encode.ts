/**
 * Packs with PIZ: values closed up, Haar wavelets, Huffman codes with a symbol for runs. The reading side is piz.ts and huffman.ts.
 * @source OpenEXR reference implementation's documented layout (BSD-3-Clause): bitmap, wavelet, table of code lengths
 */
const BITMAP_BYTES = 8192;
/** Values of at most 14 bits are transformed with plain integers, others modulo 2^16. */
const NARROW = 1 << 14;

/** One channel of a chunk as 16-bit words: one a sample for halves, two for 32-bit samples. */
export interface PizPlane {
  readonly words: Uint16Array;
  readonly wordsPerSample: 1 | 2;
  readonly width: number;
  readonly rows: number;
}

export function packPiz(planes: readonly PizPlane[]): Uint8Array {
  const all = new Uint16Array(planes.reduce((sum, { words }) => sum + words.length, 0));
  let at = 0;
  for (const { words } of planes) {
    all.set(words, at);
    at += words.length;
  }
  const { bitmap, first, last, places, most } = closeUp(all);
  for (let i = 0; i < all.length; i++) all[i] = places[all[i]];
  at = 0;
  for (const { words, wordsPerSample: n, width, rows } of planes) {
    for (let word = 0; word < n; word++) wavelet(all, at + word, width, n, rows, width * n, most < NARROW);
    at += words.length;
  }
  const codes = packHuffman(all);
  const used = first <= last ? bitmap.subarray(first, last + 1) : new Uint8Array();
  const out = new Uint8Array(8 + used.length + codes.length);
  const view = new DataView(out.buffer);
  view.setUint16(0, first, true);
  view.setUint16(2, last, true);
  out.set(used, 4);
  view.setInt32(4 + used.length, codes.length, true);
  out.set(codes, 8 + used.length);
  return out;
}

/** Which values occur (zero is not marked, but always there), and the place of each among them. */
function closeUp(words: Uint16Array) {
  const bitmap = new Uint8Array(BITMAP_BYTES);
  for (const value of words) bitmap[value >> 3] |= 1 << (value & 7);
  bitmap[0] &= ~1;
  const first = bitmap.findIndex((byte) => byte !== 0);
  const last = bitmap.findLastIndex((byte) => byte !== 0);
  const places = new Uint16Array(65536);
  let next = 0;
  for (let value = 0; value < 65536; value++) if (value === 0 || bitmap[value >> 3] & (1 << (value & 7))) places[value] = next++;
  return { bitmap, first: first < 0 ? BITMAP_BYTES - 1 : first, last: last < 0 ? 0 : last, places, most: next - 1 };
}

/** Means and differences, two by two at every scale, in place. `start`, `stepX` and `stepY` are counted in words. */
function wavelet(data: Uint16Array, start: number, width: number, stepX: number, rows: number, stepY: number, narrow: boolean): void {
  const pair = narrow
    ? (low: number, high: number) => {
        const a = (data[low] << 16) >> 16;
        const b = (data[high] << 16) >> 16;
        data[low] = (a + b) >> 1;
        data[high] = a - b;
      }
    : (low: number, high: number) => {
        const a = (data[low] + 0x8000) & 0xffff;
        const difference = a - data[high];
        data[low] = ((a + data[high]) >> 1) + (difference < 0 ? 0x8000 : 0);
        data[high] = difference;
      };
  const smaller = Math.min(width, rows);
  for (let p = 1; p * 2 <= smaller; p *= 2) {
    const [near, across] = [p * stepX, p * stepY];
    let y = 0;
    for (; y + 2 * p <= rows; y += 2 * p) {
      let x = 0;
      for (; x + 2 * p <= width; x += 2 * p) {
        const at = start + y * stepY + x * stepX;
        pair(at, at + near);
        pair(at + across, at + across + near);
        pair(at, at + across);
        pair(at + near, at + across + near);
      }
      if (width & p) pair(start + y * stepY + x * stepX, start + y * stepY + x * stepX + across);
    }
    if (rows & p) for (let x = 0; x + 2 * p <= width; x += 2 * p) pair(start + y * stepY + x * stepX, start + y * stepY + x * stepX + near);
  }
}

/** Bits into bytes, the highest first. */
class BitWriter {
  bytes: Uint8Array;
  bits = 0;
  constructor(capacity: number) {
    this.bytes = new Uint8Array(capacity);
  }
  write(value: number, count: number): void {
    // Codes can be longer than 32 bits' shifts allow, so bit after bit of the high part goes first.
    for (let left = count; left > 0; ) {
      const room = 8 - (this.bits & 7);
      const take = Math.min(room, left);
      const piece = Math.floor(value / 2 ** (left - take)) % 2 ** take;
      if (this.bits >> 3 >= this.bytes.length) {
        const larger = new Uint8Array(this.bytes.length * 2);
        larger.set(this.bytes);
        this.bytes = larger;
      }
      this.bytes[this.bits >> 3] |= piece << (room - take);
      this.bits += take;
      left -= take;
    }
  }
  get result(): Uint8Array {
    return this.bytes.subarray(0, (this.bits + 7) >> 3);
  }
}

function packHuffman(words: Uint16Array): Uint8Array {
  const counts = new Uint32Array(65537);
  for (const word of words) counts[word]++;
  const lowest = counts.findIndex((count) => count > 0);
  // The symbol after the highest one stands for a run.
  const run = counts.findLastIndex((count) => count > 0) + 1;
  counts[run] = 1;
  const lengths = codeLengths(counts, lowest, run);
  const codes = canonicalCodes(lengths);

  const table = new BitWriter(8192);
  for (let symbol = lowest; symbol <= run; ) {
    let zeros = 0;
    while (symbol + zeros <= run && lengths[symbol + zeros] === 0 && zeros < 261) zeros++;
    if (zeros >= 6) {
      table.write(63, 6);
      table.write(zeros - 6, 8);
    } else if (zeros >= 2) table.write(59 + zeros - 2, 6);
    else table.write(lengths[symbol], 6);
    symbol += Math.max(1, zeros >= 2 ? zeros : 1);
  }

  const data = new BitWriter(words.length + 64);
  const send = (symbol: number, repeats: number) => {
    const length = lengths[symbol];
    if (length + lengths[run] + 8 < length * repeats) {
      data.write(codes[symbol], length);
      data.write(codes[run], lengths[run]);
      data.write(repeats, 8);
    } else for (let i = 0; i <= repeats; i++) data.write(codes[symbol], length);
  };
  let repeats = 0;
  for (let i = 1; i <= words.length; i++) {
    if (i < words.length && words[i] === words[i - 1] && repeats < 255) repeats++;
    else {
      send(words[i - 1], repeats);
      repeats = 0;
    }
  }
  const [head, body] = [table.result, data.result];
  const out = new Uint8Array(20 + head.length + body.length);
  const view = new DataView(out.buffer);
  for (const [i, value] of [lowest, run, head.length, data.bits].entries()) view.setUint32(i * 4, value, true);
  out.set(head, 20);
  out.set(body, 20 + head.length);
  return out;
}

/** Lengths of Huffman codes: the two rarest are joined until one is left. */
function codeLengths(counts: Uint32Array, lowest: number, highest: number): Uint8Array {
  const lengths = new Uint8Array(65537);
  const leaves: number[] = [];
  for (let symbol = lowest; symbol <= highest; symbol++) if (counts[symbol] > 0) leaves.push(symbol);
  if (leaves.length === 1) {
    lengths[leaves[0]] = 1;
    return lengths;
  }
  leaves.sort((a, b) => counts[a] - counts[b]);
  // Two queues: leaves in order, and joined nodes, which come out in order as well.
  const weights = leaves.map((symbol) => counts[symbol]);
  const parents = new Int32Array(leaves.length * 2 - 1).fill(-1);
  let [leaf, joined] = [0, leaves.length];
  for (let node = leaves.length; node < parents.length; node++) {
    let weight = 0;
    for (let child = 0; child < 2; child++) {
      const takeLeaf = leaf < leaves.length && (joined >= node || weights[leaf] <= weights[joined]);
      const index = takeLeaf ? leaf++ : joined++;
      weight += weights[index];
      parents[index] = node;
    }
    weights.push(weight);
  }
  const depth = new Uint8Array(parents.length);
  for (let node = parents.length - 2; node >= 0; node--) depth[node] = depth[parents[node]] + 1;
  for (const [i, symbol] of leaves.entries()) lengths[symbol] = depth[i];
  return lengths;
}

/** The longest codes begin at zero; within a length they rise with the symbol. */
function canonicalCodes(lengths: Uint8Array): Float64Array {
  const counts = new Uint32Array(59);
  for (const length of lengths) counts[length]++;
  const next = new Float64Array(59);
  let code = 0;
  for (let length = 58; length > 0; length--) {
    next[length] = code;
    code = Math.floor((code + counts[length]) / 2);
  }
  return Float64Array.from(lengths, (length) => (length > 0 ? next[length]++ : 0));
}
