/** Colour of glowing bodies. */
import { luminanceOf } from './luminance.ts';

/**
 * Chromaticity of the Planckian radiator; temperatures outside 1667–25 000 K take the nearer end.
 * @source Kim et al. 2002, cubic fit to the Planckian locus (within 6e-4 of Planck's law)
 */
export function kelvinToXy(kelvin: number): readonly [number, number] {
  const t = Math.min(25_000, Math.max(1667, kelvin));
  const x = t <= 4000 ? -0.2661239e9 / t ** 3 - 0.2343589e6 / t ** 2 + 0.8776956e3 / t + 0.17991 : -3.0258469e9 / t ** 3 + 2.1070379e6 / t ** 2 + 0.2226347e3 / t + 0.24039;
  if (t <= 2222) return [x, -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683];
  if (t <= 4000) return [x, -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867];
  return [x, 3.081758 * x ** 3 - 5.8733867 * x ** 2 + 3.75112997 * x - 0.37001483];
}

/**
 * Linear sRGB of a chromaticity and a luminance Y; out-of-gamut colours have negative channels.
 * @source IEC 61966-2-1 primaries, matrix by SMPTE RP 177
 */
export function xyYToLinearSrgb(x: number, y: number, luminance: number): [number, number, number] {
  const bigX = (x / y) * luminance;
  const bigZ = ((1 - x - y) / y) * luminance;
  return [
    3.2409699 * bigX - 1.5373832 * luminance - 0.4986108 * bigZ,
    -0.9692436 * bigX + 1.8759675 * luminance + 0.0415551 * bigZ,
    0.0556301 * bigX - 0.203977 * luminance + 1.0569715 * bigZ,
  ];
}

/** Linear sRGB of a Planckian radiator with luminance 1; channels below 0 are cut. */
export function kelvinToLinearSrgb(kelvin: number): readonly [number, number, number] {
  const [x, y] = kelvinToXy(kelvin);
  const inGamut = xyYToLinearSrgb(x, y, 1).map((channel) => Math.max(0, channel));
  const luminance = luminanceOf(inGamut);
  return [inGamut[0] / luminance, inGamut[1] / luminance, inGamut[2] / luminance];
}
