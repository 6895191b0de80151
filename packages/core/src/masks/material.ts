import type { MaterialTerm } from '../document/model.ts';

/** Which index values a term selects, as a table from index to 255 or 0. */
export function materialLookup(term: MaterialTerm, indexOf: ReadonlyMap<string, number>, tableSize: number): Uint8Array {
  const table = new Uint8Array(tableSize);
  for (const id of term.materialIds) {
    const index = indexOf.get(id);
    if (index !== undefined) table[index] = 255;
  }
  return table;
}
