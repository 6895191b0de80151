/**
 * A look: corrections that are kept for the next camera or document, with their masks, without elements and light mixes. What they refer to is known by names and
 * roles, so that another document's materials and elements can take the place.
 */
import * as yup from 'yup';
import { correctionLabel } from '../corrections/registry.ts';
import { isRoleId, type RoleId, roleLabel } from '../elements/roles.ts';
import { CoreError } from '../errors.ts';
import { LIMITS, shortened } from '../limits.ts';
import { idsIn, masksNamedBy } from '../masks/circles.ts';
import { isTermType, termSpec } from '../masks/registry.ts';
import { type ChainCorrection, DOCUMENT_FORMAT, DOCUMENT_VERSION, emptyDocument, type Layer, type Mask, type MaskTerm, type MaterialKind, type MaskUse, type TazzelDocument } from '../model/model.ts';
import { chainOf, findLayer, findSource, freshIds, layersInOrder, sourceIdOf } from '../model/query.ts';
import type { Growth } from '../params/define.ts';
import { withReferences } from '../params/table.ts';
import type { Size } from '../raster/region.ts';
import type { ToneUse } from '../tone/registry.ts';
import type { EditOf } from './edits.ts';
import { scaledLayer } from './layers.ts';
import { scaledMask } from './mask-edits.ts';
import { misfit } from './parts.ts';
import { readDocument } from './schema.ts';
import { maskUses } from './uses.ts';

export const LOOK_FORMAT = 'tazzel-look';

export interface LookMaterial {
  readonly id: string;
  readonly name: string;
  readonly kind: MaterialKind;
}
export interface LookElement {
  readonly id: string;
  readonly name: string;
  readonly role: RoleId;
}
/** Corrections of one layer alone, by the role of what it shows. */
export interface LookChain {
  readonly element: string;
  readonly chain: readonly ChainCorrection[];
}

export interface Look {
  readonly format: typeof LOOK_FORMAT;
  /** Of the documents whose parts it is made of. */
  readonly version: number;
  readonly name: string;
  /** Of the picture it was made for: what is given in pixels grows with it. */
  readonly size: Size;
  /** What its masks and chains refer to. */
  readonly materials: readonly LookMaterial[];
  readonly elements: readonly LookElement[];
  readonly masks: readonly Mask[];
  readonly scene: readonly Layer[];
  readonly picture: readonly Layer[];
  readonly chains: readonly LookChain[];
  readonly tone: ToneUse | null;
}

/** Corrections, and groups that hold some; everything else belongs to its picture. */
const correctionsOf = (layers: readonly Layer[]): Layer[] =>
  layers.flatMap((layer): Layer[] => {
    if (layer.kind === 'correction') return [layer];
    if (layer.kind !== 'group') return [];
    const inside = correctionsOf(layer.layers);
    return inside.length > 0 ? [{ ...layer, layers: inside }] : [];
  });

/**
 * The look of a document, or of one layer (a correction, a group of them, the chain of an element) in it.
 * @throws CoreError `edit-refused` if there is nothing to keep
 */
export function lookOf(document: TazzelDocument, name: string, layerId: string | null = null): Look {
  const place = layerId === null ? null : findLayer(document, layerId);
  const within = (zone: 'scene' | 'picture') => correctionsOf(place ? (place.zone === zone ? [place.layer] : []) : document.buildUp[zone]);
  const [scene, picture] = [within('scene'), within('picture')];
  const chained = (place ? [place] : layersInOrder(document)).filter(({ layer }) => chainOf(layer).length > 0 && findSource(document, sourceIdOf(layer) ?? ''));
  const chains = chained.map(({ layer }): LookChain => ({ element: sourceIdOf(layer) as string, chain: chainOf(layer) }));
  const tone = place ? null : document.tone;
  if (scene.length + picture.length + chains.length === 0 && (tone === null || tone.type === 'straight')) throw new CoreError('edit-refused', 'There is no correction to keep as a look.');
  const used = new Set([...maskUses({ ...document, buildUp: { scene, picture } }), ...chains.flatMap(({ chain }) => chain.flatMap(({ mask }) => mask ?? []))].map(({ maskId }) => maskId));
  // Masks that masks refer to are used as well.
  for (let before = -1; before !== used.size; ) {
    before = used.size;
    for (const mask of document.masks) if (used.has(mask.id)) for (const id of masksNamedBy(mask)) used.add(id);
  }
  const masks = document.masks.filter(({ id }) => used.has(id));
  const named = (kind: 'materials' | 'element') => new Set([...masks.flatMap((mask) => idsIn(mask, kind)), ...(kind === 'element' ? chains.map(({ element }) => element) : [])]);
  const [materialIds, elementIds] = [named('materials'), named('element')];
  return {
    format: LOOK_FORMAT,
    version: DOCUMENT_VERSION,
    name: shortened(name.trim()) || 'Look',
    size: document.size,
    materials: document.materials.filter(({ id }) => materialIds.has(id)).map(({ id, name: called, kind }) => ({ id, name: called, kind })),
    elements: document.sources.filter(({ id }) => elementIds.has(id)).map(({ id, name: called, role }) => ({ id, name: called, role })),
    masks,
    scene,
    picture,
    chains,
    tone,
  };
}

