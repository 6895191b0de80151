/** Masks that most pictures want, made of what the render holds: by the names of materials, by alpha, by directions. */
import { isJustMaterials, materialTerm, newTerm } from './mask-edits.ts';
import type { MaskTerm, TazzelDocument } from '../model/model.ts';
import { namedLike } from '../elements/materials.ts';
import { THINGS, type ThingId } from '../elements/vocabulary.ts';

/** What most pictures want a mask of. */
const USUAL: readonly ThingId[] = ['sky', 'glazing', 'water', 'foliage', 'ground'];

export interface SuggestedMask {
  readonly name: string;
  readonly terms: readonly MaskTerm[];
}

/** What is on the shelf already, by the same materials or under the same name, is not suggested. */
export function suggestedMasks(document: TazzelDocument): SuggestedMask[] {
  const { masks, materials, sources } = document;
  const isThere = (name: string) => masks.some((mask) => mask.name === name);
  const byName = USUAL.flatMap((thing): SuggestedMask[] => {
    const { label: name, words } = THINGS[thing];
    const ids = namedLike(materials, words).map(({ id }) => id);
    return ids.length === 0 || masks.some((mask) => isJustMaterials(mask, ids)) ? [] : [{ name, terms: [materialTerm(ids)] }];
  });
  const has = (role: string) => sources.some((source) => source.role === role);
  const more: SuggestedMask[] = [];
  // Everything but what is there.
  if (has('alpha') && namedLike(materials, THINGS.sky.words).length === 0) more.push({ name: 'Sky', terms: [newTerm('alpha', 'subtract', document)] });
  if (has('normals')) more.push({ name: 'Level surfaces', terms: [newTerm('facing', 'add', document)] });
  if (has('depth') || has('distance')) more.push({ name: 'In front', terms: [newTerm('depth', 'add', document, { nearMetres: 0, farMetres: 15, softNearMetres: 0, softFarMetres: 10 })] });
  return [...byName, ...more].filter(({ name }) => !isThere(name));
}
