import { kelvinToLinearSrgb, kelvinToXy } from './kelvin.ts';
import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { linearToOklab, oklabToLinear } from './oklab.ts';
import type { Triple } from '../vector.ts';
import { clampUnit, srgbDecode, srgbEncode } from './srgb.ts';

describe('sRGB transfer function', () => {
  // IEC 61966-2-1: values recomputed from the formula, identical in culori and colorjs.io to 8 digits.
  it('encodes', () => {
    const table = [[0.001, 0.01292], [0.0031308, 0.04044994], [0.01, 0.09985282], [0.02, 0.15170372], [0.18, 0.46135613], [0.5, 0.73535698], [0.735, 0.8729805], [1, 1]];
    for (const [linear, encoded] of table) expect(srgbEncode(linear)).toBeCloseTo(encoded, 7);
  });
  it('decodes 8-bit codes', () => {
    const table = [[10, 0.00303527], [11, 0.00334654], [51, 0.03310477], [64, 0.05126946], [118, 0.18116424], [128, 0.2158605], [188, 0.50288646], [254, 0.9911021]];
    for (const [code, linear] of table) expect(srgbDecode(code / 255)).toBeCloseTo(linear, 7);
  });
  it('is its own inverse and stays in bounds', () => {
    for (let code = 0; code <= 65535; code += 7) expect(Math.round(srgbEncode(srgbDecode(code / 65535)) * 65535)).toBe(code);
    for (const odd of [-1, -0, 1.5, Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]) {
      for (const f of [srgbEncode, srgbDecode, clampUnit]) {
        expect(f(odd)).toBeGreaterThanOrEqual(0);
        expect(f(odd)).toBeLessThanOrEqual(1);
      }
    }
  });
});

describe('OKLab', () => {
  // B. Ottosson 2020; CSS Color 4. Digits on which culori and colorjs.io agree.
  const table: readonly [Triple, Triple][] = [
    [[255, 0, 0], [0.627955, 0.224863, 0.125846]],
    [[0, 255, 0], [0.86644, -0.233888, 0.179498]],
    [[0, 0, 255], [0.452014, -0.032457, -0.311528]],
    [[128, 128, 128], [0.599871, 0, 0]],
    [[51, 102, 153], [0.499314, -0.033043, -0.092967]],
    [[214, 126, 44], [0.675347, 0.073875, 0.121553]],
  ];
  it('matches published values', () => {
    for (const [codes, lab] of table) expectClose(linearToOklab(codes.map((c) => srgbDecode(c / 255)) as unknown as Triple), lab, 2e-6, codes.join(' '));
  });
  it('matches culori for light inside and outside the gamut', () => {
    const toOklab = converter('oklab');
    const random = seeded(9);
    for (let i = 0; i < 200; i++) {
      const rgb: Triple = [random() * 4 - 0.5, random() * 4 - 0.5, random() * 4 - 0.5];
      const { l, a, b } = toOklab({ mode: 'lrgb', r: rgb[0], g: rgb[1], b: rgb[2] });
      expectClose(linearToOklab(rgb), [l, a, b], 1e-6, `seed 9, ${rgb}`);
      expectClose(oklabToLinear(linearToOklab(rgb)), rgb, 2e-6, `back, seed 9, ${rgb}`);
    }
  });
});

describe('glowing bodies', () => {
  // Planck's law with the CIE 1931 observer, integrated by an independent spectral toolkit; Kim's fit is within 6e-4.
  it.each([[2000, 0.52665, 0.41329], [2700, 0.45984, 0.41059], [3200, 0.42335, 0.39894], [4000, 0.38044, 0.37674], [5000, 0.3451, 0.35161], [6504, 0.31347, 0.32357], [10_000, 0.28064, 0.28829]])('chromaticity at %i K', (kelvin, x, y) => {
    expect(Math.abs(kelvinToXy(kelvin)[0] - x)).toBeLessThan(7e-4);
    expect(Math.abs(kelvinToXy(kelvin)[1] - y)).toBeLessThan(7e-4);
  });
  // The same whites as linear sRGB, scaled to a largest channel of 1 (derived from the integrated values).
  it.each([[2700, 1, 0.4153, 0.0992], [3200, 1, 0.5155, 0.194], [4000, 1, 0.6534, 0.3772], [5000, 1, 0.7915, 0.6282], [10_000, 0.6095, 0.6952, 1]])('linear sRGB at %i K', (kelvin, r, g, b) => {
    const found = kelvinToLinearSrgb(kelvin);
    const most = Math.max(...found);
    for (const [c, v] of [r, g, b].entries()) expect(Math.abs(found[c] / most - v)).toBeLessThan(0.006);
    expect(0.2126 * found[0] + 0.7152 * found[1] + 0.0722 * found[2]).toBeCloseTo(1, 9);
  });
  it('beyond the fit the nearest end counts', () => {
    expect(kelvinToXy(500)).toEqual(kelvinToXy(1667));
    expect(kelvinToXy(90_000)).toEqual(kelvinToXy(25_000));
  });
});
