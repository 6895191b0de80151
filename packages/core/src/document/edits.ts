/**
 * All changes to a document. An edit is plain data; `applyEdit` is pure: the old document is untouched and shares every
 * part that did not change, so keeping old documents is a cheap undo history.
 */
import { CORRECTION_BLENDS, correctionBlend, type CorrectionBlendId } from '../blend/correction-blends.ts';
import { type BlendModeId, blendMode } from '../blend/modes.ts';
import type { Correction } from '../corrections/define.ts';
import { blendsOf, correctionById, isCorrectionId } from '../corrections/registry.ts';
import { CoreError } from '../errors.ts';
import { completeParams, defaultsOf, type KeptValues } from '../params/table.ts';
import type { Size } from '../raster/region.ts';
import type { Zone } from '../color/zones.ts';
import { type BuildUp, type ChainCorrection, type GroupLayer, type Layer, type Mask, type MaskTerm, type MaskUse, type Material, MAX_GROUP_DEPTH, type PictureLayer, type Placement, type Source, type Stroke, type TazzelDocument } from './model.ts';
import { checkedTerm, ensureMaterialMask, type MaskPatch, newMask, patchMask, scaledMask, usesMaterial, withStroke, withTerm } from './mask-edits.ts';
import { isLayerType, layerSpec } from '../layers/registry.ts';
import { faultOf, isPictureLayer, problemOf, scaledLayer, usedSourceIds } from './layers.ts';
import { LIMITS, shortened } from './limits.ts';
import { mergedMaterials } from './merge-rows.ts';
import { unsoundness } from './sound.ts';
import { chainOf, findLayer, findMask, findMaterial, findSource, freshId, freshIds, layersOf, usesOf } from './query.ts';

type LayerPatch = { name?: string; visible?: boolean; opacity?: number; blend?: BlendModeId; isolated?: boolean; mask?: MaskUse | null; placement?: Placement | null };
type ChainPatch = { visible?: boolean; opacity?: number; mask?: MaskUse | null };
type SourcePatch = Partial<Pick<Source, 'name' | 'encoding' | 'role' | 'alpha' | 'scale' | 'offset' | 'inSum' | 'fit' | 'x' | 'y'>>;

export type Edit =
  | { type: 'rename-document'; name: string }
  | { type: 'add-sources'; sources: readonly Source[] }
  | { type: 'set-source'; sourceId: string; patch: SourcePatch }
  | { type: 'remove-source'; sourceId: string }
  | { type: 'refresh'; sources: readonly Source[]; materials: readonly Material[] | null; size: Size; /** What is drawn or given in pixels grows with the picture. */ scales?: boolean }
  | { type: 'set-materials'; sourceId: string; materials: readonly Material[] }
  | { type: 'rename-material'; materialId: string; name: string }
  | { type: 'group-materials'; materialIds: readonly string[]; surface: string | null }
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
  | { type: 'add-layer'; layer: string; params?: KeptValues; zone: Zone; index?: number; groupId?: string; blend?: BlendModeId }
  | { type: 'add-correction-layer'; correction: string; zone: Zone; index?: number; groupId?: string; maskId?: string }
  | { type: 'correct-material'; materialIds: readonly string[]; correction: string; zone: Zone; index?: number }
  | { type: 'mask-with-material'; materialIds: readonly string[]; layerId: string; correctionId?: string }
  | { type: 'set-layer'; layerId: string; patch: LayerPatch }
  | { type: 'duplicate-layer'; layerId: string }
  | { type: 'remove-layer'; layerId: string }
  | { type: 'move-layer'; layerId: string; zone: Zone; index: number; groupId?: string }
  | { type: 'group-layer'; layerId: string }
  | { type: 'ungroup'; layerId: string }
  | { type: 'build'; scene: readonly Layer[]; picture: readonly Layer[]; name: string; masks?: readonly Mask[] }
  | { type: 'add-chain-correction'; layerId: string; correction: string }
  | { type: 'set-chain-correction'; layerId: string; correctionId: string; patch: ChainPatch }
  | { type: 'move-chain-correction'; layerId: string; correctionId: string; index: number }
  | { type: 'remove-chain-correction'; layerId: string; correctionId: string }
  | { type: 'set-correction-blend'; layerId: string; correctionId?: string; blend: CorrectionBlendId }
  | { type: 'set-params'; layerId: string; correctionId?: string; params: KeptValues };

