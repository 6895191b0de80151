/** Masks of the shelf, their recipes, and which layer uses which. */
import { LIMITS, shortened } from '../../limits.ts';
import { checkedTerm, ensureMaterialMask, type MaskPatch, newMask, patchMask, withIds, withStroke, withTerm } from '../mask-edits.ts';
import type { MaskTerm, Stroke } from '../../model/model.ts';
import { chainOf, findLayer, findMask, freshId } from '../../model/query.ts';
import { usesOf } from '../uses.ts';
import { type Handlers, named, refuse, unit } from './define.ts';
import { patchChain, patchLayer } from './in-layers.ts';

export type MaskEdit =
  | { type: 'add-mask'; name: string; terms: readonly MaskTerm[] }
  | { type: 'set-mask'; maskId: string; patch: MaskPatch }
  | { type: 'duplicate-mask'; maskId: string }
  | { type: 'remove-mask'; maskId: string }
  | { type: 'add-term'; maskId: string; term: MaskTerm; index?: number }
  | { type: 'set-term'; maskId: string; termId: string; patch: Partial<Pick<MaskTerm, 'operation' | 'muted'>> }
  | { type: 'move-term'; maskId: string; termId: string; to: number }
  | { type: 'remove-term'; maskId: string; termId: string }
  | { type: 'add-stroke'; maskId: string; termId: string; stroke: Stroke }
  | { type: 'unlink-mask'; layerId: string; correctionId?: string }
  | { type: 'mask-with-material'; materialIds: readonly string[]; layerId: string; correctionId?: string };

export const maskEdits: Handlers<MaskEdit> = {
  'add-mask': {
    label: 'New mask',
    apply: (document, { name, terms }) => {
      const id = freshId(document, 'mask');
      return { ...document, masks: [...document.masks, newMask(id, named(name, 'a mask'), withIds(terms.map((term) => checkedTerm(document, id, term))))] };
    },
  },
  'set-mask': {
    label: 'Change mask',
    apply: (document, { maskId, patch }) => {
      const numbers = [patch.growPx, patch.featherPx].filter((value) => value !== undefined);
      if (numbers.some((value) => !Number.isFinite(value) || Math.abs(value) > LIMITS.edgePx) || (patch.featherPx ?? 0) < 0) refuse(`Masks grow, shrink and soften by at most ${LIMITS.edgePx} pixels.`);
      return patchMask(document, maskId, (mask) => ({ ...mask, ...patch, ...(patch.strength === undefined ? {} : { strength: unit(patch.strength) }), name: patch.name === undefined ? mask.name : named(patch.name, 'a mask') }));
    },
  },
  'duplicate-mask': {
    label: 'Duplicate mask',
    apply: (document, { maskId }) => {
      const mask = findMask(document, maskId) ?? refuse(`There is no mask ${maskId}.`);
      const at = document.masks.indexOf(mask) + 1;
      return { ...document, masks: document.masks.toSpliced(at, 0, { ...mask, id: freshId(document, 'mask'), name: shortened(`${mask.name} copy`) }) };
    },
  },
  'remove-mask': {
    label: 'Delete mask',
    apply: (document, { maskId }) => {
      const mask = findMask(document, maskId) ?? refuse(`There is no mask ${maskId}.`);
      const uses = usesOf(document, maskId);
      if (uses > 0) refuse(`${mask.name} is used ${uses === 1 ? 'once' : `${uses} times`}. Take it off there first.`);
      return { ...document, masks: document.masks.filter((other) => other !== mask) };
    },
  },
  'add-term': {
    label: 'Add to mask',
    apply: (document, { maskId, term, index }) =>
      patchMask(document, maskId, (mask) => {
        if (mask.terms.length >= LIMITS.terms) refuse(`A mask has at most ${LIMITS.terms} terms.`);
        return { ...mask, terms: withNew(mask.terms, checkedTerm(document, maskId, term), Math.max(0, index ?? mask.terms.length)) };
      }),
  },
  'set-term': {
    label: 'Change mask',
    apply: (document, { maskId, termId, patch }) => withTerm(document, maskId, termId, (term) => [{ ...term, ...patch }]),
  },
  'move-term': {
    label: 'Reorder mask',
    apply: (document, { maskId, termId, to }) =>
      patchMask(document, maskId, (mask) => {
        const term = mask.terms.find(({ id }) => id === termId) ?? refuse(`${mask.name} has no line ${termId}.`);
        return { ...mask, terms: mask.terms.filter((other) => other !== term).toSpliced(Math.max(0, to), 0, term) };
      }),
  },
  'remove-term': {
    label: 'Remove from mask',
    apply: (document, { maskId, termId }) => withTerm(document, maskId, termId, () => []),
  },
  'add-stroke': {
    label: 'Paint',
    apply: (document, { maskId, termId, stroke }) => withStroke(document, maskId, termId, stroke),
  },
  'unlink-mask': {
    label: 'Unlink mask',
    apply: (document, { layerId, correctionId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const correction = chainOf(place.layer).find(({ id }) => id === correctionId);
      const use = (correctionId === undefined ? place.layer.mask : correction?.mask) ?? refuse(`${place.layer.name} has no mask.`);
      const shared = findMask(document, use.maskId) ?? refuse(`There is no mask ${use.maskId}.`);
      const own = { ...shared, id: freshId(document, 'mask'), name: shortened(`${shared.name}, ${place.layer.name}`) };
      const masked = { ...document, masks: [...document.masks, own] };
      const mask = { ...use, maskId: own.id };
      return correctionId === undefined ? patchLayer(masked, layerId, (layer) => ({ ...layer, mask })) : patchChain(masked, layerId, correctionId, (link) => ({ ...link, mask }));
    },
  },
  'mask-with-material': {
    label: 'Mask with material',
    apply: (document, { materialIds, layerId, correctionId }) => {
      const { document: withMask, maskId } = ensureMaterialMask(document, materialIds);
      const mask = { maskId, inverted: false, enabled: true };
      return correctionId === undefined
        ? patchLayer(withMask, layerId, (layer) => ({ ...layer, mask }))
        : patchChain(withMask, layerId, correctionId, (correction) => ({ ...correction, mask }));
    },
  },
};

/** The newcomer takes another id, not one of those that stand there. */
function withNew(terms: readonly MaskTerm[], term: MaskTerm, index: number): readonly MaskTerm[] {
  const added = withIds([...terms, term])[terms.length];
  return terms.toSpliced(index, 0, added);
}
