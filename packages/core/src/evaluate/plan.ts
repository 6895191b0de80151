/**
 * A document turned into steps: what is switched off is gone, parameters are prepared, conversions between light and
 * display values stand where they are needed, and every step has a key made of all it depends on. A plan is plain data
 * (it crosses to workers) and knows neither pixels nor kernels.
 */
import type { Domain } from '../corrections/define.ts';
import { completeParams } from '../corrections/define.ts';
import { correctionById, isCorrectionId } from '../corrections/registry.ts';
import type { Zone } from '../color/zones.ts';
import type { CorrectionUse, ElementLayer, GroupLayer, Layer, Mask, MaskUse, Source, TazzelDocument } from '../document/model.ts';
import { endOfLayer, findMask, findSource, layersInOrder } from '../document/query.ts';
import { roleKeepsValues, roleNature } from '../elements/roles.ts';
import { CoreError } from '../errors.ts';
import { pictureCircles } from '../masks/circles.ts';
import { materialPlaces } from '../masks/material.ts';
import { resolveMask } from '../masks/evaluate.ts';
import { paintKeys } from '../masks/paint.ts';
import type { Size } from '../raster/region.ts';
import { digest } from './key.ts';
import { remembered } from '../remembered.ts';

export interface PlannedMask {
  /** Equal recipes over equal sources share a key, whatever their names. */
  readonly key: string;
  readonly inverted: boolean;
}

export interface PlannedCorrection {
  readonly type: string;
  readonly prepared: Float32Array;
  readonly opacity: number;
  readonly mask: PlannedMask | null;
}

/** One action on the span of an element before it is blended. */
export type SpanAction = { readonly kind: 'to-light' } | { readonly kind: 'to-display' } | { readonly kind: 'clamp' } | { readonly kind: 'scale'; readonly scale: number; readonly offset: number } | { readonly kind: 'correct'; readonly correction: PlannedCorrection };

export interface ElementStep {
  readonly kind: 'element';
  readonly layerId: string;
  readonly sourceId: string;
  /** Pixels of the source are taken as they are, or from display values to light while they are read. */
  readonly load: 'as-is' | 'to-light';
  readonly actions: readonly SpanAction[];
  readonly blend: string;
  readonly zone: Zone;
  readonly opacity: number;
  readonly mask: PlannedMask | null;
}

export interface CorrectStep {
  readonly kind: 'correct';
  readonly layerId: string;
  readonly zone: Zone;
  /** The correction works on light and stands over the tone line: picture values are decoded for it and encoded again. */
  readonly throughLight: boolean;
  readonly correction: PlannedCorrection;
}

export interface ToneStep {
  readonly kind: 'tone';
  readonly curve: 'srgb';
}

/** What follows is composited by itself (isolated) or on what is there, until the group is closed. */
export interface OpenGroupStep {
  readonly kind: 'open-group';
  readonly isolated: boolean;
}

export interface CloseGroupStep {
  readonly kind: 'close-group';
  readonly layerId: string;
  readonly isolated: boolean;
  readonly blend: string;
  readonly zone: Zone;
  readonly opacity: number;
  readonly mask: PlannedMask | null;
}

export type Step = ElementStep | CorrectStep | ToneStep | OpenGroupStep | CloseGroupStep;

export interface Plan {
  readonly size: Size;
  readonly steps: readonly Step[];
  /** keys[n] stands for the result after n steps; keys[0] for nothing at all. */
  readonly keys: readonly string[];
  /** Number of steps under the tone line. */
  readonly toneIndex: number;
  /** Number of steps before the one that belongs to a layer, or before the outermost group around it: results are kept between these only. */
  readonly before: Readonly<Record<string, number>>;
  readonly masks: Readonly<Record<string, Mask>>;
  readonly sources: readonly string[];
  /** How far results depend on neighbours, in pixels of the full picture. */
  readonly reachPx: number;
}

