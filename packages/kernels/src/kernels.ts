import { type Backend, type ColorRegisters, type Coverage, correctionById, type Plane, type PlaneType, type Register, srgbDecode, type TilePixels, zoneBlend } from '@tazzel/core';
import { blendKernel, correctKernel, type KernelExports } from './exports.ts';

/** Pixels a span holds: all registers together stay in a core's own cache, and calls into the loops are few. */
const SPAN_LENGTH = 4096;
/** Registers a multiple of 4096 bytes apart would fall on the same cache lines. */
const REGISTER_BYTES = SPAN_LENGTH * 4 + 1088;
const PAGE = 65536;

interface WasmRegister extends Register {
  readonly pointer: number;
}
const at = (register: Register) => (register as WasmRegister).pointer;

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

/** Widths of rows that `reduceRow` and the EXR restorer take are bounded by the staging area. */
/** Numbers that a correction may prepare for its kernel. */
export const PARAM_FLOATS = 64;
const STAGING_BYTES = 8 * 1024 * 1024;

/**
 * One instance of the compiled loops with a memory of its own. Every worker has one; nothing outside this package knows
 * that the loops are not TypeScript.
 */
export class Kernels implements Backend {
  readonly spanLength = SPAN_LENGTH;
  readonly #exports: KernelExports;
  readonly #memory: WebAssembly.Memory;
  #bytes: Uint8Array;
  #next: number;
  readonly #staging: number;
  #stagingBytes = STAGING_BYTES;
  readonly #params: number;
  readonly #thresholds: number;
  readonly #byteTable: number;
  #wordTable = 0;
  readonly #blends = { scene: new Map<string, ReturnType<typeof blendKernel>>(), picture: new Map<string, ReturnType<typeof blendKernel>>() };
  readonly #loaders: Record<PlaneType, (dst: number, src: number, n: number) => void>;

  private constructor(exports: KernelExports, memory: WebAssembly.Memory) {
    this.#exports = exports;
    this.#loaders = { u8: exports.load_u8, u16: exports.load_u16, f16: exports.load_f16, f32: exports.load_f32, u32: exports.load_u32 };
    this.#memory = memory;
    this.#bytes = new Uint8Array(memory.buffer);
    this.#next = Math.ceil(exports.heapStart() / 64) * 64;
    this.#params = this.#reserve(PARAM_FLOATS * 4);
    this.#thresholds = this.#reserve(9 * 16 * 4);
    this.#byteTable = this.#reserve(256 * 4);
    // Registers come next; room for them is kept before the staging area, which grows at the end of memory.
    const registers = this.#next;
    this.#staging = registers + 64 * REGISTER_BYTES + 65536 * 4;
    this.#grow(this.#staging + this.#stagingBytes);
    const table = new Float32Array(memory.buffer, this.#byteTable, 256);
    for (let i = 0; i < 256; i++) table[i] = srgbDecode(i / 255);
    this.#writeThresholds();
  }

  /** @param module compiled from kernels.wasm; may be shared between workers */
  static async create(module: WebAssembly.Module): Promise<Kernels> {
    const memory = new WebAssembly.Memory({ initial: 4, maximum: 65536 });
    const instance = await WebAssembly.instantiate(module, { env: { memory } });
    return new Kernels(instance.exports as unknown as KernelExports, memory);
  }

  #reserve(bytes: number): number {
    const pointer = this.#next;
    this.#next += Math.ceil(bytes / 64) * 64;
    this.#grow(this.#next);
    return pointer;
  }

  /** Growing detaches the views over memory; registers therefore come first and staging is re-read through `#bytes`. */
  #grow(end: number): void {
    const missing = end - this.#memory.buffer.byteLength;
    if (missing > 0) this.#memory.grow(Math.ceil(missing / PAGE));
    if (this.#bytes.buffer !== this.#memory.buffer) this.#bytes = new Uint8Array(this.#memory.buffer);
  }

