/**
 * Places of a document whose values can differ from one scheme to another: what is on, how much of it is seen, where, and every parameter, by address.
 * They are found by comparing two documents, and set again in any document that still has them.
 */
import { CoreError } from '../errors.ts';
import { type LayerAddress, type LightAddress, type ParamAddress, paramsAt, type TermAddress, titleAt, withParams } from './address.ts';
import { refuse } from './edits/define.ts';
import { offered, patchChain, patchLayer } from './edits/in-layers.ts';
import { withTerm } from './mask-edits.ts';
import { blendMode, type BlendModeId, isBlendModeId } from '../blend/modes.ts';
import { groupsOf } from '../light/board.ts';
import type { Layer, Mask, MaskUse, Override, SlotAddress, TazzelDocument } from '../model/model.ts';
import { chainOf, findLayer, findMask } from '../model/query.ts';
import type { Growth } from '../params/define.ts';
import { type KeptValues, scaledParams, summaryOf } from '../params/table.ts';
import { isToneId, newTone, type ToneUse, toneById } from '../tone/registry.ts';

export type Slot = Omit<Override, 'value'>;

export const slotKey = ({ at, what }: Slot): string => `${Object.entries(at).flatMap(([name, id]) => (id === undefined ? [] : [`${name}=${id}`])).sort().join(' ')} ${what}`;
export const isSameValue = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/** Of whatever has some, by name; the order is that in which they are listed. */
type Fields = Readonly<Record<string, unknown>>;
const LAYER_SWITCHES = ['visible', 'opacity', 'blend', 'isolated', 'mask', 'placement'] as const;
const CHAIN_SWITCHES = ['visible', 'opacity', 'blend', 'mask'] as const;
const MASK_SWITCHES = ['inverted', 'strength', 'growPx', 'featherPx', 'followEdges'] as const;
const TERM_SWITCHES = ['muted', 'operation'] as const;
const LABELS: Readonly<Record<string, string>> = { visible: 'On', opacity: 'Opacity', blend: 'Blend', isolated: 'Isolated', mask: 'Mask', placement: 'Place', inverted: 'Inverted', strength: 'Strength', growPx: 'Grown', featherPx: 'Soft edge', followEdges: 'Follows edges', muted: 'Muted', operation: 'Joins', curve: 'Curve', sun: 'Sun' };

/** The name of a parameter that a slot is about; undefined for a switch. */
const paramIn = (what: string): string | undefined => /^params\.(.+)$/.exec(what)?.[1];

const only = (of: object, names: readonly string[]): Record<string, unknown> => Object.fromEntries(names.flatMap((name) => (Object.hasOwn(of, name) ? [[name, (of as Record<string, unknown>)[name]]] : [])));
const paramsOf = (document: TazzelDocument, at: ParamAddress): Fields => Object.fromEntries(Object.entries(paramsAt(document, at)?.values ?? {}).map(([name, value]) => [`params.${name}`, value]));

/** The values there; null if there is nothing any more. */
function fieldsAt(document: TazzelDocument, at: SlotAddress): Fields | null {
  if ('part' in at) return at.part === 'tone' ? { curve: document.tone } : at.part === 'sun' ? { sun: document.sun } : null;
  if ('lightId' in at) return groupsOf(document).some(({ id }) => id === at.lightId) ? paramsOf(document, at) : null;
  if ('maskId' in at) {
    const mask = findMask(document, at.maskId);
    if (!mask || at.termId === undefined) return mask && only(mask, MASK_SWITCHES);
    const term = mask.terms.find(({ id }) => id === at.termId);
    return term ? { ...only(term, TERM_SWITCHES), ...paramsOf(document, { maskId: at.maskId, termId: at.termId }) } : null;
  }
  const layer = findLayer(document, at.layerId)?.layer;
  if (!layer) return null;
  if (at.correctionId === undefined) return { ...only(layer, LAYER_SWITCHES), ...(layer.kind === 'group' ? {} : paramsOf(document, at)) };
  const link = chainOf(layer).find(({ id }) => id === at.correctionId);
  return link ? { ...only(link, CHAIN_SWITCHES), ...paramsOf(document, at) } : null;
}

export const valueAt = (document: TazzelDocument, { at, what }: Slot): unknown => fieldsAt(document, at)?.[what];

/** What differs between two versions of a document, as the later one has it, where both have something. */
export function changedSlots(before: TazzelDocument, after: TazzelDocument): readonly { readonly at: SlotAddress; readonly what: string; readonly from: unknown; readonly to: unknown }[] {
  const addresses: SlotAddress[] = [];
  if (before.tone !== after.tone) addresses.push({ part: 'tone' });
  if (before.sun !== after.sun) addresses.push({ part: 'sun' });
  if (before.light.mix !== after.light.mix) addresses.push(...groupsOf(after).map(({ id }): LightAddress => ({ lightId: id })));
  if (before.masks !== after.masks) addresses.push(...changedMasks(before.masks, after.masks));
  if (before.buildUp !== after.buildUp) addresses.push(...changedLayers(before, after));
  return addresses.flatMap((at) => {
    const [from, to] = [fieldsAt(before, at), fieldsAt(after, at)];
    if (!from || !to) return [];
    return Object.keys(to).flatMap((what) => (Object.hasOwn(from, what) && !isSameValue(from[what], to[what]) ? [{ at, what, from: from[what], to: to[what] }] : []));
  });
}

function changedMasks(before: readonly Mask[], after: readonly Mask[]): SlotAddress[] {
  const known = new Map(before.map((mask) => [mask.id, mask]));
  return after.flatMap((mask): SlotAddress[] => {
    const old = known.get(mask.id);
    return !old || old === mask ? [] : [{ maskId: mask.id }, ...mask.terms.map(({ id }): TermAddress => ({ maskId: mask.id, termId: id }))];
  });
}

