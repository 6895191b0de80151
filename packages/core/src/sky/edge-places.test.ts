import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { edgePlaces } from './edge-places.ts';

const SIZE = { width: 160, height: 100 };
const planeOf = (value: (x: number, y: number) => number) => Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => value(i % SIZE.width, Math.floor(i / SIZE.width)));

describe('places with edges', () => {
  it('are leaves before a straight wall, each place once, from left to right', () => {
    const random = seeded(4);
    const isLeaf = (x: number, y: number) => Math.hypot(x - 120, y - 30) < 9 || Math.hypot(x - 30, y - 40) < 9;
    const places = edgePlaces(planeOf((x, y) => (isLeaf(x, y) ? random() : y > 70 ? 1 : y === 70 ? 0.5 : 0)), SIZE, 2);
    expect(places).toHaveLength(2);
    expect(Math.hypot((places[0].x - 30 / 160) * 160, (places[0].y - 0.4) * 100)).toBeLessThan(10);
    expect(Math.hypot((places[1].x - 120 / 160) * 160, (places[1].y - 0.3) * 100)).toBeLessThan(10);
  });
  it('are none where all is covered, or nothing is, or there is no picture', () => {
    for (const value of [0, 1, -3, 7]) expect(edgePlaces(planeOf(() => value), SIZE, 6)).toEqual([]);
    expect(edgePlaces([], { width: 0, height: 0 }, 6)).toEqual([]);
  });
});
