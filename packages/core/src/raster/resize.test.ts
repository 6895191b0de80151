import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { readFloatTiff, scratch, tool } from '../../../../tests/tools.ts';
import type { Size } from './region.ts';
import { type FilterId, resamplingFilters } from './filters.ts';
import { resizeRows, sizeOfWidth } from './resize.ts';

function resized(values: Float32Array, from: Size, to: Size, filter: FilterId, channels = 1): Float32Array {
  const [area, small] = [from.width * from.height, to.width * to.height];
  const out = new Float32Array(channels * small);
  const order: number[] = [];
  resizeRows(
    channels,
    from,
    to,
    resamplingFilters[filter],
    (y, row) => {
      order.push(y);
      for (let c = 0; c < channels; c++) row.set(values.subarray(c * area + y * from.width, c * area + (y + 1) * from.width), c * from.width);
    },
    (y, row) => {
      for (let c = 0; c < channels; c++) out.set(row.subarray(c * to.width, (c + 1) * to.width), c * small + y * to.width);
    },
  );
  expect(order).toEqual(order.map((_, i) => i));
  return out;
}
const filters = Object.keys(resamplingFilters) as FilterId[];
const noise = (count: number) => {
  const random = seeded(8);
  return Float32Array.from({ length: count }, () => random() * 4);
};

describe('filters', () => {
  it('Mitchell and Netravali, eq. 8, with B and C of a third; Lanczos is 1 in its middle and 0 at all other pixels', () => {
    const { mitchell, lanczos } = resamplingFilters;
    // From the equation, by hand: (6 − 2B) / 6, (B) / 6, and at a half.
    for (const [x, wanted] of [[0, 8 / 9], [1, 1 / 18], [-1, 1 / 18], [0.5, 77 / 144], [1.5, -5 / 144], [2, 0]]) expect(mitchell.weight(x)).toBeCloseTo(wanted, 12);
    for (const [x, wanted] of [[0, 1], [1, 0], [2, 0], [-2, 0], [3, 0], [0.5, (Math.sin(Math.PI / 2) / (Math.PI / 2)) * (Math.sin(Math.PI / 6) / (Math.PI / 6))]]) expect(lanczos.weight(x)).toBeCloseTo(wanted, 12);
  });
});

describe.each(filters)('%s', (filter) => {
  it('a flat picture stays flat, larger and smaller, down to one pixel', () => {
    for (const to of [{ width: 1, height: 1 }, { width: 7, height: 90 }, { width: 200, height: 3 }]) for (const value of resized(new Float32Array(40 * 30).fill(0.7), { width: 40, height: 30 }, to, filter)) expect(value).toBeCloseTo(0.7, 5);
  });
  it('turned round and then resized is resized and then turned round', () => {
    const [from, to] = [{ width: 37, height: 23 }, { width: 20, height: 31 }];
    const values = noise(37 * 23);
    const [straight, turned] = [resized(values, from, to, filter), resized(values.slice().reverse(), from, to, filter).reverse()];
    for (const [i, value] of straight.entries()) expect(turned[i]).toBeCloseTo(value, 4);
  });
  it('channels do not mix', () => {
    const [from, to] = [{ width: 19, height: 17 }, { width: 8, height: 40 }];
    const values = noise(3 * 19 * 17);
    const all = resized(values, from, to, filter, 3);
    expect(all.slice(320, 640)).toEqual(resized(values.slice(19 * 17, 2 * 19 * 17), from, to, filter));
  });
  it('agrees with OpenImageIO, larger and smaller, away from the edges', () => {
    const folder = scratch();
    const [width, height] = [90, 60];
    const plain = join(folder, 'plain.tif');
    tool('oiiotool', '--create', `${width}x${height}`, '1', '--noise:type=uniform:min=0:max=4:seed=2', '-d', 'float', '--compression', 'none', '--scanline', '-o', plain);
    const source = readFloatTiff(plain).data;
    for (const to of [{ width: 30, height: 20 }, { width: 61, height: 43 }, { width: 180, height: 120 }]) {
      const theirs = join(folder, `${to.width}.tif`);
      tool('oiiotool', plain, `--resize:filter=${filter === 'lanczos' ? 'lanczos3' : 'mitchell'}`, `${to.width}x${to.height}`, '-d', 'float', '--compression', 'none', '--scanline', '-o', theirs);
      const [ours, wanted] = [resized(source, { width, height }, to, filter), readFloatTiff(theirs).data];
      // Where the filter reaches over the edge each goes on in its own way.
      const margin = Math.ceil(4 * Math.max(1, to.width / width));
      let worst = 0;
      for (let y = margin; y < to.height - margin; y++) for (let x = margin; x < to.width - margin; x++) worst = Math.max(worst, Math.abs(ours[y * to.width + x] - wanted[y * to.width + x]));
      expect(worst, `${to.width}`).toBeLessThan(0.002);
    }
  });
});

it('at its own size Lanczos changes nothing', () => {
  const values = noise(31 * 29);
  for (const [i, value] of resized(values, { width: 31, height: 29 }, { width: 31, height: 29 }, 'lanczos').entries()) expect(value).toBeCloseTo(values[i], 5);
});

it('the height follows the width', () => {
  expect([sizeOfWidth({ width: 1200, height: 800 }, 1000), sizeOfWidth({ width: 4000, height: 3 }, 10)]).toEqual([{ width: 1000, height: 667 }, { width: 10, height: 1 }]);
});
