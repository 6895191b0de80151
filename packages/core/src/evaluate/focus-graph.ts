/** A depth of field as pictures at a level: what is near and far in pixels on edges, what fills places that were never seen, and slices on one another. */
import { SLICE_PLANES } from '../raster/focus.ts';
import { type Region, sizeAtLevel, type Size } from '../raster/region.ts';
import { type FocusSlice, focusBands } from './focus-slices.ts';
import type { Lens, Work } from './kinds/work.ts';
import type { FocusNode } from './steps.ts';

/** What is behind something near and was never seen is filled from around: by pictures so many halvings smaller (so many of them, at most), smoothed by so many of their pixels. */
const [FILL_STEP, FILLS] = [2, 3];
const FILL_PX = 2;
/** From the narrowest on, until one reaches over what the largest circle hides. */
function fillsFor(finest: number, mostPx: number): number[] {
  const all = Array.from({ length: FILLS }, (_, n) => finest + n * FILL_STEP);
  const enough = all.findIndex((coarser) => FILL_PX * 2 ** coarser >= mostPx);
  return enough < 0 ? all : all.slice(0, enough + 1);
}

/** What is nearest and farthest is known for blocks of 8 × 8. */
const BLOCK_HALVINGS = 3;

interface Building {
  readonly level: number;
  readonly size: Size;
  add(key: string, at: number, planes: number, work: Work, domain?: Region): number;
  named(key: string, ...phase: unknown[]): string;
  reduced(from: number, key: string, coarser: number): number;
  coarserDomain(domain: Region, by: number): Region;
  of(picture: number): { readonly domain: Region; readonly key: string };
}

export function focusPictures({ key, lens: full, aperture, gain, shows, sharpPx, axis }: FocusNode, picture: number, sides: number, { level, size, add, named, reduced, coarserDomain, of }: Building): number {
  const scale = 2 ** level;
  const lens: Lens = { ...full, nearPx: full.nearPx / scale, farPx: full.farPx / scale, mostPx: full.mostPx / scale, scale, axis, longest: axis ? Math.hypot(1, Math.max(axis.x, size.width - axis.x) / axis.focalPx, Math.max(axis.y, size.height - axis.y) / axis.focalPx) : 1 };
  const { domain } = of(picture);
  const input = add(named(of(picture).key, 'parts', of(sides).key), level, 8, { kind: 'parts', input: picture, sides }, domain);
  // All that is not near.
  const behind: FocusSlice = { radius: 0, range: { from: -1, fromWidth: 1, to: Number.POSITIVE_INFINITY, toWidth: 1 } };
  // Circles of a small picture are small.
  const finest = level === 0 ? 2 : 1;
  const made = add(named(key, 'behind'), level + finest, SLICE_PLANES, { kind: 'slices', input, sides, by: finest, lens, slice: behind }, coarserDomain(domain, finest));
  const fills = fillsFor(finest, lens.mostPx).map((coarser) => {
    const small = reduced(made, of(made).key, coarser - finest);
    return { picture: add(named(key, 'fill', coarser), level + coarser, SLICE_PLANES, { kind: 'convolve', input: small, sigmaPx: FILL_PX }, of(small).domain), coarser };
  });
  const nearest = add(named(of(sides).key, 'extremes'), level + BLOCK_HALVINGS, 2, { kind: 'extremes', sides, by: BLOCK_HALVINGS }, coarserDomain(domain, BLOCK_HALVINGS));
  const { width, height } = sizeAtLevel(size, level);
  const work = { kind: 'focus', input, sides, lens, aperture, middle: [width / 2, height / 2], halfDiagonal: Math.hypot(width, height) / 2, bands: focusBands(lens), extremes: nearest, by: BLOCK_HALVINGS, fills, gain, shows, sharpPx: sharpPx / scale } as const;
  return add(named(key), level, 4, work, domain);
}