export type EditOf<T extends Edit['type']> = Extract<Edit, { type: T }>;
type Handler<T extends Edit['type']> = { label: string; apply: (document: TazzelDocument, edit: EditOf<T>) => TazzelDocument };

const refuse = (sentence: string): never => {
  throw new CoreError('edit-refused', sentence);
};

const handlers: { [T in Edit['type']]: Handler<T> } = {
  'rename-document': {
    label: 'Rename document',
    apply: (document, { name }) => ({ ...document, name: named(name, 'a document') }),
  },
  'add-sources': {
    label: 'Add elements',
    apply: (document, { sources }) => {
      const known = new Set(document.sources.map((source) => source.id));
      const doubled = sources.find((source) => known.has(source.id));
      if (doubled) refuse(`The document already has a source with the id ${doubled.id}.`);
      return { ...document, sources: [...document.sources, ...sources.map(withinLimits)] };
    },
  },
  'set-source': {
    label: 'Change element',
    apply: (document, { sourceId, patch }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      if (patch.alpha && (patch.alpha === 'none') !== (source.alphaChannel === null)) refuse(`${source.name} has ${source.alphaChannel ? 'an' : 'no'} alpha channel.`);
      const name = patch.name === undefined ? source.name : named(patch.name, 'an element', LIMITS.elementName);
      // What was found belongs to the role and the values that it was found with.
      const guess = patch.role === undefined ? source.guess : null;
      const isMended = patch.scale !== undefined || patch.offset !== undefined;
      const findings = source.findings.filter(({ kind }) => (patch.role === undefined || kind === 'copy') && !(isMended && (kind === 'inverted' || kind === 'normalised-depth')));
      return { ...document, sources: document.sources.map((other) => (other === source ? { ...source, ...patch, name, guess, findings } : other)) };
    },
  },
  'remove-source': {
    label: 'Remove element',
    apply: (document, { sourceId }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      if (usedSourceIds(document).has(sourceId)) refuse(`${source.name} is used by a layer. Delete the layer first.`);
      if (document.materials.some((material) => material.sourceId === sourceId)) {
        if (document.masks.length > 0) refuse(`Masks depend on ${source.name}. Remove the corrections that use them first.`);
        return { ...document, sources: document.sources.filter((other) => other !== source), materials: document.materials.filter((material) => material.sourceId !== sourceId) };
      }
      return { ...document, sources: document.sources.filter((other) => other !== source) };
    },
  },
  'set-materials': {
    label: 'Find materials',
    apply: (document, { sourceId, materials }) => {
      if (!findSource(document, sourceId)) refuse(`There is no element ${sourceId}.`);
      return { ...document, materials: mergedMaterials(document, materials) };
    },
  },
  refresh: {
    label: 'Replace by a newer render',
    apply: (document, { sources, materials, size, scales = false }) => {
      const ids = new Set(sources.map((source) => source.id));
      const lost = document.sources.find((source) => !ids.has(source.id));
      if (lost) refuse(`${lost.name} would be lost.`);
      if (ids.size !== sources.length) refuse('Two elements of the newer render share an id.');
      const rows = materials && mergedMaterials(document, materials);
      // Masks keep what they were made for: it may be back in the next render.
      const gone = rows ? document.materials.filter((old) => !rows.some(({ id }) => id === old.id) && document.masks.some((mask) => usesMaterial(mask, old.id))) : [];
      const by = { across: size.width / document.size.width, down: size.height / document.size.height };
      const scaled = scales ? { masks: document.masks.map((mask) => scaledMask(mask, by.across, by.down)), buildUp: { scene: document.buildUp.scene.map((layer) => scaledLayer(layer, by)), picture: document.buildUp.picture.map((layer) => scaledLayer(layer, by)) } } : {};
      return { ...document, ...scaled, sources: sources.map(withinLimits), size, materials: rows ? [...rows, ...gone.map((material) => ({ ...material, area: 0 }))] : document.materials };
    },
  },
  'rename-material': {
    label: 'Rename material',
    apply: (document, { materialId, name }) => {
      const material = findMaterial(document, materialId) ?? refuse(`There is no material ${materialId}.`);
      const renamed = { ...material, name: named(name, 'a material') };
      // A mask that still carries the material's own name follows it.
      const masks = document.masks.map((mask) => (mask.name === material.name && usesMaterial(mask, materialId) ? { ...mask, name: renamed.name } : mask));
      return { ...document, masks, materials: document.materials.map((other) => (other === material ? renamed : other)) };
    },
  },
  'group-materials': {
    label: 'Group surfaces',
    apply: (document, { materialIds, surface }) => {
      const lost = materialIds.find((id) => !findMaterial(document, id));
      if (lost !== undefined) refuse(`There is no material ${lost}.`);
      const name = surface === null ? null : named(surface, 'a surface');
      return { ...document, materials: document.materials.map((material) => (materialIds.includes(material.id) ? { ...material, surface: name } : material)) };
    },
  },
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
  'add-layer': {
    label: 'Add layer',
    apply: (document, { layer: type, params, zone, index, groupId, blend = 'normal' }) => {
      const spec = layerSpec(type);
      const values = completeParams(spec, { ...spec.begin?.(document), ...params });
      const lack = spec.fault?.({ document, values, layerId: null }) ?? spec.problem?.({ document, values, layerId: null }) ?? null;
      if (lack) refuse(`${spec.label}: ${lack}${lack.endsWith('.') ? '' : '.'}`);
      const layer: PictureLayer = { id: freshId(document, 'layer'), kind: 'picture', type, params: values, name: shortened(spec.nameOf({ document, values, layerId: null })), visible: true, opacity: 1, mask: null, blend: offered(blend, zone), chain: [], placement: null };
      const added = insert(document, zone, index, layer, groupId ?? null);
      const problem = problemOf(added, layer);
      return problem ? refuse(`${layer.name}: ${problem}`) : added;
    },
  },
  'add-correction-layer': {
    label: 'Add correction',
    apply: (document, { correction, zone, index, groupId, maskId }) => {
      const declared = fitting(correctionById(correction), zone);
      if (maskId !== undefined && !findMask(document, maskId)) refuse(`There is no mask ${maskId}.`);
      const mask = maskId === undefined ? null : { maskId, inverted: false, enabled: true };
      const layer: Layer = { id: freshId(document, 'layer'), kind: 'correction', name: declared.label, visible: true, opacity: 1, mask, correction: { type: correction, blend: 'all', params: defaultsOf(declared) } };
      return insert(document, zone, index, layer, groupId ?? null);
    },
  },
  'correct-material': {
    label: 'Correct material',
    apply: (document, { materialIds, correction, zone, index }) => {
      const { document: withMask, maskId } = ensureMaterialMask(document, materialIds);
      const layerId = freshId(withMask, 'layer');
      const added = handlers['add-correction-layer'].apply(withMask, { type: 'add-correction-layer', correction, zone, index, maskId });
      const onSurface = correctionById(correction).onSurface?.(meanOf(document, materialIds) ?? [0.18, 0.18, 0.18]);
      return patchLayer(added, layerId, (layer) => ({
        ...layer,
        name: shortened(`${findMask(withMask, maskId)?.name}: ${layer.name.toLowerCase()}`),
        ...(layer.kind === 'correction' && onSurface ? { correction: { ...layer.correction, params: completeParams(correctionById(correction), { ...layer.correction.params, ...onSurface }) } } : {}),
      }));
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
  'set-layer': {
    label: 'Change layer',
    apply: (document, { layerId, patch }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const { blend, isolated, placement, ...common } = patch;
      const checked = { ...common, ...(common.opacity === undefined ? {} : { opacity: unit(common.opacity) }), ...(common.name === undefined ? {} : { name: named(common.name, 'a layer') }) };
      if (checked.mask && !findMask(document, checked.mask.maskId)) refuse(`There is no mask ${checked.mask.maskId}.`);
      return patchLayer(document, layerId, (layer) => {
        const mode = blend === undefined ? {} : { blend: offered(blend, place.zone) };
        if (layer.kind === 'group') return { ...layer, ...checked, ...mode, ...(isolated === undefined ? {} : { isolated }) };
        if (isolated !== undefined) refuse('Only a group can be isolated.');
        if (placement !== undefined && !(isPictureLayer(layer) && isLayerType(layer.type) && layerSpec(layer.type).isPlaced)) refuse(`${layer.name} cannot be moved.`);
        if (isPictureLayer(layer)) return { ...layer, ...checked, ...mode, ...(placement === undefined ? {} : { placement }) };
        if (blend !== undefined) refuse('A correction has no blend mode; its opacity and mask say how much of it is seen.');
        return { ...layer, ...checked };
      });
    },
  },
  'duplicate-layer': {
    label: 'Duplicate layer',
    apply: (document, { layerId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const nextLayer = freshIds(document, 'layer');
      const nextCorrection = freshIds(document, 'correction');
      const copyOf = (layer: Layer): Layer => {
        const id = nextLayer();
        if (layer.kind === 'group') return { ...layer, id, layers: layer.layers.map(copyOf) };
        return isPictureLayer(layer) ? { ...layer, id, chain: layer.chain.map((correction) => ({ ...correction, id: nextCorrection() })) } : { ...layer, id };
      };
      return insert(document, place.zone, place.index + 1, { ...copyOf(place.layer), name: shortened(`${place.layer.name} copy`) }, place.groupIds.at(-1) ?? null);
    },
  },
  'remove-layer': {
    label: 'Delete layer',
    apply: (document, { layerId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      return { ...document, buildUp: withLayer(document.buildUp, place.zone, layerId, () => []) };
    },
  },
  'move-layer': {
    label: 'Move layer',
    apply: (document, { layerId, zone, index, groupId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const group = groupId === undefined ? null : (findLayer(document, groupId) ?? refuse(`There is no group ${groupId}.`));
      if (group && group.layer.kind !== 'group') refuse(`${group.layer.name} is not a group.`);
      if (group && (group.layer.id === layerId || group.groupIds.includes(layerId))) refuse(`${place.layer.name} cannot lie inside itself.`);
      if (group && group.groupIds.length + 1 + depthOf(place.layer) > MAX_GROUP_DEPTH) refuse(`Groups lie at most ${MAX_GROUP_DEPTH} deep.`);
      const target = group?.zone ?? zone;
      const without = handlers['remove-layer'].apply(document, { type: 'remove-layer', layerId });
      return insert(without, target, index, target === place.zone ? place.layer : carried(place.layer, target), groupId ?? null);
    },
  },
  'group-layer': {
    label: 'Group',
    apply: (document, { layerId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      if (place.groupIds.length + 1 + depthOf(place.layer) > MAX_GROUP_DEPTH) refuse(`Groups lie at most ${MAX_GROUP_DEPTH} deep.`);
      const group: GroupLayer = { id: freshId(document, 'layer'), kind: 'group', name: 'Group', visible: true, opacity: 1, mask: null, isolated: false, blend: 'normal', layers: [place.layer] };
      return { ...document, buildUp: withLayer(document.buildUp, place.zone, layerId, () => [group]) };
    },
  },
  ungroup: {
    label: 'Ungroup',
    apply: (document, { layerId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const { layer } = place;
      if (layer.kind !== 'group') return refuse(`${layer.name} is not a group.`);
      return { ...document, buildUp: withLayer(document.buildUp, place.zone, layerId, () => layer.layers) };
    },
  },
  build: {
    label: 'Build',
    apply: (document, { scene, picture, masks = [] }) => {
      const ids = [...scene, ...picture].flatMap(function all(layer: Layer): string[] {
        return layer.kind === 'group' ? [layer.id, ...layer.layers.flatMap(all)] : [layer.id];
      });
      if (new Set(ids).size !== ids.length) refuse('Two layers of the new build-up share an id.');
      const clash = masks.find(({ id }) => findMask(document, id));
      if (clash) refuse(`The document already has a mask with the id ${clash.id}.`);
      return { ...document, buildUp: { scene, picture }, masks: masks.length === 0 ? document.masks : [...document.masks, ...masks] };
    },
  },
  'add-chain-correction': {
    label: 'Add correction to layer',
    apply: (document, { layerId, correction }) => {
      const declared = correctionById(correction);
      const place = findLayer(document, layerId);
      if (place) fitting(declared, place.zone);
      const added: ChainCorrection = { id: freshId(document, 'correction'), type: correction, blend: 'all', params: defaultsOf(declared), visible: true, opacity: 1, mask: null };
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
  'set-params': {
    label: 'Adjust',
    apply: (document, { layerId, correctionId, params }) => {
      const complete = (use: { type: string; params: KeptValues }) => completeParams(correctionById(use.type), { ...use.params, ...params });
      if (correctionId !== undefined) return patchChain(document, layerId, correctionId, (correction) => ({ ...correction, params: complete(correction) }));
      return patchLayer(document, layerId, (layer) => {
        if (layer.kind === 'group') return refuse(`${layer.name} is a group and has no parameters.`);
        if (layer.kind === 'correction') return { ...layer, correction: { ...layer.correction, params: complete(layer.correction) } };
        const changed = { ...layer, params: completeParams(layerSpec(layer.type), { ...layer.params, ...params }) };
        const lack = faultOf(document, changed) ?? problemOf(document, changed);
        return lack ? refuse(`${layer.name}: ${lack}${lack.endsWith('.') ? '' : '.'}`) : changed;
      });
    },
  },
};

/** What an edit is called in the history. */
export const editLabel = (edit: Edit): string => (edit.type === 'build' ? edit.name : handlers[edit.type].label);

/**
 * Applies an edit. What comes out can be stored and is read back the same.
 * @throws CoreError `edit-refused`, `unknown-operation` or `bad-parameter`; the document is then unchanged.
 */
export function applyEdit(document: TazzelDocument, edit: Edit): TazzelDocument {
  if (!Object.hasOwn(handlers, edit.type)) throw new CoreError('edit-refused', `There is no edit “${String((edit as { type: unknown }).type)}”.`);
  const handler = handlers[edit.type] as Handler<typeof edit.type>;
  let changed: TazzelDocument;
  try {
    changed = handler.apply(document, edit as never);
  } catch (error) {
    if (error instanceof CoreError) throw error;
    throw new CoreError('edit-refused', `“${handler.label}” was asked for with something that does not belong there (${error instanceof Error ? error.message : String(error)}). Nothing was changed.`);
  }
  const problem = changed === document ? null : unsoundness(changed);
  if (problem) throw new CoreError('edit-refused', `“${handler.label}” was not done, because the document could not be saved any more. ${problem}`);
  return changed;
}

export const editTypes = Object.keys(handlers) as readonly Edit['type'][];

function insert(document: TazzelDocument, zone: Zone, index: number | undefined, layer: Layer, groupId: string | null): TazzelDocument {
  const group = groupId === null ? null : (findLayer(document, groupId) ?? refuse(`There is no group ${groupId}.`));
  if (group && group.layer.kind !== 'group') refuse(`${group.layer.name} is not a group.`);
  const layers = layersOf(document, zone, groupId);
  const at = Math.min(layers.length, Math.max(0, index ?? layers.length));
  const grown = layers.toSpliced(at, 0, layer);
  if (groupId === null) return { ...document, buildUp: { ...document.buildUp, [zone]: grown } };
  return patchLayer(document, groupId, (group) => ({ ...group, layers: grown }) as GroupLayer);
}

/** The build-up with something else in the place of one layer, wherever it lies. Groups on the way are made anew, all others stay. */
function withLayer(buildUp: BuildUp, zone: Zone, layerId: string, change: (layer: Layer) => readonly Layer[]): BuildUp {
  const walk = (layers: readonly Layer[]): readonly Layer[] => {
    const at = layers.findIndex((layer) => layer.id === layerId);
    if (at >= 0) return layers.toSpliced(at, 1, ...change(layers[at]));
    let changed = false;
    const next = layers.map((layer) => {
      if (layer.kind !== 'group') return layer;
      const inside = walk(layer.layers);
      if (inside === layer.layers) return layer;
      changed = true;
      return { ...layer, layers: inside };
    });
    return changed ? next : layers;
  };
  return { ...buildUp, [zone]: walk(buildUp[zone]) };
}

function patchLayer(document: TazzelDocument, layerId: string, change: (layer: Layer) => Layer): TazzelDocument {
  const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
  return { ...document, buildUp: withLayer(document.buildUp, place.zone, layerId, (layer) => [change(layer)]) };
}

/** How many groups lie inside each other in a layer. */
const depthOf = (layer: Layer): number => (layer.kind === 'group' ? 1 + Math.max(0, ...layer.layers.map(depthOf)) : 0);

/** Mean colour of some rows of the schedule, by their areas; null if none of them was measured. */
function meanOf(document: TazzelDocument, materialIds: readonly string[]): readonly [number, number, number] | null {
  const rows = materialIds.flatMap((id) => findMaterial(document, id) ?? []).filter(({ mean, area }) => mean !== null && area > 0);
  const area = rows.reduce((sum, row) => sum + row.area, 0);
  const channel = (c: number) => rows.reduce((sum, { mean, area: own }) => sum + (mean as readonly number[])[c] * own, 0) / area;
  return area > 0 ? [channel(0), channel(1), channel(2)] : null;
}

/** A correction, if it works on that side of the tone line. */
function fitting(declared: Correction, zone: Zone): Correction {
  return declared.zones.includes(zone) ? declared : refuse(`${declared.label} does not work ${zone === 'scene' ? 'under' : 'over'} the tone line.`);
}

/** Refuses if one of the corrections does not work there. Those that nobody knows do nothing anywhere. */
function working(uses: readonly { readonly type: string }[], zone: Zone): void {
  for (const { type } of uses) if (isCorrectionId(type)) fitting(correctionById(type), zone);
}

/** A layer carried over the tone line. */
function carried(layer: Layer, zone: Zone): Layer {
  if (layer.kind === 'correction') {
    working([layer.correction], zone);
    return layer;
  }
  // What ends at white would cut the light of the layer.
  working(chainOf(layer), zone);
  // A mode that means nothing on light becomes its nearest physical one: adding for screen, covering for the rest.
  const blend = blendMode(layer.blend)[zone] === null ? (layer.blend === 'screen' ? 'add' : 'normal') : layer.blend;
  return layer.kind === 'group' ? { ...layer, blend, layers: layer.layers.map((inside) => carried(inside, zone)) } : { ...layer, blend };
}

const patchPicture = (document: TazzelDocument, layerId: string, change: (layer: PictureLayer) => PictureLayer) =>
  patchLayer(document, layerId, (layer) => (isPictureLayer(layer) ? change(layer) : refuse(`${layer.name} has no chain of its own.`)));

const patchChain = (document: TazzelDocument, layerId: string, correctionId: string, change: (correction: ChainCorrection) => ChainCorrection) =>
  patchPicture(document, layerId, (layer) => {
    const index = layer.chain.findIndex((correction) => correction.id === correctionId);
    if (index < 0) refuse(`There is no correction ${correctionId} in ${layer.name}.`);
    return { ...layer, chain: layer.chain.with(index, change(layer.chain[index])) };
  });

function offered(blend: BlendModeId, zone: Zone): BlendModeId {
  const mode = blendMode(blend);
  if (mode[zone] === null) refuse(`${mode.label} is not offered under the tone line. ${mode.aboveOne}`);
  return blend;
}

/** Texts that came with a file may be of any length. */
function withinLimits(source: Source): Source {
  const { name, guess, findings } = source;
  const reason = guess && guess.reason.length > LIMITS.reason ? { ...guess, reason: shortened(guess.reason, LIMITS.reason) } : guess;
  const told = findings.length > LIMITS.findings || findings.some(({ sentence }) => sentence.length > LIMITS.sentence) ? findings.slice(0, LIMITS.findings).map((finding) => ({ ...finding, sentence: shortened(finding.sentence, LIMITS.sentence) })) : findings;
  return name.length > LIMITS.elementName || reason !== guess || told !== findings ? { ...source, name: shortened(name, LIMITS.elementName), guess: reason, findings: told } : source;
}

const unit = (value: number) => (Number.isFinite(value) ? Math.min(1, Math.max(0, value)) : refuse('An opacity lies between 0 and 1.'));

function named(name: string, what: string, most: number = LIMITS.name): string {
  const trimmed = name.trim();
  return trimmed === '' ? refuse(`The name of ${what} cannot be empty.`) : shortened(trimmed, most);
}
