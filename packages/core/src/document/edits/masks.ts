/** Masks of the shelf, their recipes, and which layer uses which. */
import { LIMITS, shortened } from '../limits.ts';
import { checkedTerm, ensureMaterialMask, type MaskPatch, newMask, patchMask, withStroke, withTerm } from '../mask-edits.ts';
import type { MaskTerm, Stroke } from '../model.ts';
import { chainOf, findLayer, findMask, freshId, usesOf } from '../query.ts';
import { type Handlers, named, refuse, unit } from './define.ts';
import { patchChain, patchLayer } from './in-layers.ts';

export type MaskEdit =
  | { type: 'add-mask'; name: string; terms: readonly MaskTerm[] }
  | { type: 'set-mask'; maskId: string; patch: MaskPatch }
  | { type: 'duplicate-mask'; maskId: string }
  | { type: 'remove-mask'; maskId: string }
  | { type: 'add-term'; maskId: string; term: MaskTerm; index?: number }
  | { type: 'set-term'; maskId: string; index: number; term: MaskTerm }
  | { type: 'move-term'; maskId: string; index: number; to: number }
  | { type: 'remove-term'; maskId: string; index: number }
  | { type: 'add-stroke'; maskId: string; index: number; stroke: Stroke }
  | { type: 'unlink-mask'; layerId: string; correctionId?: string }
  | { type: 'mask-with-material'; materialIds: readonly string[]; layerId: string; correctionId?: string };

export const maskEdits: Handlers<MaskEdit> = {
  'add-mask': {
    label: 'New mask',
    apply: (document, { name, terms }) => {
      const id = freshId(document, 'mask');
      return { ...document, masks: [...document.masks, newMask(id, named(name, 'a mask'), terms.map((term) => checkedTerm(document, id, term)))] };
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
        return { ...mask, terms: mask.terms.toSpliced(Math.max(0, index ?? mask.terms.length), 0, checkedTerm(document, maskId, term)) };
      }),
  },
  'set-term': {
    label: 'Change mask',
    apply: (document, { maskId, index, term }) => withTerm(document, maskId, index, () => [term]),
  },
  'move-term': {
    label: 'Reorder mask',
    apply: (document, { maskId, index, to }) =>
      patchMask(document, maskId, (mask) => {
        const term = mask.terms[index] ?? refuse(`${mask.name} has no term ${index + 1}.`);
        return { ...mask, terms: mask.terms.toSpliced(index, 1).toSpliced(Math.max(0, to), 0, term) };
      }),
  },
  'remove-term': {
    label: 'Remove from mask',
    apply: (document, { maskId, index }) => withTerm(document, maskId, index, () => []),
  },
  'add-stroke': {
    label: 'Paint',
    apply: (document, { maskId, index, stroke }) => withStroke(document, maskId, index, stroke),
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
