/**
 * OKLab, a perceptual space in which hue and chroma can be changed at constant lightness.
 *
 * Domain: linear sRGB, unbounded: negatives pass through the odd cube root, values over 1 keep their lightness.
 * @source B. Ottosson, "A perceptual color space for image processing" (2020), linear sRGB → OKLab matrices; CSS Color 4 §9
 */
import { dot, type Triple } from '../vector.ts';

export const RGB_TO_LMS: readonly Triple[] = [
  [0.4122214708, 0.5363325363, 0.0514459929],
  [0.2119034982, 0.6806995451, 0.1073969566],
  [0.0883024619, 0.2817188376, 0.6299787005],
];

export const LMS_TO_LAB: readonly Triple[] = [
  [0.2104542553, 0.793617785, -0.0040720468],
  [1.9779984951, -2.428592205, 0.4505937099],
  [0.0259040371, 0.7827717662, -0.808675766],
];

export const LAB_TO_LMS: readonly Triple[] = [
  [1, 0.3963377774, 0.2158037573],
  [1, -0.1055613458, -0.0638541728],
  [1, -0.0894841775, -1.291485548],
];

export const LMS_TO_RGB: readonly Triple[] = [
  [4.0767416621, -3.3077115913, 0.2309699292],
  [-1.2684380046, 2.6097574011, -0.3413193965],
  [-0.0041960863, -0.7034186147, 1.707614701],
];

/** A matrix of three rows times a column. */
export function multiply(matrix: readonly Triple[], v: Triple): Triple {
  return [dot(matrix[0], v), dot(matrix[1], v), dot(matrix[2], v)];
}

/** Linear sRGB to L, a, b: L is 1 for white, a and b are 0 for greys; unbounded, NaN stays NaN. */
export function linearToOklab(rgb: Triple): Triple {
  const [l, m, s] = multiply(RGB_TO_LMS, rgb);
  return multiply(LMS_TO_LAB, [Math.cbrt(l), Math.cbrt(m), Math.cbrt(s)]);
}

/** Back again; out-of-gamut colours come as negatives or values over 1. */
export function oklabToLinear(lab: Triple): Triple {
  const [l, m, s] = multiply(LAB_TO_LMS, lab);
  return multiply(LMS_TO_RGB, [l ** 3, m ** 3, s ** 3]);
}
