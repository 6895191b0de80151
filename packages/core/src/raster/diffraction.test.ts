import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { type Opening, OPENING_RADIUS, OPENING_SIDE, openingPlane, patternOf, spreadBy, streakKernel, type Streaks } from './diffraction.ts';
import { transform, transformBack } from './fft.ts';

const round: Opening = { blades: 6, roundness: 1, rotationRadians: 0, dust: 0, scratches: 0, seed: 1 };
const plain: Streaks = { ...round, roundness: 0, spectrum: 0, stretch: 1 };

describe('a Fourier transform', () => {
  it('is the sum that defines it, and comes back', () => {
    const random = seeded(3);
    const [width, height] = [8, 16];
    const re = Float64Array.from({ length: width * height }, random);
    const im = Float64Array.from({ length: width * height }, random);
    const [a, b] = [re.slice(), im.slice()];
    transform(a, b, width, height);
    for (const [u, v] of [[0, 0], [1, 0], [3, 5], [7, 15], [4, 8]]) {
      let [x, y] = [0, 0];
      for (let i = 0; i < re.length; i++) {
        const angle = -2 * Math.PI * ((u * (i % width)) / width + (v * Math.floor(i / width)) / height);
        x += re[i] * Math.cos(angle) - im[i] * Math.sin(angle);
        y += re[i] * Math.sin(angle) + im[i] * Math.cos(angle);
      }
      expect(a[v * width + u]).toBeCloseTo(x, 9);
      expect(b[v * width + u]).toBeCloseTo(y, 9);
    }
    transformBack(a, b, width, height);
    for (let i = 0; i < re.length; i++) {
      expect(a[i]).toBeCloseTo(re[i], 12);
      expect(b[i]).toBeCloseTo(im[i], 12);
    }
  });
  it('is refused where the side is no power of two', () => {
    expect(() => transform(new Float64Array(6), new Float64Array(6), 6, 1)).toThrow(/power of two/);
  });
});

describe('the pattern of an opening', () => {
  /** Bessel's function of the first order. @source Abramowitz and Stegun 9.1.20, as an integral */
  const bessel = (x: number) => { let sum = 0; for (let k = 0; k < 2000; k++) { const t = (Math.PI * (k + 0.5)) / 2000; sum += Math.cos(t - x * Math.sin(t)); } return sum / 2000; };
  it('of a circle is Airy’s: its first dark ring at 1.22 widths, the rings as bright as they should be', () => {
    const pattern = patternOf(round);
    // Step k is a phase of 2π k r / side.
    for (const k of [1, 2, 3, 4, 5, 6, 8, 10, 14]) {
      const x = (2 * Math.PI * k * OPENING_RADIUS) / OPENING_SIDE;
      expect(Math.abs(pattern[k] / pattern[0] - ((2 * bessel(x)) / x) ** 2)).toBeLessThan(4e-4);
    }
    // @source G. B. Airy 1835: zero at x = 3.8317, that is 1.22 λ / D
    const dark = 3.8317 / ((2 * Math.PI * OPENING_RADIUS) / OPENING_SIDE);
    expect(dark / (OPENING_SIDE / (2 * OPENING_RADIUS))).toBeCloseTo(1.22, 2);
    expect(pattern[5]).toBeLessThan(0.002 * pattern[0]);
  });
  /** How much light there is by direction, far from the middle; by degrees. */
  const byDirection = (opening: Opening) => {
    const pattern = patternOf(opening);
    const sums = new Float64Array(360);
    const half = OPENING_SIDE / 2;
    for (let y = -half + 1; y < half; y++) {
      for (let x = -half + 1; x < half; x++) {
        const distance = Math.hypot(x, y);
        if (distance < 30 || distance > 200) continue;
        sums[(Math.round((Math.atan2(y, x) * 180) / Math.PI) + 360) % 360] += pattern[((y + OPENING_SIDE) % OPENING_SIDE) * OPENING_SIDE + ((x + OPENING_SIDE) % OPENING_SIDE)];
      }
    }
    return sums;
  };
  const raysOf = (opening: Opening) => {
    const sums = byDirection(opening);
    const soft = sums.map((_, i) => [-2, -1, 0, 1, 2].reduce((sum, d) => sum + sums[(i + d + 360) % 360], 0));
    const mean = soft.reduce((sum, value) => sum + value, 0) / 360;
    return [...soft.keys()].filter((i) => soft[i] > 2 * mean && Array.from({ length: 13 }, (_, d) => soft[(i + d - 6 + 360) % 360]).every((value) => value <= soft[i]));
  };
  it('has as many rays as blades where these are even, twice as many where they are odd; they turn with the opening', () => {
    expect(raysOf({ ...plain, blades: 6 })).toHaveLength(6);
    expect(raysOf({ ...plain, blades: 8 })).toHaveLength(8);
    expect(raysOf({ ...plain, blades: 5 })).toHaveLength(10);
    const [first, turned] = [raysOf({ ...plain, blades: 6 }), raysOf({ ...plain, blades: 6, rotationRadians: (10 * Math.PI) / 180 })];
    for (const ray of first) expect(turned.some((other) => Math.abs(((other - ray + 540) % 360) - 180 - 10) <= 1.5)).toBe(true);
  });
  it('of dust and scratches is other light of the same opening: less goes through, more is bent far', () => {
    const open = (opening: Opening) => openingPlane(opening).reduce((sum, value) => sum + value, 0);
    const far = (opening: Opening) => { const pattern = patternOf(opening); let sum = 0; for (let k = 60; k < 200; k++) for (let n = 0; n < OPENING_SIDE; n += 7) sum += pattern[k * OPENING_SIDE + n]; return sum / pattern[0]; };
    for (const dirt of [{ dust: 1 }, { scratches: 1 }]) {
      const dirty = { ...round, ...dirt };
      expect(open(dirty)).toBeLessThan(open(round));
      expect(open(dirty)).toBeGreaterThan(0.5 * open(round));
      expect(far(dirty)).toBeGreaterThan(1.5 * far(round));
      expect([...openingPlane({ ...dirty, seed: 2 })]).not.toEqual([...openingPlane(dirty)]);
    }
  });
});

