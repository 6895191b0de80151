/** Rows of the material schedule in pixels: which row a pixel belongs to, and what a row looks like on average. */
import { type CoverageShares, type MaskView, type Plane, sampleReader, srgbDecode } from '@tazzel/core';
import type { SharedIndex } from './protocol.ts';

export const NO_ROW = 0xffff;
const LARGE = 2 ** 22;

/** Which of the hashes covers most of each pixel. */
export function hashIndex({ index, hashes: found }: CoverageShares, hashes: readonly number[]): Uint16Array {
  const rowOf = new Map(hashes.map((hash, i) => [hash, i]));
  const rows = Uint16Array.from(found, (hash) => rowOf.get(hash) ?? NO_ROW);
  return index.map((number) => rows[number] ?? NO_ROW);
}

/** Which channel of an RGB matte covers at least half of each pixel, and how much of the picture each covers. Alpha counts if it is a matte of its own. */
export function channelRows(given: readonly Plane[]): { index: SharedIndex; areas: number[] } {
  const planes = given.length === 4 && !isOwnMatte(given) ? given.slice(0, 3) : given;
  const { width, height } = planes[0];
  const data = new Uint16Array(width * height).fill(NO_ROW);
  const areas = planes.map((plane, c) => {
    const read = sampleReader(plane);
    let sum = 0;
    for (let i = 0; i < data.length; i++) {
      const share = Math.min(1, Math.max(0, read(i)));
      sum += share;
      if (share >= 0.5) data[i] = c;
    }
    return sum / data.length;
  });
  return { index: { width, height, data }, areas };
}

/** Whether alpha says something that is not in the colours: not all, not nothing, and not just where one of them is. */
function isOwnMatte(planes: readonly Plane[]): boolean {
  const [red, green, blue, alpha] = planes.map(sampleReader);
  const { length } = planes[0].data;
  let [all, apart] = [0, 0];
  for (let i = 0; i < length; i++) {
    const share = alpha(i);
    all += share;
    apart += Math.abs(share - Math.min(1, red(i) + green(i) + blue(i)));
  }
  return all > length * 1e-5 && all < length * (1 - 1e-5) && apart > all * 0.02;
}

/** Mean light of all pixels of a row; null where the row has none. */
export function rowMeans({ width, height, data }: SharedIndex, count: number, { color, encoding, scale, offset }: MaskView): ([number, number, number] | null)[] {
  const sums = new Float64Array(count * 4);
  const { width: across, height: down } = color[0];
  const [red, green, blue] = [0, 1, 2].map((c) => {
    const read = sampleReader(color[Math.min(c, color.length - 1)]);
    return encoding === 'display' ? (i: number) => srgbDecode(read(i) * scale + offset) : (i: number) => read(i) * scale + offset;
  });
  // Every second row and column of a large picture: the means stay what they are.
  const step = data.length > LARGE ? 2 : 1;
  for (let y = 0; y < Math.min(height, down); y += step) {
    for (let x = 0; x < Math.min(width, across); x += step) {
      const row = data[y * width + x];
      if (row >= count) continue;
      const i = y * across + x;
      sums[row * 4] += red(i);
      sums[row * 4 + 1] += green(i);
      sums[row * 4 + 2] += blue(i);
      sums[row * 4 + 3]++;
    }
  }
  return Array.from({ length: count }, (_, row) => {
    const pixels = sums[row * 4 + 3];
    return pixels === 0 ? null : [sums[row * 4] / pixels, sums[row * 4 + 1] / pixels, sums[row * 4 + 2] / pixels];
  });
}

/** Pixels of a row in an index of what is behind glass or mirrored, by the row that stands in front. */
export function seenBehind(front: SharedIndex, back: SharedIndex, row: number, count: number): number[] {
  const pixels = new Array<number>(count).fill(0);
  const length = Math.min(front.data.length, back.data.length);
  for (let i = 0; i < length; i++) if (back.data[i] === row && front.data[i] !== row && front.data[i] < count) pixels[front.data[i]]++;
  return pixels;
}
