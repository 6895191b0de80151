/** A picture at half or a quarter of its size, by the weights 1 3 3 1 in both directions. */
import type { Region } from '../../raster/region.ts';
import { planeOf, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { ReduceWork } from './work.ts';

const finer = ({ x, y, width, height }: Region): Region => ({ x: 2 * x - 1, y: 2 * y - 1, width: 2 * width + 2, height: 2 * height + 2 });

export const reduce: PictureKind<ReduceWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input, by }, region) => [{ picture: input, region: by === 2 ? finer(finer(region)) : finer(region) }],
  make: ({ input, by }, region, planes, tools) => {
    const between = by === 2 ? finer(region) : region;
    const pixels = tools.read(input, finer(between));
    const area = region.width * region.height;
    const out = new Float32Array(planes * area);
    for (let plane = 0; plane < planes; plane++) {
      const once = tools.backend.halve(planeOf(pixels, plane), between.width, between.height);
      out.set(by === 2 ? tools.backend.halve(once, region.width, region.height) : once, plane * area);
    }
    return { region, planes: out, opaque: settleAlpha(out, area, planes) };
  },
};
