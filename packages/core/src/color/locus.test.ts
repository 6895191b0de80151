import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { LOCI, type LocusId, temperatureOf, whiteOf } from './locus.ts';
import { xyYToLinearSrgb } from './kelvin.ts';

/** McCamy, Color Res. Appl. 17 (1992). */
const mcCamy = ([x, y]: readonly [number, number]) => {
  const n = (x - 0.332) / (0.1858 - y);
  return 449 * n ** 3 + 3525 * n ** 2 + 6823.3 * n + 5520.33;
};

describe('whites by temperature', () => {
  // CIE 15:2004, 3.1, computed from the formula; it gives D65 to 1e-4.
  it.each([[4000, 0.38234, 0.38377], [5000, 0.34574, 0.35867], [5700, 0.32792, 0.34353], [6504, 0.31271, 0.32912], [10_000, 0.2788, 0.29197], [15_000, 0.2614, 0.27022]])('daylight of %i K', (kelvin, x, y) => {
    expectClose(whiteOf('daylight', kelvin, 0), [x, y], 1e-5);
  });
  // Planck's law integrated with the observer of 1931 by an independent toolkit; the fit that is used lies within 6e-4.
  it.each([[2000, 0.52665, 0.41329], [2856, 0.44757, 0.40745], [3200, 0.42335, 0.39894], [6504, 0.31347, 0.32357], [15_000, 0.2637, 0.26728]])('glowing bodies of %i K', (kelvin, x, y) => {
    expectClose(whiteOf('glow', kelvin, 0), [x, y], 7e-4);
  });
  it('agrees with McCamy where his formula holds, and with its published values for the standard whites', () => {
    // Published beside the formula: D65 6505.1, D50 5001.0, A 2857.3.
    expectClose([mcCamy([0.3127, 0.329]), mcCamy([0.3457, 0.3585]), mcCamy([0.44757, 0.40745])], [6505.1, 5001, 2857.3], 1e-4);
    for (const kelvin of [4000, 5000, 6504, 7000]) expectClose([mcCamy(whiteOf('daylight', kelvin, 0))], [kelvin], 2e-3);
    for (const kelvin of [2856, 4000, 5000, 6504]) expectClose([mcCamy(whiteOf('glow', kelvin, 0))], [kelvin], 4e-3);
  });
  it('goes from daylight into the glow of bodies without a step', () => {
    for (let kelvin = 1700; kelvin < 5000; kelvin += 10) {
      const [a, b] = [whiteOf('daylight', kelvin, 0), whiteOf('daylight', kelvin + 10, 0)];
      expect(a[0]).toBeGreaterThan(b[0]);
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(0.003);
    }
    expect(whiteOf('daylight', 2000, 0)).toEqual(whiteOf('glow', 2000, 0));
  });
});

describe('temperature and tint of a colour', () => {
  const locus = Object.keys(LOCI) as LocusId[];
  it.each(locus)('finds what made it, along %s', (id) => {
    for (const kelvin of [1800, 2700, 3200, 4500, 6504, 10_000, 15_000, 24_000]) {
      for (const tint of [-40, 0, 25]) {
        const [x, y] = whiteOf(id, kelvin, tint);
        const found = temperatureOf(id, xyYToLinearSrgb(x, y, 0.4));
        // In mired, in which equal differences look alike.
        expect(Math.abs(1e6 / (found?.kelvin ?? 0) - 1e6 / kelvin), `${kelvin} K, ${tint}`).toBeLessThan(0.6);
        expect(Math.abs((found?.tint ?? 99) - tint), `${kelvin} K, ${tint}`).toBeLessThan(0.5);
      }
    }
  });
  it('is none of what is no light', () => {
    for (const rgb of [[0, 0, 0], [-1, -1, -1], [Number.NaN, 0, 0]] as const) expect(temperatureOf('daylight', rgb)).toBeNull();
  });
});
