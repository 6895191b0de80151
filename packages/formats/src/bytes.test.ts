import { expect, it } from 'vitest';
import { type ByteSource, byteSource, readAhead } from './bytes.ts';

const bytes = Uint8Array.from({ length: 100 }, (_, i) => i);
function watched(): { source: ByteSource; reads: [number, number][] } {
  const reads: [number, number][] = [];
  const inner = byteSource('x', bytes);
  return { reads, source: { ...inner, read: (offset, length, room) => {
    reads.push([offset, length]);
    return inner.read(offset, length, room);
  } } };
}

it('small pieces one behind the other are read many at a time, and none beyond the end', async () => {
  const { source, reads } = watched();
  const ahead = readAhead(source, 50, 32);
  for (let at = 0; at < 50; at += 10) expect([...(await ahead.read(at, 10))]).toEqual([...bytes.subarray(at, at + 10)]);
  expect(reads).toEqual([[0, 32], [30, 20]]);
});

it('what is large, or lies elsewhere, is read by itself', async () => {
  const { source, reads } = watched();
  const ahead = readAhead(source, 100, 16);
  expect([...(await ahead.read(40, 40))]).toEqual([...bytes.subarray(40, 80)]);
  expect([...(await ahead.read(90, 4))]).toEqual([90, 91, 92, 93]);
  expect([...(await ahead.read(0, 4))]).toEqual([0, 1, 2, 3]);
  expect([...(await ahead.read(96, 4))]).toEqual([96, 97, 98, 99]);
  expect(reads).toEqual([[40, 40], [90, 10], [0, 16], [96, 4]]);
  expect(await ahead.read(100, 0)).toHaveLength(0);
});
