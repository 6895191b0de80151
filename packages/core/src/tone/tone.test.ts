import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { srgbDecode, srgbEncode } from '../color/srgb.ts';
import type { Triple } from '../vector.ts';
import { plannedTone, toned } from './apply.ts';
import { newTone, STRAIGHT_TONE, toneById, tones } from './registry.ts';

/** Light of the picture, by the curve itself. */
const curve = (type: string, params: object) => {
  const spec = toneById(type);
  const given = spec.curve?.(newTone(type, params as never).params);
  if (!given) throw new Error(`${type} has no curve`);
  return given;
};

describe('curves at published places', () => {
  // Hable 2010, recomputed by two implementations from the constants: x, h(x)/h(11.2), h(2x)/h(11.2).
  it.each([[0.18, 0.06711, 0.128338], [1, 0.304301, 0.492919], [4, 0.713238, 0.91803], [11.2, 1, 1.125574]])('filmic at %d', (x, plain, twice) => {
    expectClose([curve('filmic', { exposureStops: 0 })(x), curve('filmic', {})(x)], [plain, twice], 2e-6);
  });
  it('filmic after encoding', () => {
    // After IEC 61966-2-1: h(2x)/h(W).
    for (const [x, encoded] of [[0.18, 0.393471], [1, 0.730674], [4, 0.963066]]) expectClose(toned([x, x, x], plannedTone(newTone('filmic'))), [encoded, encoded, encoded], 3e-5);
  });
  // Reinhard et al. 2002, eq. 4.
  it.each([[0.18, 0.154258, 0.152761], [1, 0.53125, 0.503986], [4, 1, 0.82551], [11.2, 1.560656, 1]])('Reinhard at %d', (x, four, eleven) => {
    expectClose([curve('reinhard', { white: 4 })(x), curve('reinhard', { white: 11.2 })(x)], [four, eleven], 2e-6);
  });
  // Narkowicz 2015; 0.6 is the factor he suggests.
  it.each([[0.18, 0.266899, 0.14012], [1, 0.803797, 0.67329], [4, 0.973417, 0.934211]])('the fit at %d', (x, plain, scaled) => {
    expectClose([curve('film-fit', { exposureStops: 0 })(x), curve('film-fit', { exposureStops: Math.log2(0.6) })(x)], [plain, scaled], 2e-6);
  });
});

describe.each(tones.map((tone) => [tone.id, tone] as const))('%s', (id, tone) => {
  it('rises from black to white and is finite, whatever light comes', () => {
    for (const example of tone.examples) {
      const planned = plannedTone(newTone(id, example));
      let before = 0;
      for (let stops = -20; stops <= 16; stops += 0.13) {
        const [value] = toned([2 ** stops, 2 ** stops, 2 ** stops], planned);
        expect(value).toBeGreaterThanOrEqual(before - 1e-7);
        before = value;
      }
      expect(before).toBeGreaterThan(0.9);
      expect(toned([0, -0, -2], planned).map(Math.abs)).toEqual([0, 0, 0]);
      for (const odd of [1e6, 65504, 1e-40, Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]) for (const value of toned([odd, 0.5, 0], planned)) expect(value >= 0 && value <= 1, `${odd}`).toBe(true);
    }
  });
  it('is the table of its curve, to less than a quarter of a 12-bit step', () => {
    const random = seeded(7);
    for (const example of tone.examples) {
      if (!tone.curve) continue;
      const [planned, own] = [plannedTone(newTone(id, example)), tone.curve(newTone(id, example).params)];
      for (let i = 0; i < 500; i++) {
        const x = 2 ** (random() * 24 - 14);
        expectClose([toned([x, 0, 0], planned)[0]], [srgbEncode(own(x))], 6e-5, `${x}`);
      }
    }
  });
  it('declares what it is', () => {
    expect(tone.source).toMatch(/\b(19|20)\d\d\b/);
    for (const param of Object.values(tone.params)) expect(param.help).not.toBe('');
  });
});

describe('toe and shoulder', () => {
  const spec = toneById('toe-shoulder');
  const shown = (params: Record<string, number>, stops: number) => {
    const light = 0.18 * 2 ** stops;
    return toned([light, light, light], plannedTone(newTone('toe-shoulder', params)))[0];
  };
  it('holds mid grey, and ends where it is told to', () => {
    expect(shown({}, 0)).toBeCloseTo(srgbEncode(0.18), 4);
    expect([shown({ whiteStops: 3 }, 3), shown({ blackStops: -4 }, -4)].map((v) => Number(v.toFixed(3)))).toEqual([1, 0]);
    expect(shown({ whiteStops: 3 }, 2.7)).toBeLessThan(1);
    // The slope in the middle is what was asked, as far as the ends leave room for it.
    expect((shown({ slope: 0.15 }, 0.02) - shown({ slope: 0.15 }, -0.02)) / 0.04).toBeCloseTo(0.15, 2);
  });
  it('has handles that lie on it, and go where they are dragged', () => {
    const start = newTone('toe-shoulder', {}).params;
    for (const { label, at, drag } of spec.handles ?? []) {
      const [stops, value] = at(start);
      expect(shown({}, stops), label).toBeCloseTo(value, 3);
      const to = label === 'Black' || label === 'White' ? ([stops + 0.5, value] as const) : ([stops, value + 0.02] as const);
      const [, after] = at(newTone('toe-shoulder', { ...start, ...drag(start, to) }).params);
      expect(after, label).toBeCloseTo(to[1], 2);
    }
    expect(spec.handles?.map(({ label }) => label)).toEqual(['Black', 'Toe', 'Slope', 'Shoulder', 'White']);
  });
});

describe('what a tone works on', () => {
  const color: Triple = [4, 1, 0.25];
  it('each channel by itself fades bright colours; the brightest keeps proportions', () => {
    // Reinhard et al. 2002, by channel and without a white that is reached: 0.8, 0.5, 0.2.
    expectClose(toned(color, plannedTone(newTone('reinhard', { white: 1000 }))).map(srgbDecode), [0.8, 0.5, 0.2], 1e-4);
    const [r, g, b] = toned(color, plannedTone(newTone('reinhard', { white: 1000, carries: 'brightest' }))).map(srgbDecode);
    expectClose([r, g / r, b / r], [0.8, 0.25, 0.0625], 1e-4);
  });
  it('straight is the encoding and nothing else', () => {
    expect(toned([0.18, 2, -1], plannedTone(STRAIGHT_TONE))).toEqual([0.18, 2, -1].map(srgbEncode));
    expect(plannedTone(STRAIGHT_TONE).prepared).toBeNull();
  });
  it('one of a later version is straight; unknown ones and values out of range are refused or kept in range', () => {
    expect(plannedTone({ type: 'of-tomorrow', params: { anything: 1 } }).prepared).toBeNull();
    expect(() => newTone('of-tomorrow')).toThrow(/Known: straight, toe-shoulder/);
    expect(newTone('reinhard', { white: 1e9 }).params.white).toBe(1000);
    expect(() => newTone('reinhard', { whitest: 1 })).toThrow(/no parameter/);
  });
});
