/** OpenEXR's run lengths: a negative count copies, any other repeats the next byte count + 1 times. */
export function unpackRuns(packed: Uint8Array, length: number): Uint8Array {
  const out = new Uint8Array(length);
  let to = 0;
  for (let from = 0; from < packed.length; ) {
    const count = (packed[from++] << 24) >> 24;
    if (count < 0) {
      if (from - count > packed.length || to - count > length) throw new RangeError('copy beyond the end');
      out.set(packed.subarray(from, from - count), to);
      from -= count;
      to -= count;
    } else {
      if (from >= packed.length || to + count + 1 > length) throw new RangeError('run beyond the end');
      out.fill(packed[from++], to, to + count + 1);
      to += count + 1;
    }
  }
  if (to !== length) throw new RangeError(`${to} bytes, ${length} expected`);
  return out;
}
