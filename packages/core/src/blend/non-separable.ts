/**
 * B(Cb, Cs) of the modes that mix channels. Domain [0, 1], not premultiplied.
 * @source W3C Compositing and Blending Level 1, §10.2 "Non-separable blend modes"
 */
import type { Triple } from '../vector.ts';

export type NonSeparableBlend = (backdrop: Triple, source: Triple) => Triple;

/** The standard's own luminosity weights, not those of Rec. 709. */
export const luminosityOf = (c: Triple) => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
const saturationOf = (c: Triple) => Math.max(...c) - Math.min(...c);

function clipColor(c: Triple): Triple {
  const l = luminosityOf(c);
  const n = Math.min(...c);
  const x = Math.max(...c);
  let result = c;
  // Greys that rounding pushed over an end have no range to clip.
  if (n < 0 && l > n) result = map(result, (v) => l + ((v - l) * l) / (l - n));
  if (x > 1 && x > l) result = map(result, (v) => l + ((v - l) * (1 - l)) / (x - l));
  return result;
}

/** A colour with another luminosity, brought back into 0…1 along its own direction. */
export function setLuminosity(c: Triple, l: number): Triple {
  const d = l - luminosityOf(c);
  return clipColor(map(c, (v) => v + d));
}

function setSaturation(c: Triple, s: number): Triple {
  const min = Math.min(...c);
  const range = Math.max(...c) - min;
  return range > 0 ? map(c, (v) => ((v - min) * s) / range) : [0, 0, 0];
}

const map = (c: Triple, f: (v: number) => number): Triple => [f(c[0]), f(c[1]), f(c[2])];

export const hue: NonSeparableBlend = (b, s) => setLuminosity(setSaturation(s, saturationOf(b)), luminosityOf(b));
export const saturation: NonSeparableBlend = (b, s) => setLuminosity(setSaturation(b, saturationOf(s)), luminosityOf(b));
export const color: NonSeparableBlend = (b, s) => setLuminosity(s, luminosityOf(b));
export const luminosity: NonSeparableBlend = (b, s) => setLuminosity(b, luminosityOf(s));
