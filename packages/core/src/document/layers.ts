/** What all layers with a picture of their own have in common, whatever they show. */
import { isLayerType, layerSpec } from '../layers/registry.ts';
import { layersInOrder } from '../model/query.ts';
import { correctionById, isCorrectionId } from '../corrections/registry.ts';
import type { Growth } from '../params/define.ts';
import { completeParams, referencesOf, scaledParams } from '../params/table.ts';
import { withinCoordinates } from '../limits.ts';
import type { CorrectionUse, Layer, PictureLayer, Placement, TazzelDocument } from '../model/model.ts';

export const SCALE_LIMITS = [-100, 100] as const;
export const UNPLACED: Placement = { offsetX: 0, offsetY: 0, scaleX: 1, scaleY: 1, rotationDegrees: 0, filter: 'mitchell' };

export const isPictureLayer = (layer: Layer): layer is PictureLayer => layer.kind === 'picture';

/** How a layer is placed; null where it lies as its pixels do. */
export const placementOf = (layer: Layer): Placement | null => ('placement' in layer ? layer.placement : null);

/** A layer of a kind that is known, with its values in full; null if a later version brought it. */
export function knownLayer(layer: PictureLayer) {
  if (!isLayerType(layer.type)) return null;
  const spec = layerSpec(layer.type);
  return { spec, values: completeParams(spec, layer.params) };
}

/** Without this the layer cannot be kept: “its element is missing”. */
export function faultOf(document: Pick<TazzelDocument, 'sources'>, layer: PictureLayer): string | null {
  const known = knownLayer(layer);
  return known?.spec.fault?.({ document: document as TazzelDocument, values: known.values, layerId: layer.id }) ?? null;
}

/** Why it shows nothing, as a sentence about it; null if it does. */
export function problemOf(document: TazzelDocument, layer: PictureLayer): string | null {
  const known = knownLayer(layer);
  return known?.spec.problem?.({ document, values: known.values, layerId: layer.id }) ?? null;
}

/** Why a layer cannot be kept or shows nothing, as a whole sentence with its name; null if neither. */
export function lackOf(document: TazzelDocument, layer: PictureLayer): string | null {
  const lack = faultOf(document, layer) ?? problemOf(document, layer);
  return lack === null ? null : `${layer.name}: ${lack}${lack.endsWith('.') ? '' : '.'}`;
}

/** A layer for a picture of another size: what is given in pixels grows with it. What this version does not know stays as it is. */
export function scaledLayer(layer: Layer, by: Growth): Layer {
  if (layer.kind === 'group') return { ...layer, layers: layer.layers.map((inside) => scaledLayer(inside, by)) };
  const scaledUse = <U extends CorrectionUse>(use: U): U => (isCorrectionId(use.type) ? { ...use, params: scaledParams(correctionById(use.type), use.params, by) } : use);
  if (layer.kind === 'correction') return { ...layer, correction: scaledUse(layer.correction) };
  const { placement } = layer;
  return {
    ...layer,
    params: isLayerType(layer.type) ? scaledParams(layerSpec(layer.type), layer.params, by) : layer.params,
    chain: layer.chain.map(scaledUse),
    placement: placement && { ...placement, offsetX: withinCoordinates(placement.offsetX * by.across), offsetY: withinCoordinates(placement.offsetY * by.down) },
  };
}

/** Elements that layers show, whether they are on or not. */
export const usedSourceIds = (document: TazzelDocument): ReadonlySet<string> =>
  new Set(layersInOrder(document).flatMap(({ layer }) => {
    const known = isPictureLayer(layer) ? knownLayer(layer) : null;
    return known ? [...referencesOf(known.spec, known.values, 'element'), ...(known.spec.uses?.({ document, values: known.values, layerId: layer.id }) ?? [])] : [];
  }));
