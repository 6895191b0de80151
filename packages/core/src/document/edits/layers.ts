/** Layers: added, moved, grouped, changed. */
import { blendMode, type BlendModeId } from '../../blend/modes.ts';
import type { Zone } from '../../color/zones.ts';
import { isLayerType, layerSpec } from '../../layers/registry.ts';
import { completeParams, type KeptValues } from '../../params/table.ts';
import { isPictureLayer, lackOf } from '../layers.ts';
import { shortened } from '../../limits.ts';
import { type Layer, type MaskUse, MAX_GROUP_DEPTH, type PictureLayer, type Placement } from '../../model/model.ts';
import { chainOf, findLayer, findMask, freshId } from '../../model/query.ts';
import { type Handlers, named, refuse, unit } from './define.ts';
import { copiesIn, insert, newGroup, offered, patchLayer, withLayer, working } from './in-layers.ts';

type LayerPatch = { name?: string; visible?: boolean; locked?: boolean; opacity?: number; blend?: BlendModeId; isolated?: boolean; mask?: MaskUse | null; placement?: Placement | null };

export type LayerEdit =
  | { type: 'add-layer'; layer: string; params?: KeptValues; zone: Zone; index?: number; groupId?: string; blend?: BlendModeId }
  | { type: 'set-layer'; layerId: string; patch: LayerPatch }
  | { type: 'duplicate-layer'; layerId: string }
  | { type: 'remove-layer'; layerId: string }
  | { type: 'move-layer'; layerId: string; zone: Zone; index: number; groupId?: string }
  | { type: 'group-layer'; layerId: string }
  | { type: 'ungroup'; layerId: string };

export const layerEdits: Handlers<LayerEdit> = {
  'add-layer': {
    label: 'Add layer',
    apply: (document, { layer: type, params, zone, index, groupId, blend = 'normal' }) => {
      const spec = layerSpec(type);
      const values = completeParams(spec, { ...spec.begin?.(document), ...params });
      const layer: PictureLayer = { id: freshId(document, 'layer'), kind: 'picture', type, params: values, name: shortened(spec.nameOf({ document, values, layerId: null })), visible: true, opacity: 1, mask: null, blend: offered(blend, zone), chain: [], placement: null };
      const added = insert(document, zone, index, layer, groupId ?? null);
      const lack = lackOf(added, layer);
      return lack === null ? added : refuse(lack);
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
      return insert(document, place.zone, place.index + 1, { ...copiesIn(document)(place.layer), name: shortened(`${place.layer.name} copy`) }, place.groupIds.at(-1) ?? null);
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
      const without = layerEdits['remove-layer'].apply(document, { type: 'remove-layer', layerId });
      return insert(without, target, index, target === place.zone ? place.layer : carried(place.layer, target), groupId ?? null);
    },
  },
  'group-layer': {
    label: 'Group',
    apply: (document, { layerId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      if (place.groupIds.length + 1 + depthOf(place.layer) > MAX_GROUP_DEPTH) refuse(`Groups lie at most ${MAX_GROUP_DEPTH} deep.`);
      const group = newGroup(freshId(document, 'layer'), 'Group', [place.layer]);
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
};

/** How many groups lie inside each other in a layer. */
const depthOf = (layer: Layer): number => (layer.kind === 'group' ? 1 + Math.max(0, ...layer.layers.map(depthOf)) : 0);

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
