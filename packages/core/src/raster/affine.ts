import type { Homography } from './homography.ts';

/** From a place in the picture to one in the input: x′ = a·x + b·y + e, y′ = c·x + d·y + f, in pixels of the full picture. */
export type AffineMap = readonly [a: number, b: number, c: number, d: number, e: number, f: number];

/** The same, or one that keeps lines straight but not parallel. */
export type PictureMap = AffineMap | { readonly homography: Homography };
