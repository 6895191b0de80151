/**
 * IEEE 754 binary16, one value at a time, and tables built from it. Round to nearest, ties to even.
 * @source IEEE 754-2019 §3.6, OpenEXR "Technical Introduction", half
 */
const f32 = new Float32Array(1);
const u32 = new Uint32Array(f32.buffer);

/** Bits of a half (0…65535) to its value, exactly; subnormals, infinities and NaN included. */
export function halfToFloat(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 31;
  const mantissa = bits & 1023;
  if (exponent === 0) return sign * mantissa * 2 ** -24;
  if (exponent === 31) return mantissa ? Number.NaN : sign * Number.POSITIVE_INFINITY;
  return sign * (1 + mantissa / 1024) * 2 ** (exponent - 15);
}

/** A value to the bits of the nearest half; from 65520 on it becomes infinity. */
export function floatToHalf(value: number): number {
  f32[0] = value;
  const bits = u32[0];
  const sign = (bits >>> 16) & 0x8000;
  const magnitude = bits & 0x7fffffff;
  if (magnitude > 0x7f800000) return sign | 0x7e00;
  if (magnitude >= 0x477ff000) return sign | 0x7c00;
  if (magnitude < 0x38800000) {
    // Below 2^-14 the half is subnormal: its unit is 2^-24.
    const units = Math.abs(f32[0]) * 2 ** 24;
    const floor = Math.floor(units);
    const rest = units - floor;
    return sign | (rest > 0.5 || (rest === 0.5 && floor & 1) ? floor + 1 : floor);
  }
  const rounded = magnitude + 0xfff + ((magnitude >>> 13) & 1);
  return sign | ((rounded - 0x38000000) >>> 13);
}
