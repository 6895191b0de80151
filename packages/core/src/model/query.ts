/** Questions one may ask of a document. */
import type { Zone } from '../color/zones.ts';
import { type BuildUp, type ChainCorrection, type GroupLayer, type Layer, type Mask, type Material, type MaterialKind, type MaskUse, type PictureLayer, type Source, type TazzelDocument } from './model.ts';
import { remembered } from '../remembered.ts';

export interface LayerPlace {
  readonly layer: Layer;
  readonly zone: Zone;
  /** Among the layers of its group, or of its zone. */
  readonly index: number;
  /** The groups around it, outermost first. */
  readonly groupIds: readonly string[];
}

/** The corrections of a layer alone. */
export const chainOf = (layer: Layer): readonly ChainCorrection[] => ('chain' in layer ? layer.chain : []);

/** Every reference of a layer to a mask, its chain's included. */
export const masksOf = (layer: Layer): readonly MaskUse[] => [layer.mask, ...chainOf(layer).map(({ mask }) => mask)].filter((use) => use !== null);

const placesIn = remembered((buildUp: BuildUp): readonly LayerPlace[] => (['scene', 'picture'] as const).flatMap((zone) => placesOf(buildUp[zone], zone, [])));
const placeById = remembered((buildUp: BuildUp) => firstById(placesIn(buildUp), ({ layer }) => layer.id));
const itemById = remembered((list: readonly { readonly id: string }[]) => firstById(list, ({ id }) => id));

/** Where two share an id, which only damaged documents know, the first one counts. */
function firstById<T>(items: readonly T[], idOf: (item: T) => string): ReadonlyMap<string, T> {
  const byId = new Map<string, T>();
  for (const item of items) if (!byId.has(idOf(item))) byId.set(idOf(item), item);
  return byId;
}

/** All layers from base to finish with their places; a group stands before its own layers. */
export const layersInOrder = (document: TazzelDocument): readonly LayerPlace[] => placesIn(document.buildUp);

const placesOf = (layers: readonly Layer[], zone: Zone, groupIds: readonly string[]): LayerPlace[] =>
  layers.flatMap((layer, index) => {
    const place: LayerPlace = { layer, zone, index, groupIds };
    return layer.kind === 'group' ? [place, ...placesOf(layer.layers, zone, [...groupIds, layer.id])] : [place];
  });

const endsById = remembered((buildUp: BuildUp): ReadonlyMap<string, number> => {
  const ends = new Map<string, number>();
  for (const [i, { layer, groupIds }] of placesIn(buildUp).entries()) for (const id of [layer.id, ...groupIds]) ends.set(id, i);
  return ends;
});

/** Where the picture after a layer ends among all layers in order: at the last one inside it, if it is a group. -1 if there is no such layer. */
export const endOfLayer = (document: TazzelDocument, layerId: string): number => endsById(document.buildUp).get(layerId) ?? -1;

/** The layers beside each other in a group, or in a zone if there is no group of that name. */
export function layersOf(document: TazzelDocument, zone: Zone, groupId: string | null): readonly Layer[] {
  const group = groupId === null ? null : findLayer(document, groupId);
  return group?.layer.kind === 'group' ? group.layer.layers : document.buildUp[zone];
}

/** The element that a layer shows; null if it shows something else. */
export const sourceIdOf = (layer: Layer): string | null => (layer.kind === 'picture' && layer.type === 'element' && typeof layer.params.source === 'string' ? layer.params.source : null);

export const findLayer = (document: TazzelDocument, layerId: string): LayerPlace | null => placeById(document.buildUp).get(layerId) ?? null;

export const findSource = (document: TazzelDocument, id: string): Source | null => (itemById(document.sources).get(id) as Source | undefined) ?? null;
export const findMask = (document: TazzelDocument, id: string): Mask | null => (itemById(document.masks).get(id) as Mask | undefined) ?? null;
export const findMaterial = (document: TazzelDocument, id: string): Material | null => (itemById(document.materials).get(id) as Material | undefined) ?? null;

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

