/** A picture at half or a quarter of its size, by the weights 1 3 3 1 in both directions. */
import type { Region } from '../../raster/region.ts';
import { alphaPlane, planeOf, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { ReduceWork } from './work.ts';

export const finer = ({ x, y, width, height }: Region): Region => ({ x: 2 * x - 1, y: 2 * y - 1, width: 2 * width + 2, height: 2 * height + 2 });

/** Rows that are made at once, so that what they read stays in the cache until it is reduced. */
export const ROWS = 12;

export const reduce: PictureKind<ReduceWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input, by }, region) => [{ picture: input, region: by === 2 ? finer(finer(region)) : finer(region) }],
  make: ({ input, by }, region, planes, tools) => {
    const { arena } = tools.backend;
    const { width } = region;
    const area = width * region.height;
    const out = arena.take(planes * area);
    const { mark } = arena;
    for (let top = 0; top < region.height; top += ROWS) {
      const strip = { x: region.x, y: region.y + top, width, height: Math.min(ROWS, region.height - top) };
      const between = by === 2 ? finer(strip) : strip;
      const pixels = tools.read(input, finer(between));
      const middle = by === 2 ? arena.take(between.width * between.height) : null;
      for (let plane = 0; plane < planes; plane++) {
        const to = out.subarray(plane * area + top * width, plane * area + (top + strip.height) * width);
        if (plane === alphaPlane(planes) && pixels.opaque) to.fill(1);
        else if (middle) {
          tools.backend.halve(middle, planeOf(pixels, plane), between.width, between.height);
          tools.backend.halve(to, middle, width, strip.height);
        } else tools.backend.halve(to, planeOf(pixels, plane), width, strip.height);
      }
      arena.release(mark);
    }
    return { region, planes: out, opaque: settleAlpha(out, area, planes) };
  },
};
