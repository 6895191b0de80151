/** Pictures added up, each channel with its own gains. */
import { planeOf, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { MixtureWork } from './work.ts';

export const mixture: PictureKind<MixtureWork> = {
  inputs: ({ parts }) => parts.map(({ picture }) => picture),
  needs: ({ parts }, region) => parts.map(({ picture }) => ({ picture, region })),
  make: ({ parts }, region, planes, { backend, read }) => {
    const area = region.width * region.height;
    const pictures = parts.map(({ picture }) => read(picture, region));
    const out = backend.arena.take(planes * area);
    // Parts of a sum that goes on are no whole, however opaque what they are made of is.
    const opaque = pictures.every((pixels) => pixels.opaque) && Math.abs(parts.reduce((sum, { alpha }) => sum + alpha, 0) - 1) < 1e-9;
    for (let plane = 0; plane < planes; plane++) {
      const to = out.subarray(plane * area, (plane + 1) * area);
      if (plane === 3 && opaque) to.fill(1);
      else backend.sum(to, pictures.map((pixels) => planeOf(pixels, plane)), parts.map(({ gain, alpha }) => (plane < 3 ? gain[plane] : alpha)));
    }
    return { region, planes: out, opaque: opaque || settleAlpha(out, area, planes) };
  },
};
