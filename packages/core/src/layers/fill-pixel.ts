/** Pixels from a formula: one colour, or a ramp between two along a line or around a point. */
import type { PixelPlace } from '../corrections/define.ts';

export const FILL_SHAPES = ['plain', 'linear', 'radial'] as const;
export type FillShape = (typeof FILL_SHAPES)[number];

/** Light (linear, straight) and alpha. */
export type FillColor = readonly [red: number, green: number, blue: number, alpha: number];

export interface Fill {
  readonly shape: FillShape;
  /** At `start`, and everywhere if it is plain. */
  readonly from: FillColor;
  readonly to: FillColor;
  /** Pixels of the full picture. Linear: the ramp runs from start to end and goes on with the end colours. Radial: around start, out to end. */
  readonly start: readonly [x: number, y: number];
  readonly end: readonly [x: number, y: number];
}

/** Packed for the kernel: 0 or 1 for linear or radial, start, direction over its squared length (or 1 over the radius), both colours premultiplied. */
export function prepareFill({ shape, from, to, start, end }: Fill): Float32Array {
  const [dx, dy] = shape === 'plain' ? [0, 0] : [end[0] - start[0], end[1] - start[1]];
  const squared = dx * dx + dy * dy;
  const radial = shape === 'radial';
  // A ramp of no length is an edge; what lies on it counts as behind it.
  const along = squared > 0 ? [dx / squared, dy / squared] : [0, 0];
  const last = shape === 'plain' ? from : to;
  const packed = (color: FillColor) => [color[0] * color[3], color[1] * color[3], color[2] * color[3], color[3]];
  return Float32Array.of(radial ? 1 : 0, start[0], start[1], radial ? (squared > 0 ? 1 / Math.sqrt(squared) : 0) : along[0], radial ? 0 : along[1], ...packed(from), ...packed(last));
}

/** Straight colour and alpha of a pixel. Ramps mix premultiplied colours, so that a transparent end brings no colour of its own. */
export function fillPixel(prepared: Float32Array, [x, y]: PixelPlace): [number, number, number, number] {
  const [radial, startX, startY, ax, ay] = prepared;
  const [dx, dy] = [x - startX, y - startY];
  const t = Math.min(1, Math.max(0, radial ? Math.sqrt(dx * dx + dy * dy) * ax : dx * ax + dy * ay));
  const mixed = [0, 1, 2, 3].map((i) => prepared[5 + i] + t * (prepared[9 + i] - prepared[5 + i]));
  const alpha = mixed[3];
  return alpha > 0 ? [mixed[0] / alpha, mixed[1] / alpha, mixed[2] / alpha, alpha] : [0, 0, 0, 0];
}
