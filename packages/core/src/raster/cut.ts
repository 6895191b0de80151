/** A part of a picture in other proportions: as large as it can be, moved along what is cut. It means the same at every size. */
import type { Region, Size } from './region.ts';

export interface Cut {
  /** Width over height. */
  readonly ratio: number;
  /** From the one end (−100) over the middle (0) to the other (100): to the right, or downwards. */
  readonly shiftPercent: number;
}

export const CUT_LIMITS = { ratio: [0.1, 10], shiftPercent: [-100, 100] } as const;

/** Null if it is one; words that go on “must be …” otherwise. */
export function cutFault(given: unknown): string | null {
  const { ratio, shiftPercent, ...rest } = (typeof given === 'object' ? (given ?? {}) : {}) as Partial<Cut>;
  const isWithin = (value: unknown, [least, most]: readonly [number, number]) => typeof value === 'number' && value >= least && value <= most;
  return isWithin(ratio, CUT_LIMITS.ratio) && isWithin(shiftPercent, CUT_LIMITS.shiftPercent) && Object.keys(rest).length === 0 ? null : `a ratio from ${CUT_LIMITS.ratio.join(' to ')} and a shift from ${CUT_LIMITS.shiftPercent.join(' to ')} %`;
}

/** Usual proportions, across and upright, by what they are called; paper is ISO 216, one to the square root of two. */
export const USUAL_CUTS: Readonly<Record<string, number>> = { '16 : 9': 16 / 9, '3 : 2': 3 / 2, '4 : 3': 4 / 3, '2 : 1': 2, '21 : 9': 21 / 9, Square: 1, '4 : 5': 4 / 5, '2 : 3': 2 / 3, '9 : 16': 9 / 16, 'A paper, across': Math.SQRT2, 'A paper, upright': Math.SQRT1_2 };

/** Where the part lies; at least one pixel in each direction. */
export function cutRegion({ width, height }: Size, cut: Cut | null | undefined): Region {
  if (!cut) return { x: 0, y: 0, width, height };
  const part = { width: Math.max(1, Math.min(width, Math.round(height * cut.ratio))), height: Math.max(1, Math.min(height, Math.round(width / cut.ratio))) };
  const begin = (free: number) => Math.round((free / 2) * (1 + cut.shiftPercent / 100));
  return { x: begin(width - part.width), y: begin(height - part.height), ...part };
}

/** `16:9` or `1.5` as a ratio; null for what is neither, or beyond the limits. */
export function ratioIn(text: string): number | null {
  const [, a, b] = /^\s*(\d+(?:\.\d+)?)\s*(?::\s*(\d+(?:\.\d+)?)\s*)?$/.exec(text) ?? [];
  const ratio = Number(a) / Number(b ?? 1);
  return ratio >= CUT_LIMITS.ratio[0] && ratio <= CUT_LIMITS.ratio[1] ? ratio : null;
}
