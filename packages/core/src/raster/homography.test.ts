/** Homographies against worked numbers and against their own rules. */
import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { applied, chained, homographyOf, inverted, isConvex } from './homography.ts';

const SQUARE = [[0, 0], [1, 0], [0, 1], [1, 1]] as const;
const quad = (random: () => number, at = 0, wide = 1) => SQUARE.map(([x, y]) => [at + wide * (x + 0.4 * (random() - 0.5)), at + wide * (y + 0.4 * (random() - 0.5))] as const);

describe('a homography of four pairs', () => {
  it('of the square onto a trapezium: the middle goes to where its diagonals meet', () => {
    // Worked by hand: diagonals of (0,0) (4,0) (1,2) (3,2) meet at (2, 4/3).
    const map = homographyOf(SQUARE, [[0, 0], [4, 0], [1, 2], [3, 2]]);
    const middle = map && applied(map, [0.5, 0.5]);
    expect(middle?.[0]).toBeCloseTo(2, 12);
    expect(middle?.[1]).toBeCloseTo(4 / 3, 12);
  });
  it('takes each to its own, back again, and keeps cross-ratios along a line (seed 3)', () => {
    const random = seeded(3);
    for (let n = 0; n < 50; n++) {
      const [from, to] = [quad(random, 2000 * random(), 900), quad(random, 100 * random(), 5000)];
      const map = homographyOf(from, to);
      if (!map) throw new Error('There is none.');
      for (const [i, place] of from.entries()) for (const c of [0, 1]) expect(applied(map, place)?.[c]).toBeCloseTo(to[i][c], 6);
      const back = chained(inverted(map), map);
      for (let k = 0; k < 9; k++) expect(back[k] / back[8]).toBeCloseTo([1, 0, 0, 0, 1, 0, 0, 0, 1][k], 6);
      // The cross-ratio of four places in a line is what no projection changes: Hartley and Zisserman, 2.5.
      const line = [0.1, 0.35, 0.6, 0.8].map((t) => [from[0][0] + t * (from[3][0] - from[0][0]), from[0][1] + t * (from[3][1] - from[0][1])] as const);
      const ratio = (places: readonly (readonly [number, number])[]) => {
        const away = (a: number, b: number) => Math.hypot(places[a][0] - places[b][0], places[a][1] - places[b][1]);
        return (away(0, 2) * away(1, 3)) / (away(0, 3) * away(1, 2));
      };
      expect(ratio(line.map((place) => applied(map, place) ?? [0, 0]))).toBeCloseTo(ratio(line), 6);
    }
  });
  it('of three pairs is affine; of places in a line, of two or of five there is none', () => {
    const map = homographyOf([[0, 0], [2, 0], [0, 1]], [[1, 1], [5, 1], [1, 4]]);
    expect(map && applied(map, [2, 1])).toEqual([5, 4]);
    expect([homographyOf([[0, 0], [1, 1], [2, 2], [5, 0]], SQUARE), homographyOf(SQUARE.slice(0, 2), SQUARE.slice(0, 2)), homographyOf([[1, 1], [1, 1], [1, 1]], [[0, 0], [1, 0], [0, 1]])]).toEqual([null, null, null]);
  });
  it('beyond the line that is infinitely far there is no place', () => expect(applied([1, 0, 0, 0, 1, 0, -1, 0, 1], [2, 0])).toBeNull());
});

it('four corners lie around an area, or are dented, or crossed', () => {
  expect([isConvex(SQUARE), isConvex([[1, 0], [0, 0], [1, 1], [0, 1]]), isConvex([[0, 0], [1, 0], [0, 1], [0.2, 0.2]]), isConvex([[0, 0], [1, 0], [1, 1], [0, 1]]), isConvex([[0, 0], [1, 0], [2, 0], [3, 0]])]).toEqual([true, true, false, false, false]);
});
