/** What corrections have in common that scale, move and raise channels: the definition of what assembly/tone.ts does as `power`. */
import { luminanceOf } from '../color/luminance.ts';
import type { Triple } from '../vector.ts';

/** A channel becomes (v · factor + offset) to the power. */
export interface ChannelPower {
  readonly factor: number;
  readonly offset: number;
  readonly exponent: number;
}

/** Factor, offset and exponent of three channels, then the saturation about luminance. */
export const powerOf = (channels: readonly ChannelPower[], saturation = 1): Float32Array => Float32Array.from([...channels.flatMap(({ factor, offset, exponent }) => [factor, offset, exponent]), saturation]);

/** The same for all three. */
export const evenPower = (channel: ChannelPower): Float32Array => powerOf([channel, channel, channel]);

/** What is not above 0 is not raised, and stays as it is. */
export function powered(rgb: Triple, prepared: ArrayLike<number>): Triple {
  const channel = (c: number) => {
    const base = rgb[c] * prepared[c * 3] + prepared[c * 3 + 1];
    return base > 1.2e-38 && prepared[c * 3 + 2] !== 1 ? base ** prepared[c * 3 + 2] : base;
  };
  const raised: Triple = [channel(0), channel(1), channel(2)];
  const saturation = prepared[9];
  if (saturation === 1) return raised;
  const luminance = luminanceOf(raised);
  return [luminance + saturation * (raised[0] - luminance), luminance + saturation * (raised[1] - luminance), luminance + saturation * (raised[2] - luminance)];
}
