import { expect, it } from 'vitest';
import { draggedRegion } from './cut-frame.tsx';

const size = { width: 1200, height: 800 };
const from = { x: 300, y: 200, width: 600, height: 400 };

it('a corner moves its two sides, the whole moves all of them', () => {
  expect(draggedRegion(from, [-1, -1], 40, -30.4, size)).toEqual({ x: 340, y: 170, width: 560, height: 430 });
  expect(draggedRegion(from, [1, 1], 40, -30, size)).toEqual({ x: 300, y: 200, width: 640, height: 370 });
  expect(draggedRegion(from, null, -50, 60, size)).toEqual({ x: 250, y: 260, width: 600, height: 400 });
});
it('never beyond the picture, and never without a size', () => {
  expect(draggedRegion(from, [-1, -1], -9999, -9999, size)).toEqual({ x: 0, y: 0, width: 900, height: 600 });
  expect(draggedRegion(from, [-1, 1], 9999, -9999, size)).toEqual({ x: 892, y: 200, width: 8, height: 8 });
  expect(draggedRegion(from, [1, -1], 9999, 9999, size)).toEqual({ x: 300, y: 592, width: 900, height: 8 });
  expect(draggedRegion(from, null, 9999, -9999, size)).toEqual({ x: 600, y: 0, width: 600, height: 400 });
  expect(draggedRegion({ x: 0, y: 0, width: 3, height: 3 }, [1, 1], -9, -9, { width: 3, height: 3 })).toEqual({ x: 0, y: 0, width: 3, height: 3 });
});
