/**
 * All changes to a document. An edit is plain data; `applyEdit` is pure: the old document is untouched and shares every
 * part that did not change, so keeping old documents is a cheap undo history.
 */
import { type BlendModeId, blendMode } from '../blend/modes.ts';
import { completeParams, defaultsOf } from '../corrections/define.ts';
import { correctionById } from '../corrections/registry.ts';
import { CoreError } from '../errors.ts';
import type { RoleId } from '../elements/roles.ts';
import type { Encoding, Zone } from '../color/zones.ts';
import type { AlphaUse, ChainCorrection, ElementLayer, Layer, Mask, MaskUse, Material, Source, TazzelDocument } from './model.ts';
import { findLayer, findMask, findMaterial, findSource, freshId } from './query.ts';

type LayerPatch = { name?: string; visible?: boolean; opacity?: number; blend?: BlendModeId; mask?: MaskUse | null };
type ChainPatch = { visible?: boolean; opacity?: number; mask?: MaskUse | null };
type SourcePatch = { name?: string; encoding?: Encoding; role?: RoleId; alpha?: AlphaUse };

export type Edit =
  | { type: 'rename-document'; name: string }
  | { type: 'add-sources'; sources: readonly Source[] }
  | { type: 'set-source'; sourceId: string; patch: SourcePatch }
  | { type: 'remove-source'; sourceId: string }
  | { type: 'set-materials'; sourceId: string; materials: readonly Material[] }
  | { type: 'rename-material'; materialId: string; name: string }
  | { type: 'rename-mask'; maskId: string; name: string }
  | { type: 'add-element-layer'; sourceId: string; zone: Zone; index?: number; blend?: BlendModeId }
  | { type: 'add-correction-layer'; correction: string; zone: Zone; index?: number; maskId?: string }
  | { type: 'correct-material'; materialId: string; correction: string; zone: Zone; index?: number }
  | { type: 'mask-with-material'; materialId: string; layerId: string; correctionId?: string }
  | { type: 'set-layer'; layerId: string; patch: LayerPatch }
  | { type: 'duplicate-layer'; layerId: string }
  | { type: 'remove-layer'; layerId: string }
  | { type: 'move-layer'; layerId: string; zone: Zone; index: number }
  | { type: 'add-chain-correction'; layerId: string; correction: string }
  | { type: 'set-chain-correction'; layerId: string; correctionId: string; patch: ChainPatch }
  | { type: 'move-chain-correction'; layerId: string; correctionId: string; index: number }
  | { type: 'remove-chain-correction'; layerId: string; correctionId: string }
  | { type: 'set-params'; layerId: string; correctionId?: string; params: Readonly<Record<string, number>> };

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
      return { ...document, sources: [...document.sources, ...sources] };
    },
  },
  'set-source': {
    label: 'Change element',
    apply: (document, { sourceId, patch }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      if (patch.alpha && (patch.alpha === 'none') !== (source.alphaChannel === null)) refuse(`${source.name} has ${source.alphaChannel ? 'an' : 'no'} alpha channel.`);
      const name = patch.name === undefined ? source.name : named(patch.name, 'an element');
      return { ...document, sources: document.sources.map((other) => (other === source ? { ...source, ...patch, name } : other)) };
    },
  },
  'remove-source': {
    label: 'Remove element',
    apply: (document, { sourceId }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      const usesIt = (layer: Layer) => layer.kind === 'element' && layer.sourceId === sourceId;
      if ([...document.buildUp.scene, ...document.buildUp.picture].some(usesIt)) refuse(`${source.name} is used by a layer. Delete the layer first.`);
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
      // Rows that stood for the same colour keep their id and name, so masks and the artist's naming survive.
      const before = new Map(document.materials.map((material) => [material.colorKey, material]));
      const kept = materials.map((material) => {
        const old = before.get(material.colorKey);
        return old ? { ...material, id: old.id, name: old.name } : material;
      });
      return { ...document, materials: kept };
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
  'rename-mask': {
    label: 'Rename mask',
    apply: (document, { maskId, name }) => {
      const mask = findMask(document, maskId) ?? refuse(`There is no mask ${maskId}.`);
      return { ...document, masks: document.masks.map((other) => (other === mask ? { ...mask, name: named(name, 'a mask') } : other)) };
    },
  },
  'add-element-layer': {
    label: 'Add layer',
    apply: (document, { sourceId, zone, index, blend = 'normal' }) => {
      const source = findSource(document, sourceId) ?? refuse(`There is no element ${sourceId}.`);
      const layer: ElementLayer = { id: freshId(document, 'layer'), kind: 'element', name: source.name, visible: true, opacity: 1, mask: null, sourceId, blend: offered(blend, zone), chain: [] };
      return insert(document, zone, index, layer);
    },
  },
  'add-correction-layer': {
    label: 'Add correction',
    apply: (document, { correction, zone, index, maskId }) => {
      const declared = correctionById(correction);
      if (!declared.zones.includes(zone)) refuse(`${declared.label} does not work ${zone === 'scene' ? 'under' : 'over'} the tone line.`);
      if (maskId !== undefined && !findMask(document, maskId)) refuse(`There is no mask ${maskId}.`);
      const mask = maskId === undefined ? null : { maskId, inverted: false, enabled: true };
      const layer: Layer = { id: freshId(document, 'layer'), kind: 'correction', name: declared.label, visible: true, opacity: 1, mask, correction: { type: correction, params: defaultsOf(declared) } };
      return insert(document, zone, index, layer);
    },
  },
  'correct-material': {
    label: 'Correct material',
    apply: (document, { materialId, correction, zone, index }) => {
      const { document: withMask, maskId } = ensureMaterialMask(document, materialId);
      const layerId = freshId(withMask, 'layer');
      const added = handlers['add-correction-layer'].apply(withMask, { type: 'add-correction-layer', correction, zone, index, maskId });
      const material = findMaterial(document, materialId);
      return patchLayer(added, layerId, (layer) => ({ ...layer, name: `${material?.name}: ${layer.name.toLowerCase()}` }));
    },
  },
  'mask-with-material': {
    label: 'Mask with material',
    apply: (document, { materialId, layerId, correctionId }) => {
      const { document: withMask, maskId } = ensureMaterialMask(document, materialId);
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
      const { blend, ...common } = patch;
      const checked = { ...common, ...(common.opacity === undefined ? {} : { opacity: unit(common.opacity) }), ...(common.name === undefined ? {} : { name: named(common.name, 'a layer') }) };
      if (checked.mask && !findMask(document, checked.mask.maskId)) refuse(`There is no mask ${checked.mask.maskId}.`);
      return patchLayer(document, layerId, (layer) => {
        if (layer.kind === 'element') return { ...layer, ...checked, ...(blend === undefined ? {} : { blend: offered(blend, place.zone) }) };
        if (blend !== undefined) refuse('A correction has no blend mode; its opacity and mask say how much of it is seen.');
        return { ...layer, ...checked };
      });
    },
  },
  'duplicate-layer': {
    label: 'Duplicate layer',
    apply: (document, { layerId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const id = freshId(document, 'layer');
      const { layer } = place;
      const taken: string[] = [];
      const chain = layer.kind === 'element' ? layer.chain.map((correction) => {
        const correctionId = freshId(document, 'correction', taken);
        taken.push(correctionId);
        return { ...correction, id: correctionId };
      }) : [];
      const copy: Layer = layer.kind === 'element' ? { ...layer, id, name: `${layer.name} copy`, chain } : { ...layer, id, name: `${layer.name} copy` };
      return insert(document, place.zone, place.index + 1, copy);
    },
  },
  'remove-layer': {
    label: 'Delete layer',
    apply: (document, { layerId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      return { ...document, buildUp: { ...document.buildUp, [place.zone]: document.buildUp[place.zone].filter((layer) => layer.id !== layerId) } };
    },
  },
  'move-layer': {
    label: 'Move layer',
    apply: (document, { layerId, zone, index }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      let layer = place.layer;
      if (zone !== place.zone) {
        if (layer.kind === 'correction') {
          const declared = correctionById(layer.correction.type);
          if (!declared.zones.includes(zone)) refuse(`${declared.label} does not work ${zone === 'scene' ? 'under' : 'over'} the tone line.`);
        } else if (blendMode(layer.blend)[zone] === null) {
          // A mode that means nothing on light becomes its nearest physical one: adding for screen, covering for the rest.
          layer = { ...layer, blend: layer.blend === 'screen' ? 'add' : 'normal' };
        }
      }
      const without = handlers['remove-layer'].apply(document, { type: 'remove-layer', layerId });
      return insert(without, zone, index, layer);
    },
  },
  'add-chain-correction': {
    label: 'Add correction to layer',
    apply: (document, { layerId, correction }) => {
      const declared = correctionById(correction);
      const added: ChainCorrection = { id: freshId(document, 'correction'), type: correction, params: defaultsOf(declared), visible: true, opacity: 1, mask: null };
      return patchElement(document, layerId, (layer) => ({ ...layer, chain: [...layer.chain, added] }));
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
      patchElement(document, layerId, (layer) => {
        const moved = layer.chain.find((correction) => correction.id === correctionId) ?? refuse(`There is no correction ${correctionId}.`);
        const rest = layer.chain.filter((correction) => correction !== moved);
        return { ...layer, chain: rest.toSpliced(Math.max(0, index), 0, moved) };
      }),
  },
  'remove-chain-correction': {
    label: 'Remove correction',
    apply: (document, { layerId, correctionId }) =>
      patchElement(document, layerId, (layer) => {
        if (!layer.chain.some((correction) => correction.id === correctionId)) refuse(`There is no correction ${correctionId}.`);
        return { ...layer, chain: layer.chain.filter((correction) => correction.id !== correctionId) };
      }),
  },
  'set-params': {
    label: 'Adjust',
    apply: (document, { layerId, correctionId, params }) => {
      const complete = (use: { type: string; params: Readonly<Record<string, number>> }) => completeParams(correctionById(use.type), { ...use.params, ...params });
      if (correctionId !== undefined) return patchChain(document, layerId, correctionId, (correction) => ({ ...correction, params: complete(correction) }));
      return patchLayer(document, layerId, (layer) =>
        layer.kind === 'correction' ? { ...layer, correction: { ...layer.correction, params: complete(layer.correction) } } : refuse(`${layer.name} is not a correction.`),
      );
    },
  },
};

/** What an edit is called in the history. */
export const editLabel = (edit: Edit): string => handlers[edit.type].label;

/** Applies an edit. @throws CoreError `edit-refused`, `unknown-operation` or `bad-parameter`; the document is then unchanged. */
export function applyEdit(document: TazzelDocument, edit: Edit): TazzelDocument {
  const handler = handlers[edit.type] as Handler<typeof edit.type> | undefined;
  if (!handler) throw new CoreError('edit-refused', `There is no edit “${String((edit as { type: unknown }).type)}”.`);
  return handler.apply(document, edit as never);
}

export const editTypes = Object.keys(handlers) as readonly Edit['type'][];

function ensureMaterialMask(document: TazzelDocument, materialId: string): { document: TazzelDocument; maskId: string } {
  const material = findMaterial(document, materialId) ?? refuse(`There is no material ${materialId}.`);
  const isJustThis = (mask: Mask) => mask.terms.length === 1 && mask.terms[0].operation === 'add' && mask.terms[0].materialIds.length === 1 && usesMaterial(mask, materialId);
  const existing = document.masks.find(isJustThis);
  if (existing) return { document, maskId: existing.id };
  const mask: Mask = { id: freshId(document, 'mask'), name: material.name, terms: [{ kind: 'material', operation: 'add', materialIds: [materialId] }] };
  return { document: { ...document, masks: [...document.masks, mask] }, maskId: mask.id };
}

const usesMaterial = (mask: Mask, materialId: string) => mask.terms.some((term) => term.materialIds.includes(materialId));

function insert(document: TazzelDocument, zone: Zone, index: number | undefined, layer: Layer): TazzelDocument {
  const layers = document.buildUp[zone];
  const at = Math.min(layers.length, Math.max(0, index ?? layers.length));
  return { ...document, buildUp: { ...document.buildUp, [zone]: layers.toSpliced(at, 0, layer) } };
}

function patchLayer(document: TazzelDocument, layerId: string, change: (layer: Layer) => Layer): TazzelDocument {
  const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
  return { ...document, buildUp: { ...document.buildUp, [place.zone]: document.buildUp[place.zone].with(place.index, change(place.layer)) } };
}

const patchElement = (document: TazzelDocument, layerId: string, change: (layer: ElementLayer) => ElementLayer) =>
  patchLayer(document, layerId, (layer) => (layer.kind === 'element' ? change(layer) : refuse(`${layer.name} has no chain of its own.`)));

const patchChain = (document: TazzelDocument, layerId: string, correctionId: string, change: (correction: ChainCorrection) => ChainCorrection) =>
  patchElement(document, layerId, (layer) => {
    const index = layer.chain.findIndex((correction) => correction.id === correctionId);
    if (index < 0) refuse(`There is no correction ${correctionId} in ${layer.name}.`);
    return { ...layer, chain: layer.chain.with(index, change(layer.chain[index])) };
  });

function offered(blend: BlendModeId, zone: Zone): BlendModeId {
  const mode = blendMode(blend);
  if (mode[zone] === null) refuse(`${mode.label} is not offered under the tone line. ${mode.aboveOne}`);
  return blend;
}

const unit = (value: number) => (Number.isFinite(value) ? Math.min(1, Math.max(0, value)) : refuse('An opacity lies between 0 and 1.'));

function named(name: string, what: string): string {
  const trimmed = name.trim();
  return trimmed === '' ? refuse(`The name of ${what} cannot be empty.`) : trimmed.slice(0, 200);
}
