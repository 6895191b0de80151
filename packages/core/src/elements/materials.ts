import type { Material, MaterialKind } from '../model/model.ts';
import { remembered } from '../remembered.ts';
import { wordsOf } from './words.ts';
import type { PaletteColor } from './palette.ts';

/** Tags M01, M02 …, objects O01 …, in the order of area. */
export function tagsOf(kind: MaterialKind, count: number): string[] {
  const digits = Math.max(2, String(count).length);
  return Array.from({ length: count }, (_, i) => `${kind === 'object' ? 'O' : 'M'}${String(i + 1).padStart(digits, '0')}`);
}

/** Rows of the material schedule for a palette. */
export function materialsFromPalette(sourceId: string, colors: readonly PaletteColor[], kind: MaterialKind = 'material'): Material[] {
  const tags = tagsOf(kind, colors.length);
  return colors.map(({ key, chip, area }, i) => ({ id: kind === 'object' ? `object-${i + 1}` : `material-${i + 1}`, kind, tag: tags[i], name: tags[i], surface: null, sourceId, colorKey: key, coverage: null, chip, area, mean: null }));
}

/** A colour to tell rows apart that have none of their own: hues by the golden angle, so that neighbours differ. */
export function chipOf(i: number): [number, number, number] {
  const hue = (i * 137.508) % 360;
  const channel = (offset: number) => {
    const k = (offset + hue / 30) % 12;
    return 0.55 - 0.3 * Math.max(-1, Math.min(k - 3, 9 - k, 1));
  };
  return [channel(0), channel(8), channel(4)];
}

/** Rows whose names hold one of the words: materials, or objects where no material does. Both together would be the same pixels twice. */
export function namedLike(rows: readonly Material[], words: readonly string[]): Material[] {
  const index = rowsByWord(rows);
  const places = [...new Set(words.flatMap((word) => index.get(word) ?? []))].sort((a, b) => a - b);
  const found = places.map((place) => rows[place]);
  const materials = found.filter(({ kind }) => kind === 'material');
  return materials.length > 0 ? materials : found;
}

/** Places of rows by the words of their names: schedules of thousands of rows are asked with every change of a document. */
const rowsByWord = remembered((rows: readonly Material[]): ReadonlyMap<string, readonly number[]> => {
  const index = new Map<string, number[]>();
  for (const [place, { name }] of rows.entries()) {
    for (const word of wordsOf(name)) {
      const places = index.get(word);
      if (places) places.push(place);
      else index.set(word, [place]);
    }
  }
  return index;
});
