/** A sampled Gaussian, rows and columns in turn. Beyond the picture its outermost pixels go on. */
import { grown } from '../../raster/region.ts';
import { gaussianRadius, gaussianWeights } from '../gaussian-phases.ts';
import { alphaPlane, planeOf, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { ConvolveWork } from './work.ts';

export const convolve: PictureKind<ConvolveWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input, sigmaPx }, region) => [{ picture: input, region: grown(region, gaussianRadius(sigmaPx)) }],
  make: ({ input, sigmaPx }, region, planes, tools) => {
    const pixels = tools.read(input, grown(region, gaussianRadius(sigmaPx)));
    const weights = gaussianWeights(sigmaPx);
    const area = region.width * region.height;
    const out = tools.backend.arena.take(planes * area);
    const isEven = pixels.opaque && alphaPlane(planes) !== null;
    for (let plane = 0; plane < (isEven ? planes - 1 : planes); plane++) tools.backend.convolve(out.subarray(plane * area, (plane + 1) * area), planeOf(pixels, plane), region.width, region.height, weights);
    if (isEven) out.fill(1, (planes - 1) * area, planes * area);
    return { region, planes: out, opaque: isEven || settleAlpha(out, area, planes) };
  },
};
