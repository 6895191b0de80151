/** Questions one may ask of a document. */
import type { Zone } from '../color/zones.ts';
import { emptyDocument, type Layer, type Mask, type Material, type MaterialKind, type MaskUse, type Source, type TazzelDocument } from './model.ts';

export interface LayerPlace {
  readonly layer: Layer;
  readonly zone: Zone;
  /** Among the layers of its group, or of its zone. */
  readonly index: number;
  /** The groups around it, outermost first. */
  readonly groupIds: readonly string[];
}

/** All layers from base to finish with their places; a group stands before its own layers. */
export const layersInOrder = (document: TazzelDocument): LayerPlace[] =>
  (['scene', 'picture'] as const).flatMap((zone) => placesOf(document.buildUp[zone], zone, []));

const placesOf = (layers: readonly Layer[], zone: Zone, groupIds: readonly string[]): LayerPlace[] =>
  layers.flatMap((layer, index) => {
    const place: LayerPlace = { layer, zone, index, groupIds };
    return layer.kind === 'group' ? [place, ...placesOf(layer.layers, zone, [...groupIds, layer.id])] : [place];
  });

/** The layers beside each other in a group, or in a zone if there is no group of that name. */
export function layersOf(document: TazzelDocument, zone: Zone, groupId: string | null): readonly Layer[] {
  const group = groupId === null ? null : findLayer(document, groupId);
  return group?.layer.kind === 'group' ? group.layer.layers : document.buildUp[zone];
}

/** Sources that layers show, whether they are on or not. */
export const usedSourceIds = (document: TazzelDocument): ReadonlySet<string> =>
  new Set(layersInOrder(document).flatMap(({ layer }) => (layer.kind === 'element' ? [layer.sourceId] : [])));

export const findLayer = (document: TazzelDocument, layerId: string): LayerPlace | null =>
  layersInOrder(document).find((place) => place.layer.id === layerId) ?? null;

export const findSource = (document: TazzelDocument, id: string): Source | null => document.sources.find((source) => source.id === id) ?? null;
export const findMask = (document: TazzelDocument, id: string): Mask | null => document.masks.find((mask) => mask.id === id) ?? null;
export const findMaterial = (document: TazzelDocument, id: string): Material | null => document.materials.find((material) => material.id === id) ?? null;

/** The pictures that the rows of the schedule were found in. */
export function materialSources(document: TazzelDocument, kind: MaterialKind): Source[] {
  const ids = new Set(document.materials.flatMap((row) => (row.kind === kind ? [row.sourceId] : [])));
  return document.sources.filter(({ id }) => ids.has(id));
}

/** The rows that a click on one selects: itself, or all of its surface. */
export function surfaceOf(document: TazzelDocument, materialId: string): string[] {
  const row = findMaterial(document, materialId);
  if (!row) return [];
  return row.surface === null ? [row.id] : document.materials.filter(({ surface }) => surface === row.surface).map(({ id }) => id);
}

/** The element that says how far away things are, in metres: depth or distance in floating-point numbers. */
export const depthSource = (document: TazzelDocument): Source | null =>
  document.sources.find((source) => source.encoding === 'data' && (source.file.format === 'exr' || source.scale !== 1) && (source.role === 'depth' || source.role === 'distance')) ?? null;

/** Every use of a mask by layers and corrections, so that the shelf can say by how many it is used. */
export function maskUses(document: TazzelDocument): MaskUse[] {
  return layersInOrder(document).flatMap(({ layer }) => {
    const own = layer.mask ? [layer.mask] : [];
    const inChain = layer.kind === 'element' ? layer.chain.flatMap((correction) => (correction.mask ? [correction.mask] : [])) : [];
    return [...own, ...inChain];
  });
}

/** How many layers, corrections and other masks use a mask. */
export const usesOf = (document: TazzelDocument, maskId: string): number =>
  maskUses(document).filter((use) => use.maskId === maskId).length + document.masks.filter(({ terms }) => terms.some((term) => term.kind === 'mask' && term.maskId === maskId)).length;

/** Layers that work on a material by their masks. */
export const layersOn = (document: TazzelDocument, materialId: string): Layer[] => {
  const masks = new Set(document.masks.filter(({ terms }) => terms.some((term) => term.kind === 'material' && term.materialIds.includes(materialId))).map(({ id }) => id));
  return layersInOrder(document).map(({ layer }) => layer).filter((layer) => (layer.mask && masks.has(layer.mask.maskId)) || (layer.kind === 'element' && layer.chain.some(({ mask }) => mask && masks.has(mask.maskId))));
};

/** The next free id with a prefix: `layer-3` after `layer-2`. Depends on the document alone, so edits stay pure. */
export function freshId(document: TazzelDocument, prefix: 'layer' | 'mask' | 'correction' | 'source' | 'material', taken: readonly string[] = []): string {
  const ids = [
    ...taken,
    ...document.sources.map((source) => source.id),
    ...document.masks.map((mask) => mask.id),
    ...document.materials.map((material) => material.id),
    ...layersInOrder(document).flatMap(({ layer }) => [layer.id, ...(layer.kind === 'element' ? layer.chain.map((correction) => correction.id) : [])]),
  ];
  let highest = 0;
  for (const id of ids) {
    if (id.startsWith(`${prefix}-`)) highest = Math.max(highest, Number.parseInt(id.slice(prefix.length + 1), 10) || 0);
  }
  return `${prefix}-${highest + 1}`;
}

/** Gives one fresh id after another, for parts that are made before they are added. Without a document ids begin at 1. */
export function freshIds(document: TazzelDocument | null, prefix: Parameters<typeof freshId>[1]): () => string {
  const start = document ?? emptyDocument('', '-', { width: 1, height: 1 });
  const taken: string[] = [];
  return () => {
    const id = freshId(start, prefix, taken);
    taken.push(id);
    return id;
  };
}

/** The document as it was before any finishing: the base alone, as rendered. */
export function beforeDocument(document: TazzelDocument): TazzelDocument {
  const elements = layersInOrder(document).filter(({ layer }) => layer.kind === 'element');
  const isBeauty = ({ layer }: LayerPlace) => layer.kind === 'element' && findSource(document, layer.sourceId)?.role.endsWith('beauty');
  const base = elements.find(isBeauty) ?? elements[0];
  if (base?.layer.kind !== 'element') return { ...document, buildUp: { scene: [], picture: [] } };
  const plain: Layer = { ...base.layer, visible: true, opacity: 1, blend: 'normal', mask: null, chain: [] };
  return { ...document, buildUp: { scene: [], picture: [], [base.zone]: [plain] } };
}

/** The document reduced to one element, to look at it alone: light goes under the tone line, other values are shown as they are. */
export function elementDocument(document: TazzelDocument, source: Source): TazzelDocument {
  const layer: Layer = { id: 'element', kind: 'element', name: source.name, visible: true, opacity: 1, blend: 'normal', mask: null, chain: [], sourceId: source.id };
  const zone: Zone = source.encoding === 'linear' ? 'scene' : 'picture';
  return { ...document, masks: [], buildUp: { scene: [], picture: [], [zone]: [layer] } };
}
