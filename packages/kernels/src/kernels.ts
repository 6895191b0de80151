import { type AffineMap, type Backend, type ColorRegisters, type Coverage, correctionBlend, correctionById, ENOUGH_SEEN, type FocusLens, type Formula, type FormulaId, formulas, isWhole, type LocalWeights, type OpenPart, matrixTo, type OutputSpace, type OutputSpaceId, outputSpaces, type Pixels, type PlaceRegisters, type Plane, type PlannedTone, type PlaneType, type Region, type Register, type ThreePlanes, type SliceRange, type SmoothGuide, splineWeights, srgbDecode, zoneBlend } from '@tazzel/core';
import { blendKernel, correctKernel, joinKernel, type KernelExports } from './exports.ts';
import { FigureKernels } from './figures.ts';
import { runsOf } from './runs.ts';
import { REGISTER_BYTES, SPAN_LENGTH } from './memory.ts';

interface WasmRegister extends Register {
  readonly pointer: number;
}
const at = (register: Register) => (register as WasmRegister).pointer;

/** Numbers that are handed over with every call; more than that is a table, which is uploaded once. */
const PARAM_FLOATS = 128;
const THRESHOLD_FLOATS = 9 * 16;

/** Weights of all places that a sample can have between two others, as the enlarging loops want them. Vectors may be read from beyond the last. */
function splineTable(by: number): Float32Array {
  const phases = 2 ** by;
  const table = new Float32Array(4 * phases + 4);
  for (let phase = 0; phase < phases; phase++) for (const [i, weight] of splineWeights((phase + 0.5) / phases).entries()) table[i * phases + phase] = weight;
  return table;
}

/**
 * One instance of the compiled loops with a memory of its own. Every worker has one; nothing outside this package knows
 * that the loops are not TypeScript.
 */
export class Kernels extends FigureKernels implements Backend {
  readonly spanLength = SPAN_LENGTH;
  readonly #params: number;
  readonly #thresholds: number;
  readonly #byteTable: number;
  #hasWords = false;
  #aside: [Register, Register, Register, Register] | null = null;
  readonly #splines = new Map<number, Float32Array>();
  readonly #blends = { scene: new Map<string, ReturnType<typeof blendKernel>>(), picture: new Map<string, ReturnType<typeof blendKernel>>() };
  readonly #corrections = new Map<string, ReturnType<typeof correctKernel>>();
  readonly #loaders: Record<PlaneType, (dst: number, src: number, n: number) => void>;

  private constructor(exports: KernelExports, memory: WebAssembly.Memory) {
    super(exports, memory, (PARAM_FLOATS + THRESHOLD_FLOATS + 256) * 4);
    this.#loaders = { u8: exports.load_u8, u16: exports.load_u16, f16: exports.load_f16, f32: exports.load_f32, u32: exports.load_u32 };
    this.#params = this.reserve(PARAM_FLOATS * 4);
    this.#thresholds = this.reserve(THRESHOLD_FLOATS * 4);
    this.#byteTable = this.reserve(256 * 4);
    const table = this.floats(this.#byteTable, 256);
    for (let i = 0; i < 256; i++) table[i] = srgbDecode(i / 255);
    this.#writeThresholds();
  }

  /** @param module compiled from kernels.wasm; may be shared between workers */
  static async create(module: WebAssembly.Module): Promise<Kernels> {
    const memory = new WebAssembly.Memory({ initial: 4, maximum: 65536 });
    const instance = await WebAssembly.instantiate(module, { env: { memory } });
    return new Kernels(instance.exports as unknown as KernelExports, memory);
  }

  register(): Register {
    const pointer = this.reserve(REGISTER_BYTES);
    const { memory } = this;
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
    const e = this.exports;
    const { type } = plane;
    const to = at(out) + offset * 4;
    const from = this.#staged(plane, start, count);
    if (how === 'to-light' && type === 'u8') e.load_u8_table(to, from, count, this.#byteTable);
    else if (how === 'to-light' && type === 'u16') e.load_u16_table(to, from, count, this.#words());
    else {
      this.#loaders[type](to, from, count);
      if (how === 'to-light') this.#decodeRun(out, offset, count);
    }
  }

  /** Stored samples where the loops can read them. */
  #staged({ data }: Plane, start: number, count: number): number {
    const first = data.byteOffset + start * data.BYTES_PER_ELEMENT;
    // Shared memory is copied word by word only where both sides lie alike towards the words.
    const from = this.staging + (first & 7);
    this.bytes.set(new Uint8Array(data.buffer, first, count * data.BYTES_PER_ELEMENT), from);
    return from;
  }

  /** The transfer loops run in whole vectors, so a run inside a register is decoded aside. */
  #decodeRun(out: Register, offset: number, count: number): void {
    const aside = this.staging + 65536;
    const source = at(out) + offset * 4;
    this.bytes.copyWithin(aside, source, source + count * 4);
    this.exports.srgb_decode(aside, count);
    this.bytes.copyWithin(source, aside, aside + count * 4);
  }

  /** The table for 16-bit display values costs 256 KB and is made when the first such source is read. */
  #words(): number {
    if (!this.#hasWords) {
      this.#hasWords = true;
      const table = this.floats(this.wordTable, 65536);
      for (let i = 0; i < 65536; i++) table[i] = srgbDecode(i / 65535);
    }
    return this.wordTable;
  }

