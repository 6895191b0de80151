/** The one form of address: everything in a document that is selected, edited, overridden or reported missing. */
import { camera, cameraOf } from '../camera/camera.ts';
import { correctionById, correctionLabel, isCorrectionId } from '../corrections/registry.ts';
import { isLayerType, layerSpec } from '../layers/registry.ts';
import { isTermType, termLabel, termSpec } from '../masks/registry.ts';
import { completeParams, type KeptValues, type Parametric } from '../params/table.ts';
import { sun, sunOf } from '../sun/sun.ts';
import { isPictureLayer, lackOf } from './layers.ts';
import { groupsOf, settingOf } from '../light/board.ts';
import { lightGroup, lightValues } from '../light/group.ts';
import { groupName } from '../light/names.ts';
import { refuse } from './edits/define.ts';
import { withLight } from './edits/light.ts';
import { patchChain, patchLayer } from './edits/in-layers.ts';
import { withTerm } from './mask-edits.ts';
import type { TazzelDocument } from '../model/model.ts';
import { isToneId, newTone, toneById } from '../tone/registry.ts';
import { chainOf, findLayer, findMask, findMaterial, findSource } from '../model/query.ts';

/** A layer, or a correction of its chain. */
export interface LayerAddress {
  readonly layerId: string;
  readonly correctionId?: string;
}
/** A line of a mask. */
export interface TermAddress {
  readonly maskId: string;
  readonly termId: string;
}
/** What a document has one of. */
export interface PartAddress {
  readonly part: 'camera' | 'sun' | 'tone';
}
/** A light group on the board. */
export interface LightAddress {
  readonly lightId: string;
}
/** Whatever has parameters. */
export type ParamAddress = LayerAddress | TermAddress | PartAddress | LightAddress;
export type Address = ParamAddress | { readonly maskId: string; readonly termId?: undefined } | { readonly sourceId: string } | { readonly materialId: string };

/** What is declared of something, and its values in full; null if it is not there, has none, or a later version brought it. */
export function paramsAt(document: TazzelDocument, at: ParamAddress): { readonly of: Parametric; readonly values: KeptValues } | null {
  const complete = (of: Parametric, params: KeptValues) => ({ of, values: completeParams(of, params) });
  if ('part' in at) {
    if (at.part === 'tone') return isToneId(document.tone.type) ? complete(toneById(document.tone.type), document.tone.params) : null;
    if (at.part === 'camera') return document.camera && { of: camera, values: cameraOf(document.camera) };
    return document.sun && { of: sun, values: sunOf(document.sun) };
  }
  if ('lightId' in at) return groupsOf(document).some(({ id }) => id === at.lightId) ? { of: lightGroup, values: settingOf(document.light.mix, at.lightId) as unknown as KeptValues } : null;
  if ('maskId' in at) {
    const term = findMask(document, at.maskId)?.terms.find(({ id }) => id === at.termId);
    return term && isTermType(term.type) ? complete(termSpec(term.type), term.params) : null;
  }
  const layer = findLayer(document, at.layerId)?.layer;
  if (!layer) return null;
  const use = at.correctionId === undefined ? (layer.kind === 'correction' ? layer.correction : null) : chainOf(layer).find(({ id }) => id === at.correctionId);
  if (use) return isCorrectionId(use.type) ? complete(correctionById(use.type), use.params) : null;
  return at.correctionId === undefined && isPictureLayer(layer) && isLayerType(layer.type) ? complete(layerSpec(layer.type), layer.params) : null;
}

/** The document with some values changed. @throws CoreError `edit-refused`, `bad-parameter`, `unknown-operation` */
export function withParams(document: TazzelDocument, at: ParamAddress, params: KeptValues): TazzelDocument {
  if ('part' in at) {
    if (at.part === 'tone') return { ...document, tone: newTone(document.tone.type, { ...document.tone.params, ...params }) };
    const own = { camera, sun }[at.part];
    return { ...document, [at.part]: { from: 'hand', params: completeParams(own, { ...document[at.part]?.params, ...params }) } };
  }
  if ('lightId' in at) return withLight(document, at.lightId, lightValues({ ...settingOf(document.light.mix, at.lightId), ...params } as unknown as KeptValues));
  if ('maskId' in at) return withTerm(document, at.maskId, at.termId, (term) => [{ ...term, params: completeParams(termSpec(term.type), { ...term.params, ...params }) }]);
  const complete = (use: { type: string; params: KeptValues }) => completeParams(correctionById(use.type), { ...use.params, ...params });
  if (at.correctionId !== undefined) return patchChain(document, at.layerId, at.correctionId, (correction) => ({ ...correction, params: complete(correction) }));
  return patchLayer(document, at.layerId, (layer) => {
    if (layer.kind === 'group') return refuse(`${layer.name} is a group and has no parameters.`);
    if (layer.kind === 'correction') return { ...layer, correction: { ...layer.correction, params: complete(layer.correction) } };
    const changed = { ...layer, params: completeParams(layerSpec(layer.type), { ...layer.params, ...params }) };
    const lack = lackOf(document, changed);
    return lack === null ? changed : refuse(lack);
  });
}

/** What is found at an address is called so; null if nothing is there. */
export function titleAt(document: TazzelDocument, at: Address): string | null {
  if ('part' in at) return at.part === 'tone' ? 'Tone line' : document[at.part] ? { camera, sun }[at.part].label : null;
  if ('sourceId' in at) return findSource(document, at.sourceId)?.name ?? null;
  if ('lightId' in at) {
    const group = groupsOf(document).find(({ id }) => id === at.lightId);
    return group ? groupName(group) : null;
  }
  if ('materialId' in at) return findMaterial(document, at.materialId)?.name ?? null;
  if ('maskId' in at) {
    const mask = findMask(document, at.maskId);
    if (!mask || at.termId === undefined) return mask?.name ?? null;
    const term = mask.terms.find(({ id }) => id === at.termId);
    return term ? `${mask.name}: ${termLabel(term.type)}` : null;
  }
  const layer = findLayer(document, at.layerId)?.layer;
  if (!layer || at.correctionId === undefined) return layer?.name ?? null;
  const link = chainOf(layer).find(({ id }) => id === at.correctionId);
  return link ? `${layer.name}: ${correctionLabel(link.type)}` : null;
}

export const isSameAddress = (a: Address, b: Address): boolean => JSON.stringify(Object.entries(a).sort()) === JSON.stringify(Object.entries(b).sort());
