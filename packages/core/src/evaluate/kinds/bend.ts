/** A picture as another lens would have drawn it. See raster/bend.ts. */
import { type Bend, bentInto } from '../../raster/bend.ts';
import type { Region } from '../../raster/region.ts';
import { planeOf, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { BendWork } from './work.ts';

/** Samples around a place, and what the border of a region may miss of its inside. */
const MARGIN = 4;
const STEP = 8;

/** Where a place is looked for: beyond the picture its outermost pixels go on, so that nothing is looked for farther than a pixel outside. */
const within = (value: number, start: number, length: number) => Math.min(start + length + 1, Math.max(start - 1, value));

/** Places are read to a thousandth of a pixel: those are the same numbers from wherever in the picture single precision counts them. */
const GRID = 1024;
const onGrid = (value: number) => Math.round(value * GRID) / GRID;

/** All that a region is made of: a map without folds has the extremes of a region on its border. */
function reached({ bend, scale, size }: BendWork, region: Region): Region {
  const at = new Float64Array(2);
  let [left, top, right, bottom] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  const look = (x: number, y: number) => {
    for (let channel = 0; channel < 3; channel++) {
      bentInto(bend, x * scale, y * scale, channel, at);
      const [u, v] = [within(at[0] / scale, size.x, size.width), within(at[1] / scale, size.y, size.height)];
      [left, right, top, bottom] = [Math.min(left, u), Math.max(right, u), Math.min(top, v), Math.max(bottom, v)];
    }
  };
  const steps = (length: number) => Array.from({ length: Math.ceil(length / STEP) + 1 }, (_, n) => Math.min(length, n * STEP));
  for (const n of steps(region.width)) for (const y of [region.y, region.y + region.height]) look(region.x + n, y);
  for (const n of steps(region.height)) for (const x of [region.x, region.x + region.width]) look(x, region.y + n);
  const [x, y] = [Math.floor(left) - MARGIN, Math.floor(top) - MARGIN];
  return { x, y, width: Math.ceil(right) + MARGIN - x, height: Math.ceil(bottom) + MARGIN - y };
}

/** Channels of which all are read at the same place are placed once. */
const isEven = ({ channels: [r, g, b] }: Bend) => r === g && g === b;

export const bend: PictureKind<BendWork> = {
  inputs: ({ input }) => [input],
  needs: (work, region) => [{ picture: work.input, region: reached(work, region) }],
  make: (work, region, planes, { backend, read }) => {
    const { size } = work;
    const around = reached(work, region);
    const from = read(work.input, around);
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    const { mark } = backend.arena;
    const [u, v] = [backend.arena.take(area), backend.arena.take(area)];
    const at = new Float64Array(2);
    const place = (channel: number) => {
      for (let y = 0, i = 0; y < region.height; y++) {
        for (let x = 0; x < region.width; x++, i++) {
          bentInto(work.bend, (region.x + x + 0.5) * work.scale, (region.y + y + 0.5) * work.scale, channel, at);
          // Behind the camera a map is none any more: nothing is read outside of what is there.
          u[i] = Math.min(around.width - 2, Math.max(2, onGrid(within(at[0] / work.scale, size.x, size.width)) - around.x));
          v[i] = Math.min(around.height - 2, Math.max(2, onGrid(within(at[1] / work.scale, size.y, size.height)) - around.y));
        }
      }
    };
    const count = from.opaque ? 3 : planes;
    for (let plane = 0; plane < count; plane++) {
      // Alpha is where green is.
      if (plane === 0 || !isEven(work.bend)) place(plane < 3 ? plane : 1);
      backend.sample(out.subarray(plane * area, (plane + 1) * area), planeOf(from, plane), around.width, u, v);
    }
    if (from.opaque) out.fill(1, 3 * area, 4 * area);
    else for (let i = 3 * area; i < 4 * area; i++) out[i] = Math.min(1, Math.max(0, out[i]));
    backend.arena.release(mark);
    return { region, planes: out, opaque: from.opaque || settleAlpha(out, area, planes) };
  },
};
