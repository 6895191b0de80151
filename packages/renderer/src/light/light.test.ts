import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { candelaAt, lumensOf, parseIes } from './ies.ts';
import { lampOf, type LampSample } from './lamps.ts';
import { generalSky, preethamDaylight, skyOf } from './sky.ts';
import { clearSkyLux, sunDirection, sunLux, sunPosition } from './sun.ts';

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
  it('directions turn from +z over +x; north turns with the site', () => {
    const at = (azimuthDegrees: number) => sunDirection({ place: 'angles', azimuthDegrees, altitudeDegrees: 0, lux: null, kelvin: 5000, angularDegrees: 0.5 }).direction;
    expectClose(at(0), [0, 0, 1], 1e-12);
    expectClose(at(90), [1, 0, 0], 1e-12);
    const dated = { place: 'date', latitudeDegrees: 51.5074, longitudeDegrees: -0.1278, utc: '2024-06-21T12:00:00Z', lux: null, kelvin: 5000, angularDegrees: 0.5 } as const;
    const turned = sunDirection({ ...dated, northDegrees: 178.8126 }).direction;
    expect(Math.abs(turned[0])).toBeLessThan(1e-4);
    expect(turned[2]).toBeGreaterThan(0);
  });
  it('light falls with the altitude and ends at the horizon', () => {
    // IESNA RP-21 (1984), clear sky: 127.5 klx outside, extinction 0.21; value from the formula at 30°.
    expect(sunLux(30)).toBeCloseTo(127_500 * Math.exp(-0.42), 6);
    expect(sunLux(0)).toBe(0);
    expect(clearSkyLux(90)).toBeCloseTo(16_300, 6);
  });
});

describe('the sky', () => {
  // ISO 15469:2004: luminance relative to the zenith for a sun 45° from it. Columns (30,0) (60,0) (60,90) (60,180) (80,180) (90,0).
  const directions = [[30, 0], [60, 0], [60, 90], [60, 180], [80, 180], [90, 0]];
  it.each([
    [1, [0.9317, 0.6652, 0.6652, 0.6652, 0.3586, 0.3349]],
    [2, [1.4281, 1.0195, 0.5118, 0.4203, 0.2235, 0.3349]],
    [3, [0.9615, 0.8179, 0.8179, 0.8179, 0.6766, 0.6692]],
    [4, [1.4737, 1.2535, 0.6293, 0.5167, 0.4217, 0.6692]],
    [5, [1, 1, 1, 1, 1, 1]],
    [6, [1.5327, 1.5327, 0.7695, 0.6318, 0.6233, 1]],
    [7, [2.1559, 2.1559, 0.6742, 0.5548, 0.5827, 1]],
    [8, [2.8274, 2.8274, 0.5915, 0.4711, 0.5149, 1]],
    [9, [1.7032, 2.417, 1.2135, 0.9964, 1.4112, 2.3638]],
    [10, [2.3957, 3.3997, 1.0632, 0.8749, 1.3193, 2.3638]],
    [11, [3.1419, 4.4587, 0.9327, 0.7429, 1.1659, 2.3638]],
    [12, [3.1895, 4.8805, 1.021, 0.8132, 1.5825, 3.6516]],
    [13, [3.7701, 5.7689, 0.9023, 0.6445, 1.1914, 3.6516]],
    [14, [3.8158, 6.2186, 0.9727, 0.6947, 1.6099, 7.1792]],
    [15, [4.1057, 6.6911, 0.8302, 0.4632, 0.9744, 7.1792]],
  ])('CIE general sky, type %i', (type, expected) => {
    const found = directions.map(([z, azimuth]) => {
      const gamma = Math.acos(Math.min(1, Math.cos(45 * RAD) * Math.cos(z * RAD) + Math.sin(45 * RAD) * Math.sin(z * RAD) * Math.cos(azimuth * RAD)));
      return generalSky(type, z * RAD, gamma, 45 * RAD);
    });
    expectClose(found, expected, 6e-5, `type ${type}`);
  });
  // Preetham, Shirley, Smits 1999; kcd/m² and chromaticity at the zenith.
  it.each([
    [2, 45, 4.46964, 0.24095, 0.24372],
    [2, 0, 15.50067, 0.26674, 0.2772],
    [2.5, 45, 5.91611, 0.24328, 0.24758],
    [4, 45, 10.00469, 0.25067, 0.25935],
    [2.5, 75, 3.04009, 0.25282, 0.26404],
    [6, 30, 22.06671, 0.26313, 0.27599],
  ])('daylight at the zenith, turbidity %f, sun at %f°', (turbidity, zenith, bigY, x, y) => {
    expectClose(preethamDaylight(turbidity, zenith * RAD).at(0, zenith * RAD), [bigY, x, y], 1e-5);
  });
  it.each([
    [45, 45, 0, 25.2902, 0.2799, 0.292],
    [45, 30, 0, 13.7078, 0.2641, 0.27],
    [45, 60, 90, 6.7376, 0.2455, 0.255],
    [75, 60, 0, 16.1097, 0.3016, 0.3151],
    [45, 60, 180, 5.419, 0.2384, 0.2509],
    [75, 60, 180, 4.4325, 0.2615, 0.2798],
  ])('daylight, turbidity 2.5, sun at %f°, seen at %f°, %f° aside', (sun, view, aside, bigY, x, y) => {
    const gamma = Math.acos(Math.min(1, Math.cos(sun * RAD) * Math.cos(view * RAD) + Math.sin(sun * RAD) * Math.sin(view * RAD) * Math.cos(aside * RAD)));
    expectClose(preethamDaylight(2.5, sun * RAD).at(view * RAD, gamma), [bigY, x, y], 6e-5);
  });
  it('gives the lux that are asked for', () => {
    const sky = skyOf({ kind: 'daylight', turbidity: 3, lux: 4000, clouds: 0 }, [0.6, 0.8, 0], 53);
    const rgb = new Float64Array(3);
    let lux = 0;
    // Directions with equal weights on the hemisphere, cosine-weighted.
    const n = 200;
    for (let i = 0; i < n; i++) {
      for (let k = 0; k < n; k++) {
        const y = Math.sqrt((i + 0.5) / n);
        const r = Math.sqrt(1 - y * y);
        const a = ((k + 0.5) / n) * 2 * Math.PI;
        sky(r * Math.cos(a), y, r * Math.sin(a), rgb);
        lux += ((0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2]) * Math.PI) / (n * n);
      }
    }
    expect(lux / 4000).toBeCloseTo(1, 2);
  });
  it('an equirectangular picture: its middle column looks towards +z, its first row up', () => {
    const width = 8;
    const height = 4;
    const pixels = Array.from({ length: width * height * 3 }, (_, i) => Math.floor(i / 3) + 1);
    const sky = skyOf({ kind: 'image', width, height, pixels, luminance: 2 }, null, 45);
    const at = (x: number, y: number, z: number) => {
      const out = new Float64Array(3);
      sky(x, y, z, out);
      return out[0];
    };
    // Between the two middle columns of the two middle rows.
    expect(at(0, 0, 1)).toBeCloseTo(2 * ((12 + 13 + 20 + 21) / 4), 9);
    expect(at(0, 1, 0)).toBeLessThan(2 * 9);
    expect(at(0, -1, 0)).toBeGreaterThan(2 * 24);
  });
});

