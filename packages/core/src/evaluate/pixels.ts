import type { Region } from '../raster/region.ts';
import type { Arena } from './arena.ts';

/** A region of a picture: planes one after the other (red, green, blue premultiplied, alpha, perhaps a weight), each width × height. */
export interface Pixels {
  readonly region: Region;
  readonly planes: Float32Array;
  /** Alpha is 1 throughout. */
  readonly opaque: boolean;
}

export const planeCount = ({ region, planes }: Pixels): number => planes.length / (region.width * region.height);

/** One plane of several. */
export const planeOf = ({ region, planes }: Pixels, plane: number): Float32Array => planes.subarray(plane * region.width * region.height, (plane + 1) * region.width * region.height);

/** Fewer numbers than these are copied sooner than they are handed over. */
const FEW = 24;

/** Some numbers of one list into another. */
export function copyRow(to: Float32Array, at: number, from: Float32Array, start: number, count: number): void {
  if (count > FEW) to.set(from.subarray(start, start + count), at);
  else for (let i = 0; i < count; i++) to[at + i] = from[start + i];
}

/** Puts pieces that cover a region together. A piece that is the region is given as it is. */
export function joined(region: Region, pieces: readonly Pixels[], arena: Arena): Pixels {
  const [first] = pieces;
  if (pieces.length === 1 && isSame(first.region, region)) return first;
  const count = planeCount(first);
  const planes = arena.take(count * region.width * region.height);
  for (const piece of pieces) {
    const from = piece.region;
    const left = Math.max(region.x, from.x);
    const across = Math.min(region.x + region.width, from.x + from.width) - left;
    const [top, bottom] = [Math.max(region.y, from.y), Math.min(region.y + region.height, from.y + from.height)];
    for (let plane = 0; plane < count; plane++) {
      const inside = plane * from.width * from.height + left - from.x;
      const outside = plane * region.width * region.height + left - region.x;
      for (let y = top; y < bottom; y++) copyRow(planes, outside + (y - region.y) * region.width, piece.planes, inside + (y - from.y) * from.width, across);
    }
  }
  return { region, planes, opaque: pieces.every(({ opaque }) => opaque) };
}

/** A larger region around some pixels: beyond them the outermost go on. */
export function extended(pixels: Pixels, region: Region, arena: Arena): Pixels {
  const from = pixels.region;
  if (isSame(from, region)) return pixels;
  const count = planeCount(pixels);
  const planes = arena.take(count * region.width * region.height);
  const left = Math.max(0, from.x - region.x);
  const across = Math.min(from.width, region.width - left);
  for (let plane = 0; plane < count; plane++) {
    const inside = planeOf(pixels, plane);
    const outside = planes.subarray(plane * region.width * region.height, (plane + 1) * region.width * region.height);
    for (let y = 0; y < region.height; y++) {
      const row = Math.min(from.height - 1, Math.max(0, y + region.y - from.y)) * from.width;
      const to = y * region.width;
      outside.set(inside.subarray(row, row + across), to + left);
      outside.fill(inside[row], to, to + left);
      outside.fill(inside[row + from.width - 1], to + left + across, to + region.width);
    }
  }
  return { region, planes, opaque: pixels.opaque };
}

/** Which plane is alpha: the fourth of a picture, the third of moments; null where colours stand under the weight of a mask, or where there is none. */
export const alphaPlane = (count: number): number | null => (count === 4 || count === 3 ? count - 1 : null);

/** Weights that sum to 1 only nearly do: an alpha that is 1 but for that becomes 1 again. Says whether all are. Colours under the weight of a mask stay as they are. */
export function settleAlpha(planes: Float32Array, area: number, count: number): boolean {
  const alpha = alphaPlane(count);
  if (alpha === null) return false;
  let opaque = true;
  for (let i = alpha * area; i < (alpha + 1) * area; i++) {
    if (planes[i] > NEARLY_ONE) planes[i] = 1;
    else opaque = false;
  }
  return opaque;
}
const NEARLY_ONE = 1 - 2e-6;

const isSame = (a: Region, b: Region) => a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;
