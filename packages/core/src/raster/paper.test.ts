import { expect, it } from 'vitest';
import { millimetresOf, pixelsOf } from './paper.ts';

// ISO 216, in millimetres; pixels = round(mm / 25.4 · dpi).
it.each([
  ['A0', 841, 1189, 150, 4967, 7022],
  ['A0', 841, 1189, 300, 9933, 14043],
  ['A1', 594, 841, 150, 3508, 4967],
  ['A1', 594, 841, 300, 7016, 9933],
  ['A3', 297, 420, 150, 1754, 2480],
  ['A3', 297, 420, 300, 3508, 4961],
  ['A4', 210, 297, 150, 1240, 1754],
  ['A4', 210, 297, 300, 2480, 3508],
])('%s, %i × %i mm at %i dpi: %i × %i pixels', (_, width, height, dpi, across, down) => {
  expect([pixelsOf(width, dpi), pixelsOf(height, dpi)]).toEqual([across, down]);
  expect(Math.abs(millimetresOf(across, dpi) - width)).toBeLessThan(25.4 / dpi);
});