const EXAMPLE = (type = 1, tilt = 'NONE', around = '0 90', rows = '100 50 0 80 40 0') => `IESNA:LM-63-1995\n[TEST] invented\nTILT=${tilt}\n1 1000 2 3 2 ${type} 2 0 0 0\n1 1 10\n0 45 90\n${around}\n${rows}\n`;

describe('photometric webs', () => {
  it('reads angles, multiplier and candela', () => {
    const web = parseIes(EXAMPLE());
    expect(web.polarDegrees).toEqual([0, 45, 90]);
    expect(web.candela).toEqual([[200, 100, 0], [160, 80, 0]]);
    expect(candelaAt(web, 22.5, 45)).toBeCloseTo(135, 9);
    // A web of one quadrant is the same in all four (LM-63).
    for (const around of [30, 150, 210, 330]) expect(candelaAt(web, 45, around)).toBeCloseTo(candelaAt(web, 45, 30), 9);
    expect(candelaAt(web, 120, 0)).toBe(0);
  });
  it('an even web of I candela has 4πI lumen', () => {
    const web = parseIes('IESNA:LM-63-1995\nTILT=NONE\n1 1000 1 2 1 1 2 0 0 0\n1 1 10\n0 180\n0\n100 100\n');
    expect(lumensOf(web) / (400 * Math.PI)).toBeCloseTo(1, 4);
  });
  it.each([
    ['no tilt', 'hello', /TILT= is missing/],
    ['another tilt', EXAMPLE(1, 'INCLUDE'), /TILT=INCLUDE is not read/],
    ['type B', EXAMPLE(2), /type 2 is not read/],
    ['too few numbers', EXAMPLE(1, 'NONE', '0 90', '100 50'), /ends early/],
    ['angles that fall', EXAMPLE(1, 'NONE', '90 0'), /must ascend/],
    ['an odd end', EXAMPLE(1, 'NONE', '0 77'), /end at 77°/],
    ['light below 0', EXAMPLE(1, 'NONE', '0 90', '-1 50 0 80 40 0'), /below 0/],
    ['words', EXAMPLE(1, 'NONE', '0 ninety'), /numbers only/],
  ])('says what is wrong: %s', (_what, text, sentence) => expect(() => parseIes(text)).toThrow(sentence));
});

describe('lamps', () => {
  const out: LampSample = { x: 0, y: 0, z: 0, distance: 0, factor: 0 };
  it('a sphere of Φ lumen is seen with intensity Φ/4π from afar', () => {
    const lamp = lampOf({ kind: 'sphere', name: 's', group: null, lumens: 1000, kelvin: 6500, center: [0, 0, 0], radius: 0.05 }, 0);
    lamp.sample(0, 0, 20, 0.3, 0.7, out);
    const luminance = 0.2126 * lamp.light[0] + 0.7152 * lamp.light[1] + 0.0722 * lamp.light[2];
    // Radiance times solid angle is illuminance: I / d².
    expect((luminance * out.factor) / (1000 / (4 * Math.PI) / 400)).toBeCloseTo(1, 4);
    expect(out.z).toBeCloseTo(-1, 4);
  });
  it('a rectangle shines to its front only', () => {
    const lamp = lampOf({ kind: 'rectangle', name: 'r', group: null, lumens: 100, kelvin: 6500, corner: [-0.5, 2, -0.5], u: [1, 0, 0], v: [0, 0, 1] }, 0);
    lamp.sample(0, 0, 0, 0.5, 0.5, out);
    expect(out.factor).toBeCloseTo(1 / 4, 9);
    lamp.sample(0, 4, 0, 0.5, 0.5, out);
    expect(out.factor).toBe(0);
  });
});
