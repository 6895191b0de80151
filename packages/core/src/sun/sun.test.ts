import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { clearSkyLux, directionOf, positionOf, sunDirection, sunLux, sunPosition } from './position.ts';

const RAD = Math.PI / 180;

describe('where the sun is', () => {
  // NOAA solar calculator (after Meeus); altitude without refraction, azimuth from north.
  it.each([
    ['London', 51.5074, -0.1278, '2024-06-21T12:00:00Z', 61.9259, 178.8126],
    ['Sydney', -33.8688, 151.2093, '2024-12-21T02:00:00Z', 79.4663, 351.5368],
    ['Oslo', 59.9139, 10.7522, '2023-03-20T06:30:00Z', 7.9027, 104.3684],
    ['Singapore', 1.3521, 103.8198, '2025-09-23T05:00:00Z', 88.3148, 205.2533],
    ['Reykjavik', 64.1466, -21.9426, '2024-12-21T13:30:00Z', 2.4116, 180.89],
  ])('%s', (_place, latitude, longitude, utc, altitude, azimuth) => {
    const found = sunPosition(Date.parse(utc), latitude, longitude);
    expect(Math.abs(found.altitudeDegrees - altitude)).toBeLessThan(0.002);
    expect(Math.abs(found.azimuthDegrees - azimuth) * Math.cos(altitude * RAD)).toBeLessThan(0.002);
  });
  it('as an airless ephemeris to a hundredth of a degree', () => {
    // astronomy-engine, London 2024-06-21 12:00 UTC.
    const found = sunPosition(Date.parse('2024-06-21T12:00:00Z'), 51.5074, -0.1278);
    expect(found.altitudeDegrees).toBeCloseTo(61.9246, 1);
  });
  it('directions are those of a plan with north up: −z is north, +x is east; north turns with the site', () => {
    const at = (azimuthDegrees: number) => sunDirection({ place: 'angles', azimuthDegrees, altitudeDegrees: 0 }).direction;
    expectClose(at(0), [0, 0, -1], 1e-12);
    expectClose(at(90), [1, 0, 0], 1e-12);
    const dated = { place: 'date', latitudeDegrees: 51.5074, longitudeDegrees: -0.1278, utc: '2024-06-21T12:00:00Z' } as const;
    const turned = sunDirection({ ...dated, northDegrees: 178.8126 }).direction;
    expect(Math.abs(turned[0])).toBeLessThan(1e-4);
    expect(turned[2]).toBeLessThan(0);
    // North of the tropics the sun goes from east over south to west: clockwise on the plan.
    const [morning, evening] = ['T07:00:00Z', 'T17:00:00Z'].map((time) => sunDirection({ ...dated, utc: `2024-06-21${time}`, northDegrees: 0 }).direction);
    expect([morning[0] > 0.5, evening[0] < -0.5]).toEqual([true, true]);
  });
  it('a direction and its angles are the same (seed 60)', () => {
    const random = seeded(60);
    for (let i = 0; i < 50; i++) {
      const angles = { azimuthDegrees: random() * 358 - 179, altitudeDegrees: random() * 178 - 89 };
      expectClose(Object.values(positionOf(directionOf(angles))), Object.values(angles), 1e-9);
    }
  });
  it('light falls with the altitude and ends at the horizon', () => {
    // IESNA RP-21 (1984), clear sky: 127.5 klx outside, extinction 0.21; value from the formula at 30°.
    expect(sunLux(30)).toBeCloseTo(127_500 * Math.exp(-0.42), 6);
    expect(sunLux(0)).toBe(0);
    expect(clearSkyLux(90)).toBeCloseTo(16_300, 6);
  });
});
