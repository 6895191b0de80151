/** Corrections, of everything below and in chains. */
import { CORRECTION_BLENDS, correctionBlend, type CorrectionBlendId } from '../../blend/correction-blends.ts';
import { cameraOf } from '../../camera/camera.ts';
import { MID_GREY_COLOR } from '../../color/luminance.ts';
import type { Zone } from '../../color/zones.ts';
import type { Correction } from '../../corrections/define.ts';
import { blendsOf, correctionById, correctionLabel, isCorrectionId } from '../../corrections/registry.ts';
import { completeParams } from '../../params/table.ts';
import { shortened } from '../../limits.ts';
import { ensureMaterialMask } from '../mask-edits.ts';
import type { ChainCorrection, Layer, MaskUse, TazzelDocument } from '../../model/model.ts';
import { chainOf, findLayer, findMask, findMaterial, freshId } from '../../model/query.ts';
import { type Handlers, refuse, unit } from './define.ts';
import { fitting, insert, patchChain, patchLayer, patchPicture, withLayer } from './in-layers.ts';

type ChainPatch = { visible?: boolean; opacity?: number; mask?: MaskUse | null };

export type CorrectionEdit =
  | { type: 'add-correction-layer'; correction: string; zone: Zone; index?: number; groupId?: string; maskId?: string }
  | { type: 'correct-material'; materialIds: readonly string[]; correction: string; zone: Zone; index?: number }
  | { type: 'add-chain-correction'; layerId: string; correction: string }
  | { type: 'set-chain-correction'; layerId: string; correctionId: string; patch: ChainPatch }
  | { type: 'move-chain-correction'; layerId: string; correctionId: string; index: number }
  | { type: 'remove-chain-correction'; layerId: string; correctionId: string }
  /** A correction of a layer's chain, or of everything below, into the chain of another layer; without one it becomes a layer of its own right after. */
  | { type: 'carry-correction'; layerId: string; correctionId?: string; to: string | null }
  | { type: 'set-correction-blend'; layerId: string; correctionId?: string; blend: CorrectionBlendId };

