import { describe, expect, it } from 'vitest';
import { candelaAt, lumensOf, parseIes } from './ies.ts';
import { lampOf, type LampSample } from './lamps.ts';

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
