/** What depth, distance and height have in common: a band of metres whose antialiased edges have no halo. */
import { number } from '../params/number.ts';
import type { FillRow, MaskInputs } from './define.ts';
import type { ReadPixel } from './read.ts';
import { sizeAtLevel } from '../raster/region.ts';

/** The ends of a band along the view, and how soft they are. */
export const metresBand = {
  nearMetres: number({ label: 'From', unit: 'm', min: 0, max: 10_000, default: 5, step: 0.5, digits: 2, usual: [0, 100], help: 'Nothing nearer is selected, but for the soft end.' }),
  farMetres: number({ label: 'To', unit: 'm', min: 0, max: 10_000, default: 25, step: 0.5, digits: 2, usual: [0, 100], help: 'Nothing farther is selected, but for the soft end.' }),
  softNearMetres: number({ label: 'Soft before', unit: 'm', min: 0, max: 10_000, default: 2, step: 0.25, digits: 2, usual: [0, 50], help: 'How long the near end takes to fade in.' }),
  softFarMetres: number({ label: 'Soft behind', unit: 'm', min: 0, max: 10_000, default: 5, step: 0.25, digits: 2, usual: [0, 50], help: 'How long the far end takes to fade out.' }),
} as const;

/** Neighbours that differ by more than this share, and by more than this many metres, lie on two things. */
const JUMP_SHARE = 0.05;
const JUMP_METRES = 0.1;

/**
 * A band of numbers that were averaged along edges: half a pixel at 5 m and half at 100 m reads 52 m, where nothing is. Such a
 * pixel is taken apart into the near and the far thing beside it, and gets their values of the band to its shares.
 */
export function edgeAwareBand(read: ReadPixel, band: (metres: number) => number, inputs: MaskInputs): FillRow {
  const { width, height } = sizeAtLevel(inputs.size, inputs.level);
  return (y, out) => {
    const [above, below] = [Math.max(0, y - 1), Math.min(height - 1, y + 1)];
    for (let x = 0; x < width; x++) {
      const own = read(x, y);
      const [left, right] = [Math.max(0, x - 1), Math.min(width - 1, x + 1)];
      let [near, far] = [own, own];
      for (const [nx, ny] of [[left, y], [right, y], [x, above], [x, below], [left, above], [right, above], [left, below], [right, below]]) {
        const value = read(nx, ny);
        if (value < near) near = value;
        if (value > far) far = value;
      }
      const isEdge = far - near > JUMP_METRES + JUMP_SHARE * near && own > near && own < far;
      if (!isEdge) {
        out[x] = band(own);
        continue;
      }
      const share = (own - near) / (far - near);
      out[x] = (1 - share) * band(near) + share * band(far);
    }
  };
}
