/** Colour and alpha weighed with a mask, and in a fifth plane the weight beside them: what is blurred then takes nothing from outside the mask. */
import { sampleReader } from '../../raster/read.ts';
import { planeOf, settleAlpha } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { ConfineWork, ReleaseWork } from './work.ts';

export const confine: PictureKind<ConfineWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input }, region) => [{ picture: input, region }],
  make: ({ input, mask }, region, planes, tools) => {
    const pixels = tools.read(input, region);
    const plane = tools.mask(mask.key);
    const weightAt = sampleReader(plane);
    const area = region.width * region.height;
    const out = tools.backend.arena.take(planes * area);
    const weight = planes > 4 ? out.subarray(4 * area) : tools.backend.arena.take(area);
    for (let y = 0, to = 0; y < region.height; y++) {
      for (let x = 0; x < region.width; x++, to++) {
        const value = weightAt((region.y + y) * plane.width + region.x + x);
        weight[to] = mask.inverted ? 1 - value : value;
      }
    }
    for (let channel = 0; channel < 4; channel++) {
      const from = planeOf(pixels, channel);
      const to = out.subarray(channel * area, (channel + 1) * area);
      for (let i = 0; i < area; i++) to[i] = from[i] * weight[i];
    }
    return { region, planes: out, opaque: false };
  },
};

/** Below this nothing of the mask has come here. */
const LEAST_WEIGHT = 1e-6;

/** The same without the weight. Where none has come there is nothing. */
export const release: PictureKind<ReleaseWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input }, region) => [{ picture: input, region }],
  make: ({ input }, region, _planes, tools) => {
    const pixels = tools.read(input, region);
    const area = region.width * region.height;
    const weight = planeOf(pixels, 4);
    const out = tools.backend.arena.take(4 * area);
    for (let channel = 0; channel < 4; channel++) {
      const from = planeOf(pixels, channel);
      const to = out.subarray(channel * area, (channel + 1) * area);
      for (let i = 0; i < area; i++) to[i] = weight[i] > LEAST_WEIGHT ? from[i] / weight[i] : 0;
    }
    return { region, planes: out, opaque: settleAlpha(out, area, 4) };
  },
};
