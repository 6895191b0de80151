import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { correct } from '../../../../tests/correct.ts';
import { seeded } from '../../../../tests/random.ts';
import { linearToOklab } from '../color/oklab.ts';
import type { Triple } from '../vector.ts';
import { completeParams, defaultsOf, type KeptValues } from '../params/table.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { HUE_FAMILIES } from '../color/hue-families.ts';
import { colourBalance, toneWeights } from './colour-balance.ts';
import { curves } from './curves.ts';
import { exposure } from './exposure.ts';
import { hueFamilies } from './hue-families.ts';
import { hueSaturation } from './hue-saturation.ts';
import { correctionById, corrections, isCorrectionId } from './registry.ts';

const colors = (seed: number, count: number): Triple[] => {
  const random = seeded(seed);
  return Array.from({ length: count }, () => [random() * 3, random() * 3, random() * 3]);
};


describe.each(corrections.map((correction) => [correction.id, correction] as const))('%s', (_id, correction) => {
  it('does nothing by default, and says so, or declares that it acts at once', () => {
    const params = defaultsOf(correction);
    expect(correction.isNoOp(params)).toBe(correction.actsAtOnce !== true);
    if (correction.actsAtOnce || correction.work !== 'points') return;
    const most = correction.domain === 'display' ? 1 / 3 : 1;
    for (const rgb of colors(1, 20).map((each): Triple => [each[0] * most, each[1] * most, each[2] * most])) expectClose(correct(correction, rgb, params), rgb, 2e-6);
  });
  it('gives finite light for finite light in every example', () => {
    for (const params of correction.examples) {
      if (correction.work !== 'points') continue;
      for (const rgb of [...colors(2, 50), [0, 0, 0], [1000, 0, 0], [-0.2, 0.5, 0.1]] as Triple[]) for (const value of correct(correction, rgb, params)) expect(Number.isFinite(value)).toBe(true);
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
    expect(correct(exposure, [0.25, 3, -0.5], { exposureStops: 2 })).toEqual([1, 12, -2]);
    expectClose(correct(exposure, [1, 1, 1], { exposureStops: -0.5 }), [Math.SQRT1_2, Math.SQRT1_2, Math.SQRT1_2], 1e-7);
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
        expectClose(correct(hueSaturation, rgb, params), [expected.r, expected.g, expected.b], 2e-5, `seed 3, ${rgb}`);
      }
    }
  });
  it('without saturation leaves grey of the same lightness', () => {
    for (const rgb of colors(5, 30)) {
      const grey = correct(hueSaturation, rgb, { hueDegrees: 0, saturationPercent: 0 });
      expectClose(grey, [grey[1], grey[1], grey[1]], 1e-5);
      expect(linearToOklab(grey)[0]).toBeCloseTo(linearToOklab(rgb)[0], 5);
    }
  });
});

describe('declarations and parameters', () => {
  it('fills defaults in, keeps ranges, refuses what it does not know', () => {
    expect(completeParams(hueSaturation, { hueDegrees: 500 })).toEqual({ hueDegrees: 180, saturationPercent: 100 });
    expect(completeParams(exposure, { exposureStops: 0 })).toEqual({ exposureStops: 0, offset: 0, gamma: 1 });
    expect(() => completeParams(exposure, { stops: 1 })).toThrow(/no parameter “stops”. It has: exposureStops/);
    expect(() => completeParams(exposure, { exposureStops: Number.NaN })).toThrow(/expected a number/);
    expect(() => completeParams(exposure, { exposureStops: '1' })).toThrow(/expected a number/);
  });
  it('refuses a default outside its range', () => {
    expect(() => defineCorrection({ ...exposure, params: { exposureStops: number({ label: 'Exposure', unit: 'EV', min: -10, max: 10, default: 99, step: 1, digits: 1, help: 'None.' }) } } as never)).toThrow(/default must lie in the range/);
  });
  it('is found by id', () => {
    expect(correctionById('exposure')).toBe(exposure);
    expect(isCorrectionId('sharpen-everything')).toBe(false);
    expect(() => correctionById('nothing')).toThrow(/Known: exposure, hue-saturation/);
  });
});