describe('light that is bent', () => {
  it('is a kernel of sum 1 without its middle, longer in red than in blue, drawn out to the sides', () => {
    const pattern = patternOf(plain);
    const wide = (streaks: Streaks, channel: number) => {
      const { reach, values } = streakKernel(pattern, streaks, channel, 60);
      const side = 2 * reach + 1;
      expect(values.reduce((sum, value) => sum + value, 0)).toBeCloseTo(1, 9);
      expect(values[reach * side + reach]).toBeLessThan(0.02);
      let [x2, y2] = [0, 0];
      for (let i = 0; i < values.length; i++) [x2, y2] = [x2 + values[i] * ((i % side) - reach) ** 2, y2 + values[i] * (Math.floor(i / side) - reach) ** 2];
      return [Math.sqrt(x2), Math.sqrt(y2)];
    };
    const [red, green, blue] = [0, 1, 2].map((channel) => wide({ ...plain, spectrum: 1 }, channel)[0]);
    expect(red).toBeGreaterThan(green);
    expect(green).toBeGreaterThan(blue);
    const [across, down] = wide({ ...plain, stretch: 4 }, 1);
    expect(across / down).toBeGreaterThan(1.5);
    expect(streakKernel(pattern, plain, 0, 0.01).values.reduce((sum, value) => sum + value, 0)).toBeCloseTo(1, 9);
  });
  it('is the sum over the kernel, at every pixel (direct summation), and keeps what is even', () => {
    const random = seeded(9);
    const [width, height] = [37, 23];
    const planes = [0, 1, 2].map(() => Float32Array.from({ length: width * height }, random));
    const pattern = patternOf(plain);
    // Each by its own, also of different sizes: two are transformed as one.
    const kernels = [6, 4, 5].map((reach, channel) => streakKernel(pattern, { ...plain, spectrum: 1 }, channel, reach));
    const found = spreadBy(planes, width, height, kernels);
    for (const [n, { reach, values }] of kernels.entries()) {
      for (let y = 0; y < height; y += 3) {
        for (let x = 0; x < width; x += 3) {
          let sum = 0;
          for (let v = -reach; v <= reach; v++) for (let u = -reach; u <= reach; u++) sum += values[(v + reach) * (2 * reach + 1) + u + reach] * planes[n][Math.min(height - 1, Math.max(0, y - v)) * width + Math.min(width - 1, Math.max(0, x - u))];
          expect(found[n][y * width + x]).toBeCloseTo(sum, 5);
        }
      }
    }
    for (const value of spreadBy([new Float32Array(width * height).fill(0.7)], width, height, [kernels[0]])[0]) expect(value).toBeCloseTo(0.7, 6);
    const bad = planes[0].slice();
    bad[50] = Number.NaN;
    expect(spreadBy([bad], width, height, [kernels[0]])[0].every(Number.isFinite)).toBe(true);
  });
});
