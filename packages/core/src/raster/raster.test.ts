import { DataUtils } from 'three';
import { describe, expect, it } from 'vitest';
import { floatToHalf, halfToFloat } from './half.ts';
import { BYTES_PER_SAMPLE, planeView } from './planes.ts';
import { intersect, sizeAtLevel, stripsOf, tilesOf } from './region.ts';

describe('half floats', () => {
  it('decode as three’s table does, all 65536 of them', () => {
    for (let bits = 0; bits < 65536; bits++) {
      // three gives every NaN and infinity pattern as it stands in its own table.
      const exponent = (bits >> 10) & 31;
      if (exponent === 31) expect(Number.isFinite(halfToFloat(bits))).toBe(false);
      else expect(halfToFloat(bits)).toBe(DataUtils.fromHalfFloat(bits));
    }
  });
  it('survive the way to float and back', () => {
    for (let bits = 0; bits < 65536; bits++) if (((bits >> 10) & 31) !== 31 || (bits & 1023) === 0) expect(floatToHalf(halfToFloat(bits))).toBe(bits);
  });
  // “Technical Introduction to OpenEXR”; values matched by NumPy.
  it('round to nearest, ties to even', () => {
    const table = [[0.18, 0x31c3], [0.1, 0x2e66], [1 / 3, 0x3555], [65504, 0x7bff], [65520, 0x7c00], [2049, floatToHalf(2048)], [1e-7, 0x0002], [-2, 0xc000], [Number.POSITIVE_INFINITY, 0x7c00]];
    for (const [value, bits] of table) expect(floatToHalf(value), String(value)).toBe(bits);
    expect(Number.isNaN(halfToFloat(floatToHalf(Number.NaN)))).toBe(true);
  });
});

describe('regions', () => {
  it('levels halve and round up', () => {
    expect(sizeAtLevel({ width: 4500, height: 3001 }, 1)).toEqual({ width: 2250, height: 1501 });
    expect(sizeAtLevel({ width: 3, height: 1 }, 5)).toEqual({ width: 1, height: 1 });
  });
  it('tiles and strips cover every pixel exactly once', () => {
    const size = { width: 700, height: 513 };
    for (const regions of [tilesOf(size), stripsOf(size, 37)]) {
      const seen = new Uint8Array(size.width * size.height);
      for (const { x, y, width, height } of regions) for (let j = y; j < y + height; j++) for (let i = x; i < x + width; i++) seen[j * size.width + i]++;
      expect(seen.every((count) => count === 1)).toBe(true);
    }
    expect(tilesOf(size, { x: 300, y: 0, width: 10, height: 10 })).toEqual([{ x: 256, y: 0, width: 256, height: 256 }]);
    expect(tilesOf(size, { x: 900, y: 0, width: 10, height: 10 })).toEqual([]);
  });
  it('overlaps', () => {
    expect(intersect({ x: 0, y: 0, width: 5, height: 5 }, { x: 3, y: 4, width: 9, height: 9 })).toEqual({ x: 3, y: 4, width: 2, height: 1 });
    expect(intersect({ x: 0, y: 0, width: 5, height: 5 }, { x: 5, y: 0, width: 1, height: 1 })).toBeNull();
  });
  it('views are as wide as their samples', () => {
    for (const type of ['u8', 'u16', 'f16', 'f32', 'u32'] as const) expect(planeView(type, new ArrayBuffer(16)).BYTES_PER_ELEMENT).toBe(BYTES_PER_SAMPLE[type]);
  });
});