export interface AppliedLook {
  readonly edit: EditOf<'add-look'>;
  /** One sentence for each thing that the document does not have. */
  readonly missing: readonly string[];
}

const sameName = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase();

/** A look for a document: what it refers to is found by names and roles, and what is missing is left out and named. */
export function applyLook(document: TazzelDocument, look: Look): AppliedLook {
  const missing: string[] = [];
  const by: Growth = { across: document.size.width / look.size.width, down: document.size.height / look.size.height };
  const nextMask = freshIds(document, 'mask');
  const nextLayer = freshIds(document, 'layer');
  const nextCorrection = freshIds(document, 'correction');
  const maskIds = new Map(look.masks.map(({ id }) => [id, nextMask()]));
  const elements = new Map(look.elements.map(({ id, name, role }) => [id, (document.sources.find((source) => source.role === role && sameName(source.name, name)) ?? document.sources.find((source) => source.role === role))?.id ?? null]));
  const materials = new Map(look.materials.map(({ id, name, kind }) => [id, (document.materials.find((row) => row.kind === kind && sameName(row.name, name)) ?? document.materials.find((row) => sameName(row.name, name)))?.id ?? null]));
  const nameOf = (list: readonly { id: string; name: string }[], id: string) => list.find((each) => each.id === id)?.name ?? id;

  const broken = new Set<string>();
  const masks = look.masks.map((mask): Mask => {
    const lost: string[] = [];
    const terms = mask.terms.flatMap((term): MaskTerm[] => {
      if (!isTermType(term.type)) return [term];
      const spec = termSpec(term.type);
      let isWhole = true;
      const params = withReferences(spec, term.params, (kind, id) => {
        const found = kind === 'mask' ? maskIds.get(id) : kind === 'materials' ? materials.get(id) : kind === 'element' ? elements.get(id) : null;
        if (found) return found;
        if (kind === 'materials') lost.push(`material “${nameOf(look.materials, id)}”`);
        else if (kind === 'element') lost.push(roleLabel(look.elements.find((each) => each.id === id)?.role ?? 'picture').toLowerCase());
        else if (kind === 'layer') lost.push('layer that it reads');
        // A line of several materials works with those that are there.
        isWhole &&= kind === 'materials';
        return null;
      });
      const hasNoRow = Object.entries(spec.params).some(([key, param]) => param.kind === 'materials' && (params[key] as readonly string[]).length === 0 && (term.params[key] as readonly string[]).length > 0);
      return isWhole && !hasNoRow ? [{ ...term, params }] : [];
    });
    if (lost.length > 0) missing.push(`The mask “${mask.name}” lacks the ${[...new Set(lost)].join(', ')}.`);
    if (terms.length === 0 && mask.terms.length > 0) broken.add(mask.id);
    return scaledMask({ ...mask, id: maskIds.get(mask.id) as string, terms }, by.across, by.down);
  });
  const kept = (use: MaskUse | null): MaskUse | null => use && { ...use, maskId: maskIds.get(use.maskId) ?? use.maskId };
  // Without the mask that keeps it in its place a correction would spoil the picture.
  const isLost = (use: MaskUse | null) => use !== null && (broken.has(use.maskId) || !maskIds.has(use.maskId));
  const carried = (layers: readonly Layer[]): Layer[] =>
    layers.flatMap((layer): Layer[] => {
      if (isLost(layer.mask)) {
        missing.push(`“${layer.name}” was left out with its mask.`);
        return [];
      }
      const scaled = scaledLayer(layer, by);
      const own = { ...scaled, id: nextLayer(), mask: kept(layer.mask) };
      if (own.kind !== 'group') return [own];
      const inside = carried(own.layers);
      return inside.length > 0 ? [{ ...own, layers: inside }] : [];
    });
  const scene = carried(look.scene);
  const picture = carried(look.picture);
  const chains = look.chains.flatMap(({ element, chain }) => {
    const role = look.elements.find(({ id }) => id === element)?.role ?? 'picture';
    const sourceId = elements.get(element);
    const layer = sourceId ? layersInOrder(document).find((place) => sourceIdOf(place.layer) === sourceId)?.layer : undefined;
    if (!layer) {
      missing.push(`No layer shows the ${roleLabel(role).toLowerCase()}: ${chain.map(({ type }) => correctionLabel(type).toLowerCase()).join(', ')} of it ${chain.length === 1 ? 'was' : 'were'} left out.`);
      return [];
    }
    const links = chain.filter(({ mask }) => !isLost(mask)).map((link): ChainCorrection => ({ ...link, id: nextCorrection(), mask: kept(link.mask) }));
    return links.length > 0 ? [{ layerId: layer.id, chain: links }] : [];
  });
  return { edit: { type: 'add-look', name: look.name, scene, picture, masks: masks.filter((_, i) => !broken.has(look.masks[i].id)), chains, tone: look.tone }, missing: [...new Set(missing)] };
}

