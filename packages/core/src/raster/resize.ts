/** A picture at any other size: separable filters, a row at a time, so that neither picture is held in floats as a whole. Numbers must be linear in light, colours premultiplied. */
import type { ResamplingFilter } from './filters.ts';
import type { Size } from './region.ts';

/** The size with another width and the same proportions. */
export const sizeOfWidth = ({ width, height }: Size, wanted: number): Size => ({ width: wanted, height: Math.max(1, Math.round((wanted * height) / width)) });

/** Rows of the result, the last one excluded. */
export interface ResultRows {
  readonly first: number;
  readonly end: number;
}

interface Taps {
  /** First sample of each result, and where its weights begin and end. */
  readonly first: Int32Array;
  readonly start: Int32Array;
  readonly weights: Float32Array;
}

/** What lies beyond the edges does not count. */
function tapsOf(from: number, to: number, { radius, weight }: ResamplingFilter): Taps {
  const scale = from / to;
  const stretch = Math.max(1, scale);
  const first = new Int32Array(to);
  const start = new Int32Array(to + 1);
  const weights: number[] = [];
  for (let i = 0; i < to; i++) {
    const centre = (i + 0.5) * scale - 0.5;
    const low = Math.max(0, Math.ceil(centre - radius * stretch));
    const high = Math.min(from - 1, Math.floor(centre + radius * stretch));
    const own = Array.from({ length: high - low + 1 }, (_, k) => weight((low + k - centre) / stretch));
    const sum = own.reduce((total, value) => total + value, 0);
    first[i] = low;
    for (const value of own) weights.push(value / sum);
    start[i + 1] = weights.length;
  }
  return { first, start, weights: Float32Array.from(weights) };
}

/**
 * @param channels how many numbers a pixel has
 * @param read fills one row, channel after channel; called once for each that is needed, from the first to the last
 * @param write is given one row in the same order; it must not keep it
 * @param rows which of the results are made; each is what it is whatever the others are
 */
export function resizeRows(channels: number, from: Size, to: Size, filter: ResamplingFilter, read: (y: number, row: Float32Array) => void, write: (y: number, row: Float32Array) => void, rows: ResultRows = { first: 0, end: to.height }): void {
  const across = tapsOf(from.width, to.width, filter);
  const down = tapsOf(from.height, to.height, filter);
  const source = new Float32Array(channels * from.width);
  const length = channels * to.width;
  let most = 1;
  for (let y = rows.first; y < rows.end; y++) most = Math.max(most, down.start[y + 1] - down.start[y]);
  // Rows already filtered across, each in the place of one that is no longer needed.
  const kept = Array.from({ length: most }, () => new Float32Array(length));
  const out = new Float32Array(length);
  let next = down.first[rows.first];
  for (let y = rows.first; y < rows.end; y++) {
    const [begin, end] = [down.start[y], down.start[y + 1]];
    for (; next < down.first[y] + end - begin; next++) {
      read(next, source);
      filterRow(channels, from.width, source, to.width, across, kept[next % most]);
    }
    out.fill(0);
    for (let k = begin; k < end; k++) {
      const weight = down.weights[k];
      const row = kept[(down.first[y] + k - begin) % most];
      for (let i = 0; i < length; i++) out[i] += weight * row[i];
    }
    write(y, out);
  }
}

function filterRow(channels: number, width: number, source: Float32Array, wanted: number, { first, start, weights }: Taps, into: Float32Array): void {
  for (let c = 0; c < channels; c++) {
    for (let x = 0; x < wanted; x++) {
      let sum = 0;
      for (let k = start[x], at = c * width + first[x]; k < start[x + 1]; k++, at++) sum += weights[k] * source[at];
      into[c * wanted + x] = sum;
    }
  }
}
