/** The worker's part of the rebuild check: reads columns of numbers span by span and adds them up. */
import { DARKEST, GLOW_FROM, GLOW_WIDTHS, gaussianBlur, type Plane, type Size, srgbDecode, sampleReader, type Backend, type ColorRegisters, type RebuildColumn, RebuildMeasure, RebuildSums, type Region, type SourceView } from '@tazzel/core';

export interface RebuildRequest {
  readonly target: RebuildColumn;
  readonly columns: readonly RebuildColumn[];
  readonly views: Readonly<Record<string, ColumnView>>;
  readonly region: Region;
  /** The most light that the target can hold. */
  readonly ceiling: number;
}

/** A source's pixels. Of smooth pictures fewer are enough: `spread` is the size at which they are read. */
export interface ColumnView extends Pick<SourceView, 'color' | 'x' | 'y'> {
  readonly spread?: Size;
}

class ColumnReader {
  readonly #factor: ColorRegisters;

  constructor(readonly backend: Backend) {
    this.#factor = [backend.register(), backend.register(), backend.register()];
  }

  /** One row of a column into `out`: factors multiplied, nothing outside of a source. */
  read({ factors }: RebuildColumn, views: RebuildRequest['views'], x: number, y: number, count: number, out: readonly Float32Array[]): void {
    for (const [nth, factor] of factors.entries()) {
      const view = views[factor.sourceId];
      if (view.spread) {
        readSpread(view, view.spread, x - view.x, y - view.y, count, out);
        continue;
      }
      const { width, height } = view.color[0];
      const row = y - view.y;
      const from = Math.max(x, view.x);
      const to = Math.min(x + count, view.x + width);
      for (const [c, register] of this.#factor.entries()) {
        if (c > 0 && view.color.length === 1) {
          register.values.set(this.#factor[0].values.subarray(0, count));
          continue;
        }
        if (from > x || to < x + count || row < 0 || row >= height) this.backend.fill(register, 0, 0, count);
        if (to > from && row >= 0 && row < height) this.backend.load(register, from - x, view.color[Math.min(c, view.color.length - 1)], row * width + from - view.x, to - from, 'as-is');
      }
      if (factor.scale !== 1 || factor.offset !== 0) this.backend.scale(this.#factor, factor.scale, factor.offset, count);
      if (factor.decode) this.backend.transfer('decode', this.#factor, count);
      for (const [c, { values }] of this.#factor.entries()) {
        if (nth === 0) out[c].set(values.subarray(0, count));
        else for (let i = 0; i < count; i++) out[c][i] *= values[i];
      }
    }
  }
}

/** Between the pixels of a smaller picture, linearly; beyond its edges the outermost go on. */
function readSpread({ color }: ColumnView, spread: Size, x: number, y: number, count: number, out: readonly Float32Array[]): void {
  const { width, height } = color[0];
  const at = (position: number, from: number, to: number) => {
    const place = Math.min(to - 1, Math.max(0, ((position + 0.5) * to) / from - 0.5));
    const low = Math.min(Math.max(0, to - 2), Math.floor(place));
    return [low, Math.min(to - 1, low + 1), place - low];
  };
  const [top, bottom, down] = at(y, spread.height, height);
  for (let i = 0; i < count; i++) {
    const [left, right, across] = at(x + i, spread.width, width);
    for (const [c, values] of out.entries()) {
      const { data } = color[Math.min(c, color.length - 1)];
      const upper = data[top * width + left] * (1 - across) + data[top * width + right] * across;
      const lower = data[bottom * width + left] * (1 - across) + data[bottom * width + right] * across;
      values[i] = upper * (1 - down) + lower * down;
    }
  }
}

/** The highlights of a (small) picture, blurred by each of the widths. */
export function glowOf(color: readonly Plane[], { decode, scale, offset }: RebuildColumn['factors'][number], allocate: (byteLength: number) => ArrayBufferLike): Plane[][] {
  const { width, height } = color[0];
  const lightOf = (plane: Plane) => {
    const read = sampleReader(plane);
    return (i: number) => {
      const value = scale * read(i) + offset;
      return Math.max(0, (decode ? srgbDecode(value) : value) - GLOW_FROM);
    };
  };
  return GLOW_WIDTHS.map((share) =>
    color.map((plane) => {
      const data = new Float32Array(allocate(width * height * 4));
      const light = lightOf(plane);
      for (let i = 0; i < data.length; i++) data[i] = light(i);
      gaussianBlur(data, width, height, share * Math.max(width, height));
      return { type: 'f32', width, height, data };
    }),
  );
}

const triple = (length: number) => [0, 1, 2].map(() => new Float32Array(length));
const readers = new WeakMap<Backend, ColumnReader>();
function readerOf(backend: Backend): ColumnReader {
  const known = readers.get(backend) ?? new ColumnReader(backend);
  readers.set(backend, known);
  return known;
}

function eachSpan(region: Region, length: number, work: (x: number, y: number, count: number) => void): void {
  for (let y = region.y; y < region.y + region.height; y++) {
    for (let x = region.x; x < region.x + region.width; x += length) work(x, y, Math.min(length, region.x + region.width - x));
  }
}

/** Weighted products of all columns over every `step`th row of a region. */
export function rebuildSums({ target, columns, views, region }: RebuildRequest, step: number, backend: Backend): Float64Array {
  const reader = readerOf(backend);
  const all = [...columns, target];
  const values = all.map(() => triple(backend.spanLength));
  const sums = new RebuildSums(columns.length);
  eachSpan(region, backend.spanLength, (x, y, count) => {
    if (y % step !== 0) return;
    for (const [i, column] of all.entries()) reader.read(column, views, x, y, count, values[i]);
    sums.add(values, count);
  });
  return sums.products;
}

function addWeighted(to: Float32Array, values: Float32Array, weight: number, count: number): void {
  for (let p = 0; p < count; p++) to[p] += weight * values[p];
}

/** Figures of several sums of the columns, one entry for each list of weights. */
export function rebuildFigures({ target, columns, views, region, ceiling }: RebuildRequest, weights: readonly (readonly number[])[], backend: Backend): Float64Array[] {
  const reader = readerOf(backend);
  const measures = weights.map(() => new RebuildMeasure());
  const sums = weights.map(() => triple(backend.spanLength));
  const [wanted, column] = [triple(backend.spanLength), triple(backend.spanLength)];
  eachSpan(region, backend.spanLength, (x, y, count) => {
    for (const sum of sums) for (const values of sum) values.fill(0, 0, count);
    for (const [i, spec] of columns.entries()) {
      if (weights.every((list) => list[i] === 0)) continue;
      reader.read(spec, views, x, y, count, column);
      for (const [k, list] of weights.entries()) {
        const weight = list[i];
        if (weight === 0) continue;
        for (const c of [0, 1, 2]) addWeighted(sums[k][c], column[c], weight, count);
      }
    }
    reader.read(target, views, x, y, count, wanted);
    for (const [k, measure] of measures.entries()) measure.add(sums[k], wanted, count, { x, y, width: count }, ceiling);
  });
  return measures.map(({ values }) => values);
}

/** One source of a sum (or its target) moved by some whole pixels. */
export interface ShiftRequest extends RebuildRequest {
  readonly sourceId: string;
  readonly shifts: readonly { readonly x: number; readonly y: number }[];
  readonly step: number;
}

/** Squared errors, weighted as everywhere, with the source moved by each of the shifts. Every `step`th row of the region is looked at. */
export function shiftErrors({ target, columns, views, region, sourceId, shifts, step }: ShiftRequest, backend: Backend): Float64Array {
  const reader = readerOf(backend);
  const errors = new Float64Array(shifts.length);
  const [light, rest, moved, part] = [triple(backend.spanLength), triple(backend.spanLength), triple(backend.spanLength), triple(backend.spanLength)];
  const takesPart = ({ factors }: RebuildColumn) => factors.some((factor) => factor.sourceId === sourceId);
  const isTarget = takesPart(target);
  const [still, moving] = [columns.filter((column) => !takesPart(column)), isTarget ? [target] : columns.filter(takesPart)];
  const view = views[sourceId];
  eachSpan(region, backend.spanLength, (x, y, count) => {
    if (y % step !== 0) return;
    reader.read(target, views, x, y, count, light);
    for (const c of [0, 1, 2]) rest[c].set(light[c].subarray(0, count));
    if (isTarget) for (const values of rest) values.fill(0, 0, count);
    for (const column of still) {
      reader.read(column, views, x, y, count, part);
      for (const c of [0, 1, 2]) addWeighted(rest[c], part[c], isTarget ? 1 : -1, count);
    }
    for (const [i, shift] of shifts.entries()) {
      const places = { ...views, [sourceId]: { ...view, x: view.x + shift.x, y: view.y + shift.y } };
      for (const values of moved) values.fill(0, 0, count);
      for (const column of moving) {
        reader.read(column, places, x, y, count, part);
        for (const c of [0, 1, 2]) addWeighted(moved[c], part[c], 1, count);
      }
      for (const c of [0, 1, 2]) {
        const weights = isTarget ? rest[c] : light[c];
        for (let p = 0; p < count; p++) errors[i] += ((rest[c][p] - moved[c][p]) / Math.max(Math.abs(weights[p]), DARKEST)) ** 2;
      }
    }
  });
  return errors;
}