export interface PlanOptions {
  /** Stop after this layer (and pass the tone line if it lies below it). */
  readonly upto?: string;
  /** Only this element layer with its chain, or this group, opaque, without mask: its own picture. */
  readonly only?: string;
  /** Sources that cannot be read; layers that show them are passed over. */
  readonly missing?: ReadonlySet<string>;
  /** Masks that count as empty: a mask that reads a picture it has a part in reads it as it is without that part. */
  readonly emptied?: ReadonlySet<string>;
}

/** @throws CoreError `missing-source`, `missing-mask`, `unknown-operation` for documents that did not pass the schema */
export function planDocument(document: TazzelDocument, options: PlanOptions = {}): Plan {
  const steps: Step[] = [];
  const keys: string[] = [digest(`${document.size.width}×${document.size.height}`)];
  const before: Record<string, number> = {};
  const masks: Record<string, Mask> = {};
  const sources = new Set<string>();
  let reachPx = 0;
  let toneIndex = -1;

  const push = (step: Step, dependsOn: unknown) => {
    steps.push(step);
    keys.push(digest(JSON.stringify([keys[keys.length - 1], step, dependsOn], (_, value) => (value instanceof Float32Array ? [...value] : value))));
  };
  const pushTone = () => {
    toneIndex = steps.length;
    push({ kind: 'tone', curve: document.tone.curve }, null);
  };
  const planMask = (use: MaskUse | null): PlannedMask | null => {
    if (!use?.enabled) return null;
    const mask = findMask(document, use.maskId);
    if (!mask) throw new CoreError('missing-mask', `The mask ${use.maskId} is missing.`);
    const isEmptied = options.emptied?.has(mask.id) === true;
    const wanted = isEmptied ? { ...mask, terms: [] } : mask;
    const key = maskKey(document, wanted);
    masks[key] = wanted;
    return { key, inverted: use.inverted };
  };
  const planCorrection = (use: CorrectionUse, opacity: number, mask: MaskUse | null): PlannedCorrection | null => {
    // One of a later version stays in the document and does nothing.
    if (!isCorrectionId(use.type)) return null;
    const declared = correctionById(use.type);
    const params = completeParams(declared, use.params);
    if (opacity === 0 || declared.isNoOp(params)) return null;
    reachPx += declared.reachPx(params);
    return { type: use.type, prepared: declared.prepare(params), opacity, mask: planMask(mask) };
  };
  const planElement = (layer: ElementLayer, source: Source, zone: Zone) => {
    sources.add(source.id);
    const actions: SpanAction[] = [];
    const zoneDomain: Domain = zone === 'scene' ? 'light' : 'display';
    let domain: Domain = source.encoding === 'data' ? zoneDomain : source.encoding === 'linear' ? 'light' : 'display';
    let load: ElementStep['load'] = 'as-is';
    // Light that becomes display values is clamped on the way; numbers that enter the picture unconverted must be.
    let bounded = source.encoding === 'display' && source.scale === 1 && source.offset === 0;
    const convert = (wanted: Domain) => {
      if (domain === wanted) return;
      if (wanted === 'light' && actions.length === 0) load = 'to-light';
      else actions.push({ kind: wanted === 'light' ? 'to-light' : 'to-display' });
      bounded = wanted === 'display';
      domain = wanted;
    };
    if (source.scale !== 1 || source.offset !== 0) actions.push({ kind: 'scale', scale: source.scale, offset: source.offset });
    for (const link of layer.chain) {
      const correction = link.visible ? planCorrection(link, link.opacity, link.mask) : null;
      if (!correction) continue;
      convert(correctionById(link.type).domain);
      actions.push({ kind: 'correct', correction });
      bounded = false;
    }
    convert(zoneDomain);
    if (zone === 'picture' && !bounded) actions.push({ kind: 'clamp' });
    const own = options.only === layer.id;
    const step: ElementStep = { kind: 'element', layerId: layer.id, sourceId: source.id, load, actions, blend: own ? 'normal' : layer.blend, zone, opacity: own ? 1 : layer.opacity, mask: own ? null : planMask(layer.mask) };
    push(step, { hash: source.file.hash, part: source.part, channels: source.colorChannels, alphaChannel: source.alphaChannel, alpha: source.alpha, at: [source.x, source.y], fit: source.fit, nature: roleNature(source.role), keepsValues: roleKeepsValues(source.role), isData: source.encoding === 'data' });
  };

  let done = false;
  const planGroup = (group: GroupLayer, zone: Zone, groupStart: number | null) => {
    const own = options.only === group.id;
    const mask = own ? null : planMask(group.mask);
    const isolated = group.isolated || own;
    // A group that changes nothing about its layers is only a way to read the build-up.
    const isPlain = !isolated && group.opacity === 1 && mask === null;
    const start = groupStart ?? steps.length;
    if (!isPlain) push({ kind: 'open-group', isolated }, null);
    const opened = steps.length;
    planLayers(group.layers, zone, isPlain ? groupStart : start, own);
    if (isPlain) return;
    if (steps.length === opened) {
      steps.pop();
      keys.pop();
      return;
    }
    push({ kind: 'close-group', layerId: group.id, isolated, blend: own ? 'normal' : group.blend, zone, opacity: own ? 1 : group.opacity, mask }, null);
  };
  /** `groupStart` is where the outermost open group began; `all` shows layers because their group is what is looked at. */
  const planLayers = (layers: readonly Layer[], zone: Zone, groupStart: number | null, all: boolean) => {
    for (const layer of layers) {
      if (done) return;
      const isOnly = layer.id === options.only;
      const shown = isOnly || (layer.visible && layer.opacity > 0 && (options.only === undefined || all));
      // On the way to a layer that is looked at alone, groups are only walked through.
      if (layer.kind === 'group' && options.only !== undefined && !all && !isOnly) planLayers(layer.layers, zone, groupStart, false);
      else if (shown) {
        before[layer.id] = groupStart ?? steps.length;
        if (layer.kind === 'group') planGroup(layer, zone, groupStart);
        else if (layer.kind === 'element') {
          const source = findSource(document, layer.sourceId);
          if (!source) throw new CoreError('missing-source', `The layer “${layer.name}” refers to an element that is not in the document.`);
          if (!options.missing?.has(source.id)) planElement(layer, source, zone);
        } else if (options.only === undefined || all) {
          const correction = planCorrection(layer.correction, layer.opacity, layer.mask);
          if (correction) push({ kind: 'correct', layerId: layer.id, zone, throughLight: zone === 'picture' && correctionById(layer.correction.type).domain === 'light', correction }, null);
        }
      }
      if (layer.id === options.upto || (layer.kind === 'group' && !shown && options.upto !== undefined && holds(layer, options.upto))) done = true;
    }
  };
  planLayers(document.buildUp.scene, 'scene', null, false);
  if (!done && document.buildUp.picture.length > 0) {
    pushTone();
    planLayers(document.buildUp.picture, 'picture', null, false);
  }
  if (toneIndex < 0) pushTone();
  return { size: document.size, steps, keys, toneIndex, before, masks, sources: [...sources], reachPx };
}

