import { describe, expect, it } from 'vitest';
import { levelWithin, sizeAtLevel } from './region.ts';

describe('the level within a side', () => {
  it('is the finest whose picture is no longer than that on any side', () => {
    for (const size of [{ width: 1, height: 1 }, { width: 512, height: 300 }, { width: 513, height: 2 }, { width: 3000, height: 8191 }, { width: 8193, height: 8192 }]) {
      const longest = (level: number) => Math.max(...Object.values(sizeAtLevel(size, level)));
      const level = levelWithin(size, 512);
      expect(longest(level)).toBeLessThanOrEqual(512);
      if (level > 0) expect(longest(level - 1)).toBeGreaterThan(512);
    }
  });

  it('is the picture itself where that fits', () => {
    expect(levelWithin({ width: 512, height: 512 }, 512)).toBe(0);
    expect(levelWithin({ width: 20, height: 8 }, 512)).toBe(0);
  });
});