  register(): Register {
    const pointer = this.#next;
    if (pointer + REGISTER_BYTES > this.#staging - 65536 * 4) throw new Error('The kernels have no room for another register.');
    this.#next += REGISTER_BYTES;
    const memory = this.#memory;
    let values = new Float32Array(memory.buffer, pointer, SPAN_LENGTH);
    return {
      pointer,
      get values() {
        if (values.byteLength === 0) values = new Float32Array(memory.buffer, pointer, SPAN_LENGTH);
        return values;
      },
    } as WasmRegister;
  }

  load(out: Register, offset: number, plane: Plane, start: number, count: number, how: 'as-is' | 'to-light'): void {
    const e = this.#exports;
    const { data, type } = plane;
    const to = at(out) + offset * 4;
    const first = data.byteOffset + start * data.BYTES_PER_ELEMENT;
    // Shared memory is copied word by word only where both sides lie alike towards the words.
    const from = this.#staging + (first & 7);
    this.#bytes.set(new Uint8Array(data.buffer, first, count * data.BYTES_PER_ELEMENT), from);
    if (how === 'to-light' && type === 'u8') e.load_u8_table(to, from, count, this.#byteTable);
    else if (how === 'to-light' && type === 'u16') e.load_u16_table(to, from, count, this.#words());
    else {
      this.#loaders[type](to, from, count);
      if (how === 'to-light') this.#decodeRun(out, offset, count);
    }
  }

  /** The transfer loops run in whole vectors, so a run inside a register is decoded aside. */
  #decodeRun(out: Register, offset: number, count: number): void {
    const aside = this.#staging + 65536;
    const source = at(out) + offset * 4;
    this.#bytes.copyWithin(aside, source, source + count * 4);
    this.#exports.srgb_decode(aside, count);
    this.#bytes.copyWithin(source, aside, aside + count * 4);
  }

  /** The table for 16-bit display values costs 256 KB and is made when the first such source is read. */
  #words(): number {
    if (this.#wordTable === 0) {
      this.#wordTable = this.#staging - 65536 * 4;
      const table = new Float32Array(this.#memory.buffer, this.#wordTable, 65536);
      for (let i = 0; i < 65536; i++) table[i] = srgbDecode(i / 65535);
    }
    return this.#wordTable;
  }

  fill(out: Register, value: number, offset: number, count: number): void {
    this.#exports.fill(at(out) + offset * 4, value, count);
  }

  coverage(out: Register, count: number, opacity: number, alpha: Register | null, mask: Register | null, invertMask: boolean): Coverage {
    const found = this.#exports.coverage(at(out), count, opacity, alpha ? at(alpha) : 0, mask ? at(mask) : 0, invertMask);
    return found === 0 ? 'empty' : found === 2 ? 'full' : 'partial';
  }

  blend(mode: string, zone: 'scene' | 'picture', onto: ColorRegisters, ontoAlpha: Register, source: ColorRegisters, alpha: Register, count: number, opaque: boolean): void {
    // Looked up once per mode and zone: this runs for every span of every layer.
    const known = this.#blends[zone].get(mode);
    const kernel = known ?? blendKernel(this.#exports, zoneBlend(mode, zone).kernel);
    if (!known) this.#blends[zone].set(mode, kernel);
    kernel(at(onto[0]), at(onto[1]), at(onto[2]), at(ontoAlpha), at(source[0]), at(source[1]), at(source[2]), at(alpha), count, opaque);
  }

  correct(type: string, prepared: Float32Array, color: ColorRegisters, count: number): void {
    // What lies behind are tables.
    if (prepared.length > PARAM_FLOATS) throw new RangeError(`${type} prepares ${prepared.length} numbers; kernels take up to ${PARAM_FLOATS}.`);
    new Float32Array(this.#memory.buffer, this.#params, prepared.length).set(prepared);
    correctKernel(this.#exports, correctionById(type).kernel)(at(color[0]), at(color[1]), at(color[2]), this.#params, count);
  }

  transfer(direction: 'encode' | 'decode', color: ColorRegisters, count: number): void {
    const kernel = direction === 'encode' ? this.#exports.srgb_encode : this.#exports.srgb_decode;
    for (const register of color) kernel(at(register), count);
  }

  scale(color: ColorRegisters, scale: number, offset: number, count: number): void {
    for (const register of color) this.#exports.scale_offset(at(register), scale, offset, count);
  }

  clampToUnit(color: ColorRegisters, count: number): void {
    for (const register of color) this.#exports.clamp_unit(at(register), count);
  }

  multiplyAlpha(color: ColorRegisters, alpha: Register, count: number): void {
    for (const register of color) this.#exports.multiply_alpha(at(register), at(alpha), count);
  }

  divideAlpha(color: ColorRegisters, alpha: Register, count: number): void {
    for (const register of color) this.#exports.divide_alpha(at(register), at(alpha), count);
  }

  mix(target: ColorRegisters, changed: ColorRegisters, weight: Register, count: number): void {
    for (const [i, register] of target.entries()) this.#exports.mix(at(register), at(changed[i]), at(weight), count);
  }

  /**
   * A tile of results as straight RGBA, display values assumed. Eight bits may be dithered: an 8×8 ordered matrix that
   * leaves values alone which are exact codes.
   */
  packBytes(tile: TilePixels, out: Uint8Array | Uint8ClampedArray, dither: boolean): void {
    this.#packRows(tile, 4, out, (to, planes, count, x, y) => {
      const row = this.#thresholds + (dither ? y & 7 : 8) * 64;
      this.#exports.pack_rgba8(to, planes[0], planes[1], planes[2], planes[3], count, tile.opaque, row, x & 7);
    });
  }

  packWords(tile: TilePixels, out: Uint16Array): void {
    this.#packRows(tile, 8, new Uint8Array(out.buffer, out.byteOffset, out.byteLength), (to, planes, count) => {
      this.#exports.pack_rgba16(to, planes[0], planes[1], planes[2], planes[3], count, tile.opaque);
    });
  }

  #packRows(tile: TilePixels, bytesPerPixel: number, out: Uint8Array | Uint8ClampedArray, pack: (to: number, planes: number[], count: number, x: number, y: number) => void): void {
    const { x, y, width, height } = tile.region;
    const area = width * height;
    const stride = 16384;
    const planes = [0, 1, 2, 3].map((channel) => this.#staging + channel * (stride + 1088));
    const to = this.#staging + 6 * stride;
    const step = stride / 4;
    for (let row = 0; row < height; row++) {
      for (let column = 0; column < width; column += step) {
        const count = Math.min(step, width - column);
        const offset = row * width + column;
        for (const channel of [0, 1, 2, 3]) {
          new Float32Array(this.#memory.buffer, planes[channel], count).set(tile.planes.subarray(channel * area + offset, channel * area + offset + count));
        }
        pack(to, planes, count, x + column, y + row);
        out.set(this.#bytes.subarray(to, to + count * bytesPerPixel), offset * bytesPerPixel);
      }
    }
  }

  /** Floats to the nearest halves. */
  toHalf(values: Float32Array, out: Uint16Array): void {
    const step = 65536;
    for (let start = 0; start < values.length; start += step) {
      const count = Math.min(step, values.length - start);
      new Float32Array(this.#memory.buffer, this.#staging, count).set(values.subarray(start, start + count));
      this.#exports.to_half(this.#staging + step * 4, this.#staging, count);
      out.set(new Uint16Array(this.#memory.buffer, this.#staging + step * 4, count), start);
    }
  }

  /** Row of a plane at half the size: the mean of two by two samples. For the last row of an odd height pass it twice. */
  reduceRow(type: PlaneType, upper: Plane['data'], lower: Plane['data'], out: Plane['data']): void {
    const e = this.#exports;
    const width = upper.length;
    const rows = [upper, lower].map((row, i) => {
      const pointer = this.#staging + i * 262144;
      this.#bytes.set(new Uint8Array(row.buffer, row.byteOffset, row.byteLength), pointer);
      return pointer;
    });
    const to = this.#staging + 2 * 262144;
    if (type === 'u8') e.reduce_u8(to, rows[0], rows[1], width);
    else if (type === 'u16') e.reduce_u16(to, rows[0], rows[1], width);
    else {
      const floats = [3, 4].map((i) => this.#staging + i * 262144);
      for (const i of [0, 1]) this.#loaders[type](floats[i], rows[i], width);
      e.reduce_f32(type === 'f16' ? floats[0] : to, floats[0], floats[1], width);
      if (type === 'f16') e.to_half(to, floats[0], out.length);
    }
    new Uint8Array(out.buffer, out.byteOffset, out.byteLength).set(this.#bytes.subarray(to, to + out.byteLength));
  }

  /**
   * Unpacks a zlib stream that lies in memory as a whole; null if it is damaged or does not hold exactly `length` bytes. For chunks: what is
   * long belongs into the platform's streams, since memory taken here is kept. @source RFC 1950, RFC 1951
   */
  inflate(packed: Uint8Array, length: number): Uint8Array | null {
    const [source, out] = this.#areas(packed.length, length);
    return this.#inflateTo(out, length, source, packed) ? this.#bytes.slice(out, out + length) : null;
  }

  /** A chunk of OpenEXR's ZIP, unpacked and restored. The result is a view that the next call overwrites; null if it is damaged. */
  exrUnzip(packed: Uint8Array, length: number): Uint8Array | null {
    const [source, between, out] = this.#areas(packed.length, length, length);
    if (!this.#inflateTo(between, length, source, packed)) return null;
    this.#exports.exr_restore(out, between, length);
    return this.#bytes.subarray(out, out + length);
  }

  #inflateTo(out: number, length: number, source: number, packed: Uint8Array): boolean {
    this.#bytes.set(packed, source);
    return this.#exports.inflate(out, length, source, packed.length) === 0;
  }

  /** Undoes OpenEXR's byte split and prediction. The result is a view that the next call overwrites. */
  exrRestore(packed: Uint8Array): Uint8Array {
    const [from, to] = this.#twoAreas(packed.length);
    this.#bytes.set(packed, from);
    this.#exports.exr_restore(to, from, packed.length);
    return this.#bytes.subarray(to, to + packed.length);
  }

  /** Applies OpenEXR's byte split and prediction. The result is a view that the next call overwrites. */
  exrPrepare(raw: Uint8Array): Uint8Array {
    const [from, to] = this.#twoAreas(raw.length);
    this.#bytes.set(raw, from);
    this.#exports.exr_prepare(to, from, raw.length);
    return this.#bytes.subarray(to, to + raw.length);
  }

  /**
   * Decodes the words of a PIZ chunk: codes, wavelet, values. The result, channel after channel, is a view that the next
   * call overwrites; null if the codes are damaged.
   */
  pizRestore(codes: Uint8Array, bitCount: number, tables: PizTables, channels: readonly PizLayout[], values: Uint16Array): Uint16Array | null {
    const e = this.#exports;
    const count = channels.reduce((sum, { words, width, height }) => sum + words * width * height, 0);
    // The loops look a few bytes beyond the last code, and places in the list of values can be anything.
    const [words, source, quick, long, symbols, table] = this.#areas(count * 2, codes.length + 16, tables.quick.byteLength, tables.long.byteLength, tables.symbols.byteLength, 131072);
    this.#bytes.set(codes, source);
    this.#bytes.fill(0, source + codes.length, source + codes.length + 16);
    for (const [pointer, data] of [[quick, tables.quick], [long, tables.long], [symbols, tables.symbols], [table, values]] as const) this.#bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), pointer);
    this.#bytes.fill(0, table + values.byteLength, table + 131072);
    if (e.piz_symbols(words, count, source, bitCount, quick, long, symbols, tables.longest, tables.runSymbol) !== 0) return null;
    let start = words;
    for (const { words: n, width, height } of channels) {
      for (let word = 0; word < n; word++) e.piz_wavelet(start + word * 2, width, n * 2, height, width * n * 2, values.length > 1 << 14);
      start += n * width * height * 2;
    }
    e.piz_values(words, count, table);
    return new Uint16Array(this.#memory.buffer, words, count);
  }

  /** Decodes exactly `count` Huffman-coded words into an array of their own; null if the codes are damaged. */
  huffmanWords(codes: Uint8Array, bitCount: number, tables: PizTables, count: number): Uint16Array | null {
    const [words, source, quick, long, symbols] = this.#areas(count * 2, codes.length + 16, tables.quick.byteLength, tables.long.byteLength, tables.symbols.byteLength);
    this.#bytes.set(codes, source);
    this.#bytes.fill(0, source + codes.length, source + codes.length + 16);
    for (const [pointer, data] of [[quick, tables.quick], [long, tables.long], [symbols, tables.symbols]] as const) this.#bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), pointer);
    if (this.#exports.piz_symbols(words, count, source, bitCount, quick, long, symbols, tables.longest, tables.runSymbol) !== 0) return null;
    return new Uint16Array(this.#memory.buffer, words, count).slice();
  }

  /**
   * Restores one channel of a DWA chunk, or three that were packed together. The planes lie one after the other in a view that
   * the next call overwrites; `used` is how many values of `ac` went into them. Null if these end too early.
   */
  dwaBlocks(ac: Uint16Array, dc: Uint16Array, channels: 1 | 3, width: number, rows: number, zigzag: Uint8Array, light: Uint16Array | null): { planes: Uint16Array; used: number } | null {
    const samples = width * rows * channels;
    const [out, acAt, dcAt, zigzagAt, lightAt, scratch] = this.#areas(samples * 2, ac.byteLength, dc.byteLength, 64, 131072, 2048);
    const put = (pointer: number, data: Uint16Array | Uint8Array) => this.#bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), pointer);
    put(acAt, ac);
    put(dcAt, dc);
    put(zigzagAt, zigzag);
    if (light) put(lightAt, light);
    const used = this.#exports.dwa_blocks(out, width, rows, channels, acAt, ac.length, dcAt, zigzagAt, light ? lightAt : 0, scratch);
    return used < 0 ? null : { planes: new Uint16Array(this.#memory.buffer, out, samples), used };
  }

  /**
   * Unpacks a B44 chunk into lines of channels; `sampleBytes` is 2 for channels of halves, which alone are packed. The
   * result is a view that the next call overwrites; null if the data does not fit.
   */
  b44Restore(packed: Uint8Array, sampleBytes: readonly number[], isHalf: readonly boolean[], width: number, rows: number): Uint8Array | null {
    const stride = sampleBytes.reduce((sum, bytes) => sum + bytes, 0) * width;
    const [source, out] = this.#areas(packed.length, stride * rows);
    this.#bytes.set(packed, source);
    const end = source + packed.length;
    let from = source;
    let channel = out;
    for (const [i, bytes] of sampleBytes.entries()) {
      if (isHalf[i]) {
        const taken = this.#exports.b44_channel(channel, stride, width, rows, from, end);
        if (taken < 0) return null;
        from += taken;
      } else {
        if (from + bytes * width * rows > end) return null;
        for (let row = 0; row < rows; row++, from += bytes * width) this.#bytes.copyWithin(channel + row * stride, from, from + bytes * width);
      }
      channel += bytes * width;
    }
    return from === end ? this.#bytes.subarray(out, out + stride * rows) : null;
  }

  #twoAreas(bytes: number): [number, number] {
    return this.#areas(bytes, bytes) as [number, number];
  }

  /** Places in the staging area, one after the other. */
  #areas(...sizes: readonly number[]): number[] {
    let next = this.#staging;
    const pointers = sizes.map((bytes) => {
      const pointer = next;
      next += Math.ceil((bytes + 1088) / 64) * 64;
      return pointer;
    });
    if (next - this.#staging > this.#stagingBytes) {
      this.#stagingBytes = next - this.#staging;
      this.#grow(next);
    }
    return pointers;
  }

  /** Rows 0…7 of the 8×8 ordered matrix, twice over, and a ninth row of plain rounding. @source B. E. Bayer, ICC 1973 */
  #writeThresholds(): void {
    const table = new Float32Array(this.#memory.buffer, this.#thresholds, 9 * 16).fill(0.5);
    for (let y = 0; y < 8; y++) {
      for (let x = 0; x < 16; x++) {
        let rank = 0;
        for (let bit = 0; bit < 3; bit++) {
          const a = (x >> bit) & 1;
          const b = (y >> bit) & 1;
          rank = rank * 4 + 2 * (a ^ b) + b;
        }
        table[y * 16 + x] = (rank + 0.5) / 64;
      }
    }
  }
}
