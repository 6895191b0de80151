/**
 * PXR24 and B44: compressions that keep less than they were given.
 * @source OpenEXR reference implementation's documented layouts (BSD-3-Clause): "PXR24", "B44/B44A"
 */
import { floatToHalf, halfToFloat } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import type { ChunkChannel } from './dwa.ts';
import { EXR_TYPE_BYTES, type ExrType } from './types.ts';

/** Bytes that PXR24 stores per sample: floats lose their lowest eight bits. */
const PXR24_BYTES: Record<ExrType, number> = { u32: 4, f16: 2, f32: 3 };

export const pxr24Bytes = (types: readonly ExrType[], samples: number) => types.reduce((sum, type) => sum + PXR24_BYTES[type] * samples, 0);

/** `inflated` holds, line by line and channel by channel, planes of bytes of the differences between neighbours. */
export function unpackPxr24(inflated: Uint8Array, types: readonly ExrType[], width: number, rows: number): Uint8Array {
  // All samples are 16 or 32 bits wide, so the result is made of 16-bit halves.
  const out = new Uint16Array((types.reduce((sum, type) => sum + EXR_TYPE_BYTES[type], 0) * width * rows) / 2);
  let from = 0;
  let to = 0;
  for (let row = 0; row < rows; row++) {
    for (const type of types) {
      const bytes = PXR24_BYTES[type];
      // The planes hold the highest byte first; floats are short of the lowest one.
      const [second, third, fourth] = [from + width, from + 2 * width, from + 3 * width];
      let pixel = 0;
      if (type === 'f16') {
        for (let x = 0; x < width; x++) {
          pixel += (inflated[from + x] << 8) | inflated[second + x];
          out[to++] = pixel;
        }
      } else {
        for (let x = 0; x < width; x++) {
          const lowest = type === 'u32' ? inflated[fourth + x] : 0;
          pixel = (pixel + ((inflated[from + x] << 24) | (inflated[second + x] << 16) | (inflated[third + x] << 8) | lowest)) | 0;
          out[to++] = pixel;
          out[to++] = pixel >>> 16;
        }
      }
      from += bytes * width;
    }
  }
  return new Uint8Array(out.buffer);
}

/** Lines of channels: halves in blocks of four by four, everything else as it is. @throws RangeError if the data does not fit */
export function unpackB44(packed: Uint8Array, channels: readonly ChunkChannel[], width: number, rows: number, kernels: Kernels): Uint8Array {
  const bytes = channels.map(({ type }) => EXR_TYPE_BYTES[type]);
  const restored = kernels.b44Restore(packed, bytes, channels.map(({ type }) => type === 'f16'), width, rows);
  if (!restored) throw new RangeError('the blocks do not fit');
  if (!channels.some(({ isPerceptual, type }) => isPerceptual && type === 'f16')) return restored;
  const out = new Uint16Array(restored.slice().buffer);
  let at = 0;
  for (let row = 0; row < rows; row++) {
    for (const [i, { isPerceptual, type }] of channels.entries()) {
      const words = (bytes[i] / 2) * width;
      if (isPerceptual && type === 'f16') for (let k = at; k < at + words; k++) out[k] = toLinear(out[k]);
      at += words;
    }
  }
  return new Uint8Array(out.buffer);
}

/** Channels that are marked as linear to the eye are packed as the exponential of an eighth of their values. */
function toLinear(bits: number): number {
  const value = halfToFloat(bits);
  return Number.isFinite(value) && value >= 0 ? floatToHalf(8 * Math.log(value)) : 0;
}
