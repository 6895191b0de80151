/** How a picture, or a part of it, is cut into regions for the workers. */
import { type Region, stripsOf } from '@tazzel/core';

const BAND_PIXELS = 2 ** 18;
const BLOCK = { width: 1024, height: 256 };

/** Regions for pictures that read kept ones: whole tiles high, so that each tile is read at once, and several wide, since long rows cost less. */
export function blocksOf({ x: left, y: top, width, height }: Region): Region[] {
  const across = Math.ceil(width / BLOCK.width);
  const down = Math.ceil(height / BLOCK.height);
  return Array.from({ length: across * down }, (_, i) => {
    const [x, y] = [(i % across) * BLOCK.width, Math.floor(i / across) * BLOCK.height];
    return { x: left + x, y: top + y, width: Math.min(BLOCK.width, width - x), height: Math.min(BLOCK.height, height - y) };
  });
}

/** Regions over the whole width for pictures of which nothing is kept. */
export function bandsOf({ x, y, ...size }: Region, atOnce: number): Region[] {
  const rows = Math.min(BAND_PIXELS / size.width, size.height / atOnce);
  return stripsOf(size, Math.max(1, Math.ceil(rows))).map((strip) => ({ ...strip, x, y: y + strip.y }));
}
