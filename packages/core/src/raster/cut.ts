/** A part of a picture: in other proportions as large as it can be, or any rectangle of it. It means the same at every size. */
import type { Region, Size } from './region.ts';

/** Other proportions, moved along what is cut. */
export interface ProportionCut {
  /** Width over height. */
  readonly ratio: number;
  /** From the one end (−100) over the middle (0) to the other (100): to the right, or downwards. */
  readonly shiftPercent: number;
}

/** A rectangle, in percent of the picture's width and height. */
export interface PartCut {
  readonly leftPercent: number;
  readonly topPercent: number;
  readonly widthPercent: number;
  readonly heightPercent: number;
}
export type Cut = ProportionCut | PartCut;
export const isPart = (cut: Cut): cut is PartCut => 'widthPercent' in cut;

export const CUT_LIMITS = { ratio: [0.1, 10], shiftPercent: [-100, 100] } as const;

/** Null if it is one; words that go on “must be …” otherwise. */
export function cutFault(given: unknown): string | null {
  const isWithin = (value: unknown, [least, most]: readonly [number, number]) => typeof value === 'number' && value >= least && value <= most;
  const table = (typeof given === 'object' ? (given ?? {}) : {}) as Partial<ProportionCut & PartCut>;
  if ('widthPercent' in table) {
    const { leftPercent, topPercent, widthPercent, heightPercent, ...more } = table;
    const isInside = [[leftPercent, widthPercent], [topPercent, heightPercent]].every(([from, size]) => isWithin(from, [0, 100]) && isWithin(size, [0, 100]) && Number(size) > 0 && Number(from) + Number(size) <= 100 + 1e-9);
    return isInside && Object.keys(more).length === 0 ? null : 'a part within the picture, in percent of its width and height';
  }
  const { ratio, shiftPercent, ...rest } = table;
  return isWithin(ratio, CUT_LIMITS.ratio) && isWithin(shiftPercent, CUT_LIMITS.shiftPercent) && Object.keys(rest).length === 0 ? null : `a ratio from ${CUT_LIMITS.ratio.join(' to ')} and a shift from ${CUT_LIMITS.shiftPercent.join(' to ')} %`;
}

/** Usual proportions, across and upright, by what they are called; paper is ISO 216, one to the square root of two. */
export const USUAL_CUTS: Readonly<Record<string, number>> = { '16 : 9': 16 / 9, '3 : 2': 3 / 2, '4 : 3': 4 / 3, '2 : 1': 2, '21 : 9': 21 / 9, Square: 1, '4 : 5': 4 / 5, '2 : 3': 2 / 3, '9 : 16': 9 / 16, 'A paper, across': Math.SQRT2, 'A paper, upright': Math.SQRT1_2 };

/** Where the part lies; at least one pixel in each direction. */
export function cutRegion({ width, height }: Size, cut: Cut | null | undefined): Region {
  if (!cut) return { x: 0, y: 0, width, height };
  if (isPart(cut)) {
    const along = (side: number, from: number, share: number) => {
      const begin = Math.min(side - 1, Math.round((side * from) / 100));
      return [begin, Math.max(1, Math.min(side, Math.round((side * (from + share)) / 100)) - begin)] as const;
    };
    const [[x, across], [y, down]] = [along(width, cut.leftPercent, cut.widthPercent), along(height, cut.topPercent, cut.heightPercent)];
    return { x, y, width: across, height: down };
  }
  const part = { width: Math.max(1, Math.min(width, Math.round(height * cut.ratio))), height: Math.max(1, Math.min(height, Math.round(width / cut.ratio))) };
  const begin = (free: number) => Math.round((free / 2) * (1 + cut.shiftPercent / 100));
  return { x: begin(width - part.width), y: begin(height - part.height), ...part };
}

/** The part of a picture that a region of its pixels is. */
export const partOfRegion = ({ width, height }: Size, region: Region): PartCut => ({ leftPercent: (100 * region.x) / width, topPercent: (100 * region.y) / height, widthPercent: (100 * region.width) / width, heightPercent: (100 * region.height) / height });

/** `16:9` or `1.5` as a ratio; null for what is neither, or beyond the limits. */
export function ratioIn(text: string): number | null {
  const [, a, b] = /^\s*(\d+(?:\.\d+)?)\s*(?::\s*(\d+(?:\.\d+)?)\s*)?$/.exec(text) ?? [];
  const ratio = Number(a) / Number(b ?? 1);
  return ratio >= CUT_LIMITS.ratio[0] && ratio <= CUT_LIMITS.ratio[1] ? ratio : null;
}
