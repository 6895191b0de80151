/**
 * A document turned into steps: what is switched off is gone, parameters are prepared, conversions between light and
 * display values stand where they are needed, and every step has a key made of all it depends on. A plan is plain data
 * (it crosses to workers) and knows neither pixels nor kernels.
 */
import type { Domain } from '../corrections/define.ts';
import { completeParams } from '../corrections/define.ts';
import { correctionById } from '../corrections/registry.ts';
import type { Zone } from '../color/zones.ts';
import type { CorrectionUse, ElementLayer, Mask, MaskUse, Source, TazzelDocument } from '../document/model.ts';
import { findMask, findSource, layersInOrder } from '../document/query.ts';
import { CoreError } from '../errors.ts';
import type { Size } from '../raster/region.ts';
import { digest } from './key.ts';

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
export type SpanAction = { readonly kind: 'to-light' } | { readonly kind: 'to-display' } | { readonly kind: 'clamp' } | { readonly kind: 'correct'; readonly correction: PlannedCorrection };

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

export type Step = ElementStep | CorrectStep | ToneStep;

export interface Plan {
  readonly size: Size;
  readonly steps: readonly Step[];
  /** keys[n] stands for the result after n steps; keys[0] for nothing at all. */
  readonly keys: readonly string[];
  /** Number of steps under the tone line. */
  readonly toneIndex: number;
  /** Number of steps before the one that belongs to a layer, for layers that are seen. */
  readonly before: Readonly<Record<string, number>>;
  readonly masks: Readonly<Record<string, Mask['terms']>>;
  readonly sources: readonly string[];
  /** How far results depend on neighbours, in pixels of the full picture. */
  readonly reachPx: number;
}

export interface PlanOptions {
  /** Stop after this layer (and pass the tone line if it lies below it). */
  readonly upto?: string;
  /** Only this element layer with its chain, opaque, without mask: its own picture. */
  readonly only?: string;
  /** Sources that cannot be read; layers that show them are passed over. */
  readonly missing?: ReadonlySet<string>;
}

/** @throws CoreError `missing-source`, `missing-mask`, `unknown-operation` for documents that did not pass the schema */
export function planDocument(document: TazzelDocument, options: PlanOptions = {}): Plan {
  const steps: Step[] = [];
  const keys: string[] = [digest(`${document.size.width}×${document.size.height}`)];
  const before: Record<string, number> = {};
  const masks: Record<string, Mask['terms']> = {};
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
    const key = maskKey(document, mask.terms);
    masks[key] = mask.terms;
    return { key, inverted: use.inverted };
  };
  const planCorrection = (use: CorrectionUse, opacity: number, mask: MaskUse | null): PlannedCorrection | null => {
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
    let bounded = source.encoding === 'display';
    const convert = (wanted: Domain) => {
      if (domain === wanted) return;
      if (wanted === 'light' && actions.length === 0) load = 'to-light';
      else actions.push({ kind: wanted === 'light' ? 'to-light' : 'to-display' });
      bounded = wanted === 'display';
      domain = wanted;
    };
    for (const link of layer.chain) {
      const correction = link.visible ? planCorrection(link, link.opacity, link.mask) : null;
      if (!correction) continue;
      convert(correctionById(link.type).domain);
      actions.push({ kind: 'correct', correction });
      bounded = false;
    }
    convert(zoneDomain);
    if (zone === 'picture' && !bounded) actions.push({ kind: 'clamp' });
    const own = options.only !== undefined;
    const step: ElementStep = { kind: 'element', layerId: layer.id, sourceId: source.id, load, actions, blend: own ? 'normal' : layer.blend, zone, opacity: own ? 1 : layer.opacity, mask: own ? null : planMask(layer.mask) };
    push(step, { hash: source.file.hash, part: source.part, channels: source.colorChannels, alphaChannel: source.alphaChannel, alpha: source.alpha, at: [source.x, source.y] });
  };

  for (const { layer, zone } of layersInOrder(document)) {
    if (zone === 'picture' && toneIndex < 0) pushTone();
    const wanted = options.only === undefined ? layer.visible : layer.id === options.only;
    if (wanted && (layer.opacity > 0 || options.only !== undefined)) {
      before[layer.id] = steps.length;
      if (layer.kind === 'element') {
        const source = findSource(document, layer.sourceId);
        if (!source) throw new CoreError('missing-source', `The layer “${layer.name}” refers to an element that is not in the document.`);
        if (!options.missing?.has(source.id)) planElement(layer, source, zone);
      } else if (options.only === undefined) {
        const correction = planCorrection(layer.correction, layer.opacity, layer.mask);
        const throughLight = zone === 'picture' && correctionById(layer.correction.type).domain === 'light';
        if (correction) push({ kind: 'correct', layerId: layer.id, zone, throughLight, correction }, null);
      }
    }
    if (layer.id === options.upto) break;
  }
  if (toneIndex < 0) pushTone();
  return { size: document.size, steps, keys, toneIndex, before, masks, sources: [...sources], reachPx };
}

/** Depends on the colours and the picture they are looked up in, not on names. */
export function maskKey(document: TazzelDocument, terms: Mask['terms']): string {
  const facts = terms.map((term) => [
    term.kind,
    term.operation,
    term.materialIds.map((id) => {
      const material = document.materials.find((row) => row.id === id);
      const source = material && findSource(document, material.sourceId);
      return [material?.colorKey, source?.file.hash, source?.part, source?.colorChannels, source?.x, source?.y];
    }),
  ]);
  return digest(JSON.stringify([document.size, facts]));
}
