/** Cryptomatte specification 1.2: a matte is the sum of the coverages of its hashes over all ranks. Hashes of “hello” and “bunny” as its table gives them. */
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import type { Plane } from '../raster/planes.ts';
import { addCoverage, beginCoverage, type CoverageShares, coveredIds, hashesOfColors } from './coverage-shares.ts';

const [HELLO, BUNNY] = [0x248bfa47, 0x13851a76];
const plane = (data: Float32Array): Plane => ({ type: 'f32', width: data.length, height: 1, data });
const ids = (...bits: readonly number[]) => plane(new Float32Array(Uint32Array.from(bits).buffer));
const covers = (...values: readonly number[]) => plane(Float32Array.from(values));

/** What a hash covers of each pixel, by the packed shares. */
function covered({ index, edges, each, parts, shares, hashes }: CoverageShares, hash: number): number[] {
  const number = hashes.indexOf(hash);
  const out = Array.from(index, (found) => (found === number ? 1 : 0));
  for (const [k, i] of edges.entries()) {
    out[i] = 0;
    for (let n = k * each; n < (k + 1) * each; n++) if (parts[n] === number) out[i] += shares[n] / 255;
  }
  return out;
}

describe('pixels of a matte', () => {
  it('are whole, mixed, or covered by nothing', () => {
    const coverage = beginCoverage([ids(HELLO, BUNNY, HELLO, 0, BUNNY), covers(1, 0.6, 0.5, 1, 0), ids(0, HELLO, 0, 0, HELLO), covers(0, 0.4, 0, 0, 0)], 1);
    expect([...coverage.edges]).toEqual([1, 2]);
    expect(covered(coverage, HELLO).map((v) => Number(v.toFixed(2)))).toEqual([1, 0.4, 0.5, 0, 0]);
    expect(covered(coverage, BUNNY).map((v) => Number(v.toFixed(2)))).toEqual([0, 0.6, 0, 0, 0]);
  });
  it('gather the pairs of all sources, within half a 255th', () => {
    const random = seeded(3);
    const names = Array.from({ length: 40 }, (_, i) => 0x3f000000 + i * 77_777);
    const pixels = Array.from({ length: 500 }, () => {
      const weights = Array.from({ length: 1 + Math.floor(random() * 6) }, () => random() + 0.01).sort((a, b) => b - a);
      const total = weights.reduce((a, b) => a + b, 0);
      const first = Math.floor(random() * names.length);
      return weights.map((weight, n) => ({ hash: names[(first + n) % names.length], share: weight / total }));
    });
    const sources = [0, 1, 2].map((place) => [0, 1].flatMap((n) => [ids(...pixels.map((parts) => parts[place * 2 + n]?.hash ?? 0)), covers(...pixels.map((parts) => parts[place * 2 + n]?.share ?? 0))]));
    const coverage = addCoverage(addCoverage(beginCoverage(sources[0], 3), sources[1], 1), sources[2], 2);
    for (const hash of names) {
      const shares = covered(coverage, hash);
      for (const [i, parts] of pixels.entries()) expect(Math.abs(shares[i] - (parts.find((part) => part.hash === hash)?.share ?? 0))).toBeLessThan(0.5001 / 255);
    }
    const areas = coveredIds(coverage);
    expect(areas.reduce((sum, { area }) => sum + area, 0)).toBeCloseTo(1, 2);
    expect(areas.map(({ area }) => area)).toEqual(areas.map(({ area }) => area).toSorted((a, b) => b - a));
  });
  it('broken numbers are nothing', () => {
    const coverage = beginCoverage([ids(HELLO, HELLO, HELLO), covers(Number.NaN, -1, Number.POSITIVE_INFINITY), ids(BUNNY, BUNNY, BUNNY), covers(1, 1, Number.NaN)], 1);
    expect(covered(coverage, HELLO)).toEqual([0, 0, 1]);
    expect(covered(coverage, BUNNY)).toEqual([0, 0, 0]);
  });
  it('more hashes than an index can count leave out the last, and nothing breaks', () => {
    const many = Uint32Array.from({ length: 70_000 }, (_, i) => i + 1);
    const coverage = beginCoverage([ids(...many), plane(new Float32Array(many.length).fill(1))], 1);
    expect(coverage.hashes.length).toBe(65_535);
    expect(coveredIds(coverage).reduce((sum, { area }) => sum + area, 0)).toBeCloseTo(65_535 / 70_000, 6);
  });
  it('of rounded numbers are refused', () => {
    expect(() => beginCoverage([{ ...ids(1), type: 'f16', data: Uint16Array.of(1) }, covers(1)], 1)).toThrow(/no coverage: mattes are 32-bit floats/);
  });
});

it('areas are coverages over all ranks', () => {
  const found = coveredIds(beginCoverage([ids(HELLO, BUNNY), covers(0.75, 0.5), ids(BUNNY, HELLO), covers(0.25, 0.5)], 1));
  expect(found.map(({ hash, area }) => ({ hash, area: Number(area.toFixed(2)) }))).toEqual([{ hash: HELLO, area: 0.63 }, { hash: BUNNY, area: 0.38 }]);
});

it('a colour is the thing that most of it carries', () => {
  const index = Uint16Array.of(0, 0, 0, 0, 0, 1, 1, 2);
  const coverage = beginCoverage([ids(HELLO, HELLO, HELLO, HELLO, BUNNY, BUNNY, HELLO, 0), plane(new Float32Array(8).fill(1))], 1);
  expect(hashesOfColors(index, 3, coverage)).toEqual([HELLO, null, null]);
  expect(hashesOfColors(index.subarray(1), 3, coverage)).toEqual([null, null, null]);
});
