import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { growCoverage, nearestInSet } from './distance.ts';
import { guidedFilter } from './guided.ts';

describe('distance to a set', () => {
  it.each([1, 2, 3])('equals looking at every pixel (seed %i)', (seed) => {
    const random = seeded(seed);
    const [width, height] = [37, 23];
    const isIn = Uint8Array.from({ length: width * height }, () => (random() < 0.02 * seed ? 1 : 0));
    const nearest = nearestInSet(isIn, width, height);
    const distance = (i: number, n: number) => Math.hypot((i % width) - (n % width), Math.floor(i / width) - Math.floor(n / width));
    for (let i = 0; i < isIn.length; i++) {
      let least = Number.POSITIVE_INFINITY;
      for (let n = 0; n < isIn.length; n++) if (isIn[n] === 1) least = Math.min(least, distance(i, n));
      expect(isIn[nearest[i]]).toBe(1);
      expect(distance(i, nearest[i])).toBeCloseTo(least, 10);
    }
  });
  it('of an empty set is nowhere', () => expect(nearestInSet(new Uint8Array(6), 3, 2).every((n) => n === -1)).toBe(true));
});

describe('growing', () => {
  const [width, height] = [80, 80];
  /** A disc of known radius, 16 × 16 samples a pixel. */
  const disc = (radius: number) =>
    Float32Array.from({ length: width * height }, (_, i) => {
      let inside = 0;
      for (let s = 0; s < 256; s++) if (Math.hypot((i % width) + ((s % 16) + 0.5) / 16 - 40, Math.floor(i / width) + (Math.floor(s / 16) + 0.5) / 16 - 40) < radius) inside++;
      return inside / 256;
    });
  const area = (plane: Float32Array) => plane.reduce((a, b) => a + b, 0);

  it.each([3, 1.5, 0.5, -0.5, -2, -6.3])('a disc of 20 pixels by %f is the larger or smaller disc', (by) => {
    const grown = disc(20);
    growCoverage(grown, width, height, by);
    const wanted = disc(20 + by);
    expect(Math.abs(Math.sqrt(area(grown) / Math.PI) - (20 + by))).toBeLessThan(0.25);
    expect(grown.reduce((sum, v, i) => sum + Math.abs(v - wanted[i]), 0) / (2 * Math.PI * (20 + by))).toBeLessThan(0.25);
  });
  it('nothing stays nothing, everything everything', () => {
    for (const value of [0, 1]) {
      for (const by of [4, -4]) {
        const plane = new Float32Array(100).fill(value);
        growCoverage(plane, 10, 10, by);
        expect(plane.every((v) => v === value)).toBe(true);
      }
    }
  });
});

describe('guided filter', () => {
  const [width, height] = [40, 20];
  it('keeps what follows the guide, and smooths where it is flat', () => {
    const guide = Float32Array.from({ length: width * height }, (_, i) => (i % width < 20 ? 0.1 : 0.9));
    const random = seeded(3);
    const noisy = guide.map((v) => (v > 0.5 ? 1 : 0) + (random() - 0.5) * 0.2);
    const smooth = guidedFilter(noisy, guide, width, height, 4, 0.001);
    const off = (plane: Float32Array) => plane.reduce((sum, v, i) => sum + Math.abs(v - (guide[i] > 0.5 ? 1 : 0)), 0) / plane.length;
    expect(off(smooth)).toBeLessThan(off(noisy) / 4);
    expect(smooth[10 * width + 20] - smooth[10 * width + 19]).toBeGreaterThan(0.9);
  });
  it('with itself as a guide and no tolerance is itself; of a level it is the level', () => {
    const random = seeded(4);
    const plane = Float32Array.from({ length: width * height }, () => random());
    for (const [i, v] of guidedFilter(plane, plane, width, height, 3, 1e-9).entries()) expect(v).toBeCloseTo(plane[i], 3);
    expect(guidedFilter(new Float32Array(800).fill(0.4), plane, width, height, 5, 0.01).every((v) => Math.abs(v - 0.4) < 1e-5)).toBe(true);
  });
});
