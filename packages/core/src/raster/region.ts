/** Rectangles of pixels, tiles and the sizes of reduced pictures. All in whole pixels, origin upper left. */
export interface Size {
  readonly width: number;
  readonly height: number;
}

export interface Region extends Size {
  readonly x: number;
  readonly y: number;
}

export const TILE_SIZE = 256;

/** Size of a picture at a level: each level halves both sides, rounding up, so level 0 is the picture itself. */
export function sizeAtLevel(size: Size, level: number): Size {
  const side = (length: number) => Math.max(1, Math.ceil(length / 2 ** level));
  return { width: side(size.width), height: side(size.height) };
}

/** The finest level at which no side of a picture is longer than `side`. */
export const levelWithin = ({ width, height }: Size, side: number): number => Math.max(0, Math.ceil(Math.log2(Math.max(width, height) / side)));

/** The overlap of two regions, or null if they do not touch. */
export function intersect(a: Region, b: Region): Region | null {
  const x = Math.max(a.x, b.x);
  const y = Math.max(a.y, b.y);
  const width = Math.min(a.x + a.width, b.x + b.width) - x;
  const height = Math.min(a.y + a.height, b.y + b.height) - y;
  return width > 0 && height > 0 ? { x, y, width, height } : null;
}

/** Whether a region holds all of another. */
export const holds = (outer: Region, { x, y, width, height }: Region): boolean => x >= outer.x && y >= outer.y && x + width <= outer.x + outer.width && y + height <= outer.y + outer.height;

export const grown = ({ x, y, width, height }: Region, by: number): Region => ({ x: x - by, y: y - by, width: width + 2 * by, height: height + 2 * by });

/** The tiles of a picture whose corner is not at 0, 0 that touch `within`. They are counted from its own corner. */
export function tilesIn(domain: Region, within: Region): Region[] {
  const shifted = { ...within, x: within.x - domain.x, y: within.y - domain.y };
  return tilesOf({ width: domain.width, height: domain.height }, shifted).map((tile) => ({ ...tile, x: tile.x + domain.x, y: tile.y + domain.y }));
}

/** The tiles of a picture that touch `within` (the whole picture by default), row by row. */
export function tilesOf(size: Size, within: Region = { x: 0, y: 0, ...size }): Region[] {
  const clipped = intersect(within, { x: 0, y: 0, ...size });
  if (!clipped) return [];
  const tiles: Region[] = [];
  const lastX = clipped.x + clipped.width;
  const lastY = clipped.y + clipped.height;
  for (let y = clipped.y - (clipped.y % TILE_SIZE); y < lastY; y += TILE_SIZE) {
    for (let x = clipped.x - (clipped.x % TILE_SIZE); x < lastX; x += TILE_SIZE) {
      tiles.push({ x, y, width: Math.min(TILE_SIZE, size.width - x), height: Math.min(TILE_SIZE, size.height - y) });
    }
  }
  return tiles;
}

/** Strips over the whole width, for passes that need no tiles. */
export function stripsOf(size: Size, rows: number): Region[] {
  const strips: Region[] = [];
  for (let y = 0; y < size.height; y += rows) {
    strips.push({ x: 0, y, width: size.width, height: Math.min(rows, size.height - y) });
  }
  return strips;
}

/** Its four corners. */
export const cornersOf = ({ x, y, width, height }: Region): readonly (readonly [x: number, y: number])[] => [[x, y], [x + width, y], [x, y + height], [x + width, y + height]];
