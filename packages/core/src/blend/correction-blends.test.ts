import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { luminanceOf } from '../color/luminance.ts';
import type { Triple } from '../vector.ts';
import { correctionBlend, correctionBlends, isOfferedIn } from './correction-blends.ts';
import { luminosityOf } from './non-separable.ts';

const random = seeded(70);
const light = (): Triple => [random() * 4, random() * 4, random() * 4];
const shown = (): Triple => [random(), random(), random()];
const join = (id: string, zone: 'scene' | 'picture', before: Triple, after: Triple) => (correctionBlend(id)[zone] as { formula: (b: Triple, a: Triple) => Triple }).formula(before, after);
const ratios = ([r, g, b]: Triple) => [r / (r + g + b), g / (r + g + b)];

describe('what of a correction is taken', () => {
  // CIE 1931: chromaticity and luminance are independent of each other.
  it('in light: lightness keeps the chromaticity, colour keeps the luminance', () => {
    for (let i = 0; i < 50; i++) {
      const [before, after] = [light(), light()];
      const [lighter, tinted] = [join('lightness', 'scene', before, after), join('colour', 'scene', before, after)];
      expectClose(ratios(lighter), ratios(before), 1e-9);
      expect(luminanceOf(lighter)).toBeCloseTo(luminanceOf(after), 9);
      expectClose(ratios(tinted), ratios(after), 1e-9);
      expect(luminanceOf(tinted)).toBeCloseTo(luminanceOf(before), 9);
    }
    // Black has no colour to keep.
    expectClose(join('lightness', 'scene', [0, 0, 0], [1, 1, 1]), [1, 1, 1], 1e-12);
  });
  // W3C Compositing and Blending Level 1, §10.2: luminosity and color.
  it('in picture values: as luminosity and color of the standard', () => {
    for (let i = 0; i < 50; i++) {
      const [before, after] = [shown(), shown()];
      expect(luminosityOf(join('lightness', 'picture', before, after))).toBeCloseTo(luminosityOf(after), 9);
      expect(luminosityOf(join('colour', 'picture', before, after))).toBeCloseTo(luminosityOf(before), 9);
      for (const value of [...join('lightness', 'picture', before, after), ...join('colour', 'picture', before, after)]) expect(value >= -1e-12 && value <= 1 + 1e-12).toBe(true);
    }
    expectClose(join('multiply', 'picture', [0.5, 1, 0], [0.5, 0.5, 0.5]), [0.25, 0.5, 0], 1e-12);
    expectClose(join('screen', 'picture', [0.5, 1, 0], [0.5, 0.5, 0.5]), [0.75, 1, 0.5], 1e-12);
  });
  it('is told for each, and screen needs an upper end', () => {
    for (const { label, summary } of correctionBlends) expect(label !== '' && summary.endsWith('.')).toBe(true);
    expect(correctionBlends.filter(({ id }) => !isOfferedIn(id, 'scene')).map(({ id }) => id)).toEqual(['screen']);
    expect(correctionBlend('of later days').id).toBe('all');
  });
});
