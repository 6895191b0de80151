/** Changes inside the build-up, wherever a layer lies. */
import { blendMode, type BlendModeId } from '../../blend/modes.ts';
import type { Zone } from '../../color/zones.ts';
import type { Correction } from '../../corrections/define.ts';
import { correctionById, isCorrectionId } from '../../corrections/registry.ts';
import { isPictureLayer } from '../layers.ts';
import type { BuildUp, ChainCorrection, GroupLayer, Layer, PictureLayer, TazzelDocument } from '../../model/model.ts';
import { findLayer, freshIds, layersOf } from '../../model/query.ts';
import { refuse } from './define.ts';

/** A group as it begins: it changes nothing of how its layers look. */
export const newGroup = (id: string, name: string, layers: readonly Layer[]): GroupLayer => ({ id, kind: 'group', name, visible: true, opacity: 1, mask: null, isolated: false, blend: 'normal', layers });

export function insert(document: TazzelDocument, zone: Zone, index: number | undefined, layer: Layer, groupId: string | null): TazzelDocument {
  const group = groupId === null ? null : (findLayer(document, groupId) ?? refuse(`There is no group ${groupId}.`));
  if (group && group.layer.kind !== 'group') refuse(`${group.layer.name} is not a group.`);
  const layers = layersOf(document, zone, groupId);
  const at = Math.min(layers.length, Math.max(0, index ?? layers.length));
  const grown = layers.toSpliced(at, 0, layer);
  if (groupId === null) return { ...document, buildUp: { ...document.buildUp, [zone]: grown } };
  return patchLayer(document, groupId, (group) => ({ ...group, layers: grown }) as GroupLayer);
}

/** The build-up with something else in the place of one layer, wherever it lies. Groups on the way are made anew, all others stay. */
export function withLayer(buildUp: BuildUp, zone: Zone, layerId: string, change: (layer: Layer) => readonly Layer[]): BuildUp {
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

export function patchLayer(document: TazzelDocument, layerId: string, change: (layer: Layer) => Layer): TazzelDocument {
  const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
  return { ...document, buildUp: withLayer(document.buildUp, place.zone, layerId, (layer) => [change(layer)]) };
}

export const patchPicture = (document: TazzelDocument, layerId: string, change: (layer: PictureLayer) => PictureLayer) =>
  patchLayer(document, layerId, (layer) => (isPictureLayer(layer) ? change(layer) : refuse(`${layer.name} has no chain of its own.`)));

export const patchChain = (document: TazzelDocument, layerId: string, correctionId: string, change: (correction: ChainCorrection) => ChainCorrection) =>
  patchPicture(document, layerId, (layer) => {
    const index = layer.chain.findIndex((correction) => correction.id === correctionId);
    if (index < 0) refuse(`There is no correction ${correctionId} in ${layer.name}.`);
    return { ...layer, chain: layer.chain.with(index, change(layer.chain[index])) };
  });

export function offered(blend: BlendModeId, zone: Zone): BlendModeId {
  const mode = blendMode(blend);
  if (mode[zone] === null) refuse(`${mode.label} is not offered under the tone line. ${mode.aboveOne}`);
  return blend;
}

/** A correction, if it works on that side of the tone line. */
export function fitting(declared: Correction, zone: Zone): Correction {
  return declared.zones.includes(zone) ? declared : refuse(`${declared.label} does not work ${zone === 'scene' ? 'under' : 'over'} the tone line.`);
}

/** Refuses if one of the corrections does not work there. Those that nobody knows do nothing anywhere. */
export function working(uses: readonly { readonly type: string }[], zone: Zone): void {
  for (const { type } of uses) if (isCorrectionId(type)) fitting(correctionById(type), zone);
}

/** Copies layers, with all that lies in them, under ids that nothing in the document has. */
export function copiesIn(document: TazzelDocument): (layer: Layer) => Layer {
  const [nextLayer, nextCorrection] = [freshIds(document, 'layer'), freshIds(document, 'correction')];
  const copyOf = (layer: Layer): Layer => {
    const id = nextLayer();
    if (layer.kind === 'group') return { ...layer, id, layers: layer.layers.map(copyOf) };
    return isPictureLayer(layer) ? { ...layer, id, chain: layer.chain.map((correction) => ({ ...correction, id: nextCorrection() })) } : { ...layer, id };
  };
  return copyOf;
}
