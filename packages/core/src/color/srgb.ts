/**
 * The sRGB transfer function, one value at a time. These are the definitions: the kernels are tested against them.
 *
 * Domain: the picture is bounded, so both clamp to [0, 1]; NaN gives 0.
 * @source IEC 61966-2-1:1999 with Amd 1:2003
 */
export const SRGB_LINEAR_LIMIT = 0.0031308;
export const SRGB_ENCODED_LIMIT = 0.04045;

/** Linear light to encoded value, both in [0, 1]. */
export function srgbEncode(linear: number): number {
  const light = clampUnit(linear);
  return light <= SRGB_LINEAR_LIMIT ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055;
}

/** Encoded value to linear light, both in [0, 1]. */
export function srgbDecode(encoded: number): number {
  const value = clampUnit(encoded);
  return value <= SRGB_ENCODED_LIMIT ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
}

/** Clamps to [0, 1]; NaN gives 0. */
export function clampUnit(value: number): number {
  return value > 0 ? (value < 1 ? value : 1) : 0;
}
