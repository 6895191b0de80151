import { describe, expect, it } from 'vitest';
import { cutFault, cutRegion, partOfRegion, ratioIn, USUAL_CUTS } from './cut.ts';
import { pixelsIn } from './paper.ts';

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

describe('a part of its own', () => {
  const size = { width: 4500, height: 3000 };
  it('is the region that it was made of, and the same place at half the size', () => {
    const region = { x: 137, y: 1999, width: 1201, height: 1001 };
    expect(cutRegion(size, partOfRegion(size, region))).toEqual(region);
    expect(cutRegion({ width: 2250, height: 1500 }, partOfRegion(size, { x: 450, y: 300, width: 900, height: 600 }))).toEqual({ x: 225, y: 150, width: 450, height: 300 });
  });
  it('lies within pictures of every size, and has a pixel at least', () => {
    for (const width of [1, 2, 7]) {
      for (const [leftPercent, widthPercent] of [[0, 100], [99.9, 0.1], [50, 50], [33.3, 0.001]]) {
        const { x, width: across } = cutRegion({ width, height: 5 }, { leftPercent, widthPercent, topPercent: 0, heightPercent: 100 });
        expect([across >= 1, x >= 0, x + across <= width]).toEqual([true, true, true]);
      }
    }
  });
  it('is refused beyond the picture, without a size, or with something else', () => {
    const part = { leftPercent: 10, topPercent: 10, widthPercent: 50, heightPercent: 50 };
    expect(cutFault(part)).toBeNull();
    for (const wrong of [{ leftPercent: 60 }, { widthPercent: 0 }, { heightPercent: Number.NaN }, { topPercent: -1 }, { ratio: 2 }, { leftPercent: '10' }]) expect(cutFault({ ...part, ...wrong }), JSON.stringify(wrong)).toContain('within the picture');
  });
});

describe('a length as it is written', () => {
  it.each([['2400', 0, 2400], ['420mm', 300, 4961], ['42cm', 300, 4961], ['16.5in', 300, 4950], ['297 mm', 300, null], ['0', 300, null], ['2.5', 300, null], ['wide', 300, null]] as const)('%s at %d dpi is %s pixels', (text, dpi, pixels) => expect(pixelsIn(text, dpi)).toBe(pixels));
  it('needs a resolution on paper', () => expect(() => pixelsIn('420mm', 0)).toThrow('not known'));
});
