import { describe, expect, it } from 'vitest';
import { courseThrough, type OnPlan } from './course.ts';

describe('a course through places', () => {
  it('is straight between two, by metres, and goes on straight beyond its ends', () => {
    const course = courseThrough([[0, 0], [30, 40]]);
    expect(course?.metres).toBeCloseTo(50, 9);
    for (const metres of [-10, 0, 12.5, 50, 75]) expect(course?.at(metres)).toEqual({ at: [expect.closeTo(0.6 * metres, 9), expect.closeTo(0.8 * metres, 9)], ahead: [expect.closeTo(0.6, 9), expect.closeTo(0.8, 9)] });
  });
  it('passes through every place, and has no corner there', () => {
    const places: readonly OnPlan[] = [[0, 0], [10, 0], [12, 8], [30, 9], [31, -4]];
    const course = courseThrough(places);
    if (!course) throw new Error('no course');
    for (const [x, z] of places) {
      const nearest = Array.from({ length: 4001 }, (_, i) => course.at((course.metres * i) / 4000).at).reduce((best, [cx, cz]) => Math.min(best, Math.hypot(cx - x, cz - z)), 1e9);
      expect(nearest).toBeLessThan(0.02);
    }
    // Turns are spread: from one of 400 steps to the next the direction changes by less than 12°.
    for (let i = 0; i < 400; i++) {
      const [one, other] = [course.at((course.metres * i) / 400), course.at((course.metres * (i + 1)) / 400)];
      expect(one.ahead[0] * other.ahead[0] + one.ahead[1] * other.ahead[1]).toBeGreaterThan(Math.cos((12 * Math.PI) / 180));
    }
  });
  it('makes no loop between places at very uneven distances (Yuksel et al. 2011: centripetal knots)', () => {
    const course = courseThrough([[0, 0], [10, 0], [10.2, 0.4], [20, 6]]);
    if (!course) throw new Error('no course');
    for (let i = 1; i <= 500; i++) expect(course.at((course.metres * i) / 500).at[0]).toBeGreaterThanOrEqual(course.at((course.metres * (i - 1)) / 500).at[0] - 1e-9);
  });
  it('is none without two places that are apart', () => {
    for (const places of [[], [[1, 1]], [[1, 1], [1, 1.0001]]] as OnPlan[][]) expect(courseThrough(places)).toBeNull();
  });
});
