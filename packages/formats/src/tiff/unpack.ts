/**
 * Unpackers for the parts of a TIFF: as many bytes as a strip or tile holds, whatever the packed data says.
 * @source TIFF 6.0, sections 9 (PackBits) and 13 (LZW); Technical Note 2 (JPEG)
 */

/** Fills `out` as far as the packed data goes, and says how far that was. @throws RangeError */
export function unpackLzw(packed: Uint8Array, out: Uint8Array): number {
  const CLEAR = 256;
  const END = 257;
  // For each code the code before its last byte, that byte, and its length.
  const before = new Int32Array(4097);
  const last = new Uint8Array(4097);
  const length = new Int32Array(4097);
  for (let code = 0; code < 256; code++) {
    last[code] = code;
    length[code] = 1;
  }
  let [next, width, old, at, bit] = [258, 9, -1, 0, 0];
  const write = (code: number): number => {
    let byte = 0;
    let i = code;
    for (let to = at + length[code] - 1; to >= at; to--) {
      byte = last[i];
      if (to < out.length) out[to] = byte;
      i = before[i];
    }
    at += length[code];
    return byte;
  };
  while (at < out.length && bit + width <= packed.length * 8) {
    const i = bit >> 3;
    const code = ((((packed[i] << 16) | ((packed[i + 1] ?? 0) << 8) | (packed[i + 2] ?? 0)) >> (24 - width - (bit & 7))) & ((1 << width) - 1)) >>> 0;
    bit += width;
    if (code === END) return at;
    if (code === CLEAR) {
      [next, width, old] = [258, 9, -1];
      continue;
    }
    if (old < 0) {
      if (code > 255) throw new RangeError('a code without a table');
      write(code);
    } else if (code < next) {
      const first = write(code);
      before[next] = old;
      last[next] = first;
      length[next] = length[old] + 1;
    } else {
      if (code !== next) throw new RangeError('a code beyond the table');
      let first = old;
      while (length[first] > 1) first = before[first];
      before[next] = old;
      last[next] = last[first];
      length[next] = length[old] + 1;
      write(code);
    }
    if (old >= 0 && next < 4096) next++;
    old = code;
    // Codes grow one entry early, as every writer does.
    if (next + 1 >= 1 << width && width < 12) width++;
  }
  return at;
}

/** Fills `out` as far as the packed data goes, and says how far that was. */
export function unpackPackBits(packed: Uint8Array, out: Uint8Array): number {
  let to = 0;
  for (let from = 0; from < packed.length && to < out.length; ) {
    const count = (packed[from++] << 24) >> 24;
    if (count === -128) continue;
    if (count < 0) out.fill(packed[from++], to, to + 1 - count);
    else {
      out.set(packed.subarray(from, Math.min(from + count + 1, from + out.length - to)), to);
      from += count + 1;
    }
    to += Math.abs(count) + 1;
  }
  return to;
}

/**
 * A whole JPEG of a part and the tables that it shares with others. A mark of Adobe says whether its colours are luminance and differences:
 * decoders guess otherwise.
 */
export function jpegOfPart(packed: Uint8Array, tables: Uint8Array | null, isYcbcr: boolean): Uint8Array<ArrayBuffer> {
  const mark = Uint8Array.of(0xff, 0xee, 0, 14, 0x41, 0x64, 0x6f, 0x62, 0x65, 0, 100, 0, 0, 0, 0, isYcbcr ? 1 : 0);
  const shared = tables && tables.length > 4 ? tables.subarray(2, tables.length - 2) : new Uint8Array();
  const out = new Uint8Array(2 + mark.length + shared.length + packed.length - 2);
  out.set([0xff, 0xd8]);
  out.set(mark, 2);
  out.set(shared, 2 + mark.length);
  out.set(packed.subarray(2), 2 + mark.length + shared.length);
  return out;
}
