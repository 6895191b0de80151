/** Keys of masks, and of the pictures that masks read. */
import { cameraOf } from '../camera/camera.ts';
import { findMask, findSource, layersInOrder, endOfLayer, masksOf } from '../model/query.ts';
import { sourceIdentity } from '../model/identity.ts';
import type { Mask, TazzelDocument } from '../model/model.ts';
import { pictureCircles } from '../masks/circles.ts';
import { resolveMask } from '../masks/evaluate.ts';
import { materialPlaces } from '../masks/material.ts';
import { paintKeys } from '../masks/paint.ts';
import { termSpec } from '../masks/registry.ts';
import type { Stroke } from '../params/strokes.ts';
import { remembered } from '../remembered.ts';
import { digest } from '../digest.ts';

/** The key of the picture after a layer, with some masks taken as empty; null if it cannot be made. */
export type PictureKey = (document: TazzelDocument, layerId: string, emptied: ReadonlySet<string>) => string | null;

const keysOfMasks = remembered((_: TazzelDocument) => new Map<Mask, string>());

/**
 * The identity of a mask's coverage: everything that it depends on, and no names. Each mask of a document is looked into once, however many
 * refer to it; masks that refer to each other in a circle get a key as well, and whoever evaluates them says what is wrong.
 */
export function keyOfMask(document: TazzelDocument, mask: Mask, pictureKey: PictureKey): string {
  const keys = keysOfMasks(document);
  // From the innermost on, without recursion: masks are stacked as high as one likes.
  const waiting = [mask];
  while (waiting.length > 0) {
    const next = waiting[waiting.length - 1];
    const inner = keys.has(next) ? [] : innerMasks(document, next).filter((each) => !keys.has(each));
    if (inner.length > 0) waiting.push(...inner);
    else {
      waiting.pop();
      if (!keys.has(next)) keys.set(next, ownKey(document, next, keys, pictureKey));
    }
  }
  return keys.get(mask) as string;
}

/** What must have a key before a mask can have one. None of them leads back to it. */
function innerMasks(document: TazzelDocument, mask: Mask): Mask[] {
  const find = (id: string) => findMask(document, id) ?? [];
  return resolveMask(document, mask).needs.flatMap((need) => {
    if (need.what === 'mask') return find(need.maskId);
    if (need.what !== 'picture') return [];
    const emptied = emptiedFor(document, mask, need.layerId);
    return [...masksUpTo(document, need.layerId)].filter((id) => !emptied.has(id)).flatMap(find);
  });
}

/** Masks of the layers up to one, which the picture after it depends on. */
function masksUpTo(document: TazzelDocument, layerId: string): ReadonlySet<string> {
  const found = new Set<string>();
  for (const { layer } of layersInOrder(document).slice(0, endOfLayer(document, layerId) + 1)) {
    for (const use of masksOf(layer)) if (use.enabled) found.add(use.maskId);
  }
  return found;
}

/** The masks that count as empty in a picture that a mask reads: it and all that lead back to it, if it has a part in the picture. */
export function emptiedFor(document: TazzelDocument, mask: Mask, layerId: string): ReadonlySet<string> {
  const circle = pictureCircles(document).get(mask.id);
  return circle && [...masksUpTo(document, layerId)].some((id) => circle.has(id)) ? circle : NONE;
}
const NONE: ReadonlySet<string> = new Set();

function ownKey(document: TazzelDocument, mask: Mask, known: ReadonlyMap<Mask, string>, pictureKey: PictureKey): string {
  const { mask: resolved, needs } = resolveMask(document, mask);
  const facts = needs.map((need) => {
    if (need.what === 'mask') {
      const inner = findMask(document, need.maskId);
      return inner && (known.get(inner) ?? null);
    }
    if (need.what === 'picture') return pictureKey(document, need.layerId, emptiedFor(document, mask, need.layerId));
    if (need.what === 'camera') return document.camera && cameraOf(document.camera);
    const source = findSource(document, need.sourceId);
    return source && [need.what, sourceIdentity(source)];
  });
  const places = materialPlaces(document, resolved);
  const keys = [...new Set(Object.values(places).map(({ sourceId }) => sourceId))].map((sourceId) => document.materials.filter((row) => row.sourceId === sourceId).map(({ colorKey }) => colorKey));
  const { name: _, id: __, terms, ...finish } = resolved;
  const recipe = [finish, terms.map(({ id: ___, params, ...term }) => ({ ...term, params: Object.entries(params).map(([name, value]) => [name, termSpec(term.type).params[name]?.kind === 'strokes' ? paintKeys(value as readonly Stroke[], '').at(-1) : value]) }))];
  return digest(JSON.stringify([document.size, recipe, facts, Object.values(places).map(({ index, colorKey, coverage }) => [index, colorKey, coverage?.hash]), keys]));
}
