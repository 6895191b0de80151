/** Pictures that lie over the picture: masks and outlines, as straight RGBA. */
import { placeBehind } from '@tazzel/core';
import type { RequestOf } from './protocol.ts';

/** A mask in white on black (matte), or as alpha alone that the interface fills with a hatch. */
export function maskPicture({ mask, region, inverted, matte }: RequestOf<'mask-picture'>): Uint8ClampedArray<ArrayBuffer> {
  const rgba = new Uint8ClampedArray(region.width * region.height * 4);
  let to = 0;
  for (let y = region.y; y < region.y + region.height; y++) {
    for (let x = region.x; x < region.x + region.width; x++, to += 4) {
      const stored = mask.type === 'u8' ? mask.data[y * mask.width + x] : Math.round(mask.data[y * mask.width + x] / 257);
      const value = inverted ? 255 - stored : stored;
      if (matte) rgba.fill(value, to, to + 3);
      rgba[to + 3] = matte ? 255 : value;
    }
  }
  return rgba;
}

/**
 * The edge of a material, or of all materials of a surface, where bends have put it: pixels of it that touch another one. Reduced levels look at the upper left pixel of each
 * block, so thin parts may break up; the outline is a pointer, not a mask.
 */
export function outlinePicture({ index, rows, place, bends = [], region, level }: RequestOf<'outline'>): Uint8ClampedArray<ArrayBuffer> {
  const rgba = new Uint8ClampedArray(region.width * region.height * 4);
  const selected = new Set(rows);
  const isMaterial = (x: number, y: number) => {
    const [px, py] = bends.length === 0 ? [x << level, y << level] : placeBehind(bends, [(x << level) + 0.5, (y << level) + 0.5]).map(Math.floor);
    const [sx, sy] = [px - place.x, py - place.y];
    return sx >= 0 && sy >= 0 && sx < index.width && sy < index.height && selected.has(index.data[sy * index.width + sx]);
  };
  let to = 0;
  for (let y = region.y; y < region.y + region.height; y++) {
    for (let x = region.x; x < region.x + region.width; x++, to += 4) {
      if (!isMaterial(x, y)) continue;
      const inside = isMaterial(x - 1, y) && isMaterial(x + 1, y) && isMaterial(x, y - 1) && isMaterial(x, y + 1);
      rgba[to + 3] = inside ? 0 : 255;
    }
  }
  return rgba;
}