const name = () => yup.string().strict().defined().max(LIMITS.elementName);
const head = yup.object({
  name: name().min(1),
  size: yup.object({ width: yup.number().strict().integer().defined().min(1).max(LIMITS.side), height: yup.number().strict().integer().defined().min(1).max(LIMITS.side) }).noUnknown().strict(),
  materials: yup.array(yup.object({ id: name(), name: name(), kind: yup.string().strict().defined().oneOf(['material', 'object']) }).noUnknown().strict()).strict().defined(),
  elements: yup.array(yup.object({ id: name(), name: name(), role: yup.string().strict().defined().test('role', '${path} is not a known role', (id) => isRoleId(id)) }).noUnknown().strict()).strict().defined(),
});

/**
 * Reads a look from a file. What of it cannot be read is left out and named.
 * @throws CoreError `bad-document` if it is none, `newer-document` for one of a later version
 */
export function readLook(json: unknown): { readonly look: Look; readonly problems: readonly string[] } {
  const given = json as Partial<Look> | null;
  if (typeof given !== 'object' || given === null || given.format !== LOOK_FORMAT) throw new CoreError('bad-document', 'This is not a look: the mark “tazzel-look” is missing.');
  const { name: called, size, materials, elements } = given;
  const problem = misfit(head, { name: called, size, materials, elements });
  if (problem) throw new CoreError('bad-document', `The look cannot be read: ${problem}.`);
  const whole = given as Look;
  // A look is what a document is made of: chains stand as those of layers that show nothing.
  const base = emptyDocument('look', whole.name, whole.size);
  const { document, problems } = readDocument({ ...base, format: DOCUMENT_FORMAT, version: given.version, masks: given.masks ?? [], tone: given.tone ?? base.tone, buildUp: { scene: [...(given.scene ?? []), ...(given.chains ?? []).map(asLayer)], picture: given.picture ?? [] } });
  const isChain = (layer: Layer) => layer.kind === 'picture';
  return {
    look: {
      format: LOOK_FORMAT,
      version: DOCUMENT_VERSION,
      name: document.name,
      size: document.size,
      materials: whole.materials,
      elements: whole.elements,
      masks: document.masks,
      scene: document.buildUp.scene.filter((layer) => !isChain(layer)),
      picture: document.buildUp.picture.filter((layer) => !isChain(layer)),
      chains: document.buildUp.scene.filter(isChain).map((layer) => ({ element: layer.name, chain: chainOf(layer) })),
      tone: given.tone ? document.tone : null,
    },
    problems,
  };
}

/** The chain of an element as that of a layer of a kind that nobody knows. */
const asLayer = (given: unknown, index: number): unknown => {
  const { element, chain } = (given ?? {}) as Partial<LookChain>;
  return { id: `chain-${index + 1}`, kind: 'picture', type: 'chain', params: {}, name: element, visible: true, opacity: 1, mask: null, blend: 'normal', chain, placement: null };
};
