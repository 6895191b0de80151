/** What depth, distance and height have in common: a band of metres whose antialiased edges have no halo. */
import { number } from '../params/number.ts';
import { band, type FillRow, type MaskInputs } from './define.ts';
import type { ReadPixel } from './read.ts';
import { sizeAtLevel } from '../raster/region.ts';
import { sidesOf } from '../raster/sides.ts';

/** The ends of a band along the view, and how soft they are. */
export const metresBand = {
  nearMetres: number({ label: 'From', unit: 'm', min: 0, max: 10_000, default: 5, step: 0.5, digits: 2, usual: [0, 100], help: 'Nothing nearer is selected, but for the soft end.' }),
  farMetres: number({ label: 'To', unit: 'm', min: 0, max: 10_000, default: 25, step: 0.5, digits: 2, usual: [0, 100], help: 'Nothing farther is selected, but for the soft end.' }),
  softNearMetres: number({ label: 'Soft before', unit: 'm', min: 0, max: 10_000, default: 2, step: 0.25, digits: 2, usual: [0, 50], help: 'How long the near end takes to fade in.' }),
  softFarMetres: number({ label: 'Soft behind', unit: 'm', min: 0, max: 10_000, default: 5, step: 0.25, digits: 2, usual: [0, 50], help: 'How long the far end takes to fade out.' }),
  curve: number({ label: 'Curve', unit: '', min: 0.2, max: 5, default: 1, step: 0.05, digits: 2, usual: [0.2, 5], byFactors: true, help: 'How the soft ends grow: more than 1 begins late and rises fast, less than 1 rises at once.' }),
} as const;

/** How much of what lies so far away is selected, by the numbers of `metresBand`. */
export function bandOf({ nearMetres, farMetres, softNearMetres, softFarMetres, curve }: { readonly [name in keyof typeof metresBand]: number }): (metres: number) => number {
  const even = band(nearMetres, farMetres, softNearMetres, softFarMetres);
  return curve === 1 ? even : (metres) => even(metres) ** curve;
}

/** A band of numbers that were averaged along edges: such a pixel gets the values of the two things beside it, to its shares. */
export function edgeAwareBand(read: ReadPixel, band: (metres: number) => number, inputs: MaskInputs): FillRow {
  const { width, height } = sizeAtLevel(inputs.size, inputs.level);
  return (y, out) => {
    const [above, below] = [Math.max(0, y - 1), Math.min(height - 1, y + 1)];
    for (let x = 0; x < width; x++) {
      const own = read(x, y);
      const [left, right] = [Math.max(0, x - 1), Math.min(width - 1, x + 1)];
      let [nearest, farthest] = [own, own];
      for (const [nx, ny] of [[left, y], [right, y], [x, above], [x, below], [left, above], [right, above], [left, below], [right, below]]) {
        const value = read(nx, ny);
        if (value < nearest) nearest = value;
        if (value > farthest) farthest = value;
      }
      const { near, far, share } = sidesOf(own, nearest, farthest);
      out[x] = share === 0 ? band(near) : (1 - share) * band(near) + share * band(far);
    }
  };
}
