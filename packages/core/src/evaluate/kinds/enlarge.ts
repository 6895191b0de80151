/** A reduced picture at its old size again, through the cubic B-spline of its pixels. */
import type { Region } from '../../raster/region.ts';
import { alphaPlane, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { EnlargeWork } from './work.ts';

/** Pixels of the reduced picture that a row of `length` pixels from `start` on reads. */
function span(start: number, length: number, by: number): [first: number, count: number] {
  const at = (x: number) => Math.floor((x + 0.5) / 2 ** by - 0.5);
  const first = at(start) - 1;
  return [first, at(start + length - 1) + 3 - first];
}

export function coarse({ x, y, width, height }: Region, by: number): Region {
  const [[left, across], [top, down]] = [span(x, width, by), span(y, height, by)];
  return { x: left, y: top, width: across, height: down };
}

export const enlarge: PictureKind<EnlargeWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input, by }, region) => [{ picture: input, region: coarse(region, by) }],
  make: ({ input, by }, region, planes, tools) => {
    const pixels = tools.read(input, coarse(region, by));
    const area = region.width * region.height;
    const out = tools.backend.arena.take(planes * area);
    const isEven = pixels.opaque && alphaPlane(planes) !== null;
    const count = isEven ? planes - 1 : planes;
    tools.backend.enlarge(out.subarray(0, count * area), pixels.planes.subarray(0, count * pixels.region.width * pixels.region.height), pixels.region, region, by);
    if (isEven) out.fill(1, count * area, planes * area);
    return { region, planes: out, opaque: isEven || settleAlpha(out, area, planes) };
  },
};
