import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { distribution, maskingBoth, maskingOne, reflectance, sampleVisible, widthOf } from './microfacets.ts';
import { fresnelDielectric, fresnelPane, fresnelSchlick, phaseHenyeyGreenstein, refractedCosine } from './optics.ts';

const RAD = Math.PI / 180;

describe('smooth surfaces', () => {
  it('Snell’s law', () => {
    for (const degrees of [0, 10, 30, 45, 60, 80]) for (const eta of [1.333, 1.5, 2.4]) expect(Math.sin(Math.acos(refractedCosine(Math.cos(degrees * RAD), eta))) * eta).toBeCloseTo(Math.sin(degrees * RAD), 12);
    // Critical angle of glass against air: asin(1/1.5) = 41.81° (Hecht, Optics).
    expect(refractedCosine(Math.cos(41.8 * RAD), 1 / 1.5)).toBeGreaterThan(0);
    expect(refractedCosine(Math.cos(41.9 * RAD), 1 / 1.5)).toBe(0);
  });
  it('Fresnel’s equations', () => {
    // Born, Wolf, Principles of Optics: ((n−1)/(n+1))² at normal incidence, 1 at grazing.
    expect(fresnelDielectric(1, 1.5)).toBeCloseTo(0.04, 12);
    expect(fresnelDielectric(1, 1.333)).toBeCloseTo((0.333 / 2.333) ** 2, 12);
    expect(fresnelDielectric(1e-9, 1.5)).toBeCloseTo(1, 6);
    // At Brewster's angle only the perpendicular part is left: half of ((n² − 1)/(n² + 1))².
    const brewster = Math.atan(1.5);
    expect(fresnelDielectric(Math.cos(brewster), 1.5)).toBeCloseTo(0.5 * ((1.5 ** 2 - 1) / (1.5 ** 2 + 1)) ** 2, 12);
    // The same share from both sides along one path (Stokes' relations).
    for (const degrees of [10, 30, 55]) expect(fresnelDielectric(Math.cos(degrees * RAD), 1.5)).toBeCloseTo(fresnelDielectric(refractedCosine(Math.cos(degrees * RAD), 1.5), 1 / 1.5), 12);
    expect(fresnelDielectric(Math.cos(50 * RAD), 1 / 1.5)).toBe(1);
  });
  it('a pane sums the reflections between its sides', () => {
    const once = fresnelDielectric(0.6, 1.52);
    let sum = once;
    for (let i = 0; i < 60; i++) sum += (1 - once) ** 2 * once ** (2 * i + 1);
    expect(fresnelPane(0.6, 1.52)).toBeCloseTo(sum, 12);
  });
  it('Schlick between its ends', () => {
    expect(fresnelSchlick(1, 0.3)).toBe(0.3);
    expect(fresnelSchlick(0, 0.3)).toBe(1);
  });
  it('Henyey–Greenstein', () => {
    // Henyey, Greenstein 1941, g = 0.76: values per steradian.
    for (const [degrees, value] of [[0, 2.431534], [45, 0.094281], [90, 0.016964], [180, 0.006166]]) expect(phaseHenyeyGreenstein(Math.cos(degrees * RAD), 0.76)).toBeCloseTo(value, 6);
    expect(phaseHenyeyGreenstein(0.3, 0)).toBeCloseTo(0.079577, 6);
    let sum = 0;
    for (let i = 0; i < 4000; i++) sum += phaseHenyeyGreenstein(-1 + (i + 0.5) / 2000, 0.76) * 2 * Math.PI * (1 / 2000);
    expect(sum).toBeCloseTo(1, 4);
  });
});

describe('microfacets', () => {
  it('project to one (Walter et al. 2007, eq. 4)', () => {
    for (const width of [0.05, 0.2, 0.6]) {
      let sum = 0;
      const n = 20_000;
      for (let i = 0; i < n; i++) {
        const theta = ((i + 0.5) / n) * (Math.PI / 2);
        sum += distribution(Math.cos(theta), width) * Math.cos(theta) * Math.sin(theta) * 2 * Math.PI * (Math.PI / 2 / n);
      }
      expect(sum).toBeCloseTo(1, 3);
    }
  });
  it('masking is at most one, and both at most each', () => {
    for (const a of [0.05, 0.3, 1]) for (const b of [0.05, 0.3, 1]) expect(maskingBoth(a, b, 0.4)).toBeLessThanOrEqual(Math.min(maskingOne(a, 0.4), maskingOne(b, 0.4)) + 1e-12);
  });
  it('no more light leaves than arrives, and sampling agrees with the formula (seed 5)', () => {
    const random = seeded(5);
    const half = new Float64Array(3);
    for (const roughness of [0.2, 0.5, 0.9]) {
      const width = widthOf(roughness);
      for (const cosine of [0.15, 0.5, 0.95]) {
        const view = [Math.sqrt(1 - cosine * cosine), 0, cosine];
        // By picking visible facets: the weight of each pick is G2/G1.
        let picked = 0;
        const n = 40_000;
        for (let i = 0; i < n; i++) {
          sampleVisible(view[0], view[1], view[2], width, random(), random(), half);
          const d = view[0] * half[0] + view[1] * half[1] + view[2] * half[2];
          const z = 2 * d * half[2] - view[2];
          if (z > 0) picked += maskingBoth(cosine, z, width) / maskingOne(cosine, width);
        }
        // By even directions over the hemisphere.
        let even = 0;
        const m = 400_000;
        for (let i = 0; i < m; i++) {
          const z = random();
          const r = Math.sqrt(1 - z * z);
          const a = random() * 2 * Math.PI;
          const h = [view[0] + r * Math.cos(a), r * Math.sin(a), cosine + z];
          even += reflectance(cosine, z, h[2] / Math.hypot(...h), width) * z * 2 * Math.PI;
        }
        expect(picked / n).toBeLessThanOrEqual(1);
        if (roughness > 0.3) expect(Math.abs(picked / n - even / m), `roughness ${roughness}, cosine ${cosine}`).toBeLessThan(0.02);
      }
    }
  });
});
