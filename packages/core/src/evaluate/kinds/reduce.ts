/** A picture at half or a quarter of its size, by the weights 1 3 3 1 in both directions. */
import type { Region } from '../../raster/region.ts';
import { planeOf, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { ReduceWork } from './work.ts';

const finer = ({ x, y, width, height }: Region): Region => ({ x: 2 * x - 1, y: 2 * y - 1, width: 2 * width + 2, height: 2 * height + 2 });

const PIECE = { width: 128, height: 16 };

function* piecesOf({ x, y, width, height }: Region): Generator<Region> {
  for (let top = 0; top < height; top += PIECE.height) {
    for (let left = 0; left < width; left += PIECE.width) yield { x: x + left, y: y + top, width: Math.min(PIECE.width, width - left), height: Math.min(PIECE.height, height - top) };
  }
}

export const reduce: PictureKind<ReduceWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input, by }, region) => [{ picture: input, region: by === 2 ? finer(finer(region)) : finer(region) }],
  make: ({ input, by }, region, planes, tools) => {
    const area = region.width * region.height;
    const out = tools.take(planes * area);
    // In pieces, so that what is read stays in the cache until it is reduced.
    for (const piece of piecesOf(region)) {
      const between = by === 2 ? finer(piece) : piece;
      const pixels = tools.read(input, finer(between));
      for (let plane = 0; plane < planes; plane++) {
        const isEven = plane === 3 && pixels.opaque && planes === 4;
        const once = isEven ? null : tools.backend.halve(planeOf(pixels, plane), between.width, between.height);
        const small = once && by === 2 ? tools.backend.halve(once, piece.width, piece.height) : once;
        for (let row = 0; row < piece.height; row++) {
          const to = plane * area + (piece.y - region.y + row) * region.width + piece.x - region.x;
          if (small) out.set(small.subarray(row * piece.width, (row + 1) * piece.width), to);
          else out.fill(1, to, to + piece.width);
        }
      }
    }
    return { region, planes: out, opaque: settleAlpha(out, area, planes) };
  },
};
