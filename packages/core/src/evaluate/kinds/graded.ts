/** A blur that grows with the distance from a line: between pictures of ever wider Gaussians, each twice as wide as the one before. */
import { cornersOf, type Region } from '../../raster/region.ts';
import { settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { GradedWork } from './work.ts';

/** How wide it is there, in pixels: along a smooth step. */
export function gradedSigma({ middle, across, begins, full, sigmas }: Pick<GradedWork, 'middle' | 'across' | 'begins' | 'full' | 'sigmas'>, x: number, y: number): number {
  const distance = Math.abs((x - middle[0]) * across[0] + (y - middle[1]) * across[1]);
  const t = Math.min(1, Math.max(0, (distance - begins) / Math.max(1e-6, full - begins)));
  return sigmas[sigmas.length - 1] * t * t * (3 - 2 * t);
}

/** The first and the last of the pictures that a region lies between. */
function span(work: GradedWork, region: Region): readonly [first: number, last: number] {
  const { middle, across, sigmas } = work;
  const corners = cornersOf(region);
  const sides = corners.map(([cx, cy]) => (cx - middle[0]) * across[0] + (cy - middle[1]) * across[1]);
  const onLine = sides.some((side) => side > 0) && sides.some((side) => side < 0);
  const widths = corners.map(([cx, cy]) => gradedSigma(work, cx, cy));
  const [least, most] = [onLine ? 0 : Math.min(...widths), Math.max(...widths)];
  const first = Math.max(0, sigmas.findLastIndex((sigma) => sigma <= least));
  const last = sigmas.findIndex((sigma) => sigma >= most);
  return [first, last < 0 ? sigmas.length - 1 : last];
}

export const graded: PictureKind<GradedWork> = {
  inputs: ({ pictures }) => pictures,
  needs: (work, region) => {
    const [first, last] = span(work, region);
    return work.pictures.slice(first, last + 1).map((picture) => ({ picture, region }));
  },
  make: (work, region, planes, { backend, read }) => {
    const area = region.width * region.height;
    const [first, last] = span(work, region);
    const from = work.pictures.slice(first, last + 1).map((picture) => read(picture, region));
    const sigmas = work.sigmas.slice(first, last + 1);
    const out = backend.arena.take(planes * area);
    const opaque = from.every((pixels) => pixels.opaque);
    if (from.length === 1) {
      out.set(from[0].planes.subarray(0, planes * area));
      return { region, planes: out, opaque };
    }
    const count = opaque ? planes - 1 : planes;
    if (opaque) out.fill(1, count * area, planes * area);
    for (let y = 0, at = 0; y < region.height; y++) {
      for (let x = 0; x < region.width; x++, at++) {
        const sigma = gradedSigma(work, region.x + x + 0.5, region.y + y + 0.5);
        let k = 0;
        while (k < sigmas.length - 2 && sigma > sigmas[k + 1]) k++;
        // Variances are what add up: between two Gaussians it goes by them.
        const share = Math.min(1, Math.max(0, (sigma * sigma - sigmas[k] * sigmas[k]) / (sigmas[k + 1] * sigmas[k + 1] - sigmas[k] * sigmas[k])));
        const [a, b] = [from[k].planes, from[k + 1].planes];
        for (let plane = 0, i = at; plane < count; plane++, i += area) out[i] = share === 0 ? a[i] : a[i] + share * (b[i] - a[i]);
      }
    }
    return { region, planes: out, opaque: opaque || settleAlpha(out, area, planes) };
  },
};
