import sharp, { type Sharp } from 'sharp';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { correct } from '../../../../tests/correct.ts';
import { completeParams } from '../params/table.ts';
import type { Triple } from '../vector.ts';
import { brightnessContrast } from './brightness-contrast.ts';
import { levels } from './levels.ts';

const CODES = Uint8Array.from({ length: 256 }, (_, i) => i);
const ours = (params: Record<string, unknown>) => [...CODES].map((code) => correct(levels, [code / 255, code / 255, code / 255], params)[1] * 255);
const theirs = async (work: (image: Sharp) => Sharp) => [...(await work(sharp(CODES, { raw: { width: 256, height: 1, channels: 1 } })).toColourspace('b-w').raw().toBuffer())];

it('marks black, what becomes the middle, and white where they lie', () => {
  const params = completeParams(levels, { blackPercent: 20, whitePercent: 80, gamma: 2 });
  const marks = levels.marks?.(params) ?? [];
  expectClose(marks.map((value) => correct(levels, [value, value, value], params)[0]), [0, 0.5, 1], 2e-2);
});

describe('levels', () => {
  // libvips: a line and a power over 8-bit codes, each rounded to a code.
  it('moves black and white as libvips does', async () => {
    const [black, white] = [20, 85];
    const scale = 100 / (white - black);
    const expected = await theirs((image) => image.linear(scale, -2.55 * black * scale));
    for (const [i, value] of ours({ blackPercent: black, whitePercent: white }).entries()) expect(Math.abs(value - expected[i]), `code ${i}`).toBeLessThanOrEqual(1);
  });
  it.each([1.4, 2.2, 3])('moves the middle by gamma %d as libvips does', async (gamma) => {
    const expected = await theirs((image) => image.gamma(1, gamma));
    for (const [i, value] of ours({ gamma }).entries()) if (i > 2) expect(Math.abs(value - expected[i]), `code ${i}`).toBeLessThanOrEqual(1);
  });
  it('works on one channel alone, and inverts where the ends are crossed', () => {
    expectClose(correct(levels, [0.5, 0.5, 0.5], { channel: 'red', blackPercent: 50 }), [0, 0.5, 0.5], 1e-6);
    expectClose(correct(levels, [0.25, 0.5, 1], { lowPercent: 100, highPercent: 0 }), [0.75, 0.5, 0], 1e-6);
  });
  it('takes its ends from a click, and by itself from how values are spread', () => {
    const params = { channel: 'green', blackPercent: 0, gamma: 1, whitePercent: 100, lowPercent: 0, highPercent: 100 } as const;
    expect(levels.picks?.[0].take([0.1, 0.123, 0.9], params)).toEqual({ blackPercent: 12.3 });
    expect(levels.picks?.[1].take([0.1, 0.123, 0.9], params)).toEqual({ whitePercent: 12.3 });
    const spread = (least: number, most: number) => [least, 0.1, 0.2, 0.3, 0.4, 0.5, 0.7, 0.8, most];
    const entering = { red: spread(0, 1), green: spread(0.08, 0.9), blue: spread(0, 1), luminance: spread(0.05, 0.93) };
    expect(levels.automatic?.(entering, params)).toEqual({ blackPercent: 8, whitePercent: 90 });
    expect(levels.automatic?.(entering, { ...params, channel: 'all' })).toEqual({ blackPercent: 5, whitePercent: 93 });
    expect(levels.automatic?.({ ...entering, green: spread(0.4, 0.4) }, params)).toBeNull();
  });
});

describe('brightness and contrast', () => {
  const value = (x: number, params: object) => correct(brightnessContrast, [x, x, x] as Triple, params as never)[0];
  // Perlin and Hoffert 1989: bias and gain keep 0 and 1, gain keeps the middle, and both are mirrored about it.
  it('keeps black and white, and the middle under contrast', () => {
    for (const params of [{ brightnessPercent: 70 }, { brightnessPercent: -100 }, { contrastPercent: 100 }, { brightnessPercent: 40, contrastPercent: -60 }]) expectClose([value(0, params), value(1, params)], [0, 1], 1e-6);
    for (const contrastPercent of [-80, 30, 100]) {
      expectClose([value(0.5, { contrastPercent })], [0.5], 1e-6);
      for (const x of [0.1, 0.3, 0.45]) expectClose([value(x, { contrastPercent }) + value(1 - x, { contrastPercent })], [1], 1e-4);
    }
  });
  it('is undone by its opposite, and never turns back', () => {
    for (const x of [0.1, 0.4, 0.8]) expectClose([value(value(x, { brightnessPercent: 50 }), { brightnessPercent: -50 })], [x], 1e-3);
    for (let i = 1; i <= 100; i++) expect(value(i / 100, { brightnessPercent: -30, contrastPercent: 80 })).toBeGreaterThanOrEqual(value((i - 1) / 100, { brightnessPercent: -30, contrastPercent: 80 }));
  });
});
