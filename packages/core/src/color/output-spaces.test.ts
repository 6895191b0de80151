import { describe, expect, it } from 'vitest';
import { inOutputSpace, type OutputSpaceId } from './output-spaces.ts';
import { srgbDecode } from './srgb.ts';

const of = (rgb: readonly [number, number, number], space: OutputSpaceId) => inOutputSpace([srgbDecode(rgb[0]), srgbDecode(rgb[1]), srgbDecode(rgb[2])], space);

describe('spaces that pictures are delivered in', () => {
  it.each(['srgb', 'display-p3', 'oprgb', 'linear'] as const)('%s keeps black, white and what is grey', (space) => {
    expect(of([0, 0, 0], space)).toEqual([0, 0, 0]);
    for (const value of of([1, 1, 1], space)) expect(value).toBeCloseTo(1, 6);
    const [r, g, b] = of([0.5, 0.5, 0.5], space);
    expect(r).toBeCloseTo(g, 6);
    expect(g).toBeCloseTo(b, 6);
  });
  // CSS Color 4, sample conversions of sRGB red and green to display-p3 (as color.js prints them): 0.9175 0.2003 0.1386 and 0.4584 0.9853 0.2983.
  it.each([
    [[1, 0, 0], [0.9175, 0.2003, 0.1386]],
    [[0, 1, 0], [0.4584, 0.9853, 0.2983]],
    [[0, 0, 1], [0, 0, 0.9596]],
  ] as const)('sRGB %j in Display P3', (rgb, wanted) => {
    const found = of([...rgb], 'display-p3');
    for (const [c, value] of wanted.entries()) expect(found[c]).toBeCloseTo(value, 3);
  });
  // The same primaries red and blue: sRGB red is opRGB (219, 0, 0), blue (0, 0, 250), green (144, 255, 60), by the matrices of IEC 61966-2-5 (value from memory).
  it.each([
    [[1, 0, 0], [219, 0, 0]],
    [[0, 1, 0], [144, 255, 60]],
    [[0, 0, 1], [0, 0, 250]],
  ] as const)('sRGB %j in opRGB', (rgb, wanted) => {
    const found = of([...rgb], 'oprgb');
    for (const [c, value] of wanted.entries()) expect(Math.abs(found[c] * 255 - value)).toBeLessThan(1);
  });
  it('what a space cannot hold becomes its end', () => {
    const [r, g, b] = inOutputSpace([2, -1, 0.5], 'srgb');
    expect(r).toBeCloseTo(1, 12);
    expect(g).toBe(0);
    // IEC 61966-2-1: half the light is 188 of 255.
    expect(Math.round(b * 255)).toBe(188);
  });
});