const holds = (group: GroupLayer, layerId: string): boolean => group.layers.some((layer) => layer.id === layerId || (layer.kind === 'group' && holds(layer, layerId)));

const keysOfMasks = remembered((_: TazzelDocument) => new Map<Mask, string>());

/**
 * The identity of a mask's coverage: everything that it depends on, and no names. Each mask of a document is looked into once, however many
 * refer to it; masks that refer to each other in a circle get a key as well, and whoever evaluates them says what is wrong.
 */
export function maskKey(document: TazzelDocument, mask: Mask): string {
  const keys = keysOfMasks(document);
  // From the innermost on, without recursion: masks are stacked as high as one likes.
  const waiting = [mask];
  while (waiting.length > 0) {
    const next = waiting[waiting.length - 1];
    const inner = keys.has(next) ? [] : innerMasks(document, next).filter((each) => !keys.has(each));
    if (inner.length > 0) waiting.push(...inner);
    else {
      waiting.pop();
      if (!keys.has(next)) keys.set(next, ownKey(document, next, keys));
    }
  }
  return keys.get(mask) as string;
}

/** What must have a key before a mask can have one. None of them leads back to it. */
function innerMasks(document: TazzelDocument, mask: Mask): Mask[] {
  const find = (id: string) => findMask(document, id) ?? [];
  return resolveMask(document, mask).needs.flatMap((need) => {
    if (need.what === 'mask') return find(need.maskId);
    if (need.what !== 'picture') return [];
    const emptied = emptiedFor(document, mask, need.layerId);
    return [...masksUpTo(document, need.layerId)].filter((id) => !emptied.has(id)).flatMap(find);
  });
}

