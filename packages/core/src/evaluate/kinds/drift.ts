/** A picture drawn out along a straight way: each pixel is the mean of so many on it, at equal steps. One of several passes, whose combs together are one even line. */
import { grown, type Region } from '../../raster/region.ts';
import { planeOf } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { DriftWork } from './work.ts';

/** Samples of a pass. */
export const DRIFT_TAPS = 6;

const around = ({ way }: DriftWork, region: Region): Region => grown(region, Math.ceil(Math.max(Math.abs(way[0]), Math.abs(way[1])) / 2) + 1);

export const drift: PictureKind<DriftWork> = {
  inputs: ({ input }) => [input],
  needs: (work, region) => [{ picture: work.input, region: around(work, region) }],
  make: (work, region, planes, { backend, read }) => {
    const reached = around(work, region);
    const from = read(work.input, reached);
    const [width, area] = [region.width, region.width * region.height];
    const out = backend.arena.take(planes * area).fill(0);
    for (let tap = 0; tap < DRIFT_TAPS; tap++) {
      const at = (tap + 0.5) / DRIFT_TAPS - 0.5;
      // The same place beside each pixel: four weights for all of them.
      const [x, y] = [region.x - reached.x + at * work.way[0], region.y - reached.y + at * work.way[1]];
      const [left, top] = [Math.floor(x), Math.floor(y)];
      const [fx, fy] = [x - left, y - top];
      const [w00, w10, w01, w11] = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy].map((weight) => weight / DRIFT_TAPS);
      for (let plane = 0; plane < planes; plane++) {
        const values = planeOf(from, plane);
        for (let row = 0; row < region.height; row++) {
          let i = (top + row) * reached.width + left;
          const end = plane * area + (row + 1) * width;
          for (let to = end - width; to < end; to++, i++) out[to] += w00 * values[i] + w10 * values[i + 1] + w01 * values[i + reached.width] + w11 * values[i + reached.width + 1];
        }
      }
    }
    return { region, planes: out, opaque: from.opaque };
  },
};
