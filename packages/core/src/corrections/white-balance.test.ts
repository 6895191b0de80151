import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { correct } from '../../../../tests/correct.ts';
import { whiteOf } from '../color/locus.ts';
import { xyYToLinearSrgb } from '../color/kelvin.ts';
import type { Triple } from '../vector.ts';
import { whiteBalance } from './white-balance.ts';

/** The matrix: what it makes of the three primaries, as rows. */
const rows = (params: object) => {
  const columns = ([[1, 0, 0], [0, 1, 0], [0, 0, 1]] as Triple[]).map((primary) => correct(whiteBalance, primary, params as never));
  return [0, 1, 2].map((row) => columns.map((column) => column[row]));
};

describe('white balance', () => {
  // P⁻¹ · M · P with Bradford's M (Lam 1985; ICC.1:2010 annex E), recomputed from the published matrices. There white is D65 by its xy, ours lies on the locus, 1e-4 beside it; for glowing bodies the fit of Kim adds 6e-4.
  it.each([
    ['10 000 K daylight', { kelvin: 10_000, locus: 'daylight' }, [[1.070795, 0.094732, 0.015277], [-0.004521, 0.984963, 0.005276], [-0.006912, -0.024385, 0.734393]]],
    ['3200 K of a glowing body', { kelvin: 3200, locus: 'glow' }, [[0.800142, -0.368743, -0.075977], [0.017323, 1.13242, -0.02975], [0.036074, 0.132575, 2.530308]]],
    ['D50', { kelvin: 5002, locus: 'daylight' }, [[0.939085, -0.09447, -0.017502], [0.004471, 1.024429, -0.006526], [0.008152, 0.029488, 1.332321]]],
  ])('is the published adaptation from %s', (_name, params, expected) => {
    for (const [i, row] of rows(params).entries()) expectClose(row, expected[i], 1.5e-3);
  });
  it('makes grey of what light of its temperature and tint lit, and keeps grey at its default', () => {
    for (const [kelvin, tint, locus] of [[3200, 0, 'glow'], [2200, 30, 'daylight'], [12_000, -20, 'daylight']] as const) {
      const [x, y] = whiteOf(locus, kelvin, tint);
      const [r, g, b] = correct(whiteBalance, xyYToLinearSrgb(x, y, 0.5), { kelvin, tint, locus });
      expectClose([r, g, b], [g, g, g], 2e-3);
    }
    expectClose(correct(whiteBalance, [0.3, 0.4, 0.5], {}), [0.3, 0.4, 0.5], 1e-6);
  });
  it('is warmer above its default and colder below', () => {
    const [warm, cold] = [10_000, 4000].map((kelvin) => correct(whiteBalance, [0.5, 0.5, 0.5], { kelvin }));
    expect(warm[0]).toBeGreaterThan(warm[2]);
    expect(cold[0]).toBeLessThan(cold[2]);
  });
  it('sets itself by a click on what should be neutral', () => {
    const cast: Triple = [0.62, 0.44, 0.3];
    for (const locus of ['daylight', 'glow'] as const) {
      const taken = whiteBalance.picks?.[0].take(cast, { kelvin: 6504, tint: 0, locus });
      const neutral = correct(whiteBalance, cast, { ...taken, locus });
      expect(Math.max(...neutral) / Math.min(...neutral), locus).toBeLessThan(1.005);
    }
    expect(whiteBalance.picks?.[0].take([0, 0, 0], { kelvin: 6504, tint: 0, locus: 'daylight' })).toBeNull();
  });
});