/** Whether an element says how far away things are, in metres: floating-point numbers, or such that a scale is known for. */
const isInMetres = ({ encoding, file, scale }: Source): boolean => encoding === 'data' && (file.format === 'exr' || scale !== 1);

/** The element that says how far away things are, in metres: depth or distance. */
export const depthSource = (document: TazzelDocument): Source | null => document.sources.find((source) => isInMetres(source) && (source.role === 'depth' || source.role === 'distance')) ?? null;

/** What a lens is focused by: how far away that is which is seen in glass and mirrors, where an element says it. */
export const focusSource = (document: TazzelDocument): Source | null => document.sources.find((source) => isInMetres(source) && source.role === 'seen-depth') ?? depthSource(document);

type IdPrefix = 'render' | 'state' | 'scheme' | 'delivery' | 'scenario' | 'layer' | 'mask' | 'correction' | 'source' | 'material';

/** Numbers beyond 15 digits are no numbers that were given here. */
const highestIn = (ids: readonly string[], prefix: IdPrefix) =>
  ids.reduce((highest, id) => (id.startsWith(`${prefix}-`) && id.length < prefix.length + 17 ? Math.max(highest, Number.parseInt(id.slice(prefix.length + 1), 10) || 0) : highest), 0);

const idsIn = remembered((list: readonly { readonly id: string }[]) => list.map(({ id }) => id));
const layerIdsIn = remembered((buildUp: BuildUp) => placesIn(buildUp).flatMap(({ layer }) => [layer.id, ...chainOf(layer).map((correction) => correction.id)]));

/** A scheme may still speak of what is gone: its ids are not given to anything else. */
const idsOverridden = remembered(({ list, base }: TazzelDocument['schemes']) => [...list.flatMap(({ id, overrides }) => [id, ...overrides.flatMap(({ at }) => Object.values(at))]), ...base.flatMap(({ at }) => Object.values(at))].filter((id) => typeof id === 'string'));

/** What was in an earlier render may come back: its ids are not given to anything else. */
const idsOfRenders = remembered((renders: TazzelDocument['renders']) => renders.flatMap(({ id, sources, materials }) => [id, ...idsIn(sources), ...idsIn(materials)]));

/** The highest number that an id with a prefix has anywhere in the document. */
const highestId = (document: TazzelDocument, prefix: IdPrefix): number =>
  Math.max(...[idsIn(document.states), idsIn(document.deliveries), idsOfRenders(document.renders), idsIn(document.light.scenarios), idsIn(document.sources), idsIn(document.masks), idsIn(document.materials), idsOverridden(document.schemes), layerIdsIn(document.buildUp)].map((ids) => highestIn(ids, prefix)));

/** The next free id with a prefix: `layer-3` after `layer-2`. Depends on the document alone, so edits stay pure. */
export const freshId = (document: TazzelDocument, prefix: IdPrefix): string => `${prefix}-${highestId(document, prefix) + 1}`;

/** Gives one fresh id after another, for parts that are made before they are added. Without a document ids begin at 1. */
export function freshIds(document: TazzelDocument | null, prefix: IdPrefix): () => string {
  let last = document ? highestId(document, prefix) : 0;
  return () => `${prefix}-${++last}`;
}

/** How a mask is used by a correction of a layer’s chain, or, without one, by the layer itself. */
export function maskUseAt(document: TazzelDocument, layerId: string, correctionId: string | null): MaskUse | null {
  const layer = findLayer(document, layerId)?.layer;
  const link = layer && chainOf(layer).find(({ id }) => id === correctionId);
  return (link ?? layer)?.mask ?? null;
}

