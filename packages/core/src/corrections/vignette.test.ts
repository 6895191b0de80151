import { describe, expect, it } from 'vitest';
import { completeParams } from '../params/table.ts';
import { vignette } from './vignette.ts';

const SIZE = { width: 3000, height: 2000 };
const lit = (params: Readonly<Record<string, unknown>>, x: number, y: number) => {
  if (vignette.work !== 'points') throw new Error('it reads across pixels');
  return vignette.pixel([1, 1, 1], vignette.prepare(completeParams(vignette, params), SIZE), [x, y], [], 1);
};

describe('the natural fall-off of a lens', () => {
  // cos⁴ at angles from the axis. Source: published values of the cos⁴ law (Kingslake 1992).
  it.each([
    [10, 0.940602],
    [20, 0.779728],
    [30, 0.5625],
    [40, 0.344363],
    [45, 0.25],
  ])('at %f° leaves %f of the light, and undone gives it back', (degrees, left) => {
    const across = 100;
    const x = SIZE.width / 2 + (Math.tan((degrees * Math.PI) / 180) / Math.tan((across * Math.PI) / 360)) * (SIZE.width / 2);
    const params = { natural: 'cos4', acrossDegrees: across };
    expect(lit({ ...params, naturalPercent: 100 }, x, SIZE.height / 2)[0]).toBeCloseTo(left, 5);
    expect(lit({ ...params, naturalPercent: -100 }, x, SIZE.height / 2)[0] * left).toBeCloseTo(1, 5);
    expect(lit({ ...params, naturalPercent: 50 }, x, SIZE.height / 2)[0]).toBeCloseTo(Math.sqrt(left), 5);
  });
  it('goes around its centre, and begins with the camera’s angle', () => {
    expect(lit({ natural: 'cos4', centre: [25, 50] }, 750, 1000)).toEqual([1, 1, 1]);
    expect(vignette.begin?.({ sensorMillimetres: 36, focalMillimetres: 24 } as never)).toEqual({ acrossDegrees: 74 });
  });
});

describe('the colour of corners', () => {
  it('is that of the light that they keep', () => {
    const [r, g, b] = lit({ cornerStops: -1, tint: [0.5, 0.75, 1], roundnessPercent: 100 }, 0, 0);
    expect([r, g, b].map((value) => Math.round(value * 1000) / 1000)).toEqual([0.25, 0.375, 0.5]);
    expect(lit({ cornerStops: 0, tint: [0.5, 0.75, 1] }, 1500, 1000)).toEqual([1, 1, 1]);
  });
});
