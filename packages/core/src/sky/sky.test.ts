import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { generalSky, preethamDaylight, skyOf } from './sky.ts';

const RAD = Math.PI / 180;

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
  it('an equirectangular picture: its middle column looks along −z, its right half along +x, its first row up', () => {
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
    expect(at(0, 0, -1)).toBeCloseTo(2 * ((12 + 13 + 20 + 21) / 4), 9);
    // A quarter turn to the right is a quarter of the width.
    expect(at(1, 0, 0)).toBeCloseTo(2 * ((14 + 15 + 22 + 23) / 4), 9);
    expect(at(0, 1, 0)).toBeLessThan(2 * 9);
    expect(at(0, -1, 0)).toBeGreaterThan(2 * 24);
  });
});
