/** What uses masks, and what works on materials by them. */
import { masksNamedBy } from '../masks/circles.ts';
import { materialsIn } from '../masks/material.ts';
import { remembered } from '../remembered.ts';
import type { CorrectionLayer, Layer, Mask, MaskUse, TazzelDocument } from '../model/model.ts';
import { type LayerPlace, layersInOrder, masksOf } from '../model/query.ts';

/** Every use of a mask by layers and corrections, so that the shelf can say by how many it is used. */
export const maskUses = (document: TazzelDocument): MaskUse[] => layersInOrder(document).flatMap(({ layer }) => masksOf(layer));

/** How many layers, corrections and other masks use a mask. */
export const usesOf = (document: TazzelDocument, maskId: string): number =>
  maskUses(document).filter((use) => use.maskId === maskId).length + document.masks.filter((mask) => masksNamedBy(mask).includes(maskId)).length;

/** Which masks name a material, by the material. */
const masksByMaterial = remembered((masks: readonly Mask[]): ReadonlyMap<string, ReadonlySet<string>> => {
  const found = new Map<string, Set<string>>();
  for (const mask of masks) for (const materialId of materialsIn(mask)) found.set(materialId, (found.get(materialId) ?? new Set()).add(mask.id));
  return found;
});

/** Masks that hold materials, nothing but materials, and all of them among those that are named. */
export function masksOnlyOf(document: TazzelDocument, materialIds: readonly string[]): ReadonlySet<string> {
  const wanted = new Set(materialIds);
  const isOnly = ({ terms, inverted }: Mask) => !inverted && terms.length > 0 && terms.every(({ type, operation }) => type === 'material' && operation === 'add');
  return new Set(document.masks.filter((mask) => isOnly(mask) && materialsIn(mask).every((id) => wanted.has(id))).map(({ id }) => id));
}

/** Corrections of everything below that work on these materials and on nothing else, from base to finish. */
export function correctionsOn(document: TazzelDocument, materialIds: readonly string[]): (LayerPlace & { readonly layer: CorrectionLayer })[] {
  const only = masksOnlyOf(document, materialIds);
  const all = new Set(materialIds).size;
  const masks = new Set(document.masks.filter((mask) => only.has(mask.id) && new Set(materialsIn(mask)).size === all).map(({ id }) => id));
  return layersInOrder(document).filter((place): place is LayerPlace & { layer: CorrectionLayer } => place.layer.kind === 'correction' && place.layer.mask !== null && !place.layer.mask.inverted && masks.has(place.layer.mask.maskId));
}

/** Layers that work on a material by their masks. */
export function layersOn(document: TazzelDocument, materialId: string): Layer[] {
  const masks = masksByMaterial(document.masks).get(materialId);
  if (!masks) return [];
  return layersInOrder(document).map(({ layer }) => layer).filter((layer) => masksOf(layer).some(({ maskId }) => masks.has(maskId)));
}
