/** Finished pixels into the shared memory of a whole picture. */
import { clampUnit, type Pixels, planeOf, type Region } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import { OUTPUT_BYTES, type OutputForm } from './protocol.ts';

/** @param window what of the picture `output` holds, in that kind */
export function writeOutput(made: Pixels, window: Region, { kind, dither, space }: OutputForm, output: ArrayBufferLike, kernels: Kernels): void {
  const pixels = space === 'srgb' ? made : { ...made, planes: made.planes.slice() };
  if (space !== 'srgb') kernels.toSpace(space, pixels);
  const { x, y, width, height } = pixels.region;
  const area = width * height;
  if (kind === 'float' || kind === 'half') {
    const whole = kind === 'float' ? new Float32Array(output) : new Uint16Array(output);
    for (let c = 0; c < (kind === 'float' ? 4 : 3); c++) {
      const plane = kind === 'float' ? planeOf(pixels, c) : halves(pixels, c, kernels);
      for (let row = 0; row < height; row++) whole.set(plane.subarray(row * width, (row + 1) * width), c * window.width * window.height + (y - window.y + row) * window.width + x - window.x);
    }
    return;
  }
  const packed = kind === 'rgba8' ? new Uint8Array(area * 4) : new Uint16Array(area * 4);
  if (packed instanceof Uint8Array) kernels.packBytes(pixels, packed, dither);
  else kernels.packWords(pixels, packed);
  const whole = packed instanceof Uint8Array ? new Uint8Array(output, 0, window.width * window.height * OUTPUT_BYTES[kind]) : new Uint16Array(output);
  for (let row = 0; row < height; row++) whole.set(packed.subarray(row * width * 4, (row + 1) * width * 4), ((y - window.y + row) * window.width + x - window.x) * 4);
}

/** Straight picture values of one channel, 0 to 1. */
function halves(pixels: Pixels, channel: number, kernels: Kernels): Uint16Array {
  const color = planeOf(pixels, channel);
  const alpha = planeOf(pixels, 3);
  const straight = Float32Array.from(color, (value, i) => clampUnit(alpha[i] > 0 ? value / alpha[i] : 0));
  const out = new Uint16Array(straight.length);
  kernels.toHalf(straight, out);
  return out;
}