export const correctionEdits: Handlers<CorrectionEdit> = {
  'add-correction-layer': {
    label: 'Add correction',
    apply: (document, { correction, zone, index, groupId, maskId }) => {
      const declared = fitting(correctionById(correction), zone);
      if (maskId !== undefined && !findMask(document, maskId)) refuse(`There is no mask ${maskId}.`);
      const mask = maskId === undefined ? null : { maskId, inverted: false, enabled: true };
      const layer: Layer = { id: freshId(document, 'layer'), kind: 'correction', name: declared.label, visible: true, opacity: 1, mask, correction: { type: correction, blend: 'all', params: beginning(document, declared) } };
      return insert(document, zone, index, layer, groupId ?? null);
    },
  },
  'correct-material': {
    label: 'Correct material',
    apply: (document, { materialIds, correction, zone, index }) => {
      const { document: withMask, maskId } = ensureMaterialMask(document, materialIds);
      const layerId = freshId(withMask, 'layer');
      const added = correctionEdits['add-correction-layer'].apply(withMask, { type: 'add-correction-layer', correction, zone, index, maskId });
      const onSurface = correctionById(correction).onSurface?.(meanOf(document, materialIds) ?? MID_GREY_COLOR);
      return patchLayer(added, layerId, (layer) => ({
        ...layer,
        name: shortened(`${findMask(withMask, maskId)?.name}: ${layer.name.toLowerCase()}`),
        ...(layer.kind === 'correction' && onSurface ? { correction: { ...layer.correction, params: completeParams(correctionById(correction), { ...layer.correction.params, ...onSurface }) } } : {}),
      }));
    },
  },
  'add-chain-correction': {
    label: 'Add correction to layer',
    apply: (document, { layerId, correction }) => {
      const declared = correctionById(correction);
      const place = findLayer(document, layerId);
      if (place) fitting(declared, place.zone);
      const added: ChainCorrection = { id: freshId(document, 'correction'), type: correction, blend: 'all', params: beginning(document, declared), visible: true, opacity: 1, mask: null };
      return patchPicture(document, layerId, (layer) => ({ ...layer, chain: [...layer.chain, added] }));
    },
  },
  'set-chain-correction': {
    label: 'Change correction',
    apply: (document, { layerId, correctionId, patch }) => {
      if (patch.mask && !findMask(document, patch.mask.maskId)) refuse(`There is no mask ${patch.mask.maskId}.`);
      const checked = { ...patch, ...(patch.opacity === undefined ? {} : { opacity: unit(patch.opacity) }) };
      return patchChain(document, layerId, correctionId, (correction) => ({ ...correction, ...checked }));
    },
  },
  'move-chain-correction': {
    label: 'Move correction',
    apply: (document, { layerId, correctionId, index }) =>
      patchPicture(document, layerId, (layer) => {
        const moved = layer.chain.find((correction) => correction.id === correctionId) ?? refuse(`There is no correction ${correctionId}.`);
        const rest = layer.chain.filter((correction) => correction !== moved);
        return { ...layer, chain: rest.toSpliced(Math.max(0, index), 0, moved) };
      }),
  },
  'remove-chain-correction': {
    label: 'Remove correction',
    apply: (document, { layerId, correctionId }) =>
      patchPicture(document, layerId, (layer) => {
        if (!layer.chain.some((correction) => correction.id === correctionId)) refuse(`There is no correction ${correctionId}.`);
        return { ...layer, chain: layer.chain.filter((correction) => correction.id !== correctionId) };
      }),
  },
  'carry-correction': {
    label: 'Carry a correction over',
    apply: (document, { layerId, correctionId, to }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const { layer, zone, index, groupIds } = place;
      const link = chainOf(layer).find(({ id }) => id === correctionId);
      const taken = link ?? (correctionId === undefined && layer.kind === 'correction' ? { ...layer.correction, visible: layer.visible, opacity: layer.opacity, mask: layer.mask } : refuse(`${layer.name} has no such correction.`));
      const { type, blend, params, visible, opacity, mask } = taken;
      const without = link ? correctionEdits['remove-chain-correction'].apply(document, { type: 'remove-chain-correction', layerId, correctionId: link.id }) : { ...document, buildUp: withLayer(document.buildUp, zone, layerId, () => []) };
      if (to === null) {
        if (!link) return document;
        if (isCorrectionId(type)) fitting(correctionById(type), zone);
        const own: Layer = { id: freshId(document, 'layer'), kind: 'correction', name: correctionLabel(type), visible, opacity, mask, correction: { type, blend, params } };
        return insert(without, zone, index + 1, own, groupIds.at(-1) ?? null);
      }
      const target = findLayer(document, to) ?? refuse(`There is no layer ${to}.`);
      if (isCorrectionId(type)) fitting(correctionById(type), target.zone);
      const added: ChainCorrection = { id: link?.id ?? freshId(document, 'correction'), type, blend, params, visible, opacity, mask };
      return patchPicture(without, to, (found) => ({ ...found, chain: [...found.chain, added] }));
    },
  },
  'set-correction-blend': {
    label: 'Blend of a correction',
    apply: (document, { layerId, correctionId, blend }) => {
      const { layer, zone } = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const use = correctionId === undefined ? (layer.kind === 'correction' ? layer.correction : refuse(`${layer.name} is not a correction.`)) : (chainOf(layer).find(({ id }) => id === correctionId) ?? refuse(`There is no correction ${correctionId} in ${layer.name}.`));
      if (!CORRECTION_BLENDS.includes(blend)) refuse(`There is no such blend. There are: ${CORRECTION_BLENDS.join(', ')}.`);
      if (isCorrectionId(use.type) && !blendsOf(correctionById(use.type), zone, correctionId !== undefined).includes(blend)) refuse(`“${correctionBlend(blend).label}” means nothing in light, which has no upper end.`);
      return correctionId === undefined ? patchLayer(document, layerId, (found) => (found.kind === 'correction' ? { ...found, correction: { ...found.correction, blend } } : found)) : patchChain(document, layerId, correctionId, (link) => ({ ...link, blend }));
    },
  },
};

/** What a correction begins with in a document. */
const beginning = ({ camera }: TazzelDocument, spec: Correction) => completeParams(spec, spec.begin?.(camera && cameraOf(camera)) ?? {});

/** Mean colour of some rows of the schedule, by their areas; null if none of them was measured. */
export function meanOf(document: TazzelDocument, materialIds: readonly string[]): readonly [number, number, number] | null {
  const rows = materialIds.flatMap((id) => findMaterial(document, id) ?? []).filter(({ mean, area }) => mean !== null && area > 0);
  const area = rows.reduce((sum, row) => sum + row.area, 0);
  const channel = (c: number) => rows.reduce((sum, { mean, area: own }) => sum + (mean as readonly number[])[c] * own, 0) / area;
  return area > 0 ? [channel(0), channel(1), channel(2)] : null;
}
