/**
 * What bends a document's picture as a whole: distortions, verticals made parallel. Masks and places that are pointed at are those of the render;
 * they are seen where the bends between have put them.
 */
import { correctionById, isCorrectionId } from '../corrections/registry.ts';
import type { CorrectionLayer, CorrectionUse, GroupLayer, Layer, TazzelDocument } from '../model/model.ts';
import { holdsLayer } from '../model/query.ts';
import { completeParams } from '../params/table.ts';
import { type Bend, keepsPlaces } from '../raster/bend.ts';
import type { Size } from '../raster/region.ts';
import { remembered } from '../remembered.ts';

const bendsOfParams = remembered((_: CorrectionUse['params']) => new Map<string, Bend | null>());

/** How a correction of all below bends what lies below it; null if it does not, or only in part: what is seen twice has no one place. */
export function bendOf({ visible, opacity, mask, correction: { type, params, blend } }: CorrectionLayer, size: Size): Bend | null {
  if (!visible || opacity < 1 || mask?.enabled || blend !== 'all' || !isCorrectionId(type)) return null;
  const known = bendsOfParams(params);
  const id = `${type} ${size.width}×${size.height}`;
  let bend = known.get(id);
  if (bend === undefined) {
    const spec = correctionById(type);
    const values = completeParams(spec, params);
    const spread = spec.work === 'neighbourhood' && !spec.isNoOp(values) ? spec.spread(values, size) : null;
    bend = spread?.kind === 'bend' && !keepsPlaces(spread.bend) ? spread.bend : null;
    known.set(id, bend);
  }
  return bend;
}

/** A group that changes nothing about its layers: what they bend stays bent over it. */
const isOpen = ({ visible, isolated, opacity, mask }: GroupLayer): boolean => visible && !isolated && opacity === 1 && !mask?.enabled;

/** Bends from the bottom to the top: what lies below a layer, and what bends the layer itself. */
export interface BendsAround {
  readonly below: readonly Bend[];
  readonly above: readonly Bend[];
}

/** The bends below and above a layer; without one all are below. */
export function bendsAround({ buildUp, size }: Pick<TazzelDocument, 'buildUp' | 'size'>, layerId: string | null): BendsAround {
  const found = { below: [] as Bend[], above: [] as Bend[] };
  let into = found.below;
  const visit = (layers: readonly Layer[]) => {
    for (const layer of layers) {
      if (layer.id === layerId) into = found.above;
      if (layer.kind === 'group' && (isOpen(layer) || (layerId !== null && holdsLayer(layer, layerId)))) visit(layer.layers);
      const bend = layer.kind === 'correction' && bendOf(layer, size);
      if (bend) into.push(bend);
    }
  };
  visit(buildUp.scene);
  visit(buildUp.picture);
  return found;
}

/** A document whose picture as a whole is not bent: what masks read of it lies where they do. The same document if there is nothing to be left out. */
export const unbent = remembered((document: TazzelDocument): TazzelDocument => {
  const { buildUp, size } = document;
  const straight = (layers: readonly Layer[]): readonly Layer[] => {
    const next = layers.map((layer): Layer => {
      if (layer.kind === 'correction') return bendOf(layer, size) ? { ...layer, visible: false } : layer;
      if (layer.kind !== 'group' || !isOpen(layer)) return layer;
      const inside = straight(layer.layers);
      return inside === layer.layers ? layer : { ...layer, layers: inside };
    });
    return next.every((layer, i) => layer === layers[i]) ? layers : next;
  };
  const [scene, picture] = [straight(buildUp.scene), straight(buildUp.picture)];
  return scene === buildUp.scene && picture === buildUp.picture ? document : { ...document, buildUp: { ...buildUp, scene, picture } };
});
