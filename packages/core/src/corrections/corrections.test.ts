import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { linearToOklab, type Triple } from '../color/oklab.ts';
import { completeParams, defaultsOf, defineCorrection, type ParamTable, type ParamValues, type PointCorrection } from './define.ts';
import { exposure } from './exposure.ts';
import { hueSaturation } from './hue-saturation.ts';
import { correctionById, corrections, isCorrectionId } from './registry.ts';

const colors = (seed: number, count: number): Triple[] => {
  const random = seeded(seed);
  return Array.from({ length: count }, () => [random() * 3, random() * 3, random() * 3]);
};

const SIZE = { width: 60, height: 40 };
/** A pixel in the middle of nothing special, with other elements that are grey. */
const pixel = (correction: PointCorrection<ParamTable>, rgb: Triple, params: ParamValues) => correction.pixel(rgb, correction.prepare(params, SIZE), [17.5, 9.5], (correction.reads ?? []).map((): Triple => [0.5, 0.5, 0.5]));

describe.each(corrections.map((correction) => [correction.id, correction] as const))('%s', (_id, correction) => {
  it('does nothing by default, and says so, or declares that it acts at once', () => {
    const params = defaultsOf(correction);
    expect(correction.isNoOp(params)).toBe(correction.actsAtOnce !== true);
    if (correction.actsAtOnce || correction.work !== 'points') return;
    for (const rgb of colors(1, 20)) expectClose(pixel(correction, rgb, params), rgb, 2e-6);
  });
  it('gives finite light for finite light in every example', () => {
    for (const params of correction.examples) {
      if (correction.work !== 'points') continue;
      for (const rgb of [...colors(2, 50), [0, 0, 0], [1000, 0, 0], [-0.2, 0.5, 0.1]] as Triple[]) for (const value of pixel(correction, rgb, params)) expect(Number.isFinite(value)).toBe(true);
    }
  });
  it('declares what it is: a source, a help for every number', () => {
    // A year of publication, or the words for what has none.
    expect(correction.source).toMatch(/\b(19|20)\d\d\b|no published source|value from memory/);
    for (const param of Object.values(correction.params)) expect(param.help).not.toBe('');
  });
});

describe('exposure', () => {
  // ISO 2720: one step of exposure value is a factor of two.
  it('doubles per stop, above 1 and below 0 alike', () => {
    expect(pixel(exposure, [0.25, 3, -0.5], { exposureStops: 2 })).toEqual([1, 12, -2]);
    expectClose(pixel(exposure, [1, 1, 1], { exposureStops: -0.5 }), [Math.SQRT1_2, Math.SQRT1_2, Math.SQRT1_2], 1e-7);
  });
});

describe('hue and saturation', () => {
  it('turns hue and scales chroma of OKLCh as culori does', () => {
    const toLch = converter('oklch');
    const toRgb = converter('lrgb');
    for (const params of [{ hueDegrees: 90, saturationPercent: 100 }, { hueDegrees: -35, saturationPercent: 160 }, { hueDegrees: 10, saturationPercent: 40 }]) {
      for (const rgb of colors(3, 60)) {
        const { l, c, h = 0 } = toLch({ mode: 'lrgb', r: rgb[0], g: rgb[1], b: rgb[2] });
        const expected = toRgb({ mode: 'oklch', l, c: c * (params.saturationPercent / 100), h: h + params.hueDegrees });
        expectClose(pixel(hueSaturation, rgb, params), [expected.r, expected.g, expected.b], 2e-5, `seed 3, ${rgb}`);
      }
    }
  });
  it('without saturation leaves grey of the same lightness', () => {
    for (const rgb of colors(5, 30)) {
      const grey = pixel(hueSaturation, rgb, { hueDegrees: 0, saturationPercent: 0 });
      expectClose(grey, [grey[1], grey[1], grey[1]], 1e-5);
      expect(linearToOklab(grey)[0]).toBeCloseTo(linearToOklab(rgb)[0], 5);
    }
  });
});

describe('declarations and parameters', () => {
  it('fills defaults in, keeps ranges, refuses what it does not know', () => {
    expect(completeParams(hueSaturation, { hueDegrees: 500 })).toEqual({ hueDegrees: 180, saturationPercent: 100 });
    expect(completeParams(exposure, { exposureStops: 0 })).toEqual({ exposureStops: 0 });
    expect(() => completeParams(exposure, { stops: 1 })).toThrow(/no parameter “stops”. It has: exposureStops/);
    expect(() => completeParams(exposure, { exposureStops: Number.NaN })).toThrow(/expected a number/);
    expect(() => completeParams(exposure, { exposureStops: '1' })).toThrow(/expected a number/);
  });
  it('refuses a default outside its range', () => {
    const param = exposure.params.exposureStops;
    expect(() => defineCorrection({ ...exposure, params: { exposureStops: { ...param, default: 99 } } })).toThrow(/default must lie in the range/);
  });
  it('is found by id', () => {
    expect(correctionById('exposure')).toBe(exposure);
    expect(isCorrectionId('sharpen-everything')).toBe(false);
    expect(() => correctionById('nothing')).toThrow(/Known: exposure, hue-saturation/);
  });
});