/** Every layer, those of groups after them. */
export const layersIn = (layers: readonly Layer[]): Layer[] => layers.flatMap((layer) => [layer, ...(layer.kind === 'group' ? layersIn(layer.layers) : [])]);
const allLayers = ({ buildUp }: TazzelDocument) => [...layersIn(buildUp.scene), ...layersIn(buildUp.picture)];

function changedLayers(before: TazzelDocument, after: TazzelDocument): SlotAddress[] {
  const known = new Map(allLayers(before).map((layer) => [layer.id, layer]));
  return allLayers(after).flatMap((layer): SlotAddress[] => {
    const old = known.get(layer.id);
    return !old || old === layer ? [] : [{ layerId: layer.id }, ...chainOf(layer).map(({ id }): LayerAddress => ({ layerId: layer.id, correctionId: id }))];
  });
}

/** Layers that were not there before, outermost ones only; groups around others that were are none. */
export function newLayers(before: TazzelDocument, after: TazzelDocument): readonly Layer[] {
  if (before.buildUp === after.buildUp) return [];
  const known = new Set(allLayers(before).map(({ id }) => id));
  const walk = (layers: readonly Layer[]): Layer[] => layers.flatMap((layer) => {
    const inside = layer.kind === 'group' ? layersIn(layer.layers) : [];
    return !known.has(layer.id) && !inside.some(({ id }) => known.has(id)) ? [layer] : layer.kind === 'group' ? walk(layer.layers) : [];
  });
  return [...walk(after.buildUp.scene), ...walk(after.buildUp.picture)];
}

/** The document with one value set; null if it has no such place any more, or if the value does not belong there. */
export function withValue(document: TazzelDocument, { at, what }: Slot, value: unknown): TazzelDocument | null {
  const fields = fieldsAt(document, at);
  if (!fields || !Object.hasOwn(fields, what)) return null;
  if (isSameValue(fields[what], value)) return document;
  try {
    return set(document, { at, what }, value);
  } catch (error) {
    if (error instanceof CoreError) return null;
    throw error;
  }
}

function set(document: TazzelDocument, { at, what }: Slot, value: unknown): TazzelDocument {
  const param = paramIn(what);
  if (param !== undefined) return withParams(document, at as ParamAddress, { [param]: value } as KeptValues);
  if ('part' in at) {
    if (at.part === 'sun') return { ...document, sun: value as TazzelDocument['sun'] };
    if (typeof value !== 'object' || value === null) return refuse('This is no curve.');
    const { type, params } = value as ToneUse;
    return { ...document, tone: isToneId(type) ? newTone(type, params) : (value as ToneUse) };
  }
  if ('lightId' in at) return refuse('A light group has parameters only.');
  const patch = { [what]: value };
  if ('maskId' in at) {
    const { maskId, termId } = at;
    if (termId !== undefined) return withTerm(document, maskId, termId, (term) => [{ ...term, ...patch }]);
    return { ...document, masks: document.masks.map((mask) => (mask.id === maskId ? { ...mask, ...patch } : mask)) };
  }
  if (what === 'mask' && value !== null && !findMask(document, (value as MaskUse).maskId)) refuse('Its mask is gone.');
  if (at.correctionId !== undefined) return patchChain(document, at.layerId, at.correctionId, (link) => ({ ...link, ...patch }));
  const zone = findLayer(document, at.layerId)?.zone ?? 'scene';
  if (what === 'blend') offered(value as BlendModeId, zone);
  return patchLayer(document, at.layerId, (layer) => ({ ...layer, ...patch }) as Layer);
}

/** A value for a picture of another size. */
export function scaledOverride(document: TazzelDocument, override: Override, by: Growth): Override {
  const name = paramIn(override.what);
  const of = name === undefined ? null : (paramsAt(document, override.at as ParamAddress)?.of ?? null);
  return of && name !== undefined ? { ...override, value: scaledParams(of, { [name]: override.value } as KeptValues, by)[name] } : override;
}

/** What is overridden, in words: whose, which of it, and the value. */
export function slotWords(document: TazzelDocument, { at, what, value }: Override): { readonly of: string; readonly label: string; readonly value: string } | null {
  const of = titleAt(document, at);
  if (of === null || !Object.hasOwn(fieldsAt(document, at) ?? {}, what)) return null;
  const name = paramIn(what);
  const declared = name === undefined ? undefined : paramsAt(document, at as ParamAddress)?.of.params[name];
  if (name !== undefined && declared && typeof value !== 'boolean') return { of, label: declared.label, value: summaryOf({ params: { [name]: { ...declared, when: undefined } } }, { [name]: value } as KeptValues) || 'as it begins' };
  return { of, label: declared?.label ?? LABELS[what] ?? what, value: plainWords(document, what, value) };
}

function plainWords(document: TazzelDocument, what: string, value: unknown): string {
  if (what === 'opacity' || what === 'strength') return `${Math.round(Number(value) * 100)} %`;
  if (what === 'mask') return value === null ? 'everywhere' : `${(value as MaskUse).inverted ? 'not ' : ''}${findMask(document, (value as MaskUse).maskId)?.name ?? 'a mask that is gone'}`;
  if (what === 'curve') return isToneId((value as ToneUse).type) ? toneById((value as ToneUse).type).label : 'not known here';
  if (what === 'blend') return isBlendModeId(String(value)) ? blendMode(value as BlendModeId).label : String(value);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'object' ? (value === null ? 'none' : 'changed') : String(value);
}
