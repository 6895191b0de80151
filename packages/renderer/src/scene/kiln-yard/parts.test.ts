import { describe, expect, it } from 'vitest';
import { scene } from '../../../../../tests/scenes.ts';
import { trianglesOf } from '../mesh.ts';
import type { Shape, Triple } from '../model.ts';
import { box, glazing, prism, rod, roofPlane, slab, wall } from './parts.ts';

const list = (...shapes: Shape[]) => trianglesOf(scene({ objects: [{ name: 'Part', material: 'White', shapes }] }));

/** Volume by the divergence theorem: right, and positive, only if every face looks outwards. */
function volume(...shapes: Shape[]): number {
  const { corners } = list(...shapes);
  let sum = 0;
  for (let i = 0; i < corners.length; i += 9) {
    const [ax, ay, az, bx, by, bz, cx, cy, cz] = corners.subarray(i, i + 9);
    sum += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
  }
  return sum / 6;
}

function bounds(...shapes: Shape[]): { low: Triple; high: Triple } {
  const { corners } = list(...shapes);
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const [i, v] of corners.entries()) {
    low[i % 3] = Math.min(low[i % 3], v);
    high[i % 3] = Math.max(high[i % 3], v);
  }
  return { low: low as unknown as Triple, high: high as unknown as Triple };
}

describe('building parts', () => {
  it('boxes whichever way their corners are given', () => {
    expect(volume(box(1, 2, 3, 0, 0, 0))).toBeCloseTo(6, 6);
    expect(volume(box(0, 0, 0, 1, 2, 3))).toBeCloseTo(6, 6);
  });
  it('slabs look outwards for edges in either order', () => {
    const [u, v, w]: Triple[] = [[2, 0, 0], [0, 1, 0.5], [0, 0, 3]];
    for (const [a, b, c] of [[u, v, w], [v, u, w], [w, v, u], [u, w, v]]) expect(volume(slab([5, 5, 5], a, b, c))).toBeCloseTo(6, 5);
  });
  it('prisms have the area of their outline times their depth', () => {
    expect(volume(prism([[0, 0], [4, 0], [2, 3]], -1, 1.5))).toBeCloseTo(6 * 2.5, 5);
    expect(volume(prism([[0, 0], [2, 0], [2, 1], [1, 2], [0, 1]], 0, 1))).toBeCloseTo(3, 5);
  });
  it('rods between any two points', () => {
    const shape = rod([1, 0, 2], [1, 3, 6], 0.2, 64);
    expect(volume(shape) / (Math.PI * 0.04 * 5)).toBeCloseTo(1, 2);
  });
  it('walls leave their openings open', () => {
    const openings = [{ from: 1, to: 2, low: 0.5, high: 1.5 }, { from: 3, to: 3.5, low: 0, high: 2 }];
    for (const along of ['x', 'z'] as const) {
      const pieces = wall(along, 0, 5, 0, -0.4, 0, 3, openings);
      expect(volume(...pieces)).toBeCloseTo((5 * 3 - 1 * 1 - 0.5 * 2) * 0.4, 5);
      const { low, high } = bounds(...pieces);
      const [length, thick] = along === 'x' ? [0, 2] : [2, 0];
      expect([low[length], high[length], high[1]]).toEqual([0, 5, 3]);
      expect(high[thick] - low[thick]).toBeCloseTo(0.4, 6);
    }
    expect(volume(...wall('x', 0, 5, 0, 0.4, 0, 3))).toBeCloseTo(6, 5);
  });
  it('glazing fills its opening and no more', () => {
    const opening = { from: 1, to: 3, low: 0.2, high: 2.6 };
    for (const along of ['x', 'z'] as const) {
      const { bars, pane } = glazing(along, 7, opening, 3, [1.1]);
      // Four sides of the frame, two uprights, one crossbar.
      expect(bars).toHaveLength(7);
      const length = along === 'x' ? 0 : 2;
      for (const { low, high } of [bounds(...bars), bounds(pane)]) {
        expect([low[length], high[length]]).toEqual([1, 3]);
        expect([low[1], high[1]].map((v) => Number(v.toFixed(5)))).toEqual([0.2, 2.6]);
      }
      const across = along === 'x' ? 2 : 0;
      expect(bounds(pane).low[across]).toBe(7);
    }
  });
  it('roof planes carry their seams on the upper side', () => {
    const shapes = roofPlane([0, 3, 0], [6, 0, 0], [0, 2, -2], 0.1, 0.6);
    expect(shapes).toHaveLength(1 + 11);
    const slope = Math.hypot(2, 2);
    expect(volume(shapes[0])).toBeCloseTo(6 * slope * 0.1, 4);
    const [plane, ...seams] = shapes;
    expect(bounds(...seams).high[1]).toBeGreaterThan(bounds(plane).high[1]);
    expect(bounds(...seams).high[0]).toBeCloseTo(6, 5);
    // The same from the other eaves: the thickness still goes up.
    const other = roofPlane([0, 3, -4], [6, 0, 0], [0, 2, 2], 0.1, 0.6);
    expect(bounds(...other).low[1]).toBeGreaterThanOrEqual(2.99);
  });
});