/** Masks of the layers up to one, which the picture after it depends on. */
function masksUpTo(document: TazzelDocument, layerId: string): ReadonlySet<string> {
  const found = new Set<string>();
  for (const { layer } of layersInOrder(document).slice(0, endOfLayer(document, layerId) + 1)) {
    for (const use of [layer.mask, ...(layer.kind === 'element' ? layer.chain.map((link) => link.mask) : [])]) if (use?.enabled) found.add(use.maskId);
  }
  return found;
}

/** The masks that count as empty in a picture that a mask reads: it and all that lead back to it, if it has a part in the picture. */
export function emptiedFor(document: TazzelDocument, mask: Mask, layerId: string): ReadonlySet<string> {
  const circle = pictureCircles(document).get(mask.id);
  return circle && [...masksUpTo(document, layerId)].some((id) => circle.has(id)) ? circle : NONE;
}
const NONE: ReadonlySet<string> = new Set();

function ownKey(document: TazzelDocument, mask: Mask, known: ReadonlyMap<Mask, string>): string {
  const { mask: resolved, needs } = resolveMask(document, mask);
  const facts = needs.map((need) => {
    if (need.what === 'mask') {
      const inner = findMask(document, need.maskId);
      return inner && (known.get(inner) ?? null);
    }
    if (need.what === 'picture') return pictureKey(document, need.layerId, emptiedFor(document, mask, need.layerId));
    const source = findSource(document, need.sourceId);
    return source && [need.what, source.file.hash, source.part, source.colorChannels, source.alphaChannel, source.x, source.y, source.fit, source.scale, source.offset, source.encoding, source.role];
  });
  const places = materialPlaces(document, resolved);
  const keys = [...new Set(Object.values(places).map(({ sourceId }) => sourceId))].map((sourceId) => document.materials.filter((row) => row.sourceId === sourceId).map(({ colorKey }) => colorKey));
  const { name: _, id: __, terms, ...finish } = resolved;
  const recipe = [finish, terms.map((term) => (term.kind === 'paint' ? { ...term, strokes: paintKeys(term.strokes, '').at(-1) } : term))];
  return digest(JSON.stringify([document.size, recipe, facts, Object.values(places).map(({ index, colorKey, coverage }) => [index, colorKey, coverage?.hash]), keys]));
}

const keysOfPictures = remembered((_: TazzelDocument) => new Map<string, string | null>());

/** The key of the picture after a layer; null if it cannot be made. */
function pictureKey(document: TazzelDocument, layerId: string, emptied: ReadonlySet<string>): string | null {
  const keys = keysOfPictures(document);
  const id = [layerId, ...emptied].join('\n');
  let key = keys.get(id);
  if (key === undefined) {
    try {
      key = planDocument(document, { upto: layerId, emptied }).keys.at(-1) ?? null;
    } catch (error) {
      if (!(error instanceof CoreError)) throw error;
      key = null;
    }
    keys.set(id, key);
  }
  return key;
}
