/** A picture of everything around (equirectangular: the top row at the zenith, the middle column towards −z, +x to the right of it) as a camera sees it. */
import { rayThrough } from '../../camera/view.ts';
import { intersect, type Region } from '../../raster/region.ts';
import type { PictureKind } from './define.ts';
import type { SphereWork } from './work.ts';

/** A place in the input for a place in the picture, both in pixels with centres at a half. The input goes on at its left and right. */
function placeOf({ view, turnRadians, size, scale }: SphereWork, x: number, y: number): readonly [number, number] {
  const [dx, dy, dz] = rayThrough(view, x * scale, y * scale);
  const around = (Math.atan2(dx, -dz) - turnRadians) / (2 * Math.PI) + 0.5;
  const up = Math.atan2(dy, Math.hypot(dx, dz));
  return [size.x + (around - Math.floor(around)) * size.width, size.y + (0.5 - up / Math.PI) * size.height];
}

/** Places along a region from which what it reads is found. */
const PROBES = 8;

function reached(work: SphereWork, region: Region): Region {
  const { size } = work;
  let [left, top, right, bottom] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (let j = 0; j <= PROBES; j++) {
    for (let i = 0; i <= PROBES; i++) {
      const [u, v] = placeOf(work, region.x + (region.width * i) / PROBES, region.y + (region.height * j) / PROBES);
      [left, top, right, bottom] = [Math.min(left, u), Math.min(top, v), Math.max(right, u), Math.max(bottom, v)];
    }
  }
  // Between the probes it bends; and what is half as wide as everything lies across the seam, or around the zenith.
  const margin = 3 + (bottom - top) / PROBES;
  const isAcross = right - left > size.width * 0.4;
  const aside = 3 + (right - left) / PROBES;
  const wanted = { x: Math.floor(left - aside), y: isAcross && top < size.y + size.height / 3 ? size.y : Math.floor(top - margin), width: Math.ceil(right - left + 2 * aside) + 1, height: 0 };
  const end = isAcross && bottom > size.y + (size.height * 2) / 3 ? size.y + size.height : Math.ceil(bottom + margin) + 1;
  const rows = { ...wanted, height: end - wanted.y };
  const found = isAcross || wanted.x < size.x || wanted.x + wanted.width > size.x + size.width ? { ...rows, x: size.x, width: size.width } : rows;
  return intersect(found, size) ?? { x: size.x, y: size.y, width: 1, height: 1 };
}

/** Places are worked out this far from one another; in between they lie on straight lines, unless those miss the middle by more than so many pixels (around the zenith, across the seam). */
const [CELL, MOST_OFF] = [8, 0.02];
/** Rows whose places lie in the cache at once: whole cells. */
const ROWS = 4 * CELL;
/** Places are the same numbers from wherever in the picture single precision counts them. */
const GRID = 1024;
const onGrid = (value: number) => Math.round(value * GRID) / GRID;

/** Where each pixel of a region lies in the input, from a corner on. Cells lie where they do whatever the region. */
function placesOf(work: SphereWork, region: Region, from: Region, u: Float32Array, v: Float32Array): void {
  const [firstX, firstY] = [Math.floor(region.x / CELL), Math.floor(region.y / CELL)];
  const [endX, endY] = [region.x + region.width, region.y + region.height];
  const across = Math.ceil(endX / CELL) - firstX + 1;
  const corners = (row: number) => Array.from({ length: across }, (_, i) => placeOf(work, (firstX + i) * CELL + 0.5, row * CELL + 0.5));
  let below = corners(firstY);
  for (let row = firstY; row * CELL < endY; row++) {
    const above = below;
    below = corners(row + 1);
    const [top, bottom] = [Math.max(region.y, row * CELL), Math.min(endY, (row + 1) * CELL)];
    for (let i = 0; i < across - 1; i++) {
      const start = (firstX + i) * CELL;
      const [left, right] = [Math.max(region.x, start), Math.min(endX, start + CELL)];
      const [a, b, c, d] = [above[i], above[i + 1], below[i], below[i + 1]];
      const [midU, midV] = placeOf(work, start + CELL / 2 + 0.5, (row + 0.5) * CELL + 0.5);
      const isStraight = Math.abs((a[0] + b[0] + c[0] + d[0]) / 4 - midU) < MOST_OFF && Math.abs((a[1] + b[1] + c[1] + d[1]) / 4 - midV) < MOST_OFF;
      for (let y = top; y < bottom; y++) {
        const down = (y - row * CELL) / CELL;
        const [u0, v0] = [a[0] + (c[0] - a[0]) * down, a[1] + (c[1] - a[1]) * down];
        const [stepU, stepV] = [(b[0] + (d[0] - b[0]) * down - u0) / CELL, (b[1] + (d[1] - b[1]) * down - v0) / CELL];
        let at = (y - region.y) * region.width + left - region.x;
        if (isStraight) {
          // In whole steps of the grid: the end of a cell is off by less than a hundredth of a pixel.
          const [byU, byV] = [Math.round(stepU * GRID), Math.round(stepV * GRID)];
          let inU = Math.round(u0 * GRID) - from.x * GRID + byU * (left - start);
          let inV = Math.round(v0 * GRID) - from.y * GRID + byV * (left - start);
          for (let x = left; x < right; x++, at++) {
            u[at] = inU / GRID;
            v[at] = inV / GRID;
            inU += byU;
            inV += byV;
          }
          continue;
        }
        for (let x = left; x < right; x++, at++) {
          const [placeU, placeV] = placeOf(work, x + 0.5, y + 0.5);
          u[at] = onGrid(placeU) - from.x;
          v[at] = onGrid(placeV) - from.y;
        }
      }
    }
  }
}

export const sphere: PictureKind<SphereWork> = {
  inputs: ({ input }) => [input],
  needs: (work, region) => [{ picture: work.input, region: reached(work, region) }],
  make: (work, region, planes, { backend, read }) => {
    const wanted = reached(work, region);
    const pixels = read(work.input, wanted);
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    const { mark } = backend.arena;
    const most = region.width * Math.min(ROWS, region.height);
    const [allU, allV] = [backend.arena.take(most), backend.arena.take(most)];
    const from = pixels.planes.subarray(0, 3 * wanted.width * wanted.height);
    for (let top = 0; top < region.height; top += ROWS) {
      const strip = { ...region, y: region.y + top, height: Math.min(ROWS, region.height - top) };
      const count = strip.width * strip.height;
      const [u, v] = [allU.subarray(0, count), allV.subarray(0, count)];
      placesOf(work, strip, wanted, u, v);
      const plane = (c: number) => out.subarray(c * area + top * region.width, c * area + top * region.width + count);
      backend.around([plane(0), plane(1), plane(2)], from, wanted.width, wanted.height, wanted.width === work.size.width, u, v);
    }
    backend.arena.release(mark);
    out.fill(1, 3 * area, 4 * area);
    return { region, planes: out, opaque: true };
  },
};
