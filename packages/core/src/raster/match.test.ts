import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { correct } from '../../../../tests/correct.ts';
import { cdl } from '../corrections/cdl.ts';
import type { Triple } from '../vector.ts';
import { colourMatch, samplePixels } from './match.ts';

/** Pixels of surfaces of many colours under uneven light. */
function sample(seed: number, count = 4000): Float32Array {
  const random = seeded(seed);
  const out = new Float32Array(count * 3);
  for (let i = 0; i < count; i++) {
    const light = 2 ** (random() * 5 - 3);
    for (let c = 0; c < 3; c++) out[i * 3 + c] = light * (0.15 + 0.6 * random());
  }
  return out;
}
const changed = (pixels: Float32Array, change: { slope: Triple; power: number; saturation: number }): Float32Array => {
  const out = new Float32Array(pixels.length);
  const params = { slope: change.slope, power: [change.power, change.power, change.power], saturation: change.saturation };
  for (let i = 0; i < pixels.length; i += 3) out.set(correct(cdl, [pixels[i], pixels[i + 1], pixels[i + 2]], params), i);
  return out;
};

describe('matching by statistics', () => {
  // Synthetic pairs with a known change, found again within two in a hundred.
  it.each([
    { slope: [1, 1, 1], power: 1, saturation: 1 },
    { slope: [1.4, 1, 0.7], power: 1, saturation: 1 },
    { slope: [0.6, 0.6, 0.6], power: 1.25, saturation: 1 },
    { slope: [1.2, 1, 0.9], power: 0.85, saturation: 0.75 },
    { slope: [0.9, 1, 1.3], power: 1.1, saturation: 1.2 },
  ] as const)('finds %o again', (change) => {
    const pixels = sample(3);
    const found = colourMatch(pixels, changed(pixels, change));
    if (!found) throw new Error('nothing was found');
    for (let c = 0; c < 3; c++) expect(Math.abs(found.slope[c] / change.slope[c] - 1), `slope ${c}`).toBeLessThan(0.02);
    expect(Math.abs(found.power / change.power - 1), 'power').toBeLessThan(0.02);
    expect(Math.abs(found.saturation / change.saturation - 1), 'saturation').toBeLessThan(0.02);
  });
  it('of other pixels of the same kind, as near as the sample is large', () => {
    const change = { slope: [1.3, 1, 0.8] as Triple, power: 1.1, saturation: 0.9 };
    const found = colourMatch(sample(3, 20_000), changed(sample(4, 20_000), change));
    if (!found) throw new Error('nothing was found');
    for (let c = 0; c < 3; c++) expect(Math.abs(found.slope[c] / change.slope[c] - 1)).toBeLessThan(0.04);
    expect(Math.abs(found.saturation / change.saturation - 1)).toBeLessThan(0.04);
  });
  it('takes what it can of even samples, and nothing of black ones', () => {
    const even = (value: Triple) => Float32Array.from({ length: 300 }, (_, i) => value[i % 3]);
    expect(colourMatch(even([0.2, 0.2, 0.2]), even([0.4, 0.3, 0.2]))).toMatchObject({ power: 1, saturation: 1, slope: [expect.closeTo(2, 4), expect.closeTo(1.5, 4), expect.closeTo(1, 4)] });
    expect(colourMatch(even([0, 0, 0]), even([0.4, 0.3, 0.2]))).toBeNull();
    expect(colourMatch(even([0.2, 0.2, 0.2]), new Float32Array(9))).toBeNull();
  });
  it('samples lie within a mask', () => {
    const planes = Float32Array.from([0.1, 0.2, 0.3, 0.4, 1, 1, 1, 1, 0, 0, 0, 0, 1, 1, 0.2, 1]);
    const plane = { type: 'u8' as const, width: 4, height: 1, data: Uint8Array.from([255, 0, 255, 255]) };
    expect([...samplePixels(planes, { plane, inverted: false })].map((v) => Number(v.toFixed(3)))).toEqual([0.1, 1, 0, 0.4, 1, 0]);
    expect([...samplePixels(planes, { plane, inverted: true })].map((v) => Number(v.toFixed(3)))).toEqual([0.2, 1, 0]);
    expect(samplePixels(planes, null)).toHaveLength(9);
  });
});
