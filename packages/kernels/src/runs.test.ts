import { apertureTaps, referenceBackend } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { builtKernels } from '../../../tests/built.ts';
import { expectClose } from '../../../tests/close.ts';
import { seeded } from '../../../tests/random.ts';
import { runsOf } from './runs.ts';

const APERTURES = [
  { blades: 9, roundness: 1, rotationRadians: 0, catsEye: 0 },
  { blades: 5, roundness: 0, rotationRadians: 0.4, catsEye: 0 },
  { blades: 7, roundness: 0.4, rotationRadians: 0.1, catsEye: 0.7 },
] as const;

describe('runs of neighbours', () => {
  it.each([0, 0.4, 1, 2.5, 5, 7])('are the opening, each neighbour once, in fewer sums (radius %f)', (radius) => {
    for (const aperture of APERTURES) {
      const taps = apertureTaps(aperture, radius, false, [0.8, 0.3]);
      const runs = runsOf(taps);
      const shares = (dx: Int32Array, dy: Int32Array, weights: Float32Array, log: Uint8Array | null) => new Map(Array.from(dx, (x, n) => Array.from({ length: 2 ** (log?.[n] ?? 0) }, (_, k) => [`${x + k} ${dy[n]}`, weights[n]] as const)).flat());
      const [one, other] = [shares(taps.dx, taps.dy, taps.weights, null), shares(runs.dx, runs.dy, runs.weights, runs.log)];
      expect(other).toEqual(one);
      expect(Array.from(runs.log).reduce((sum, log) => sum + 2 ** log, 0)).toBe(taps.weights.length);
      expect(runs.weights.length).toBeLessThanOrEqual(taps.weights.length);
      expect(runs.log.subarray(runs.full).every((log) => log === 0)).toBe(true);
      if (radius >= 5) expect(runs.full).toBeLessThan(taps.full / 2);
      expect(runsOf(taps)).toBe(runs);
    }
  });
  it('give the same pixels as the definition, in rectangles of their own (seed 21)', async () => {
    const kernels = await builtKernels();
    const random = seeded(21);
    const [width, height, reach] = [70, 21, 7];
    // Lamps among dim pixels: nothing is taken away again that was added before.
    const from = Float32Array.from({ length: 2 * (width + 2 * reach) * (height + 2 * reach) }, () => (random() < 0.01 ? 60_000 : random() * 0.1));
    const parts = APERTURES.map((aperture, n) => ({ part: { x: 23 * n, y: n, width: 23, height: height - 2 * n }, taps: apertureTaps(aperture, 6.6 - n, n === 1, [0.5, -0.5]) }));
    const [expected, actual] = [referenceBackend(), kernels].map((backend) => {
      const out = new Float32Array(2 * width * height).fill(-1);
      backend.disc(out, from, width, height, reach, parts);
      return out;
    });
    expectClose(actual.map((value, i) => value / Math.max(1, Math.abs(expected[i]))), expected.map((value) => value / Math.max(1, Math.abs(value))), 1e-5);
  });
});
