/** What of a cut-out picture is not transparent. */
import { applyEdit, asPicture, emptyDocument, levelWithin, sizeAtLevel, type Source, type TazzelDocument } from '@tazzel/core';
import type { Engine } from './engine.ts';

/** Cut-outs are looked through at this size; what covers less than this, of 255, does not count. */
const [SIDE, LEAST_ALPHA] = [512, 8];

/** A picture by itself, as a document. */
export function pictureAlone(source: Source): TazzelDocument {
  const size = { width: source.width, height: source.height };
  return applyEdit({ ...emptyDocument('cut-out', source.name, size), sources: [{ ...asPicture(source), x: 0, y: 0, fit: null }] }, { type: 'add-layer', layer: 'element', params: { source: source.id }, zone: 'scene' });
}

/** The box of what is not transparent, as shares of the picture from its left and upper edge: left, top, right, bottom; null if nothing is. */
export async function outlineOf(engine: Engine, source: Source): Promise<readonly [left: number, top: number, right: number, bottom: number] | null> {
  const size = { width: source.width, height: source.height };
  const level = levelWithin(size, SIDE);
  const { pixels } = await engine.flatten({ document: pictureAlone(source), kind: 'rgba8', level });
  const { width, height } = sizeAtLevel(size, level);
  const codes = new Uint8Array(pixels);
  let [left, top, right, bottom] = [width, height, 0, 0];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (codes[(y * width + x) * 4 + 3] < LEAST_ALPHA) continue;
      [left, top, right, bottom] = [Math.min(left, x), Math.min(top, y), Math.max(right, x + 1), Math.max(bottom, y + 1)];
    }
  }
  return right > left ? [left / width, top / height, right / width, bottom / height] : null;
}
