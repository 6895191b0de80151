import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { srgbDecode } from '../color/srgb.ts';
import { analysisLevel, binCount, binOf, measure, PERCENTS } from './measure.ts';

const [width, height] = [211, 97];
const area = width * height;
const random = seeded(77);
/** Bytes of a picture with shadows, a bright corner and noise. */
const codes = Uint8Array.from({ length: area * 3 }, (_, i) => Math.min(255, 20 + 190 * ((Math.floor(i / 3) % width) / width) * random() + (i % 3) * 12));
const planes = new Float32Array(area * 4).fill(1);
for (let i = 0; i < area; i++) for (let c = 0; c < 3; c++) planes[c * area + i] = codes[i * 3 + c] / 255;

describe('measuring a picture', () => {
  it('extremes, means and deviations are those of libvips', async () => {
    const { channels } = await sharp(codes, { raw: { width, height, channels: 3 } }).stats();
    const ours = measure(planes, 'picture', null);
    for (const [c, { min, max, mean, stdev }] of channels.entries()) {
      const own = [ours.red, ours.green, ours.blue][c];
      // libvips divides by n − 1.
      expectClose([own.min * 255, own.max * 255, own.mean * 255, own.deviation * 255 * Math.sqrt(area / (area - 1))], [min, max, mean, stdev], 1e-5);
    }
    expect(ours.pixels).toBe(area);
  });
  it('the histogram is that of libvips, bin by bin', async () => {
    const bins = await Promise.all(
      ([0, 1, 2] as const).map(async (c) => {
        const counts = new Array<number>(256).fill(0);
        for (const code of await sharp(codes, { raw: { width, height, channels: 3 } }).extractChannel(c).raw().toBuffer()) counts[code]++;
        return counts;
      }),
    );
    const { red, green, blue } = measure(planes, 'picture', null);
    expect([red.bins, green.bins, blue.bins]).toEqual(bins);
  });
  it('the share of colours that are cut: one end of some channels and not of all', () => {
    const pixels = [[1, 0.5, 0.2], [1, 1, 1], [0, 0, 0], [0.3, 0, 0.2], [0.2, 0.4, 0.6], [1.4, 1, 0.99], [0.5, 0.5, 0.5], [-0.1, 0.2, 0.3]];
    const of = (scale: 'picture' | 'light') => measure(Float32Array.from([0, 1, 2, 3].flatMap((c) => pixels.map((pixel) => pixel[c] ?? 1))), scale, null).cutShare;
    expect([of('picture'), of('light')]).toEqual([4 / 8, 1 / 8]);
    expect(measure(new Float32Array(4), 'picture', null).cutShare).toBe(0);
  });
  it('percentiles lie between values as Hyndman and Fan’s seventh definition says', () => {
    // numpy.percentile([1, 2, 4, 8, 16], [25, 50, 90]) = 2, 4, 12.8
    const five = Float32Array.from([[1, 2, 4, 8, 16], [1, 2, 4, 8, 16], [1, 2, 4, 8, 16], [1, 1, 1, 1, 1]].flat());
    const { red } = measure(five, 'light', null);
    expectClose(PERCENTS.map((percent, i) => (percent === 25 || percent === 50 ? red.percentiles[i] : 0)).filter((v) => v > 0), [2, 4], 1e-7);
    expect(red.percentiles[PERCENTS.indexOf(95)]).toBeCloseTo(14.4, 5);
  });
  it('luminance is that of the light: encoded again for picture values', () => {
    const one = measure(Float32Array.of(0.5, 0.25, 1, 1), 'picture', null).luminance.mean;
    expect(srgbDecode(one)).toBeCloseTo(0.2126 * srgbDecode(0.5) + 0.7152 * srgbDecode(0.25) + 0.0722, 6);
    expect(measure(Float32Array.of(2, 4, 8, 1), 'light', null).luminance.max).toBeCloseTo(0.4252 + 2.8608 + 0.5776, 5);
  });
  it('light is counted in stops around mid grey, from the darkest to the brightest', () => {
    expect([0.18, 0.36, 0.09].map((value) => binOf(value, 'light') - binOf(0.18, 'light'))).toEqual([0, 8, -8]);
    expect([-1, 0, Number.NaN, 1e-9].map((value) => binOf(value, 'light'))).toEqual([0, 0, 0, 0]);
    expect(binOf(65504, 'light')).toBe(binCount('light') - 1);
    expect(binOf(Number.POSITIVE_INFINITY, 'light')).toBe(binCount('light') - 1);
  });
  it('only what is covered counts, by alpha and by a mask', () => {
    const four = Float32Array.from([[0.2, 0.4, 0.6, 0.8], [0.2, 0.4, 0.6, 0.8], [0.2, 0.4, 0.6, 0.8], [1, 1, 1, 0]].flat());
    const plane = { type: 'u8', width: 2, height: 2, data: Uint8Array.of(255, 0, 128, 255) } as const;
    expect(measure(four, 'light', null).pixels).toBe(3);
    const inside = measure(four, 'light', { plane, inverted: false });
    expectClose([inside.pixels, inside.red.min, inside.red.max], [2, 0.2, 0.6], 1e-7);
    const outside = measure(four, 'light', { plane, inverted: true });
    expectClose([outside.pixels, outside.red.mean], [1, 0.4], 1e-7);
    expect(measure(four, 'light', { plane: { ...plane, data: new Uint8Array(4) }, inverted: false })).toMatchObject({ pixels: 0, red: { min: 0, mean: 0 } });
  });
  it('at one level for a size', () => {
    expect([{ width: 1500, height: 900 }, { width: 4500, height: 3000 }, { width: 12000, height: 8000 }].map(analysisLevel)).toEqual([0, 2, 3]);
  });
});
