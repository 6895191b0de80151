/** A picture of everything around (equirectangular: the top row at the zenith, the middle column towards −z, +x to the right of it) as a camera sees it. */
import { rayThrough } from '../../camera/view.ts';
import { intersect, type Region } from '../../raster/region.ts';
import { planeOf } from '../pixels.ts';
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

export const sphere: PictureKind<SphereWork> = {
  inputs: ({ input }) => [input],
  needs: (work, region) => [{ picture: work.input, region: reached(work, region) }],
  make: (work, region, planes, tools) => {
    const wanted = reached(work, region);
    const pixels = tools.read(work.input, wanted);
    const from = [0, 1, 2].map((channel) => planeOf(pixels, channel));
    const area = region.width * region.height;
    const out = tools.backend.arena.take(planes * area);
    const goesAround = wanted.width === work.size.width;
    const column = (x: number) => (goesAround ? ((x % wanted.width) + wanted.width) % wanted.width : Math.min(wanted.width - 1, Math.max(0, x)));
    const row = (y: number) => Math.min(wanted.height - 1, Math.max(0, y)) * wanted.width;
    for (let y = 0, at = 0; y < region.height; y++) {
      for (let x = 0; x < region.width; x++, at++) {
        const [u, v] = placeOf(work, region.x + x + 0.5, region.y + y + 0.5);
        const [left, top] = [Math.floor(u - 0.5), Math.floor(v - 0.5)];
        const [fx, fy] = [u - 0.5 - left, v - 0.5 - top];
        const [x0, x1, y0, y1] = [column(left - wanted.x), column(left + 1 - wanted.x), row(top - wanted.y), row(top + 1 - wanted.y)];
        for (let c = 0; c < 3; c++) {
          const plane = from[c];
          const upper = plane[y0 + x0] + (plane[y0 + x1] - plane[y0 + x0]) * fx;
          out[c * area + at] = upper + (plane[y1 + x0] + (plane[y1 + x1] - plane[y1 + x0]) * fx - upper) * fy;
        }
      }
    }
    out.fill(1, 3 * area, 4 * area);
    return { region, planes: out, opaque: true };
  },
};
