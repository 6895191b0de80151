/** A small picture whose light is bent aside by the opening of a lens: all of it at once, by Fourier transforms. See raster/diffraction.ts. */
import { patternOf, spreadBy, streakKernel } from '../../raster/diffraction.ts';
import { planeOf } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { DiffractWork } from './work.ts';

/** The whole picture, once it was asked for: its regions are parts of it. */
const whole = new WeakMap<DiffractWork, readonly Float32Array[]>();

export const diffract: PictureKind<DiffractWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input, size }) => [{ picture: input, region: size }],
  make: (work, region, planes, { backend, read }) => {
    const { size } = work;
    const from = read(work.input, size);
    const before = whole.get(work);
    const made = before ?? spreadPlanes(work, [0, 1, 2].map((plane) => planeOf(from, plane)));
    if (!before) whole.set(work, made);
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    for (let plane = 0; plane < planes; plane++) {
      const values = plane < 3 ? made[plane] : planeOf(from, plane);
      for (let y = 0; y < region.height; y++) {
        const start = (region.y + y - size.y) * size.width + region.x - size.x;
        out.set(values.subarray(start, start + region.width), plane * area + y * region.width);
      }
    }
    return { region, planes: out, opaque: from.opaque };
  },
};

function spreadPlanes({ streaks, reachPx, size }: DiffractWork, planes: readonly Float32Array[]): readonly Float32Array[] {
  const pattern = patternOf(streaks);
  // Without colours apart all channels are spread alike.
  const alike = streaks.spectrum === 0 ? streakKernel(pattern, streaks, 1, reachPx) : null;
  return spreadBy(planes, size.width, size.height, planes.map((_, channel) => alike ?? streakKernel(pattern, streaks, channel, reachPx)));
}
