/** A recipe turned into a plane of coverage: one byte a pixel, 255 where the mask is fully on. */
import type { MaskTerm } from '../document/model.ts';
import type { Plane } from '../raster/planes.ts';
import { type Size, sizeAtLevel } from '../raster/region.ts';
import { materialLookup } from './material.ts';

export interface MaterialIndex extends Size {
  /** Material number per pixel. */
  readonly data: Uint16Array;
  /** Where the ID picture lies in the document's picture. */
  readonly x: number;
  readonly y: number;
  readonly indexOf: ReadonlyMap<string, number>;
}

/**
 * Coverage at a level is the share of the level-0 pixels that the mask selects, so a reduced mask is as soft as the
 * reduced picture. Pixels outside the ID picture are not selected.
 *
 * @param size the document's picture at level 0
 */
export function evaluateMask(terms: readonly MaskTerm[], index: MaterialIndex, size: Size, level: number): Plane {
  const reduced = sizeAtLevel(size, level);
  const result = new Uint8Array(reduced.width * reduced.height);
  for (const [i, term] of terms.entries()) {
    const coverage = selectedShare(materialLookup(term, index.indexOf, 65536), index, size, level);
    if (i === 0 && term.operation === 'add') result.set(coverage);
    else combine(result, coverage, term.operation);
  }
  return { type: 'u8', data: result, ...reduced };
}

function combine(onto: Uint8Array, term: Uint8Array, operation: MaskTerm['operation']): void {
  for (let i = 0; i < onto.length; i++) {
    if (operation === 'add') onto[i] = Math.min(255, onto[i] + term[i]);
    else if (operation === 'subtract') onto[i] = Math.max(0, onto[i] - term[i]);
    else onto[i] = Math.round((onto[i] * term[i]) / 255);
  }
}

function selectedShare(table: Uint8Array, index: MaterialIndex, size: Size, level: number): Uint8Array {
  const reduced = sizeAtLevel(size, level);
  const out = new Uint8Array(reduced.width * reduced.height);
  const block = 2 ** level;
  const sums = new Uint32Array(reduced.width);
  const firstX = Math.max(0, index.x);
  const lastX = Math.min(size.width, index.x + index.width);
  for (let y = 0; y < reduced.height; y++) {
    sums.fill(0);
    const rows = Math.min(block, size.height - y * block);
    for (let row = 0; row < rows; row++) {
      const sourceY = y * block + row - index.y;
      if (sourceY < 0 || sourceY >= index.height) continue;
      const start = sourceY * index.width - index.x;
      for (let x = firstX; x < lastX; x++) sums[x >> level] += table[index.data[start + x]];
    }
    for (let x = 0; x < reduced.width; x++) {
      const columns = Math.min(block, size.width - x * block);
      out[y * reduced.width + x] = Math.round(sums[x] / (rows * columns));
    }
  }
  return out;
}
