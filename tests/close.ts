/** The one comparator of numbers: absolute below 1, relative above. A failure names the place and both values. */
import { expect } from 'vitest';

export function expectClose(actual: ArrayLike<number>, expected: ArrayLike<number>, tolerance: number, what = ''): void {
  expect(actual.length, `${what} length`).toBe(expected.length);
  for (let i = 0; i < expected.length; i++) {
    const [a, b] = [actual[i], expected[i]];
    if (Object.is(a, b) || a === b) continue;
    const error = Math.abs(a - b) / Math.max(1, Math.abs(b));
    if (!(error <= tolerance)) throw new Error(`${what} [${i}]: ${a}, expected ${b} (error ${error.toExponential(2)}, tolerance ${tolerance})`);
  }
}
