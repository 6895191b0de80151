/** What lies near and far at each pixel of an element of metres. See raster/sides.ts. */
import { grown } from '../../raster/region.ts';
import type { PictureKind } from './define.ts';
import type { SidesWork } from './work.ts';

export const sides: PictureKind<SidesWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input }, region) => [{ picture: input, region: grown(region, 1) }],
  make: ({ input }, region, planes, { backend, read }) => {
    const around = grown(region, 1);
    const metres = read(input, around).planes.subarray(0, around.width * around.height);
    const out = backend.arena.take(planes * region.width * region.height);
    backend.sides(out, metres, region.width, region.height);
    return { region, planes: out, opaque: true };
  },
};
