import { DataUtils } from 'three';
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import sharp from 'sharp';
import { gaussianBlur } from './gaussian.ts';
import { floatToHalf, halfToFloat } from './half.ts';
import { BYTES_PER_SAMPLE, planeView } from './planes.ts';
import { intersect, sizeAtLevel, stripsOf, tilesIn, tilesOf } from './region.ts';

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
  it('tiles of a picture that begins elsewhere are counted from its own corner', () => {
    for (const domain of [{ x: -2, y: -2, width: 260, height: 300 }, { x: 40, y: 500, width: 600, height: 20 }]) {
      const seen = new Uint8Array(domain.width * domain.height);
      for (const { x, y, width, height } of tilesIn(domain, domain)) for (let j = y; j < y + height; j++) for (let i = x; i < x + width; i++) seen[(j - domain.y) * domain.width + i - domain.x]++;
      expect(seen.every((count) => count === 1)).toBe(true);
    }
    expect(tilesIn({ x: -2, y: -2, width: 260, height: 300 }, { x: 255, y: 0, width: 1, height: 1 })).toEqual([{ x: 254, y: -2, width: 4, height: 256 }]);
    expect(tilesIn({ x: 40, y: 500, width: 600, height: 20 }, { x: 0, y: 0, width: 9, height: 9 })).toEqual([]);
  });
  it('overlaps', () => {
    expect(intersect({ x: 0, y: 0, width: 5, height: 5 }, { x: 3, y: 4, width: 9, height: 9 })).toEqual({ x: 3, y: 4, width: 2, height: 1 });
    expect(intersect({ x: 0, y: 0, width: 5, height: 5 }, { x: 5, y: 0, width: 1, height: 1 })).toBeNull();
  });
  it('views are as wide as their samples', () => {
    for (const type of ['u8', 'u16', 'f16', 'f32', 'u32'] as const) expect(planeView(type, new ArrayBuffer(16)).BYTES_PER_ELEMENT).toBe(BYTES_PER_SAMPLE[type]);
  });
});

describe('Gaussian blur', () => {
  const random = seeded(41);
  const [width, height] = [97, 61];
  const noise = Float32Array.from({ length: width * height }, (_, i) => (i % 13 === 0 ? 4 * random() : random()));
  const blurred = (data: Float32Array, sigma: number) => {
    const copy = data.slice();
    gaussianBlur(copy, width, height, sigma);
    return copy;
  };

  // libvips (through sharp), which convolves with the sampled kernel, in 16 bits.
  it.each([0.6, 1, 2, 3, 5.5, 9])('σ %f equals libvips', async (sigma) => {
    const words = Uint16Array.from(noise, (v) => v * 16000);
    const reference = await sharp(words, { raw: { width, height, channels: 1 } }).pipelineColourspace('grey16').blur({ sigma, precision: 'float', minAmplitude: 0.001 }).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer();
    const wanted = new Uint16Array(reference.buffer, reference.byteOffset, width * height);
    const found = blurred(noise, sigma);
    const largest = found.reduce((most, v, i) => Math.max(most, Math.abs(v - wanted[i] / 16000)), 0);
    // Extended boxes are a little flatter at the top than the Gaussian.
    expect(largest).toBeLessThan(sigma <= 4 ? 0.001 : 0.02);
  });
  it('keeps a level as it is, to the edges, and changes nothing for 0', () => {
    for (const sigma of [0.5, 3, 40]) expect(blurred(new Float32Array(width * height).fill(0.7), sigma).every((v) => Math.abs(v - 0.7) < 1e-5)).toBe(true);
    expect(blurred(noise, 0)).toEqual(noise);
  });
  it('twice, it is one of the joined width', () => {
    const [twice, once] = [blurred(blurred(noise, 3), 4), blurred(noise, 5)];
    for (let y = 20; y < 41; y++) for (let x = 30; x < 67; x++) expect(twice[y * width + x]).toBeCloseTo(once[y * width + x], 2);
  });
});
