/** How far a sum of elements is from the beauty, in figures, and the verdict. The limits are common practice, no published source. */
import { srgbEncode } from '../color/srgb.ts';

/** Below this light, errors are no longer measured against the pixel's own value: no screen would show them. */
export const DARKEST = 1 / 64;

/** How far a sum is from the beauty. Errors are relative to the beauty's light, at least 1/64. */
export interface RebuildFigures {
  readonly meanError: number;
  readonly largestError: number;
  /** Where the largest error lies, in pixels of the picture. */
  readonly largestAt: { readonly x: number; readonly y: number };
  /** Share of the pixels that are off by more than a twentieth. */
  readonly shareOff: number;
  /** Mean and largest absolute log2 of sum ÷ beauty, where both are light. */
  readonly meanStops: number;
  readonly largestStops: number;
  /** Of the display-encoded pictures, peak 1; infinite if they are equal. */
  readonly psnrDb: number;
  /** Mean of sum − beauty over mean of beauty: below 0 something is missing, above 0 something is there twice. */
  readonly bias: number;
  /** Share of the light that the sum lacks which lies where the sum is black. */
  readonly inHoles: number;
}

const OFF = 0.05;
/** An error that no material and no rounding makes, however few pixels have it. */
const FAULT = 0.5;

/** Figures of one sum, gathered span by span and merged. */
export class RebuildMeasure {
  /** count, error sum, largest, x, y, off, stops, –, largest stops, squared display error, difference, beauty, light that lacks, the same in holes */
  readonly values = new Float64Array(14);

  /** `ceiling`: the most light that the target can hold; a sum above it is not wrong. */
  add(sum: readonly Float32Array[], target: readonly Float32Array[], count: number, place: { x: number; y: number; width: number }, ceiling = Number.POSITIVE_INFINITY): void {
    const v = this.values;
    for (let p = 0; p < count; p++) {
      let error = 0;
      let stops = 0;
      const isHole = sum[0][p] === 0 && sum[1][p] === 0 && sum[2][p] === 0;
      for (let c = 0; c < 3; c++) {
        const s = Math.min(sum[c][p], ceiling);
        const b = target[c][p];
        v[11] += b;
        const difference = s - b;
        if (difference === 0) continue;
        error = Math.max(error, Math.abs(difference) / Math.max(Math.abs(b), DARKEST));
        stops = Math.max(stops, Math.abs(Math.log2(Math.max(s, DARKEST) / Math.max(b, DARKEST))));
        v[9] += (srgbEncode(s) - srgbEncode(b)) ** 2;
        v[10] += difference;
        if (difference < 0) v[12] -= difference;
        if (difference < 0 && isHole) v[13] -= difference;
      }
      v[0]++;
      v[1] += error;
      v[6] += stops;
      if (error > OFF) v[5]++;
      if (stops > v[8]) v[8] = stops;
      if (error > v[2]) {
        v[2] = error;
        v[3] = place.x + (p % place.width);
        v[4] = place.y + Math.floor(p / place.width);
      }
    }
  }

  merge(other: Float64Array): void {
    const v = this.values;
    if (other[2] > v[2]) for (const i of [2, 3, 4]) v[i] = other[i];
    v[8] = Math.max(v[8], other[8]);
    for (const i of [0, 1, 5, 6, 9, 10, 11, 12, 13]) v[i] += other[i];
  }

  figures(): RebuildFigures {
    const v = this.values;
    const pixels = Math.max(1, v[0]);
    return {
      meanError: v[1] / pixels,
      largestError: v[2],
      largestAt: { x: v[3], y: v[4] },
      shareOff: v[5] / pixels,
      meanStops: v[6] / pixels,
      largestStops: v[8],
      psnrDb: v[9] === 0 ? Number.POSITIVE_INFINITY : -10 * Math.log10(v[9] / (3 * pixels)),
      bias: v[11] === 0 ? 0 : v[10] / v[11],
      inHoles: v[12] === 0 ? 0 : v[13] / v[12],
    };
  }
}

export type RebuildVerdict = 'adds-up' | 'nearly' | 'off';

/** `hasFault`: one change closes the gap; then it is no rounding, however small it is. */
export function verdictOf({ meanError, shareOff, largestError }: RebuildFigures, hasFault: boolean): RebuildVerdict {
  if (hasFault) return meanError <= 0.005 && largestError <= 0.25 ? 'nearly' : 'off';
  if (largestError > FAULT) return 'off';
  if (meanError <= 0.005 && shareOff <= 0.0001) return 'adds-up';
  return meanError <= 0.03 && shareOff <= 0.1 ? 'nearly' : 'off';
}
