/** Families of hues, by where they lie on the circle of OKLab. */

export interface HueFamily {
  readonly id: string;
  readonly label: string;
  /** Middle, in degrees from the a axis. */
  readonly hueDegrees: number;
}

/** Middles are the hues of the six corners of the sRGB cube in OKLab, with CSS Color 4’s orange and blueviolet between. */
export const HUE_FAMILIES: readonly HueFamily[] = [
  { id: 'red', label: 'Red', hueDegrees: 29.23 },
  { id: 'orange', label: 'Orange', hueDegrees: 70.67 },
  { id: 'yellow', label: 'Yellow', hueDegrees: 109.77 },
  { id: 'green', label: 'Green', hueDegrees: 142.5 },
  { id: 'cyan', label: 'Cyan', hueDegrees: 194.77 },
  { id: 'blue', label: 'Blue', hueDegrees: 264.05 },
  { id: 'violet', label: 'Violet', hueDegrees: 301.37 },
  { id: 'magenta', label: 'Magenta', hueDegrees: 328.36 },
];

/**
 * How far a hue belongs to each family: 1 at its middle, passing smoothly into the neighbours, 1 in sum.
 * @param degrees any angle
 * @param moved by how much the middle of each lies elsewhere; they stay in their order if none is moved by more than 15°
 */
export function familyWeights(degrees: number, moved: readonly number[] = NOT_MOVED): number[] {
  const weights = HUE_FAMILIES.map(() => 0);
  const count = HUE_FAMILIES.length;
  for (const [i, { hueDegrees }] of HUE_FAMILIES.entries()) {
    const next = (i + 1) % count;
    const from = hueDegrees + moved[i];
    const span = around(HUE_FAMILIES[next].hueDegrees + moved[next] - from);
    const t = around(degrees - from) / span;
    if (t >= 1) continue;
    const passed = t * t * (3 - 2 * t);
    weights[i] = 1 - passed;
    weights[next] = passed;
    break;
  }
  return weights;
}

const NOT_MOVED: readonly number[] = HUE_FAMILIES.map(() => 0);
const around = (degrees: number) => ((degrees % 360) + 360) % 360;
