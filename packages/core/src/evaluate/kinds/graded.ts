/** A blur that grows with the distance from a line: between pictures of ever wider Gaussians, each twice as wide as the one before. */
import { settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { GradedWork } from './work.ts';

/** How wide it is there, in pixels: along a smooth step. */
export function gradedSigma({ middle, across, begins, full, sigmas }: Pick<GradedWork, 'middle' | 'across' | 'begins' | 'full' | 'sigmas'>, x: number, y: number): number {
  const distance = Math.abs((x - middle[0]) * across[0] + (y - middle[1]) * across[1]);
  const t = Math.min(1, Math.max(0, (distance - begins) / Math.max(1e-6, full - begins)));
  return sigmas[sigmas.length - 1] * t * t * (3 - 2 * t);
}

export const graded: PictureKind<GradedWork> = {
  inputs: ({ pictures }) => pictures,
  needs: ({ pictures }, region) => pictures.map((picture) => ({ picture, region })),
  make: (work, region, planes, { backend, read }) => {
    const area = region.width * region.height;
    const from = work.pictures.map((picture) => read(picture, region));
    const out = backend.arena.take(planes * area);
    const { sigmas } = work;
    for (let y = 0, at = 0; y < region.height; y++) {
      for (let x = 0; x < region.width; x++, at++) {
        const sigma = gradedSigma(work, region.x + x + 0.5, region.y + y + 0.5);
        let k = 0;
        while (k < sigmas.length - 2 && sigma > sigmas[k + 1]) k++;
        // Variances are what add up: between two Gaussians it goes by them.
        const share = Math.min(1, Math.max(0, (sigma ** 2 - sigmas[k] ** 2) / (sigmas[k + 1] ** 2 - sigmas[k] ** 2)));
        const [a, b] = [from[k].planes, from[k + 1].planes];
        for (let plane = 0, i = at; plane < planes; plane++, i += area) out[i] = share === 0 ? a[i] : a[i] + share * (b[i] - a[i]);
      }
    }
    return { region, planes: out, opaque: from.every((pixels) => pixels.opaque) || settleAlpha(out, area, planes) };
  },
};
