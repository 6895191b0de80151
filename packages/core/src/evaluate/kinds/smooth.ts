/** One pass of a smoothing that stops at edges. See raster/smooth.ts. */
import { grown } from '../../raster/region.ts';
import { settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { SmoothWork } from './work.ts';

export const smooth: PictureKind<SmoothWork> = {
  inputs: ({ input, guides }) => [input, ...guides.map(({ picture }) => picture)],
  needs: ({ input, guides, distance }, region) => [input, ...guides.map(({ picture }) => picture)].map((picture) => ({ picture, region: grown(region, 2 * distance) })),
  make: ({ input, guides, distance, lightStops }, region, planes, { backend, read }) => {
    const around = grown(region, 2 * distance);
    const pixels = read(input, around);
    const followed = guides.map(({ picture, width }) => ({ planes: read(picture, around).planes, width }));
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    backend.smooth(out, pixels.planes, followed, region.width, region.height, distance, lightStops);
    return { region, planes: out, opaque: settleAlpha(out, area, planes) };
  },
};
