import { describe, expect, it } from 'vitest';
import { cutRegion, ratioIn, USUAL_CUTS } from './cut.ts';

describe('a part in other proportions', () => {
  const size = { width: 4500, height: 3000 };
  it('is as large as it can be, and in the middle', () => {
    expect(cutRegion(size, null)).toEqual({ x: 0, y: 0, ...size });
    expect(cutRegion(size, { ratio: 16 / 9, shiftPercent: 0 })).toEqual({ x: 0, y: 235, width: 4500, height: 2531 });
    expect(cutRegion(size, { ratio: 1, shiftPercent: 0 })).toEqual({ x: 750, y: 0, width: 3000, height: 3000 });
    expect(cutRegion(size, { ratio: 1.5, shiftPercent: 80 })).toEqual({ x: 0, y: 0, ...size });
  });
  it('is moved to either end and never beyond', () => {
    expect(cutRegion(size, { ratio: 2, shiftPercent: -100 }).y).toBe(0);
    expect(cutRegion(size, { ratio: 2, shiftPercent: 100 })).toEqual({ x: 0, y: 750, width: 4500, height: 2250 });
    expect(cutRegion(size, { ratio: 1, shiftPercent: 50 }).x).toBe(1125);
  });
  it('lies within pictures of every size, and has a pixel at least', () => {
    for (const width of [1, 2, 7, 100]) {
      for (const height of [1, 3, 64]) {
        for (const ratio of [...Object.values(USUAL_CUTS), 0.1, 10]) {
          for (const shiftPercent of [-100, -33, 0, 71, 100]) {
            const part = cutRegion({ width, height }, { ratio, shiftPercent });
            expect(Math.min(part.width, part.height)).toBeGreaterThanOrEqual(1);
            expect(Math.min(part.x, part.y, width - part.x - part.width, height - part.y - part.height)).toBeGreaterThanOrEqual(0);
          }
        }
      }
    }
  });
  it.each([['16:9', 16 / 9], ['3 : 2', 1.5], ['0.8', 0.8], ['1:20', null], ['wide', null], ['4:0', null], ['', null], ['-1', null]] as const)('%j is a ratio of %s', (text, ratio) => {
    expect(ratioIn(text)).toBe(ratio);
  });
});
