/**
 * Radiance pictures, written: a common exponent of three mantissas, in run lengths of the newer kind.
 * @source G. Ward, "Real Pixels", Graphics Gems II (1991); header and run lengths as Radiance documents them. Mantissas are rounded here, not cut off: value = byte · 2^(exponent − 136)
 */
import type { Size } from '@tazzel/core';

/** Rows of these widths are packed; others are written plainly. */
const [LEAST_PACKED, MOST_PACKED] = [8, 32767];
const LONGEST = 127;
/** Shorter runs are cheaper as single bytes. */
const SHORTEST_RUN = 4;

/** @param planes red, green and blue of Rec. 709 light; what is below 0 is 0 */
export function encodeHdr({ width, height }: Size, [red, green, blue]: readonly Float32Array[]): Uint8Array[] {
  const parts = [new TextEncoder().encode(`#?RADIANCE\nSOFTWARE=Tazzel\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`)];
  const row = new Uint8Array(width * 4);
  const isPacked = width >= LEAST_PACKED && width <= MOST_PACKED;
  const packed = new Uint8Array(4 + 4 * (width + Math.ceil(width / LONGEST) + 1));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const light = [Math.max(0, red[i]), Math.max(0, green[i]), Math.max(0, blue[i])];
      const exponent = exponentOf(Math.max(...light));
      const scale = exponent === 0 ? 0 : 2 ** (136 - exponent);
      // One channel after the other where rows are packed, else pixel after pixel.
      for (let c = 0; c < 3; c++) row[isPacked ? c * width + x : x * 4 + c] = Math.min(255, Math.round(light[c] * scale));
      row[isPacked ? 3 * width + x : x * 4 + 3] = exponent;
    }
    if (!isPacked) {
      parts.push(row.slice());
      continue;
    }
    packed.set([2, 2, width >> 8, width & 255]);
    let at = 4;
    for (let c = 0; c < 4; c++) at = packRow(row.subarray(c * width, (c + 1) * width), packed, at);
    parts.push(packed.slice(0, at));
  }
  return parts;
}

/** The least exponent with which the brightest channel stays below 256; 0 for no light at all. */
function exponentOf(most: number): number {
  if (!(most > 2 ** -128)) return 0;
  let exponent = Math.floor(Math.log2(most)) + 129;
  if (Math.round(most * 2 ** (136 - exponent)) > 255) exponent++;
  return Math.min(255, Math.max(1, exponent));
}

/** @returns where the next byte goes */
function packRow(values: Uint8Array, into: Uint8Array, start: number): number {
  let at = start;
  let from = 0;
  const plain = (to: number) => {
    for (; from < to; from += LONGEST + 1) {
      const count = Math.min(LONGEST + 1, to - from);
      into[at++] = count;
      into.set(values.subarray(from, from + count), at);
      at += count;
    }
    from = to;
  };
  for (let i = 0; i < values.length; ) {
    let end = i + 1;
    while (end < values.length && values[end] === values[i] && end - i < LONGEST) end++;
    if (end - i >= SHORTEST_RUN) {
      plain(i);
      into[at++] = 128 + (end - i);
      into[at++] = values[i];
      from = end;
    }
    i = end;
  }
  plain(values.length);
  return at;
}
