/** A small picture whose light is bent aside by the opening of a lens: all of it at once, by Fourier transforms. See raster/diffraction.ts. */
import { patternOf, spreadBy, streakKernel } from '../../raster/diffraction.ts';
import { type Pixels, planeOf } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { DiffractWork } from './work.ts';

interface Whole {
  readonly planes: readonly Float32Array[];
  readonly opaque: boolean;
}
/** The whole picture, once it was asked for: its regions are parts of it. */
const whole = new WeakMap<DiffractWork, Whole>();

export const diffract: PictureKind<DiffractWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input, size }) => [{ picture: input, region: size }],
  make: (work, region, planes, { backend, read }) => {
    const { size } = work;
    const made = whole.get(work) ?? bentPicture(work, read(work.input, size));
    whole.set(work, made);
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    for (let plane = 0; plane < planes; plane++) {
      const values = made.planes[plane];
      for (let y = 0; y < region.height; y++) {
        const start = (region.y + y - size.y) * size.width + region.x - size.x;
        out.set(values.subarray(start, start + region.width), plane * area + y * region.width);
      }
    }
    return { region, planes: out, opaque: made.opaque };
  },
};

/** Its alpha stays; nothing of it lies in the arena, which is given back. */
function bentPicture({ streaks, reachPx, size }: DiffractWork, from: Pixels): Whole {
  const pattern = patternOf(streaks);
  // Without colours apart all channels are spread alike.
  const alike = streaks.spectrum === 0 ? streakKernel(pattern, streaks, 1, reachPx) : null;
  const channels = [0, 1, 2];
  const bent = spreadBy(channels.map((channel) => planeOf(from, channel)), size.width, size.height, channels.map((channel) => alike ?? streakKernel(pattern, streaks, channel, reachPx)));
  return { planes: [...bent, planeOf(from, 3).slice()], opaque: from.opaque };
}
