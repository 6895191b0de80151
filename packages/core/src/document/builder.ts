/** Layers made of what a document has: of entries that know roles and names of materials, and of the elements that add up to a beauty. */
import type { BlendModeId } from '../blend/modes.ts';
import { namedLike } from '../elements/materials.ts';
import { type RebuildSet, rebuildSet } from '../elements/rebuild-set.ts';
import { type RoleId, roleLabel } from '../elements/roles.ts';
import { wordsOf } from '../elements/words.ts';
import { layerSpec } from '../layers/registry.ts';
import { shortened } from '../limits.ts';
import type { ChainCorrection, CorrectionUse, GroupLayer, Layer, Mask, MaskUse, Source, TazzelDocument } from '../model/model.ts';
import { freshIds } from '../model/query.ts';
import { defaultsOf } from '../params/table.ts';
import { isJustMaterials, materialTerm, newMask } from './mask-edits.ts';

/** A mask by the names of its materials: each that contains one of the words. */
export interface RecipeMask {
  readonly name: string;
  readonly materials: readonly string[];
  readonly inverted: boolean;
}

interface EntryBase {
  readonly name: string;
  readonly visible: boolean;
  readonly opacity: number;
  readonly mask: RecipeMask | null;
}
export interface RecipeElement extends EntryBase {
  readonly kind: 'element';
  /** The first of these roles that the set has. */
  readonly roles: readonly RoleId[];
  /** Which of several elements of that role, by name. */
  readonly element: string | null;
  readonly blend: BlendModeId;
  readonly chain: readonly CorrectionUse[];
  /** What the picture lacks without it. */
  readonly lack: string | null;
}
export interface RecipeCorrection extends EntryBase {
  readonly kind: 'correction';
  readonly correction: CorrectionUse;
}
export interface RecipeGroup extends EntryBase {
  readonly kind: 'group';
  readonly isolated: boolean;
  readonly blend: BlendModeId;
  readonly layers: readonly RecipeEntry[];
}
export type RecipeEntry = RecipeElement | RecipeCorrection | RecipeGroup;

export interface Recipe {
  readonly id: string;
  readonly name: string;
  readonly summary: string;
  readonly scene: readonly RecipeEntry[];
  readonly picture: readonly RecipeEntry[];
}

export class Builder {
  readonly missing: string[] = [];
  readonly masks: Mask[] = [];
  readonly #nextLayer: () => string;
  readonly #nextCorrection: () => string;
  readonly #nextMask: () => string;

  constructor(readonly document: TazzelDocument) {
    this.#nextLayer = freshIds(document, 'layer');
    this.#nextCorrection = freshIds(document, 'correction');
    this.#nextMask = freshIds(document, 'mask');
  }

  layers(entries: readonly RecipeEntry[]): Layer[] {
    return entries.flatMap((entry) => this.#layer(entry) ?? []);
  }

  #layer(entry: RecipeEntry): Layer | null {
    if (entry.kind === 'group') {
      const layers = this.layers(entry.layers);
      return layers.length === 0 ? null : { id: this.#nextLayer(), kind: 'group', ...this.#seen(entry), isolated: entry.isolated, blend: entry.blend, layers };
    }
    if (entry.kind === 'correction') return { id: this.#nextLayer(), kind: 'correction', ...this.#seen(entry), correction: entry.correction };
    const source = this.#source(entry);
    if (!source) {
      this.missing.push(`${roleLabel(entry.roles[0])} is missing${entry.lack ? `: ${entry.lack}` : ''}.`);
      return null;
    }
    const chain = entry.chain.map((correction): ChainCorrection => ({ ...correction, id: this.#nextCorrection(), visible: true, opacity: 1, mask: null }));
    return { id: this.#nextLayer(), kind: 'picture', type: 'element', params: { source: source.id }, ...this.#seen(entry), blend: entry.blend, chain, placement: null };
  }

  #source({ roles, element: wanted }: RecipeElement): Source | null {
    for (const role of roles) {
      const found = this.document.sources.filter((source) => source.role === role);
      const named = wanted === null ? null : found.find((source) => source.name === wanted);
      if (named ?? found[0]) return named ?? found[0];
    }
    return null;
  }

  /** Without the mask that keeps it in its place a layer would spoil the picture: it is made, and off. */
  #seen(entry: RecipeEntry): { name: string; visible: boolean; opacity: number; mask: MaskUse | null } {
    const mask = this.#mask(entry);
    return { name: shortened(entry.name) || 'Layer', visible: entry.visible && (entry.mask === null || mask !== null), opacity: entry.opacity, mask };
  }

  #mask({ name, mask }: RecipeEntry): MaskUse | null {
    if (!mask) return null;
    const found = namedLike(this.document.materials, mask.materials.flatMap((text) => wordsOf(text)));
    if (found.length === 0) {
      this.missing.push(`${name} is off: no material is called ${mask.materials.slice(0, 3).join(', ')}${mask.materials.length > 3 ? ' or the like' : ''}. Rename the materials and build again, or mask it by hand.`);
      return null;
    }
    const materialIds = found.map(({ id }) => id);
    let known = [...this.document.masks, ...this.masks].find((other) => isJustMaterials(other, materialIds));
    if (!known) {
      known = newMask(this.#nextMask(), shortened(mask.name) || 'Mask', [materialTerm(materialIds)]);
      this.masks.push(known);
    }
    return { maskId: known.id, inverted: mask.inverted, enabled: true };
  }

  element(source: Source, blend: BlendModeId, more: Partial<Layer> = {}): Layer {
    return { id: this.#nextLayer(), kind: 'picture', type: 'element', params: { source: source.id }, name: shortened(source.name), visible: true, opacity: 1, mask: null, blend, chain: [], placement: null, ...more } as Layer;
  }

  /** The mix on the light board. */
  mix(): Layer {
    return { id: this.#nextLayer(), kind: 'picture', type: 'light', params: defaultsOf(layerSpec('light')), name: 'Light mix', visible: true, opacity: 1, mask: null, blend: 'normal', chain: [], placement: null };
  }

  group(name: string, isolated: boolean, layers: readonly Layer[]): GroupLayer {
    return { id: this.#nextLayer(), kind: 'group', name: shortened(name), visible: true, opacity: 1, mask: null, isolated, blend: isolated ? 'add' : 'normal', layers };
  }
}

/** The summands as layers, each added to what is below: filter and raw as a group that is multiplied by itself. */
export function summands(builder: Builder, set: RebuildSet, sources: readonly Source[]): Layer[] {
  const find = (id: string) => sources.find((source) => source.id === id) as Source;
  return set.terms.map(({ label, sourceIds }) => {
    if (sourceIds.length === 1) return builder.element(find(sourceIds[0]), 'add');
    return builder.group(label, true, [builder.element(find(sourceIds[1]), 'normal'), builder.element(find(sourceIds[0]), 'multiply')]);
  });
}

/** The elements that add up to the beauty as a group, each lit by the light board; null if there are none. */
export function relitGroup(document: TazzelDocument, builder: Builder = new Builder(document)): GroupLayer | null {
  const set = rebuildSet(document.sources, 'elements');
  if (!set) return null;
  // Of filter and raw it is the raw light that changes, which lies below.
  const lit = (layer: Layer, isRaw: boolean): Layer => (layer.kind === 'group' ? { ...layer, layers: layer.layers.map((inside, i) => lit(inside, i === 0)) } : layer.kind === 'picture' && isRaw ? { ...layer, params: { ...layer.params, isRelit: true } } : layer);
  return builder.group('Elements, relit', false, summands(builder, set, document.sources).map((layer) => lit(layer, true)));
}
