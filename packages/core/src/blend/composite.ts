/** One pixel composited: the definition that the blend kernels are tested against. */
import type { Triple } from '../vector.ts';
import type { ZoneBlend } from './modes.ts';

export type Rgba = readonly [number, number, number, number];

/**
 * Source-over with blend: co = αs(1−αb)Cs + αs·αb·B(Cb, Cs) + (1−αs)αb·Cb, αo = αb + αs(1−αb).
 *
 * @param backdrop premultiplied
 * @param source colour, not premultiplied
 * @param alpha the source's alpha in [0, 1], with mask and opacity already in it
 * @returns premultiplied
 * @source W3C Compositing and Blending Level 1, §5 and §9 ("lighter": §9.1.14)
 */
export function composite(blend: ZoneBlend, backdrop: Rgba, source: Triple, alpha: number): Rgba {
  const ab = backdrop[3];
  if (blend.kind === 'lighter') {
    const limit = blend.bounded ? 1 : Number.POSITIVE_INFINITY;
    const sum = (i: number) => Math.min(limit, backdrop[i] + alpha * source[i]);
    return [sum(0), sum(1), sum(2), Math.min(1, ab + alpha)];
  }
  const straight: Triple = ab > 0 ? [backdrop[0] / ab, backdrop[1] / ab, backdrop[2] / ab] : [0, 0, 0];
  const blended: Triple =
    blend.kind === 'non-separable'
      ? blend.formula(straight, source)
      : [blend.formula(straight[0], source[0]), blend.formula(straight[1], source[1]), blend.formula(straight[2], source[2])];
  const channel = (i: number) => alpha * ((1 - ab) * source[i] + ab * blended[i]) + (1 - alpha) * backdrop[i];
  return [channel(0), channel(1), channel(2), ab + alpha * (1 - ab)];
}
