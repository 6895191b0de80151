import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import type { Paint } from '../scene/model.ts';
import { fractalNoise, latticeNoise, smoothNoise } from '@tazzel/core';
import { painterOf } from './patterns.ts';

const paints: readonly Paint[] = [
  { pattern: 'flat', color: [0.2, 0.4, 0.6] },
  { pattern: 'brick', color: [0.36, 0.16, 0.1], mortar: [0.43, 0.39, 0.34], lengthMetres: 0.25, courseMetres: 0.075, jointMetres: 0.01 },
  { pattern: 'slats', color: [0.44, 0.29, 0.17], pitchMetres: 0.1, gapMetres: 0.02, lies: 'upright' },
  { pattern: 'slats', color: [0.44, 0.29, 0.17], pitchMetres: 0.1, gapMetres: 0.02, lies: 'level' },
  { pattern: 'boards', color: [0.42, 0.27, 0.14], widthMetres: 0.16, lengthMetres: 2.4, along: 'x' },
  { pattern: 'boards', color: [0.42, 0.27, 0.14], widthMetres: 0.16, lengthMetres: 2.4, along: 'z' },
  { pattern: 'concrete', color: [0.4, 0.39, 0.37], panelMetres: 1.5 },
  { pattern: 'gravel', color: [0.36, 0.33, 0.28], grainMetres: 0.035 },
  { pattern: 'grass', color: [0.13, 0.19, 0.05] },
  { pattern: 'plaster', color: [0.95, 0.95, 0.95] },
  { pattern: 'cells', color: [0.1, 0.2, 0.3], other: [0.5, 0.6, 0.7], cellMetres: [0.1, 0.4, 0.2] },
];
const at = (paint: Paint, x: number, y: number, z: number, normal: readonly [number, number, number] = [0, 0, 1]): number[] => {
  const out = new Float64Array(3);
  painterOf(paint)(x, y, z, ...normal, out);
  return [...out];
};
const luminance = ([r, g, b]: readonly number[]) => 0.2126 * r + 0.7152 * g + 0.0722 * b;

describe('patterns', () => {
  it.each(paints.map((paint) => [paint.pattern, paint] as const))('%s reflects between nothing and everything, the same at the same place (seed 3)', (_pattern, paint) => {
    const random = seeded(3);
    for (let i = 0; i < 3000; i++) {
      const place = [random() * 40 - 20, random() * 10, random() * 40 - 20] as const;
      const normal = ([[1, 0, 0], [0, 1, 0], [0, 0, 1], [0, 0, -1]] as const)[i % 4];
      const color = at(paint, ...place, normal);
      expect(color.every((v) => v >= 0 && v <= 1), `${place}: ${color}`).toBe(true);
      expect(at(paint, ...place, normal)).toEqual(color);
    }
  });
  it('brick: mortar takes the share of the joints', () => {
    const paint = { ...paints[1], color: [0, 0, 0] } as Paint;
    const random = seeded(4);
    let mortar = 0;
    const n = 20_000;
    for (let i = 0; i < n; i++) if (luminance(at(paint, random() * 10, random() * 5, 0)) > 0) mortar++;
    expect(mortar / n).toBeCloseTo(1 - (1 - 0.01 / 0.075) * (1 - 0.01 / 0.25), 1.7);
  });
  it('brick: courses lie level on walls in both directions, and are shifted by half a brick', () => {
    const paint = { ...paints[1], color: [0, 0, 0] } as Paint;
    // In the middle of a bed joint everything is mortar, whichever way the wall faces.
    for (let i = 0; i < 50; i++) for (const normal of [[0, 0, 1], [1, 0, 0]] as const) expect(luminance(at(paint, i * 0.137, 0.075 * 3 + 0.005, i * 0.211, normal))).toBeGreaterThan(0);
    const isJoint = (x: number, course: number) => luminance(at(paint, x, 0.075 * course + 0.04, 0)) > 0;
    expect([isJoint(0.255, 0), isJoint(0.13, 1), isJoint(0.13, 0), isJoint(0.255, 1)]).toEqual([true, true, false, false]);
  });
  it('slats: gaps are dark, at the pitch, upright or level', () => {
    const dark = (paint: Paint, x: number, y: number) => luminance(at(paint, x, y, 0)) < 0.05;
    for (let k = 0; k < 20; k++) {
      expect([dark(paints[2], 0.1 * k + 0.01, 0.3), dark(paints[2], 0.1 * k + 0.06, 0.3)]).toEqual([true, false]);
      expect([dark(paints[3], 0.3, 0.1 * k + 0.01), dark(paints[3], 0.3, 0.1 * k + 0.06)]).toEqual([true, false]);
    }
  });
  it('boards run along their direction: across it the colour jumps at every joint', () => {
    const jumps = (paint: Paint, dx: number, dz: number) => {
      let count = 0;
      for (let i = 0; i < 400; i++) if (Math.abs(luminance(at(paint, i * dx, 0, i * dz, [0, 1, 0])) - luminance(at(paint, (i + 1) * dx, 0, (i + 1) * dz, [0, 1, 0]))) > 0.05) count++;
      return count;
    };
    expect(jumps(paints[4], 0, 0.004)).toBeGreaterThan(jumps(paints[4], 0.004, 0) * 2);
    expect(jumps(paints[5], 0.004, 0)).toBeGreaterThan(jumps(paints[5], 0, 0.004) * 2);
  });
  it('cells: one shade within a cell, between the two colours', () => {
    expect(at(paints[10], 0.01, 0.01, 0.01)).toEqual(at(paints[10], 0.09, 0.39, 0.19));
    expect(at(paints[10], 0.01, 0.01, 0.01)).not.toEqual(at(paints[10], 0.11, 0.01, 0.01));
  });
});

describe('noise', () => {
  it('is even between 0 and 1', () => {
    let sum = 0;
    const tens = new Array<number>(10).fill(0);
    const n = 20_000;
    for (let i = 0; i < n; i++) {
      const v = latticeNoise(i % 141, Math.floor(i / 141), 5);
      sum += v;
      tens[Math.min(9, Math.floor(v * 10))]++;
    }
    expect(sum / n).toBeCloseTo(0.5, 1.7);
    for (const count of tens) expect(count / n).toBeCloseTo(0.1, 1.7);
  });
  it('has no jumps when it is smooth, and its sum of octaves stays in bounds', () => {
    for (let i = 0; i < 2000; i++) {
      const x = i * 0.013;
      expect(Math.abs(smoothNoise(x, 3.3, 2) - smoothNoise(x + 1e-5, 3.3, 2))).toBeLessThan(1e-3);
      const v = fractalNoise(x, x * 0.7, 1, 5);
      expect(v >= 0 && v <= 1).toBe(true);
    }
  });
});
