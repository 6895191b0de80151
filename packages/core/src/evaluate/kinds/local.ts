/** Stops of light and their square; the line that a base follows; the picture with its parts weighed anew. See raster/local.ts. */
import type { PictureKind } from './define.ts';
import type { FitWork, LocalWork, MomentsWork } from './work.ts';

export const moments: PictureKind<MomentsWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input }, region) => [{ picture: input, region }],
  make: ({ input }, region, planes, { backend, read }) => {
    const pixels = read(input, region);
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    backend.moments(out, pixels.planes, area);
    return { region, planes: out, opaque: pixels.opaque };
  },
};

export const fit: PictureKind<FitWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input }, region) => [{ picture: input, region }],
  make: ({ input, edgeStops }, region, planes, { backend, read }) => {
    const area = region.width * region.height;
    const pixels = read(input, region);
    const out = backend.arena.take(planes * area);
    backend.fit(out, pixels.planes, area, edgeStops);
    return { region, planes: out, opaque: false };
  },
};

export const local: PictureKind<LocalWork> = {
  inputs: ({ input, lines }) => [input, ...lines],
  needs: ({ input, lines }, region) => [input, ...lines].map((picture) => ({ picture, region })),
  make: ({ input, lines, weights }, region, planes, { backend, read }) => {
    const pixels = read(input, region);
    const area = region.width * region.height;
    const fitted = lines.map((line) => read(line, region).planes);
    const out = backend.arena.take(planes * area);
    backend.local(out, pixels.planes, fitted, area, weights);
    return { region, planes: out, opaque: pixels.opaque };
  },
};
