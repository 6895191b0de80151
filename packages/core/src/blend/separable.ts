/**
 * B(Cb, Cs) of the separable blend modes: one channel of backdrop and source, not premultiplied.
 * Domain [0, 1] unless the mode's row says that it also holds on unbounded light.
 * @source W3C Compositing and Blending Level 1, §10.1 "Separable blend modes"
 */
export type SeparableBlend = (backdrop: number, source: number) => number;

export const normal: SeparableBlend = (_b, s) => s;
export const multiply: SeparableBlend = (b, s) => b * s;
export const screen: SeparableBlend = (b, s) => b + s - b * s;
export const darken: SeparableBlend = (b, s) => Math.min(b, s);
export const lighten: SeparableBlend = (b, s) => Math.max(b, s);
export const hardLight: SeparableBlend = (b, s) => (s <= 0.5 ? multiply(b, 2 * s) : screen(b, 2 * s - 1));
export const overlay: SeparableBlend = (b, s) => hardLight(s, b);
export const colorDodge: SeparableBlend = (b, s) => (b === 0 ? 0 : s >= 1 ? 1 : Math.min(1, b / (1 - s)));
export const colorBurn: SeparableBlend = (b, s) => (b >= 1 ? 1 : s <= 0 ? 0 : 1 - Math.min(1, (1 - b) / s));
export const difference: SeparableBlend = (b, s) => Math.abs(b - s);
export const exclusion: SeparableBlend = (b, s) => b + s - 2 * b * s;

export const softLight: SeparableBlend = (b, s) => {
  if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
  const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
  return b + (2 * s - 1) * (d - b);
};

/** Common practice, no published source: the difference of two lights, which may be negative. */
export const subtractLight: SeparableBlend = (b, s) => b - s;
/** Common practice, no published source: as above, held at black. */
export const subtractPicture: SeparableBlend = (b, s) => Math.max(0, b - s);

/** Divisors at or under this count as black: they hold no light to divide by. */
export const DIVIDE_FLOOR = 1e-6;
/** Common practice, no published source: lit ÷ filter = raw. Where the divisor is black the result is black. */
export const divideLight: SeparableBlend = (b, s) => (s > DIVIDE_FLOOR ? b / s : 0);
/** Common practice, no published source: as above, held at white. */
export const dividePicture: SeparableBlend = (b, s) => Math.min(1, divideLight(b, s));
