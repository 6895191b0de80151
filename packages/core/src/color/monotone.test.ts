import { curveMonotoneX, line } from 'd3-shape';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { familyWeights, HUE_FAMILIES } from './hue-families.ts';
import { monotoneCurve } from './monotone.ts';

type Point = [number, number];

/** The curve as d3-shape draws it: cubic Béziers whose handles lie a third of the way, so that x runs evenly. */
function drawnByD3(points: readonly Point[]): (x: number) => number {
  const path = line().curve(curveMonotoneX).digits(null)(points as Point[]) as string;
  const [, ...segments] = path.split('C');
  const pieces = segments.map((segment, i) => ({ from: points[i], to: segment.split(',').map(Number) }));
  return (x) => {
    const { from, to } = (pieces.find((piece) => x <= piece.to[4]) ?? pieces.at(-1)) as (typeof pieces)[number];
    const t = (x - from[0]) / (to[4] - from[0]);
    const u = 1 - t;
    return u ** 3 * from[1] + 3 * u * u * t * to[1] + 3 * u * t * t * to[3] + t ** 3 * to[5];
  };
}

const random = seeded(60);
const lists = Array.from({ length: 40 }, (_, k) => {
  const steps = Array.from({ length: 3 + (k % 6) }, () => 0.02 + random() * 0.2);
  return steps.map((_, i): Point => [steps.slice(0, i + 1).reduce((a, b) => a + b), random()]);
});

describe('a monotone curve', () => {
  it('is the one of d3-shape (seed 60)', () => {
    for (const points of lists) {
      const [ours, theirs] = [monotoneCurve(points), drawnByD3(points)];
      const [first, last] = [points[0][0], points[points.length - 1][0]];
      for (let i = 0; i <= 50; i++) expect(ours(first + ((last - first) * i) / 50)).toBeCloseTo(theirs(first + ((last - first) * i) / 50), 9);
    }
  });
  // F. N. Fritsch, R. E. Carlson 1980: between two points it rises or falls as they do.
  it('passes its points, does not overshoot them and does not turn between them', () => {
    for (const points of lists) {
      const curve = monotoneCurve(points);
      for (const [i, [x, y]] of points.entries()) {
        expect(curve(x)).toBeCloseTo(y, 12);
        if (i === 0) continue;
        const [fromX, fromY] = points[i - 1];
        const way = Math.sign(y - fromY);
        let before = fromY;
        for (let k = 1; k <= 40; k++) {
          const value = curve(fromX + ((x - fromX) * k) / 40);
          expect((value - before) * way).toBeGreaterThanOrEqual(-1e-12);
          before = value;
        }
      }
    }
  });
  it('is straight through two points and level beyond the ends', () => {
    const curve = monotoneCurve([[0.2, 0.1], [0.6, 0.9]]);
    expectClose([0, 0.2, 0.3, 0.4, 0.6, 1].map(curve), [0.1, 0.1, 0.3, 0.5, 0.9, 0.9], 1e-12);
    expect(monotoneCurve([[0.5, 0.3]])(0.9)).toBe(0.3);
  });
});

describe('families of hues', () => {
  it('share every hue between two neighbours, whole at their middles', () => {
    for (let degrees = -400; degrees < 400; degrees += 7.3) {
      const weights = familyWeights(degrees);
      expect(weights.reduce((a, b) => a + b)).toBeCloseTo(1, 12);
      expect(weights.filter((weight) => weight > 0).length).toBeLessThanOrEqual(2);
    }
    for (const [i, { hueDegrees }] of HUE_FAMILIES.entries()) expect(familyWeights(hueDegrees)[i]).toBeCloseTo(1, 12);
  });
  it('whose middles are moved are whole there, and their neighbours give way', () => {
    const moved = HUE_FAMILIES.map((_, i) => (i % 2 === 0 ? 13 : -13));
    for (const [i, { hueDegrees }] of HUE_FAMILIES.entries()) expect(familyWeights(hueDegrees + moved[i], moved)[i]).toBeCloseTo(1, 12);
    for (let degrees = 0; degrees < 360; degrees += 1.7) expect(familyWeights(degrees, moved).reduce((a, b) => a + b)).toBeCloseTo(1, 12);
    expect(familyWeights(40, moved)[0]).toBeGreaterThan(familyWeights(40)[0]);
  });
});
