/** Below this the lists of a counting sort cost more than they save. */
const FEW = 2048;
const BITS = 11;
const BUCKETS = 2 ** BITS;

/** The numbers in ascending order, as a new array: the bits of a float, sorted digit by digit from the lowest (Knuth, The Art of Computer Programming 3, 5.2.5). @param values without NaN */
export function sortedFloats(values: Float32Array): Float32Array {
  const { length } = values;
  if (length < FEW) return values.slice().sort();
  let from = new Uint32Array(length);
  let to = new Uint32Array(length);
  const floats = new Float32Array(to.buffer);
  floats.set(values);
  const starts = [0, 1, 2].map(() => new Uint32Array(BUCKETS));
  const [low, middle, high] = starts;
  for (let i = 0; i < length; i++) {
    const bits = to[i];
    // Negative numbers are stored as amounts: turned round they rise as all others do, below them.
    const key = (bits ^ ((bits | 0) >> 31 | 0x80000000)) >>> 0;
    from[i] = key;
    low[key & (BUCKETS - 1)]++;
    middle[(key >>> BITS) & (BUCKETS - 1)]++;
    high[key >>> (2 * BITS)]++;
  }
  for (const [digit, counts] of starts.entries()) {
    const shift = digit * BITS;
    let start = 0;
    for (let bucket = 0; bucket < BUCKETS; bucket++) {
      const count = counts[bucket];
      counts[bucket] = start;
      start += count;
    }
    for (let i = 0; i < length; i++) {
      const key = from[i];
      to[counts[(key >>> shift) & (BUCKETS - 1)]++] = key;
    }
    [from, to] = [to, from];
  }
  for (let i = 0; i < length; i++) {
    const key = from[i];
    from[i] = key ^ (key >>> 31 === 1 ? 0x80000000 : 0xffffffff);
  }
  return new Float32Array(from.buffer);
}
