/** A picture's first plane smeared from a place outwards: each pixel is the mean of those between it and the place, near ones more than far ones. One of several passes. */
import { cornersOf, grown, type Region } from '../../raster/region.ts';
import { planeOf } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { SmearWork } from './work.ts';

/** Samples of a pass; so many passes, each over a share of what the one before reached. */
export const SMEAR_TAPS = 6;
export const SMEAR_PASSES = 3;
/** How much less the farthest sample of all weighs than the nearest: e⁻². Common practice, no published source. */
const DECAY = 2;

/** The way from a pixel to the last sample of a pass. */
function wayFrom({ towards, reachPx, share }: SmearWork, x: number, y: number): readonly [number, number] {
  const [dx, dy] = [towards[0] - x, towards[1] - y];
  const length = Math.hypot(dx, dy);
  const part = length === 0 ? 0 : Math.min(1, reachPx / length) * share;
  return [dx * part, dy * part];
}

/** All that lies between the region and the place, as far as the pass reaches. */
function reached(work: SmearWork, region: Region): Region {
  let [left, top, right, bottom] = [region.x, region.y, region.x + region.width, region.y + region.height];
  for (const [x, y] of cornersOf(region)) {
    const [dx, dy] = wayFrom(work, x, y);
    [left, top, right, bottom] = [Math.min(left, x + dx), Math.min(top, y + dy), Math.max(right, x + dx), Math.max(bottom, y + dy)];
  }
  return grown({ x: Math.floor(left), y: Math.floor(top), width: Math.ceil(right) - Math.floor(left), height: Math.ceil(bottom) - Math.floor(top) }, 1);
}

/**
 * @source K. Mitchell, “Volumetric Light Scattering as a Post-Process”, GPU Gems 3, ch. 13 (2007): samples between a pixel and the light, with decay; here in passes, whose product of samples stands for all of them
 */
export const smear: PictureKind<SmearWork> = {
  inputs: ({ input }) => [input],
  needs: (work, region) => [{ picture: work.input, region: reached(work, region) }],
  make: (work, region, planes, { backend, read }) => {
    const around = reached(work, region);
    const from = planeOf(read(work.input, around), 0);
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    const raw = Array.from({ length: SMEAR_TAPS }, (_, k) => Math.exp((-DECAY * work.share * (k + 0.5)) / SMEAR_TAPS));
    const total = raw.reduce((sum, weight) => sum + weight, 0);
    const weights = Float64Array.from(raw, (weight) => weight / total);
    const [lastX, lastY] = [around.width - 2, around.height - 2];
    for (let y = 0, at = 0; y < region.height; y++) {
      for (let x = 0; x < region.width; x++, at++) {
        const [dx, dy] = wayFrom(work, region.x + x + 0.5, region.y + y + 0.5);
        const [u, v] = [region.x + x - around.x, region.y + y - around.y];
        let sum = 0;
        for (let k = 0; k < SMEAR_TAPS; k++) {
          const along = (k + 0.5) / SMEAR_TAPS;
          const [sx, sy] = [u + dx * along, v + dy * along];
          const [left, top] = [Math.min(lastX, Math.max(0, Math.floor(sx))), Math.min(lastY, Math.max(0, Math.floor(sy)))];
          const [fx, fy] = [sx - left, sy - top];
          const i = top * around.width + left;
          const upper = from[i] + (from[i + 1] - from[i]) * fx;
          sum += weights[k] * (upper + (from[i + around.width] + (from[i + around.width + 1] - from[i + around.width]) * fx - upper) * fy);
        }
        out[at] = sum;
      }
    }
    // Grey and opaque, as pictures that are read beside others are.
    for (let plane = 1; plane < planes; plane++) {
      if (plane === 3) out.fill(1, 3 * area, 4 * area);
      else out.copyWithin(plane * area, 0, area);
    }
    return { region, planes: out, opaque: true };
  },
};
