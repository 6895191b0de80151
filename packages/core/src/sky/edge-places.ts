/** Where edges are worth looking at: leaves, railings, cables, where much of the picture is only partly covered. */
import type { Size } from '../raster/region.ts';

/** A place stands for what is this near, as a share of the width; those beside it are passed over up to twice that. Common practice, no published source. */
const REACH = 0.04;
/** Below this mean of 4c(1 − c) a place has no edge worth looking at. Common practice, no published source. */
const LEAST = 0.02;

/**
 * The places with most edge, from left to right.
 * @param coverage row-major, width × height, 0…1
 * @returns the middle of each, as shares of width and height
 */
export function edgePlaces(coverage: ArrayLike<number>, { width, height }: Size, most: number): { readonly x: number; readonly y: number }[] {
  const side = Math.max(2, Math.round(width * REACH));
  const cells: { x: number; y: number; much: number }[] = [];
  for (let top = 0; top < height; top += side) {
    for (let left = 0; left < width; left += side) {
      let [much, count, alongX, alongY] = [0, 0, 0, 0];
      for (let y = top; y < Math.min(height, top + side); y++) {
        for (let x = left; x < Math.min(width, left + side); x++) {
          const c = Math.min(1, Math.max(0, coverage[y * width + x]));
          const weight = 4 * c * (1 - c);
          much += weight;
          alongX += weight * (x + 0.5);
          alongY += weight * (y + 0.5);
          count++;
        }
      }
      if (much / count >= LEAST) cells.push({ x: alongX / much, y: alongY / much, much });
    }
  }
  cells.sort((a, b) => b.much - a.much);
  const found: typeof cells = [];
  for (const cell of cells) {
    if (found.length === most) break;
    if (found.every(({ x, y }) => Math.hypot(x - cell.x, y - cell.y) > 2 * side)) found.push(cell);
  }
  return found.sort((a, b) => a.x - b.x).map(({ x, y }) => ({ x: x / width, y: y / height }));
}
