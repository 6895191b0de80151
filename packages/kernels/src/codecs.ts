import { KernelMemory } from './memory.ts';

/** The codes of a PIZ chunk, as `piz_symbols` in assembly/piz.ts wants them. */
export interface PizTables {
  readonly quick: Int32Array;
  readonly long: BigUint64Array;
  readonly symbols: Uint32Array;
  readonly longest: number;
  readonly runSymbol: number;
}

/** How the 16-bit words of one channel lie in a PIZ chunk. */
export interface PizLayout {
  readonly words: 1 | 2;
  readonly width: number;
  readonly height: number;
}

/** What files need: unpacking, prediction, wavelets and blocks. */
export abstract class Codecs extends KernelMemory {
  /**
   * Unpacks a zlib stream that lies in memory as a whole; null if it is damaged or does not hold exactly `length` bytes. For chunks: what is
   * long belongs into the platform's streams, since memory taken here is kept. @source RFC 1950, RFC 1951
   */
  inflate(packed: Uint8Array, length: number): Uint8Array | null {
    const [source, out] = this.areas(packed.length, length);
    return this.#inflateTo(out, length, source, packed) ? this.bytes.slice(out, out + length) : null;
  }

  /** A chunk of OpenEXR's ZIP, unpacked and restored. The result is a view that the next call overwrites; null if it is damaged. */
  exrUnzip(packed: Uint8Array, length: number): Uint8Array | null {
    const [source, between, out] = this.areas(packed.length, length, length);
    if (!this.#inflateTo(between, length, source, packed)) return null;
    this.exports.exr_restore(out, between, length);
    return this.bytes.subarray(out, out + length);
  }

  #inflateTo(out: number, length: number, source: number, packed: Uint8Array): boolean {
    this.bytes.set(packed, source);
    return this.exports.inflate(out, length, source, packed.length) === 0;
  }

  /** Undoes OpenEXR's byte split and prediction. The result is a view that the next call overwrites. */
  exrRestore(packed: Uint8Array): Uint8Array {
    const [from, to] = this.twoAreas(packed.length);
    this.bytes.set(packed, from);
    this.exports.exr_restore(to, from, packed.length);
    return this.bytes.subarray(to, to + packed.length);
  }

  /** Applies OpenEXR's byte split and prediction. The result is a view that the next call overwrites. */
  exrPrepare(raw: Uint8Array): Uint8Array {
    const [from, to] = this.twoAreas(raw.length);
    this.bytes.set(raw, from);
    this.exports.exr_prepare(to, from, raw.length);
    return this.bytes.subarray(to, to + raw.length);
  }

  /**
   * Decodes the words of a PIZ chunk: codes, wavelet, values. The result, channel after channel, is a view that the next
   * call overwrites; null if the codes are damaged.
   */
  pizRestore(codes: Uint8Array, bitCount: number, tables: PizTables, channels: readonly PizLayout[], values: Uint16Array): Uint16Array | null {
    const e = this.exports;
    const count = channels.reduce((sum, { words, width, height }) => sum + words * width * height, 0);
    // The loops look a few bytes beyond the last code, and places in the list of values can be anything.
    const [words, source, quick, long, symbols, table] = this.areas(count * 2, codes.length + 16, tables.quick.byteLength, tables.long.byteLength, tables.symbols.byteLength, 131072);
    this.bytes.set(codes, source);
    this.bytes.fill(0, source + codes.length, source + codes.length + 16);
    for (const [pointer, data] of [[quick, tables.quick], [long, tables.long], [symbols, tables.symbols], [table, values]] as const) this.bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), pointer);
    this.bytes.fill(0, table + values.byteLength, table + 131072);
    if (e.piz_symbols(words, count, source, bitCount, quick, long, symbols, tables.longest, tables.runSymbol) !== 0) return null;
    let start = words;
    for (const { words: n, width, height } of channels) {
      for (let word = 0; word < n; word++) e.piz_wavelet(start + word * 2, width, n * 2, height, width * n * 2, values.length > 1 << 14);
      start += n * width * height * 2;
    }
    e.piz_values(words, count, table);
    return new Uint16Array(this.memory.buffer, words, count);
  }

  /** Decodes exactly `count` Huffman-coded words into an array of their own; null if the codes are damaged. */
  huffmanWords(codes: Uint8Array, bitCount: number, tables: PizTables, count: number): Uint16Array | null {
    const [words, source, quick, long, symbols] = this.areas(count * 2, codes.length + 16, tables.quick.byteLength, tables.long.byteLength, tables.symbols.byteLength);
    this.bytes.set(codes, source);
    this.bytes.fill(0, source + codes.length, source + codes.length + 16);
    for (const [pointer, data] of [[quick, tables.quick], [long, tables.long], [symbols, tables.symbols]] as const) this.bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), pointer);
    if (this.exports.piz_symbols(words, count, source, bitCount, quick, long, symbols, tables.longest, tables.runSymbol) !== 0) return null;
    return new Uint16Array(this.memory.buffer, words, count).slice();
  }

  /**
   * Restores one channel of a DWA chunk, or three that were packed together. The planes lie one after the other in a view that
   * the next call overwrites; `used` is how many values of `ac` went into them. Null if these end too early.
   */
  dwaBlocks(ac: Uint16Array, dc: Uint16Array, channels: 1 | 3, width: number, rows: number, zigzag: Uint8Array, light: Uint16Array | null): { planes: Uint16Array; used: number } | null {
    const samples = width * rows * channels;
    const [out, acAt, dcAt, zigzagAt, lightAt, scratch] = this.areas(samples * 2, ac.byteLength, dc.byteLength, 64, 131072, 2048);
    const put = (pointer: number, data: Uint16Array | Uint8Array) => this.bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), pointer);
    put(acAt, ac);
    put(dcAt, dc);
    put(zigzagAt, zigzag);
    if (light) put(lightAt, light);
    const used = this.exports.dwa_blocks(out, width, rows, channels, acAt, ac.length, dcAt, zigzagAt, light ? lightAt : 0, scratch);
    return used < 0 ? null : { planes: new Uint16Array(this.memory.buffer, out, samples), used };
  }

  /**
   * Unpacks a B44 chunk into lines of channels; `sampleBytes` is 2 for channels of halves, which alone are packed. The
   * result is a view that the next call overwrites; null if the data does not fit.
   */
  b44Restore(packed: Uint8Array, sampleBytes: readonly number[], isHalf: readonly boolean[], width: number, rows: number): Uint8Array | null {
    const stride = sampleBytes.reduce((sum, bytes) => sum + bytes, 0) * width;
    const [source, out] = this.areas(packed.length, stride * rows);
    this.bytes.set(packed, source);
    const end = source + packed.length;
    let from = source;
    let channel = out;
    for (const [i, bytes] of sampleBytes.entries()) {
      if (isHalf[i]) {
        const taken = this.exports.b44_channel(channel, stride, width, rows, from, end);
        if (taken < 0) return null;
        from += taken;
      } else {
        if (from + bytes * width * rows > end) return null;
        for (let row = 0; row < rows; row++, from += bytes * width) this.bytes.copyWithin(channel + row * stride, from, from + bytes * width);
      }
      channel += bytes * width;
    }
    return from === end ? this.bytes.subarray(out, out + stride * rows) : null;
  }
}