  accumulate(out: Register, offset: number, plane: Plane, start: number, count: number, gain: number): void {
    const { type } = plane;
    const to = at(out) + offset * 4;
    const from = this.#staged(plane, start, count);
    if (type === 'f16') {
      this.exports.add_f16(to, from, count, gain);
      return;
    }
    const aside = this.staging + 65536;
    this.#loaders[type](aside, from, count);
    this.exports.add_scaled(to, aside, count, gain);
  }

  addScaled(target: ColorRegisters, from: ColorRegisters, gain: readonly [number, number, number], count: number): void {
    for (const [c, register] of target.entries()) this.exports.add_scaled(at(register), at(from[c]), count, gain[c]);
  }

  multiply(color: ColorRegisters, by: ColorRegisters, count: number): void {
    for (const [c, register] of color.entries()) this.exports.multiply_alpha(at(register), at(by[c]), count);
  }

  fill(out: Register, value: number, offset: number, count: number): void {
    this.exports.fill(at(out) + offset * 4, value, count);
  }

  coverage(out: Register, count: number, opacity: number, alpha: Register | null, mask: Register | null, invertMask: boolean): Coverage {
    const found = this.exports.coverage(at(out), count, opacity, alpha ? at(alpha) : 0, mask ? at(mask) : 0, invertMask);
    return found === 0 ? 'empty' : found === 2 ? 'full' : 'partial';
  }

  blend(mode: string, zone: 'scene' | 'picture', onto: ColorRegisters, ontoAlpha: Register, source: ColorRegisters, alpha: Register, count: number, opaque: boolean): void {
    // Looked up once per mode and zone: this runs for every span of every layer.
    const known = this.#blends[zone].get(mode);
    const kernel = known ?? blendKernel(this.exports, zoneBlend(mode, zone).kernel);
    if (!known) this.#blends[zone].set(mode, kernel);
    kernel(at(onto[0]), at(onto[1]), at(onto[2]), at(ontoAlpha), at(source[0]), at(source[1]), at(source[2]), at(alpha), count, opaque);
  }

  correct({ type, prepared, tableKey }: { type: string; prepared: Float32Array; tableKey: string }, color: ColorRegisters, count: number, place: PlaceRegisters | null, others: readonly ColorRegisters[], step: number): void {
    let kernel = this.#corrections.get(type);
    if (!kernel) {
      const correction = correctionById(type);
      if (correction.work !== 'points') throw new Error(`${correction.label} does not work pixel by pixel.`);
      kernel = correctKernel(this.exports, correction.kernel);
      this.#corrections.set(type, kernel);
    }
    let params = this.#params;
    if (prepared.length <= PARAM_FLOATS) this.floats(params, prepared.length).set(prepared);
    else params = this.table(tableKey, prepared);
    kernel(at(color[0]), at(color[1]), at(color[2]), params, count, place ? at(place[0]) : 0, place ? at(place[1]) : 0, ...others.flatMap((other) => other.map(at)), step);
  }

