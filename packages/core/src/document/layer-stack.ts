/**
 * A document as a stack of finished pictures with the blend modes of the W3C, for files of other programs: what these cannot say is put together into pictures
 * that look the same, and named. Light under the tone line is one picture: no such file knows it.
 */
import { isLayerType, layerSpec } from '../layers/registry.ts';
import { idsIn, masksNamedBy } from '../masks/circles.ts';
import type { GroupLayer, Layer, PictureLayer, TazzelDocument } from '../model/model.ts';
import { findMask, masksOf } from '../model/query.ts';
import type { BlendModeId } from '../blend/modes.ts';

/** Operators of the W3C's Compositing and Blending that files of layers name. */
export const STACK_OPERATORS: Readonly<Partial<Record<BlendModeId, string>>> = {
  normal: 'svg:src-over',
  multiply: 'svg:multiply',
  screen: 'svg:screen',
  overlay: 'svg:overlay',
  darken: 'svg:darken',
  lighten: 'svg:lighten',
  'color-dodge': 'svg:color-dodge',
  'color-burn': 'svg:color-burn',
  'hard-light': 'svg:hard-light',
  'soft-light': 'svg:soft-light',
  difference: 'svg:difference',
  hue: 'svg:hue',
  saturation: 'svg:saturation',
  color: 'svg:color',
  luminosity: 'svg:luminosity',
  add: 'svg:plus',
};

interface StackEntry {
  readonly name: string;
  readonly operator: string;
  readonly opacity: number;
  readonly visible: boolean;
}
/** A picture: what a document shows, up to a layer if one is named. */
export interface StackPicture extends StackEntry {
  readonly kind: 'picture';
  readonly document: TazzelDocument;
  readonly upto: string | null;
}
export interface StackGroup extends StackEntry {
  readonly kind: 'group';
  readonly isolated: boolean;
  readonly items: readonly StackItem[];
}
export type StackItem = StackPicture | StackGroup;

export interface LayerStack {
  /** From the lowest on. */
  readonly items: readonly StackItem[];
  /** What had to be put together, in sentences. */
  readonly notes: readonly string[];
}

/** Whether a mask reads the picture after a layer, itself or through another one. */
function readsPictures(document: TazzelDocument, maskId: string, seen = new Set<string>()): boolean {
  if (seen.has(maskId)) return false;
  seen.add(maskId);
  const mask = findMask(document, maskId);
  return idsIn(mask, 'layer').length > 0 || masksNamedBy(mask).some((id) => readsPictures(document, id, seen));
}
/** Whether no mask of a layer, or of its chain, depends on what other layers make. */
const isMaskedAlone = (document: TazzelDocument, layer: Layer) => masksOf(layer).every(({ enabled, maskId }) => !enabled || !readsPictures(document, maskId));

/** Whether a picture layer means the same by itself. */
const standsAlone = (document: TazzelDocument, layer: PictureLayer): boolean => {
  if (!isLayerType(layer.type)) return false;
  const { readsBelow, params } = layerSpec(layer.type);
  return !readsBelow && !Object.values(params).some(({ kind }) => kind === 'layer') && isMaskedAlone(document, layer);
};

/** A group whose picture does not depend on what is below. */
const isWhole = (document: TazzelDocument, group: GroupLayer): boolean => group.isolated && isMaskedAlone(document, group) && group.layers.every((layer) => (layer.kind === 'picture' ? standsAlone(document, layer) : layer.kind === 'correction' ? isMaskedAlone(document, layer) : isWhole(document, layer)));

/** Whether a layer is a picture that does not depend on what is below. */
export const isAlone = (document: TazzelDocument, layer: Layer): boolean => (layer.kind === 'picture' ? standsAlone(document, layer) : layer.kind === 'group' && isWhole(document, layer));

/** A layer as part of a stack; null if no stack can say it. */
function itemOf(document: TazzelDocument, layer: Layer): StackItem | null {
  if (layer.kind === 'correction') return null;
  const operator = STACK_OPERATORS[layer.blend];
  if (!operator) return null;
  const entry = { name: layer.name, operator, opacity: layer.opacity, visible: layer.visible };
  const alone = (): StackPicture => ({ kind: 'picture', ...entry, upto: null, document: { ...document, buildUp: { scene: [], picture: [{ ...layer, visible: true, opacity: 1, blend: 'normal' }] } } });
  if (layer.kind === 'picture') return standsAlone(document, layer) ? alone() : null;
  const items = layer.layers.filter((each) => each.kind !== 'correction' || each.visible).map((each) => itemOf(document, each));
  const isSaid = !layer.mask?.enabled && items.every((item) => item !== null) && (layer.isolated || (layer.blend === 'normal' && layer.opacity === 1));
  if (isSaid) return { kind: 'group', ...entry, isolated: layer.isolated, items: items as StackItem[] };
  return isWhole(document, layer) ? alone() : null;
}

/** @param upto the last layer that counts; null is the whole picture */
export function layerStack(document: TazzelDocument, upto: string | null = null): LayerStack {
  const { scene, picture } = document.buildUp;
  const whole = (name: string, last: string | null, of = document): StackPicture => ({ kind: 'picture', name, operator: 'svg:src-over', opacity: 1, visible: true, document: of, upto: last });
  const end = upto === null ? picture.length : picture.findIndex(({ id }) => id === upto) + 1;
  // A layer under the tone line, or inside a group: all of it is one picture.
  if (upto !== null && end === 0) return { items: [whole(document.name, upto)], notes: [] };
  const layers = picture.slice(0, end).map((layer) => ({ layer, item: itemOf(document, layer) }));
  const last = layers.findLastIndex(({ layer, item }) => item === null && layer.visible && layer.opacity > 0);
  const baked = layers.slice(0, last + 1).map(({ layer }) => layer);
  const base = baked.length > 0 ? [whole(`Up to ${baked[baked.length - 1].name}`, baked[baked.length - 1].id)] : scene.length > 0 ? [whole('Light', null, { ...document, buildUp: { scene, picture: [] } })] : [];
  const notes = [
    ...(scene.length > 1 ? [`${scene.length} layers of light are one picture: files of layers know no light. The project file and OpenEXR keep it.`] : []),
    ...(baked.length > 0 ? [`${baked.map(({ name }) => `“${name}”`).join(', ')} ${baked.length === 1 ? 'is' : 'are'} part of the lowest picture: corrections, and layers that read what is below, cannot be said otherwise.`] : []),
  ];
  return { items: [...base, ...layers.slice(last + 1).flatMap(({ item }) => item ?? [])], notes };
}
