import { expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { sortedFloats } from './sorted.ts';

it.each([0, 1, 2047, 2048, 60_001])('%i numbers of every size and sign are sorted as JavaScript sorts them', (count) => {
  const random = seeded(5);
  const values = Float32Array.from({ length: count }, () => (random() - 0.5) * 10 ** (random() * 60 - 30));
  values.set([0, -0, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 1e-45, -1e-45, 1, 1].slice(0, count));
  const before = values.slice();
  const sorted = sortedFloats(values);
  expect(Buffer.compare(Buffer.from(sorted.buffer), Buffer.from(before.slice().sort().buffer))).toBe(0);
  expect(values).toEqual(before);
});
