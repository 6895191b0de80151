/** Single pixels that are far brighter than those around them, taken out or shown. */
import { grown } from '../../raster/region.ts';
import { planeOf } from '../pixels.ts';
import type { PictureKind } from './define.ts';
import type { DespeckleWork } from './work.ts';

/** What is no firefly, where they are shown. */
const DIMMED = 0.05;
/** Luminance weights of Rec. 709. */
const [RED, GREEN, BLUE] = [0.2126, 0.7152, 0.0722];

export const despeckle: PictureKind<DespeckleWork> = {
  inputs: ({ input }) => [input],
  needs: ({ input }, region) => [{ picture: input, region: grown(region, 1) }],
  make: ({ input, times, floor, shows }, region, planes, { backend, read }) => {
    const around = grown(region, 1);
    const from = read(input, around);
    const across = around.width;
    const colors = Array.from({ length: planes }, (_, plane) => planeOf(from, plane));
    const [r, g, b] = colors;
    const luminance = backend.arena.take(across * around.height);
    for (let i = 0; i < luminance.length; i++) luminance[i] = RED * r[i] + GREEN * g[i] + BLUE * b[i];
    const area = region.width * region.height;
    const out = backend.arena.take(planes * area);
    const neighbours = [-across - 1, -across, -across + 1, -1, 1, across - 1, across, across + 1];
    for (let y = 0, to = 0; y < region.height; y++) {
      for (let x = 0; x < region.width; x++, to++) {
        const i = (y + 1) * across + x + 1;
        const own = luminance[i];
        // The brightest neighbour may be another one of them; the next says how bright it is around.
        let brightest = 0;
        let next = 0;
        for (let k = 0; k < 8; k++) {
          const other = luminance[i + neighbours[k]];
          if (other > brightest) {
            next = brightest;
            brightest = other;
          } else if (other > next) next = other;
        }
        const usual = Math.max(next, floor / times);
        const isOne = own > floor && own > times * usual;
        for (let plane = 0; plane < planes; plane++) {
          const source = colors[plane];
          let value = source[i];
          if (plane < 3 && isOne && !shows) {
            value = 0;
            let count = 0;
            for (let k = 0; k < 8; k++) {
              // As those that are no fireflies themselves.
              if (luminance[i + neighbours[k]] > usual) continue;
              value += source[i + neighbours[k]];
              count++;
            }
            value /= count;
          } else if (plane < 3 && shows && !isOne) value *= DIMMED;
          out[plane * area + to] = value;
        }
      }
    }
    return { region, planes: out, opaque: from.opaque };
  },
};
