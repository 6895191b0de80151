/**
 * Numbers that were averaged along edges taken apart again: half a pixel at 5 m and half at 100 m reads 52 m, where nothing is. Such a pixel
 * shows the near and the far thing beside it, each to a share.
 */

/** Neighbours that differ by more than this share, and by more than this many metres, lie on two things. */
export const JUMP_SHARE = 0.05;
export const JUMP_METRES = 0.1;

/** What is farther in an element of metres is sky: files hold infinities as the largest half. */
export const SKY_METRES = 60_000;

export interface Sides {
  readonly near: number;
  readonly far: number;
  /** How much of the pixel is the far one; 0 where there is but one, which is both. */
  readonly share: number;
}

/** @param nearest the least of the pixel and its eight neighbours, `farthest` the greatest */
export function sidesOf(own: number, nearest: number, farthest: number): Sides {
  const isEdge = farthest - nearest > JUMP_METRES + JUMP_SHARE * nearest && own > nearest && own < farthest;
  return isEdge ? { near: nearest, far: farthest, share: (own - nearest) / (farthest - nearest) } : { near: own, far: own, share: 0 };
}

/** The definition of the loop. The kernel is compared with it. */
export interface SidesLoop {
  /** Three planes (near, far, share) of width × height, of one that reaches a pixel beyond on each side. */
  sides(out: Float32Array, from: Float32Array, width: number, height: number): void;
}

export const referenceSides: SidesLoop = {
  sides: (out, from, width, height) => {
    const [across, area] = [width + 2, width * height];
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const around = [0, 1, 2].flatMap((j) => [0, 1, 2].map((i) => from[(y + j) * across + x + i]));
        const { near, far, share } = sidesOf(around[4], Math.min(...around), Math.max(...around));
        const at = y * width + x;
        [out[at], out[area + at], out[2 * area + at]] = [near, far, share];
      }
    }
  },
};