/** The document as it was before any finishing: the base alone, as rendered. */
export function beforeDocument(document: TazzelDocument): TazzelDocument {
  const elements = layersInOrder(document).filter(({ layer }) => sourceIdOf(layer) !== null);
  const isBeauty = ({ layer }: LayerPlace) => findSource(document, sourceIdOf(layer) ?? '')?.role.endsWith('beauty');
  // A document that begins with its light mix has no other base.
  const base = elements.find(isBeauty) ?? elements[0] ?? layersInOrder(document).find(({ layer }) => layer.kind === 'picture');
  if (base?.layer.kind !== 'picture') return { ...document, buildUp: { scene: [], picture: [] } };
  const plain: Layer = { ...base.layer, visible: true, opacity: 1, blend: 'normal', mask: null, chain: [], placement: null };
  return { ...document, buildUp: { scene: [], picture: [], [base.zone]: [plain] } };
}

/** Where a correction of all below goes: after a layer, or, if it does not work on that side of the tone line, to the near end of the other. */
export function correctionPlace({ zones, prefers = 'scene' }: { readonly zones: readonly Zone[]; readonly prefers?: Zone }, after: LayerPlace | null): { zone: Zone; index?: number; groupId?: string } {
  const zone = after?.zone ?? prefers;
  if (zones.includes(zone)) return { zone, ...(after ? { index: after.index + 1, groupId: after.groupIds.at(-1) } : {}) };
  return zone === 'scene' ? { zone: 'picture', index: 0 } : { zone: 'scene' };
}

/** The document whose result is what a correction works on: all that lies below it, or its layer alone with what comes before it in the chain. */
export function enteringDocument(document: TazzelDocument, layerId: string, correctionId: string | null): TazzelDocument {
  const place = findLayer(document, layerId);
  if (!place) return document;
  const { layer, zone } = place;
  if (correctionId !== null && 'chain' in layer) {
    const alone = { ...layer, visible: true, opacity: 1, blend: 'normal' as const, mask: null, chain: layer.chain.slice(0, Math.max(0, layer.chain.findIndex(({ id }) => id === correctionId))) };
    return { ...document, buildUp: { scene: [], picture: [], [zone]: [alone] } };
  }
  let isPast = false;
  const below = (layers: readonly Layer[]): Layer[] =>
    layers.flatMap((each): Layer[] => {
      if (each.id === layerId) isPast = true;
      if (isPast) return [];
      return [each.kind === 'group' ? { ...each, layers: below(each.layers) } : each];
    });
  return { ...document, buildUp: { scene: below(document.buildUp.scene), picture: below(document.buildUp.picture) } };
}

/** The document reduced to one element, to look at it alone: light goes under the tone line, other values are shown as they are, or in a range. */
export function elementDocument(document: TazzelDocument, source: Source, range: { readonly scale: number; readonly offset: number } | null = null): TazzelDocument {
  const shown = range ? { ...source, scale: source.scale * range.scale, offset: source.offset * range.scale + range.offset } : source;
  return elementAlone(document, shown, source.encoding === 'linear' ? 'scene' : 'picture');
}

/** One element in light, so that its values are neither converted nor cut: to measure them. */
export const elementValues = (document: TazzelDocument, source: Source): TazzelDocument => elementAlone(document, source, 'scene');

function elementAlone(document: TazzelDocument, source: Source, zone: Zone): TazzelDocument {
  const layer: Layer = { id: 'element', kind: 'picture', type: 'element', params: { source: source.id }, name: source.name, visible: true, opacity: 1, blend: 'normal', mask: null, chain: [], placement: null };
  const sources = document.sources.map((each) => (each.id === source.id ? source : each));
  return { ...document, sources, masks: [], buildUp: { scene: [], picture: [], [zone]: [layer] } };
}

/** Whether a layer lies in a group, however deep. */
export const holdsLayer = (group: GroupLayer, layerId: string): boolean => group.layers.some((layer) => layer.id === layerId || (layer.kind === 'group' && holdsLayer(layer, layerId)));

/** The layer that is meant, if it is one of those, or the last of them; null if there is none. */
export function meantLayer(document: TazzelDocument, layerId: string | null, isOne: (layer: unknown) => layer is PictureLayer): PictureLayer | null {
  const meant = layerId === null ? null : findLayer(document, layerId)?.layer;
  return isOne(meant) ? meant : (layersInOrder(document).map(({ layer }) => layer).filter(isOne).at(-1) ?? null);
}