  join(blend: string, zone: 'scene' | 'picture', before: ColorRegisters, made: ColorRegisters, count: number): void {
    const row = correctionBlend(blend)[zone];
    if (row) joinKernel(this.exports, row.kernel)(at(made[0]), at(made[1]), at(made[2]), at(before[0]), at(before[1]), at(before[2]), count);
  }

  generate(formula: FormulaId, prepared: Float32Array, color: ColorRegisters, alpha: Register, count: number, place: PlaceRegisters, others: readonly ColorRegisters[], step: number): void {
    const { table }: Formula = formulas[formula];
    const looked = table?.(prepared) ?? null;
    const lookedAt = looked ? this.table(looked.key, looked.values) : 0;
    this.floats(this.#params, prepared.length).set(prepared);
    this.exports[`generate_${formula}`](at(color[0]), at(color[1]), at(color[2]), at(alpha), at(place[0]), at(place[1]), this.#params, count, step, lookedAt, ...others.flatMap((other) => other.map(at)));
  }

  tone({ key, prepared, colours }: PlannedTone, color: ColorRegisters, count: number): void {
    if (colours) {
      this.exports.correct_lut(at(color[0]), at(color[1]), at(color[2]), this.table(`tone ${key}`, colours), count, 0, 0);
      this.clampToUnit(color, count);
      return;
    }
    if (prepared) this.exports.tone_table(at(color[0]), at(color[1]), at(color[2]), this.table(`tone ${key}`, prepared), count);
    this.transfer('encode', color, count);
  }

  /** Finished pixels of sRGB as those of another space, in place. */
  toSpace(space: OutputSpaceId, { planes, region, opaque }: Pixels): void {
    this.#aside ??= [this.register(), this.register(), this.register(), this.register()];
    const [r, g, b, alpha] = this.#aside;
    const area = region.width * region.height;
    for (let start = 0; start < area; start += SPAN_LENGTH) {
      const count = Math.min(SPAN_LENGTH, area - start);
      const part = (channel: number) => planes.subarray(channel * area + start, channel * area + start + count);
      for (const [channel, register] of this.#aside.entries()) register.values.set(part(channel));
      if (!opaque) this.divideAlpha([r, g, b], alpha, count);
      this.transfer('decode', [r, g, b], count);
      this.encodeIn(space, [r, g, b], count);
      if (!opaque) this.multiplyAlpha([r, g, b], alpha, count);
      for (const [channel, register] of [r, g, b].entries()) part(channel).set(register.values.subarray(0, count));
    }
  }

  /** Light of Rec. 709 to values of a space: what lies beyond becomes its end. */
  encodeIn(space: OutputSpaceId, color: ColorRegisters, count: number): void {
    const { curve }: OutputSpace = outputSpaces[space];
    const [r, g, b] = color.map(at);
    this.floats(this.#params, 12).set(matrixTo(space).flatMap((row) => [...row, 0]));
    this.exports.correct_matrix(r, g, b, this.#params, count, 0, 0);
    if (curve === 'srgb') this.transfer('encode', color, count);
    else {
      this.clampToUnit(color, count);
      this.floats(this.#params, 10).set([1, 0, curve, 1, 0, curve, 1, 0, curve, 1]);
      this.exports.correct_power(r, g, b, this.#params, count, 0, 0);
    }
  }

  transfer(direction: 'encode' | 'decode', color: ColorRegisters, count: number): void {
    const kernel = direction === 'encode' ? this.exports.srgb_encode : this.exports.srgb_decode;
    for (const register of color) kernel(at(register), count);
  }

  scale(color: ColorRegisters, scale: number, offset: number, count: number): void {
    for (const register of color) this.exports.scale_offset(at(register), scale, offset, count);
  }

  clampToUnit(color: ColorRegisters, count: number): void {
    for (const register of color) this.exports.clamp_unit(at(register), count);
  }

  multiplyAlpha(color: ColorRegisters, alpha: Register, count: number): void {
    for (const register of color) this.exports.multiply_alpha(at(register), at(alpha), count);
  }

  divideAlpha(color: ColorRegisters, alpha: Register, count: number): void {
    for (const register of color) this.exports.divide_alpha(at(register), at(alpha), count);
  }

  mix(target: ColorRegisters, changed: ColorRegisters, weight: Register, count: number): void {
    for (const [i, register] of target.entries()) this.exports.mix(at(register), at(changed[i]), at(weight), count);
  }

  halve(out: Float32Array, from: Float32Array, width: number, height: number): void {
    const [line, source, aside] = this.areas((2 * width + 8) * 4, this.bytesAside(from), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.exports.halve(to, this.lent(from, source), width, height, line);
    done();
  }

  convolve(out: Float32Array, from: Float32Array, width: number, height: number, weights: Float32Array): void {
    const rows = height + weights.length - 1;
    const [between, finite, taps, source, aside] = this.areas(width * rows * 4, from.byteLength, weights.byteLength, this.bytesAside(from), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.floats(taps, weights.length).set(weights);
    this.exports.copy_finite(finite, this.lent(from, source), from.length);
    this.exports.convolve_rows(between, finite, width, rows, taps, weights.length);
    this.exports.convolve_columns(to, between, width, height, taps, weights.length);
    done();
  }

  enlarge(out: Float32Array, from: Float32Array, coarse: Region, { x, y, width, height }: Region, by: number): void {
    const [between, source, aside] = this.areas(width * coarse.height * 4, this.bytesAside(from), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    const planes = this.lent(from, source);
    const table = this.#splines.get(by) ?? splineTable(by);
    this.#splines.set(by, table);
    const splines = this.table(`splines ${by}`, table);
    for (let plane = 0; plane < out.length / (width * height); plane++) {
      this.exports.enlarge_rows(between, planes + plane * coarse.width * coarse.height * 4, width, coarse.width, coarse.height, x, coarse.x, by, splines);
      this.exports.enlarge_columns(to + plane * width * height * 4, between, width, height, y, coarse.y, by, splines);
    }
    done();
  }

  sum(out: Float32Array, planes: readonly Float32Array[], gains: readonly number[]): void {
    const [aside, ...asides] = this.areas(this.bytesAside(out), ...planes.map((plane) => this.bytesAside(plane)));
    const [to, done] = this.target(out, aside);
    const rows = this.#params;
    for (const [n, plane] of planes.entries()) {
      new Uint32Array(this.memory.buffer, rows + n * 8, 1)[0] = this.lent(plane, asides[n]);
      this.floats(rows + n * 8 + 4, 1)[0] = gains[n];
    }
    this.exports.sum_planes(to, rows, planes.length, out.length);
    done();
  }

  moments(out: Float32Array, planes: Float32Array, area: number): void {
    const [source, aside] = this.areas(this.bytesAside(planes), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.exports.local_moments(to, this.lent(planes, source), area);
    done();
  }

  fit(out: Float32Array, moments: Float32Array, area: number, edgeStops: number): void {
    const [source, aside] = this.areas(this.bytesAside(moments), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.exports.local_fit(to, this.lent(moments, source), area, edgeStops ** 2);
    done();
  }

  local(out: Float32Array, planes: Float32Array, lines: readonly Float32Array[], area: number, { amounts, thresholds, curve }: LocalWeights): void {
    const [source, aside, table, ...asides] = this.areas(this.bytesAside(planes), this.bytesAside(out), curve ? curve.length * 4 : 0, ...lines.map((line) => this.bytesAside(line)));
    const [to, done] = this.target(out, aside);
    if (curve) this.floats(table, curve.length).set(curve);
    const rows = this.#params;
    for (const [n, line] of lines.entries()) {
      this.floats(rows + n * 12, 2).set([amounts[n], thresholds[n]]);
      new Uint32Array(this.memory.buffer, rows + n * 12 + 8, 1)[0] = this.lent(line, asides[n]);
    }
    this.exports.local_join(to, this.lent(planes, source), area, rows, lines.length, curve ? table : 0);
    done();
  }

  sides(out: Float32Array, from: Float32Array, width: number, height: number): void {
    const [source, aside] = this.areas(this.bytesAside(from), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.exports.sides(to, this.lent(from, source), width, height);
    done();
  }

  sample(out: Float32Array, from: Float32Array, across: number, u: Float32Array, v: Float32Array): void {
    const [source, one, other, aside] = this.areas(this.bytesAside(from), this.bytesAside(u), this.bytesAside(v), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.exports.bend_sample(to, this.lent(from, source), across, this.lent(u, one), this.lent(v, other), out.length);
    done();
  }

  around(out: ThreePlanes, from: Float32Array, width: number, height: number, isWhole: boolean, u: Float32Array, v: Float32Array): void {
    const [source, one, other, ...asides] = this.areas(this.bytesAside(from), this.bytesAside(u), this.bytesAside(v), ...out.map((plane) => this.bytesAside(plane)));
    const targets = out.map((plane, c) => this.target(plane, asides[c]));
    const [red, green, blue] = targets.map(([pointer]) => pointer);
    this.exports.around(red, green, blue, this.lent(from, source), width, height, isWhole, this.lent(u, one), this.lent(v, other), u.length);
    for (const [, done] of targets) done();
  }

  parted(out: Float32Array, planes: Float32Array, sides: Float32Array, width: number, height: number): void {
    const [source, of, aside] = this.areas(this.bytesAside(planes), this.bytesAside(sides), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.exports.focus_parted(to, this.lent(planes, source), this.lent(sides, of), width, height);
    done();
  }

  circles(out: Float32Array, near: Float32Array, far: Float32Array, { nearMetres, farMetres, nearPx, farPx, mostPx }: FocusLens): readonly [least: number, most: number] {
    const count = near.length;
    const [one, other, aside] = this.areas(this.bytesAside(near), this.bytesAside(far), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    const lens = this.floats(this.#params, 7);
    lens.set([nearMetres, farMetres, nearPx, farPx, mostPx]);
    this.exports.focus_circles(to, this.lent(near, one), count, this.#params);
    const [least, most] = [lens[5], lens[6]];
    this.exports.focus_circles(to + count * 4, this.lent(far, other), count, this.#params);
    done();
    return [Math.min(least, lens[5]), Math.max(most, lens[6])];
  }

  slice(out: Float32Array, planes: Float32Array, circles: Float32Array, share: Float32Array, { from, fromWidth, to: end, toWidth }: SliceRange): boolean {
    const [source, of, part, aside] = this.areas(this.bytesAside(planes), this.bytesAside(circles), this.bytesAside(share), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.floats(this.#params, 4).set([from, 1 / fromWidth, end, 1 / toWidth]);
    const isThere = this.exports.focus_slice(to, this.lent(planes, source), this.lent(circles, of), this.lent(share, part), share.length, this.#params) !== 0;
    done();
    return isThere;
  }

  disc(out: Float32Array, from: Float32Array, width: number, height: number, reach: number, parts: readonly OpenPart[]): void {
    const across = width + 2 * reach;
    const [area, inside] = [width * height, across * (height + 2 * reach)];
    const runs = parts.map(({ taps }) => runsOf(taps));
    const most = Math.max(0, ...runs.map(({ halvings }) => halvings));
    const room = inside * 4 + 64;
    const [list, sums, source, aside] = this.areas(Math.max(...runs.map(({ dx }) => dx.length)) * 8, most * room, this.bytesAside(from), this.bytesAside(out));
    // What lies around the rectangles stays.
    const [to, done] = this.changed(out, aside);
    const of = this.lent(from, source);
    for (let plane = 0; plane < out.length / area; plane++) {
      const here = of + plane * inside * 4;
      // Sums of two neighbours, of four, of eight.
      for (let k = 1; k <= most; k++) this.exports.focus_summed(sums + (k - 1) * room, k === 1 ? here : sums + (k - 2) * room, inside, 2 ** (k - 1));
      for (const [n, { part }] of parts.entries()) {
        const { dx, dy, log, weights, full } = runs[n];
        const [offsets, shares] = [new Int32Array(this.memory.buffer, list, weights.length * 2), this.floats(list, weights.length * 2)];
        for (let i = 0; i < weights.length; i++) {
          offsets[2 * i] = (dy[i] * across + dx[i]) * 4 + (log[i] === 0 ? 0 : sums + (log[i] - 1) * room - here);
          shares[2 * i + 1] = weights[i];
        }
        this.exports.focus_disc(to + (plane * area + part.y * width + part.x) * 4, here + ((part.y + reach) * across + part.x + reach) * 4, part.width, part.height, width, across, list, full, weights.length);
      }
    }
    done();
  }

  behind(sum: Float32Array, slice: Float32Array): void {
    const [source, aside] = this.areas(this.bytesAside(slice), this.bytesAside(sum));
    const [to, done] = this.changed(sum, aside);
    this.exports.focus_behind(to, this.lent(slice, source), sum.length / 5);
    done();
  }

  continued(sum: Float32Array, front: Float32Array): void {
    const [source, aside] = this.areas(this.bytesAside(front), this.bytesAside(sum));
    const [to, done] = this.changed(sum, aside);
    this.exports.focus_continued(to, this.lent(front, source), sum.length / 5, ENOUGH_SEEN);
    done();
  }

  weighed(out: Float32Array, sum: Float32Array, gain: number): void {
    const [source, aside] = this.areas(this.bytesAside(sum), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.exports.focus_weighed(to, this.lent(sum, source), sum.length / 5, gain);
    done();
  }

  smooth(out: Float32Array, planes: Float32Array, guides: readonly SmoothGuide[], width: number, height: number, distance: number, lightStops: number): void {
    const [source, stops, aside, ...asides] = this.areas(planes.byteLength, planes.byteLength, this.bytesAside(out), ...guides.map((guide) => this.bytesAside(guide.planes)));
    const [to, done] = this.target(out, aside);
    this.exports.copy_finite(source, this.lent(planes, stops), planes.length);
    this.exports.smooth_stops(stops, source, (planes.length / 4) * 3);
    const rows = this.#params;
    for (const [n, guide] of guides.entries()) {
      new Uint32Array(this.memory.buffer, rows + n * 8, 1)[0] = this.lent(guide.planes, asides[n]);
      this.floats(rows + n * 8 + 4, 1)[0] = Math.LOG2E / guide.width ** 2;
    }
    this.exports.smooth(to, source, stops, width, height, distance, Math.LOG2E / lightStops ** 2, rows, guides.length);
    done();
  }

  warp(out: Float32Array, planes: Float32Array, from: Region, region: Region, map: AffineMap, table: Float32Array, radius: number): void {
    const [a, b, c, d, e, f] = map;
    const inside = from.width * from.height;
    const stretch = [Math.max(1, Math.hypot(a, b)), Math.max(1, Math.hypot(c, d))];
    const room = stretch.map((by) => (2 * Math.ceil(radius * by) + 4) * 4);
    const [pixels, weights, columns, rows, source, aside] = this.areas(planes.byteLength, table.byteLength, room[0], room[1], this.bytesAside(planes), this.bytesAside(out));
    const [to, done] = this.target(out, aside);
    this.floats(weights, table.length).set(table);
    this.exports.interleave(pixels, this.lent(planes, source), inside);
    // Counted from the corners of the two regions.
    const [x0, y0] = [a * region.x + b * region.y + e - from.x, c * region.x + d * region.y + f - from.y];
    this.exports.warp(to, pixels, from.width, from.height, region.width, region.height, a, b, c, d, x0, y0, stretch[0], stretch[1], radius, weights, columns, rows, isWhole(map));
    done();
  }

  /**
   * A tile of results as straight RGBA, display values assumed. Eight bits may be dithered: an 8×8 ordered matrix that
   * leaves values alone which are exact codes.
   */
  packBytes(tile: Pixels, out: Uint8Array | Uint8ClampedArray, dither: boolean): void {
    this.#packRows(tile, 4, out, (to, planes, count, x, y) => {
      const row = this.#thresholds + (dither ? y & 7 : 8) * 64;
      this.exports.pack_rgba8(to, planes[0], planes[1], planes[2], planes[3], count, tile.opaque, row, x & 7);
    });
  }

  packWords(tile: Pixels, out: Uint16Array): void {
    this.#packRows(tile, 8, new Uint8Array(out.buffer, out.byteOffset, out.byteLength), (to, planes, count) => {
      this.exports.pack_rgba16(to, planes[0], planes[1], planes[2], planes[3], count, tile.opaque);
    });
  }

  #packRows(tile: Pixels, bytesPerPixel: number, out: Uint8Array | Uint8ClampedArray, pack: (to: number, planes: number[], count: number, x: number, y: number) => void): void {
    const { x, y, width, height } = tile.region;
    const area = width * height;
    const stride = 16384;
    const planes = [0, 1, 2, 3].map((channel) => this.staging + channel * (stride + 1088));
    const to = this.staging + 6 * stride;
    const step = stride / 4;
    for (let row = 0; row < height; row++) {
      for (let column = 0; column < width; column += step) {
        const count = Math.min(step, width - column);
        const offset = row * width + column;
        for (const channel of [0, 1, 2, 3]) {
          new Float32Array(this.memory.buffer, planes[channel], count).set(tile.planes.subarray(channel * area + offset, channel * area + offset + count));
        }
        pack(to, planes, count, x + column, y + row);
        out.set(this.bytes.subarray(to, to + count * bytesPerPixel), offset * bytesPerPixel);
      }
    }
  }

  /** Floats to the nearest halves. */
  toHalf(values: Float32Array, out: Uint16Array): void {
    const step = 65536;
    for (let start = 0; start < values.length; start += step) {
      const count = Math.min(step, values.length - start);
      new Float32Array(this.memory.buffer, this.staging, count).set(values.subarray(start, start + count));
      this.exports.to_half(this.staging + step * 4, this.staging, count);
      out.set(new Uint16Array(this.memory.buffer, this.staging + step * 4, count), start);
    }
  }

  /** Row of a plane at half the size: the mean of two by two samples. For the last row of an odd height pass it twice. */
  reduceRow(type: PlaneType, upper: Plane['data'], lower: Plane['data'], out: Plane['data']): void {
    const e = this.exports;
    const width = upper.length;
    const rows = [upper, lower].map((row, i) => {
      const pointer = this.staging + i * 262144;
      this.bytes.set(new Uint8Array(row.buffer, row.byteOffset, row.byteLength), pointer);
      return pointer;
    });
    const to = this.staging + 2 * 262144;
    if (type === 'u8') e.reduce_u8(to, rows[0], rows[1], width);
    else if (type === 'u16') e.reduce_u16(to, rows[0], rows[1], width);
    else {
      const floats = [3, 4].map((i) => this.staging + i * 262144);
      for (const i of [0, 1]) this.#loaders[type](floats[i], rows[i], width);
      e.reduce_f32(type === 'f16' ? floats[0] : to, floats[0], floats[1], width);
      if (type === 'f16') e.to_half(to, floats[0], out.length);
    }
    new Uint8Array(out.buffer, out.byteOffset, out.byteLength).set(this.bytes.subarray(to, to + out.byteLength));
  }

  /** Rows 0…7 of the 8×8 ordered matrix, twice over, and a ninth row of plain rounding. @source B. E. Bayer, ICC 1973 */
  #writeThresholds(): void {
    const table = new Float32Array(this.memory.buffer, this.#thresholds, 9 * 16).fill(0.5);
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
