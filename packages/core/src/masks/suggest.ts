/** Masks that most pictures want, made of what the render holds: by the names of materials, by alpha, by directions. */
import { isJustMaterials, materialTerm, newTerm } from '../document/mask-edits.ts';
import type { MaskTerm, TazzelDocument } from '../document/model.ts';
import { namedLike, USUAL_MASKS } from '../elements/materials.ts';

export interface SuggestedMask {
  readonly name: string;
  readonly terms: readonly MaskTerm[];
}

/** What is on the shelf already, by the same materials or under the same name, is not suggested. */
export function suggestedMasks(document: TazzelDocument): SuggestedMask[] {
  const { masks, materials, sources } = document;
  const isThere = (name: string) => masks.some((mask) => mask.name === name);
  const byName = USUAL_MASKS.flatMap(({ name, words }): SuggestedMask[] => {
    const ids = namedLike(materials, words).map(({ id }) => id);
    return ids.length === 0 || masks.some((mask) => isJustMaterials(mask, ids)) ? [] : [{ name, terms: [materialTerm(ids)] }];
  });
  const has = (role: string) => sources.some((source) => source.role === role);
  const more: SuggestedMask[] = [];
  // Everything but what is there.
  if (has('alpha') && namedLike(materials, USUAL_MASKS[0].words).length === 0) more.push({ name: 'Sky', terms: [newTerm('alpha', 'subtract', document)] });
  if (has('normals')) more.push({ name: 'Level surfaces', terms: [newTerm('facing', 'add', document)] });
  if (has('depth') || has('distance')) more.push({ name: 'In front', terms: [{ ...newTerm('depth', 'add', document), params: { nearMetres: 0, farMetres: 15, softNearMetres: 0, softFarMetres: 10 } } as MaskTerm] });
  return [...byName, ...more].filter(({ name }) => !isThere(name));
}
