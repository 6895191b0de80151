import { luminanceOf } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { readColor } from './color-field.tsx';

describe('what is typed for a colour', () => {
  it('is a hex code, a reflectance or a temperature', () => {
    expect(readColor('#ff0000', [0, 0, 0])).toEqual([1, 0, 0]);
    expect(readColor('velvet', [0, 0, 0])).toBeNull();
    expect(readColor('LRV 180', [0.1, 0.1, 0.1])).toBeNull();
    const warm = readColor('2700 K', [0.5, 0.5, 0.5]);
    expect(warm && warm[0] > warm[2]).toBe(true);
  });
  // BS 8493:2008+A1:2010: LRV is 100 · Y.
  it('a reflectance keeps the colour while it can, and never becomes brighter than white', () => {
    const brick = [0.3, 0.12, 0.08] as const;
    const lighter = readColor('LRV 30', brick);
    if (!lighter) throw new Error('nothing was read');
    expect(luminanceOf(lighter)).toBeCloseTo(0.3, 3);
    expect(lighter[0] / lighter[1]).toBeCloseTo(0.3 / 0.12, 2);
    const pale = readColor('lrv 90', brick);
    if (!pale) throw new Error('nothing was read');
    expect([luminanceOf(pale).toFixed(2), Math.max(...pale) <= 1]).toEqual(['0.90', true]);
    expect(readColor('LRV 40', [0, 0, 0])).toEqual([0.4, 0.4, 0.4]);
  });
});
