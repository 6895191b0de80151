import { describe, expect, it } from 'vitest';
import { cameraOf } from './camera.ts';
import { projected, viewOfCamera } from './view.ts';
import type { KeptValues } from '../params/table.ts';
import { minus, scaledBy, type Triple } from '../vector.ts';
import { directionOf, sunDirection } from '../sun/position.ts';
import { sunOfShadow, withShadow } from './shadow.ts';
import { sunOf, sunPlace } from '../sun/sun.ts';

const SIZE = { width: 1200, height: 800 };
const viewWith = (params: KeptValues) => viewOfCamera(cameraOf({ from: 'hand', params: { heightMetres: 1.6, focalMillimetres: 24, ...params } }), SIZE);
const seen = (view: ReturnType<typeof viewWith>, place: Triple): [number, number] => {
  const at = projected(view, place);
  return [at?.x ?? Number.NaN, at?.y ?? Number.NaN];
};

describe('the sun of a shadow', () => {
  // A pole and the shadow of its top, projected by the camera (which the tests of the camera hold against three.js).
  it.each([[130, 35, {}], [-60, 12, { tiltDegrees: -8, headingDegrees: 40 }], [10, 60, { shiftY: 3, rollDegrees: 4, tiltDegrees: -15 }]] as const)('at %i°, %i° high', (azimuthDegrees, altitudeDegrees, camera) => {
    const view = viewWith(camera);
    const foot: Triple = [view.eye[0] + 9 * view.forward[0], 0, view.eye[2] + 9 * view.forward[2]];
    const top: Triple = [foot[0], 2.2, foot[2]];
    const towards = directionOf({ azimuthDegrees, altitudeDegrees });
    const tip = minus(top, scaledBy(towards, top[1] / towards[1]));
    const found = sunOfShadow(view, { foot: seen(view, foot), tip: seen(view, tip), top: seen(view, top) });
    expect(found).toEqual({ azimuthDegrees: expect.closeTo(azimuthDegrees, 6), altitudeDegrees: expect.closeTo(altitudeDegrees, 6) });
    expect(sunOfShadow(view, { foot: seen(view, foot), tip: seen(view, tip), top: null })).toEqual({ azimuthDegrees: expect.closeTo(azimuthDegrees, 6), altitudeDegrees: null });
  });
  it('says why it says nothing', () => {
    const view = viewWith({});
    expect(sunOfShadow(view, { foot: [600, 100], tip: [700, 700], top: null })).toMatch(/on the ground, below the horizon/);
    expect(sunOfShadow(view, { foot: [600, 700], tip: [600, 700], top: null })).toMatch(/to the tip of its shadow/);
    expect(sunOfShadow(view, { foot: [600, 700], tip: [700, 700], top: [600, 780] })).toMatch(/over the foot/);
  });
  it('turns north where place and time are known, and is the direction itself where they are not', () => {
    const dated = sunOf({ from: 'hand', params: { place: 'date', utc: '2026-06-21T15:00Z', northDegrees: 20 } });
    const { altitudeDegrees } = sunDirection(sunPlace(dated));
    const turned = sunDirection(sunPlace({ ...dated, ...withShadow(dated, { azimuthDegrees: -75, altitudeDegrees: 5 }) }));
    expect(turned.direction.map((value, i) => value - directionOf({ azimuthDegrees: -75, altitudeDegrees })[i]).every((value) => Math.abs(value) < 1e-9)).toBe(true);
    const plain = sunOf({ from: 'hand', params: {} });
    expect(withShadow(plain, { azimuthDegrees: 30, altitudeDegrees: null })).toEqual({ azimuthDegrees: 30 });
    expect(withShadow(plain, { azimuthDegrees: 30, altitudeDegrees: 12 })).toEqual({ azimuthDegrees: 30, altitudeDegrees: 12 });
  });
});