describe('curves', () => {
  const drawn = (rgb: Triple, params: KeptValues) => correct(curves, rgb, completeParams(curves, params));
  it('work channel by channel, each by its own and then by the one for all', () => {
    expectClose(drawn([0.25, 0.5, 0.75], { red: [[0, 1], [1, 0]], all: [[0, 0], [0.5, 0.5], [1, 0.5]] }), [0.5, 0.5, 0.5], 1e-6);
    // Black and white points: a line between them, level beyond.
    expectClose(drawn([0.1, 0.5, 0.95], { all: [[0.2, 0], [0.8, 1]] }), [0, 0.5, 1], 1e-6);
  });
  // W3C Compositing and Blending Level 1: what has the luminosity of another keeps hue and saturation as far as they fit.
  it('of luminosity lighten without changing differences of the channels', () => {
    const [r, g, b] = drawn([0.4, 0.3, 0.2], { luminosity: [[0, 0.1], [1, 1]] });
    expectClose([r - g, g - b], [0.1, 0.1], 1e-6);
    expect(0.3 * r + 0.59 * g + 0.11 * b).toBeCloseTo(0.1 + 0.9 * (0.3 * 0.4 + 0.59 * 0.3 + 0.11 * 0.2), 4);
    for (const value of drawn([1, 0, 0], { luminosity: [[0, 0.8], [1, 1]] })) expect(value >= 0 && value <= 1).toBe(true);
  });
});

describe('hue families', () => {
  const toLch = converter('oklch');
  const toRgb = converter('lrgb');
  const of = (hue: number, c = 0.1, l = 0.6): Triple => {
    const { r, g, b } = toRgb({ mode: 'oklch', l, c, h: hue });
    return [r, g, b];
  };
  const changed = (rgb: Triple, params: KeptValues) => {
    const [r, g, b] = correct(hueFamilies, rgb, completeParams(hueFamilies, params));
    return toLch({ mode: 'lrgb', r, g, b });
  };
  const only = (at: number, value: number, other: number) => HUE_FAMILIES.map((_, i) => (i === at ? value : other));
  it('change the middle of a family as culori turns OKLCh, and leave the others', () => {
    const [blue, red] = [HUE_FAMILIES[5].hueDegrees, HUE_FAMILIES[0].hueDegrees];
    const params = { hueDegrees: only(5, 20, 0), saturationPercent: only(5, 50, 100) };
    const after = changed(of(blue), params);
    expectClose([after.l, after.c, after.h as number], [0.6, 0.05, blue + 20], 2e-3);
    const kept = changed(of(red), params);
    expectClose([kept.l, kept.c, kept.h as number], [0.6, 0.1, red], 1e-4);
  });
  it('lighten by stops of light, and grey not at all', () => {
    const [r, g, b] = of(HUE_FAMILIES[3].hueDegrees);
    expectClose(correct(hueFamilies, [r, g, b], completeParams(hueFamilies, { lightStops: only(3, 1, 0) })), [2 * r, 2 * g, 2 * b], 5e-3);
    expectClose(correct(hueFamilies, [0.3, 0.3, 0.3], completeParams(hueFamilies, { lightStops: HUE_FAMILIES.map(() => 2), hueDegrees: HUE_FAMILIES.map(() => 40) })), [0.3, 0.3, 0.3], 1e-4);
  });
});

describe('colour balance', () => {
  it('shares every tone between shadows, middles and highlights; limits have equal shares', () => {
    for (let l = 0; l <= 1; l += 0.01) expect(toneWeights(l, 0.3, 0.7).reduce((a, b) => a + b)).toBeCloseTo(1, 12);
    expectClose(toneWeights(0, 0.25, 0.75), [1, 0, 0], 1e-12);
    expectClose(toneWeights(0.25, 0.25, 0.75), [0.5, 0.5, 0], 1e-12);
    expectClose(toneWeights(0.75, 0.25, 0.75), [0, 0.5, 0.5], 1e-12);
    expectClose(toneWeights(1, 0.25, 0.75), [0, 0, 1], 1e-12);
  });
  it('warms what it is asked to and keeps how light it is', () => {
    const params = completeParams(colourBalance, { red: [50, 0, 0], blue: [-50, 0, 0] });
    const dark = correct(colourBalance, [0.1, 0.1, 0.1], params);
    expect(dark[0] > 0.1 && dark[2] < 0.1).toBe(true);
    expect(0.3 * dark[0] + 0.59 * dark[1] + 0.11 * dark[2]).toBeCloseTo(0.1, 5);
    expectClose(correct(colourBalance, [0.9, 0.9, 0.9], params), [0.9, 0.9, 0.9], 1e-6);
    const free = correct(colourBalance, [0.1, 0.1, 0.1], completeParams(colourBalance, { red: [100, 0, 0], keepsLuminosity: false }));
    expect(free[0]).toBeGreaterThan(0.3);
    expectClose([free[1], free[2]], [0.1, 0.1], 1e-6);
  });
});
