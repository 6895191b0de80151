/**
 * PXR24 and B44: compressions that keep less than they were given.
 * @source OpenEXR reference implementation's documented layouts (BSD-3-Clause): "PXR24", "B44/B44A"
 */
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
      const shift = type === 'f16' ? 8 : 24;
      let pixel = 0;
      for (let x = 0; x < width; x++) {
        let difference = 0;
        for (let plane = 0; plane < bytes; plane++) difference |= inflated[from + plane * width + x] << (shift - 8 * plane);
        pixel = (pixel + difference) | 0;
        out[to++] = pixel;
        if (type !== 'f16') out[to++] = pixel >>> 16;
      }
      from += bytes * width;
    }
  }
  return new Uint8Array(out.buffer);
}

const BLOCK_BYTES = 14;
const FLAT_BYTES = 3;
/** A shift of 13 and more marks a block of one value. */
const FLAT_MARK = 13 << 2;

/** Channel after channel: halves in blocks of four by four, everything else as it is. @throws RangeError if it ends too early or late */
export function unpackB44(packed: Uint8Array, types: readonly ExrType[], width: number, rows: number): Uint8Array {
  const bytesPerRow = types.reduce((sum, type) => sum + EXR_TYPE_BYTES[type], 0) * width;
  const out = new Uint8Array(bytesPerRow * rows);
  const halves = new Uint16Array(out.buffer);
  const block = new Uint16Array(16);
  let from = 0;
  let channelAt = 0;
  for (const type of types) {
    const rowBytes = EXR_TYPE_BYTES[type] * width;
    if (type !== 'f16') {
      for (let row = 0; row < rows; row++, from += rowBytes) {
        if (from + rowBytes > packed.length) throw new RangeError('the samples end too early');
        out.set(packed.subarray(from, from + rowBytes), row * bytesPerRow + channelAt);
      }
    } else {
      for (let y = 0; y < rows; y += 4) {
        for (let x = 0; x < width; x += 4) {
          from += unpackBlock(packed, from, block);
          const columns = Math.min(4, width - x);
          for (let j = 0; j < Math.min(4, rows - y); j++) {
            const to = ((y + j) * bytesPerRow + channelAt) / 2 + x;
            for (let i = 0; i < columns; i++) halves[to + i] = block[j * 4 + i];
          }
        }
      }
    }
    channelAt += rowBytes;
  }
  if (from !== packed.length) throw new RangeError(`${packed.length - from} bytes too many`);
  return out;
}

/** Order in which a block's values follow from each other: down the first column, then each row to the right. */
const STEPS_TO = Uint8Array.of(4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15);
const STEPS_FROM = Uint8Array.of(0, 4, 8, 0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14);

function unpackBlock(packed: Uint8Array, at: number, block: Uint16Array): number {
  if (at + FLAT_BYTES > packed.length) throw new RangeError('the blocks end too early');
  const first = (packed[at] << 8) | packed[at + 1];
  if (packed[at + 2] >= FLAT_MARK) {
    block.fill(fromOrdered(first));
    return FLAT_BYTES;
  }
  if (at + BLOCK_BYTES > packed.length) throw new RangeError('the blocks end too early');
  const shift = packed[at + 2] >> 2;
  const bias = 0x20 << shift;
  block[0] = first;
  // After 16 bits of value and 6 of shift, fifteen differences of 6 bits each.
  for (let i = 0; i < 15; i++) {
    const bit = 22 + i * 6;
    const pair = (packed[at + (bit >> 3)] << 8) | (packed[at + (bit >> 3) + 1] ?? 0);
    const difference = (pair >> (10 - (bit & 7))) & 0x3f;
    block[STEPS_TO[i]] = block[STEPS_FROM[i]] + (difference << shift) - bias;
  }
  for (let i = 0; i < 16; i++) block[i] = fromOrdered(block[i]);
  return BLOCK_BYTES;
}

/** Halves are stored so that larger numbers are larger values, negatives turned over. */
const fromOrdered = (value: number) => (value & 0x8000 ? value & 0x7fff : ~value & 0xffff);
