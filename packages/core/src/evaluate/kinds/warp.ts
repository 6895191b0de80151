/** A picture scaled, turned and moved, through a resampling filter. Beyond its pixels it is transparent. */
import { filterTable, resamplingFilters } from '../../raster/filters.ts';
import { cornersOf, intersect, type Region } from '../../raster/region.ts';
import type { AffineMap } from '../../raster/affine.ts';
import type { PictureKind } from './define.ts';
import type { WarpWork } from './work.ts';

const tables = new Map<string, Float32Array>();
function tableOf(filter: WarpWork['filter']): Float32Array {
  const table = tables.get(filter) ?? filterTable(resamplingFilters[filter]);
  tables.set(filter, table);
  return table;
}

/** How wide the filter is drawn in each direction of the input: wider where that is drawn smaller. */
export const stretchOf = ([a, b, c, d]: AffineMap): [number, number] => [Math.max(1, Math.hypot(a, b)), Math.max(1, Math.hypot(c, d))];

/** The pixels of the input that a region reads; null if it lies beside it. */
function reached({ map, filter, size }: WarpWork, region: Region): Region | null {
  const [a, b, c, d, e, f] = map;
  const corners = cornersOf(region).map(([px, py]) => [a * px + b * py + e, c * px + d * py + f]);
  const { radius } = resamplingFilters[filter];
  const [sx, sy] = stretchOf(map);
  const [xs, ys] = [corners.map(([u]) => u), corners.map(([, v]) => v)];
  const left = Math.floor(Math.min(...xs) - radius * sx) - 1;
  const top = Math.floor(Math.min(...ys) - radius * sy) - 1;
  return intersect({ x: left, y: top, width: Math.ceil(Math.max(...xs) + radius * sx) + 1 - left, height: Math.ceil(Math.max(...ys) + radius * sy) + 1 - top }, size);
}

export const warp: PictureKind<WarpWork> = {
  inputs: ({ input }) => [input],
  needs: (work, region) => {
    const wanted = reached(work, region);
    return wanted ? [{ picture: work.input, region: wanted }] : [];
  },
  make: (work, region, planes, tools) => {
    const wanted = reached(work, region);
    const area = region.width * region.height;
    if (!wanted) return { region, planes: tools.backend.arena.take(planes * area).fill(0), opaque: false };
    const pixels = tools.read(work.input, wanted);
    const out = tools.backend.arena.take(planes * area);
    tools.backend.warp(out, pixels.planes, wanted, region, work.map, tableOf(work.filter), resamplingFilters[work.filter].radius);
    return { region, planes: out, opaque: false };
  },
};
