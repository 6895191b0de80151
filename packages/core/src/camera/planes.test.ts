/** Against the same places moved in the scene and projected one by one. */
import { describe, expect, it } from 'vitest';
import { dot, minus, plus, scaledBy, type Triple } from '../vector.ts';
import { cameraOf } from './camera.ts';
import { alongPlane, levelPlane, type ScenePlane, uprightPlane } from './planes.ts';
import { projected, viewOfCamera } from './view.ts';

const view = viewOfCamera(cameraOf({ from: 'hand', params: { heightMetres: 1.7, tiltDegrees: -8, rollDegrees: 3, headingDegrees: 40, focalMillimetres: 30, sensorMillimetres: 36, shiftY: 2 } }), { width: 1200, height: 800 });
const seen = (place: Triple) => {
  const at = projected(view, place);
  if (!at) throw new Error('It is behind the camera.');
  return [at.x, at.y] as const;
};
const mapped = (h: readonly number[] | null, [x, y]: readonly [number, number]) => {
  if (!h) throw new Error('There is no map.');
  const w = h[6] * x + h[7] * y + h[8];
  return [(h[0] * x + h[1] * y + h[2]) / w, (h[3] * x + h[4] * y + h[5]) / w] as const;
};
/** A place on a plane, by metres across and down from another. */
const on = ({ across, down }: ScenePlane, from: Triple, u: number, v: number): Triple => plus(from, plus(scaledBy(across, u), scaledBy(down, v)));
const ahead = (metres: number, aside: number, height: number): Triple => {
  const level: Triple = [view.forward[0], 0, view.forward[2]];
  const along = scaledBy(level, metres / Math.hypot(...level));
  return [view.eye[0] + along[0] - aside * (along[2] / metres), height, view.eye[2] + along[2] + aside * (along[0] / metres)];
};
const AROUND = [[0, 0], [0.8, 0.3], [-1.1, 0.7], [0.4, -1.2]] as const;

describe('a plane that goes along itself', () => {
  it.each([
    ['a floor', levelPlane(view), ahead(7, -1, 0), 2.2, -1.5],
    ['a ceiling', levelPlane(view), ahead(9, 1, 4.2), -1.4, 2],
    ['a wall that runs away', uprightPlane(view, 0), ahead(8, -3, 1.5), 2.5, 0.4],
    ['a wall at an angle', uprightPlane(view, 55), ahead(10, 1, 2), -1.2, 0.9],
    ['a front', uprightPlane(view, 90), ahead(12, 0, 2), 3, -1],
  ] as const)('%s: every place goes where the same step in the scene leads', (_, plane, place, u, v) => {
    const there = on(plane, place, u, v);
    const map = alongPlane(view, plane, seen(place), seen(there));
    for (const [du, dv] of AROUND) {
      const [x, y] = mapped(map, seen(on(plane, place, du, dv)));
      const [wantedX, wantedY] = seen(on(plane, there, du, dv));
      expect(Math.hypot(x - wantedX, y - wantedY)).toBeLessThan(1e-6);
    }
  });
  it('is turned and scaled in the scene, not in the picture', () => {
    const [plane, place] = [levelPlane(view), ahead(6, 0, 0)];
    const there = on(plane, place, 1, 1);
    const map = alongPlane(view, plane, seen(place), seen(there), [0, 2, -2, 0]);
    for (const [du, dv] of AROUND) {
      const [x, y] = mapped(map, seen(on(plane, place, du / 2, dv / 2)));
      const [wantedX, wantedY] = seen(on(plane, there, dv, -du));
      expect(Math.hypot(x - wantedX, y - wantedY)).toBeLessThan(1e-6);
    }
  });
  it('has directions of length 1 on the plane, as they are seen', () => {
    for (const plane of [levelPlane(view), uprightPlane(view, 20)]) {
      expect([dot(plane.across, plane.normal), dot(plane.down, plane.normal), dot(plane.across, plane.down)].map((v) => Math.abs(v) < 1e-12)).toEqual([true, true, true]);
      const [here, right, below] = [ahead(8, 0, 0.5), on(plane, ahead(8, 0, 0.5), 0.1, 0), on(plane, ahead(8, 0, 0.5), 0, 0.1)].map(seen);
      expect([right[0] > here[0], below[1] > here[1]]).toEqual([true, true]);
    }
  });
  it('is none across the horizon, or from the side', () => {
    expect(alongPlane(view, levelPlane(view), [600, 700], [600, 20])).toBeNull();
    const eye = minus(ahead(5, 0, 1.7), view.eye);
    expect(dot(eye, uprightPlane(view, 0).normal)).toBeCloseTo(0, 9);
    expect(alongPlane(view, uprightPlane(view, 0), seen(ahead(5, 0, 1)), seen(ahead(6, 0, 1)))).toBeNull();
  });
});
