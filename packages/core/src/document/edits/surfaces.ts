/** What is done to a surface as a whole: its corrections as one column, copied to another, folded; pairs inside and outside a mask; sets of corrections added at once. */
import type { Zone } from '../../color/zones.ts';
import type { BlendModeId } from '../../blend/modes.ts';
import type { Triple } from '../../vector.ts';
import { correctionById, isCorrectionId } from '../../corrections/registry.ts';
import { behindSource, isMirrored } from '../../elements/coverage.ts';
import { layerSpec } from '../../layers/registry.ts';
import { shortened } from '../../limits.ts';
import { materialsIn } from '../../masks/material.ts';
import type { BuildUp, ChainCorrection, CorrectionLayer, Layer, Mask, TazzelDocument } from '../../model/model.ts';
import { chainOf, correctionPlace, findLayer, findMask, findMaterial, freshId, freshIds } from '../../model/query.ts';
import { completeParams, type KeptValues } from '../../params/table.ts';
import type { ToneUse } from '../../tone/registry.ts';
import { ensureMaterialMask, maskNameOf, materialTerm, newMask, newTerm, withIds } from '../mask-edits.ts';
import { readyGroupById } from '../ready-groups.ts';
import { correctionsOn } from '../uses.ts';
import { correctionEdits } from './corrections.ts';
import { type Handlers, named, refuse } from './define.ts';
import { layerEdits } from './layers.ts';
import { insert, newGroup, patchLayer, patchPicture, withLayer } from './in-layers.ts';

export type SurfaceEdit =
  /** Parameters of a correction of these materials alone, which is added if there is none of that kind. */
  | { type: 'set-on-surface'; materialIds: readonly string[]; correction: string; params: KeptValues }
  /** The corrections of some materials alone, once more for others. */
  | { type: 'copy-corrections'; from: readonly string[]; to: readonly string[] }
  /** The corrections of some materials alone in a group, on each side of the tone line. */
  | { type: 'fold-corrections'; materialIds: readonly string[] }
  /** The same correction once more, where its mask is not. */
  | { type: 'pair-correction'; layerId: string; correctionId?: string }
  /** A colour over some materials: multiplied, it keeps their texture. */
  | { type: 'tint-surface'; materialIds: readonly string[]; color?: Triple; blend?: BlendModeId }
  /** What a repainted surface looks like through glass and in mirrors: the refraction and reflection of it changed by the same proportion of colours. */
  | { type: 'repaint-there-too'; layerId: string }
  /** More or less light, or warmer or cooler light, where it is painted, in some tones only; the mask that holds the paint comes last. */
  | { type: 'paint-light'; tones: PaintedTones; what: PaintedLight }
  /** Air where it is painted; the mask that holds the paint comes last. */
  | { type: 'paint-layer'; what: PaintedLayer }
  /** A group of layers that is at hand, to be taken apart: see ready-groups.ts. */
  | { type: 'add-ready-group'; group: string }
  /** Corrections that were kept for another picture, in a group of their own on each side of the tone line: see look.ts. */
  | { type: 'add-look'; name: string; scene: readonly Layer[]; picture: readonly Layer[]; masks: readonly Mask[]; chains: readonly { readonly layerId: string; readonly chain: readonly ChainCorrection[] }[]; tone: ToneUse | null };

/** Tones that paint is restricted to, by the picture’s luminosity. */
export const PAINTED_TONES = {
  darks: { lowPercent: 0, highPercent: 30, softLowPercent: 0, softHighPercent: 20 },
  middles: { lowPercent: 30, highPercent: 70, softLowPercent: 15, softHighPercent: 15 },
  lights: { lowPercent: 65, highPercent: 100, softLowPercent: 20, softHighPercent: 0 },
} as const;
/** What can be painted: a correction with what it begins with. */
export const PAINTED_LIGHT = {
  lighter: { label: 'Painted lighter', correction: 'exposure', params: { exposureStops: 0.7 } },
  darker: { label: 'Painted darker', correction: 'exposure', params: { exposureStops: -0.7 } },
  warmer: { label: 'Painted warmer', correction: 'white-balance', params: { kelvin: 8200 } },
  cooler: { label: 'Painted cooler', correction: 'white-balance', params: { kelvin: 5300 } },
} as const;
/** What is mended is covered by one stroke, to its edge. */
const FIRM = { hardness: 0.8, flow: 1 } as const;
/** Layers that are seen where they are painted: banks of mist, puffs of smoke, what is mended. */
export const PAINTED_LAYERS = {
  mist: { layer: 'air', label: 'Painted mist', help: 'Banks of it where the brush goes; what is nearer stays before them.', params: { visibilityMetres: 60, fallOffMetres: 6, mistPercent: 70, mistMetres: 10 } },
  smoke: { layer: 'air', label: 'Painted smoke', help: 'Dark puffs where the brush goes; set from where to where it stands.', params: { visibilityMetres: 25, fallOffMetres: 0, mistPercent: 100, mistMetres: 3, color: [0.16, 0.16, 0.17] } },
  heal: { layer: 'retouch', label: 'Healed', help: 'A spot is painted over with another place, in the light and colour of what lies around it.', params: { work: 'heal' }, brush: FIRM },
  clone: { layer: 'retouch', label: 'Copied', help: 'Another place of the picture where the brush goes: scaled, turned or mirrored if wanted.', params: { work: 'clone' }, brush: FIRM },
  move: { layer: 'retouch', label: 'Moved', help: 'What is painted over goes elsewhere, softened if wanted; its old place is healed. A shadow that falls wrong.', params: { work: 'move' }, brush: FIRM },
} as const satisfies Readonly<Record<string, { readonly layer: string; readonly label: string; readonly help: string; readonly params: KeptValues; readonly brush?: { readonly hardness: number; readonly flow: number } }>>;
export type PaintedLayer = keyof typeof PAINTED_LAYERS;
export type PaintedLight = keyof typeof PAINTED_LIGHT;
export type PaintedTones = keyof typeof PAINTED_TONES | 'all';

/** Surfaces darker than this throw nothing back that could be compared. */
const LEAST_COLOR = 1e-3;

const onlyCorrections = (places: ReturnType<typeof correctionsOn>) => (places.length === 0 ? refuse('These materials have no corrections of their own.') : places);

export const surfaceEdits: Handlers<SurfaceEdit> = {
  'set-on-surface': {
    label: 'Correct material',
    apply: (document, { materialIds, correction, params }) => {
      const known = correctionsOn(document, materialIds).find(({ layer }) => layer.correction.type === correction);
      const spec = correctionById(correction);
      const before = known ? document : correctionEdits['correct-material'].apply(document, { type: 'correct-material', materialIds, correction, ...correctionPlace(spec, null) });
      return patchLayer(before, known?.layer.id ?? freshId(document, 'layer'), (layer) => (layer.kind === 'correction' ? { ...layer, correction: { ...layer.correction, params: completeParams(spec, { ...layer.correction.params, ...params }) } } : layer));
    },
  },
  'copy-corrections': {
    label: 'Copy corrections',
    apply: (document, { from, to }) => {
      const places = onlyCorrections(correctionsOn(document, from));
      const { document: withMask, maskId } = ensureMaterialMask(document, to);
      const nextLayer = freshIds(withMask, 'layer');
      const name = findMask(withMask, maskId)?.name ?? '';
      return places.reduce((made, { layer, zone }) => {
        const { type } = layer.correction;
        const copy: CorrectionLayer = { ...layer, id: nextLayer(), name: shortened(`${name}: ${isCorrectionId(type) ? correctionById(type).label.toLowerCase() : type}`), mask: { maskId, inverted: false, enabled: true } };
        return insert(made, zone, undefined, copy, null);
      }, withMask);
    },
  },
  'fold-corrections': {
    label: 'Fold corrections into a group',
    apply: (document, { materialIds }) => {
      const places = onlyCorrections(correctionsOn(document, materialIds));
      const rows = materialIds.flatMap((id) => findMaterial(document, id) ?? []);
      const nextLayer = freshIds(document, 'layer');
      const folded = (buildUp: BuildUp, zone: Zone): BuildUp => {
        const own = places.filter((place) => place.zone === zone).map(({ layer }) => layer);
        if (own.length === 0) return buildUp;
        const group = newGroup(nextLayer(), maskNameOf(rows), own);
        // It stands where the last of them did: everything else keeps its order.
        const last = own[own.length - 1].id;
        const without = own.slice(0, -1).reduce((build, { id }) => withLayer(build, zone, id, () => []), buildUp);
        return withLayer(without, zone, last, () => [group]);
      };
      return { ...document, buildUp: folded(folded(document.buildUp, 'scene'), 'picture') };
    },
  },
  'pair-correction': {
    label: 'Pair: the same outside',
    apply: (document, { layerId, correctionId }) => {
      const place = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const { layer, zone, index, groupIds } = place;
      if (correctionId !== undefined) {
        const at = chainOf(layer).findIndex(({ id }) => id === correctionId);
        const link = chainOf(layer)[at] ?? refuse(`There is no correction ${correctionId} in ${layer.name}.`);
        const { mask } = link;
        if (!mask) return refuse('This correction has no mask: it works on all of its layer already.');
        return patchPicture(document, layerId, (found) => ({ ...found, chain: found.chain.toSpliced(at + 1, 0, { ...link, id: freshId(document, 'correction'), mask: { ...mask, inverted: !mask.inverted } }) }));
      }
      if (layer.kind !== 'correction') return refuse(`${layer.name} is not a correction.`);
      if (!layer.mask) return refuse(`${layer.name} has no mask: it works everywhere already.`);
      const { inverted } = layer.mask;
      const other: CorrectionLayer = { ...layer, id: freshId(document, 'layer'), name: shortened(`${layer.name}, ${inverted ? 'inside' : 'elsewhere'}`), mask: { ...layer.mask, inverted: !inverted } };
      return insert(document, zone, index + 1, other, groupIds.at(-1) ?? null);
    },
  },
  'tint-surface': {
    label: 'Tint material',
    apply: (document, { materialIds, color, blend = 'multiply' }) => {
      const { document: withMask, maskId } = ensureMaterialMask(document, materialIds);
      const made = layerEdits['add-layer'].apply(withMask, { type: 'add-layer', layer: 'fill', zone: 'scene', blend, params: { from: color ?? [0.9, 0.75, 0.6] } });
      return patchLayer(made, freshId(withMask, 'layer'), (layer) => ({ ...layer, name: shortened(`${findMask(withMask, maskId)?.name}: tint`), mask: { maskId, inverted: false, enabled: true } }));
    },
  },
  'repaint-there-too': {
    label: 'Repaint there too',
    apply: (document, { layerId }) => {
      const { layer, groupIds } = findLayer(document, layerId) ?? refuse(`There is no layer ${layerId}.`);
      const mask = layer.mask && findMask(document, layer.mask.maskId);
      if (layer.kind !== 'correction' || layer.correction.type !== 'repaint' || !mask) return refuse(`${layer.name} repaints no surface of its own.`);
      const rows = materialsIn(mask).flatMap((id) => findMaterial(document, id) ?? []);
      const pictures = rows.flatMap((row) => {
        const front = document.sources.find(({ id }) => id === row.sourceId);
        return (front && behindSource(document, front)) ?? [];
      });
      if (pictures.length === 0) return refuse('The render does not say where it is seen through glass or in mirrors: add its picture of IDs through glass.');
      const { color, presentColor } = layer.correction.params as Readonly<Record<'color' | 'presentColor', Triple>>;
      // What is added is what the light there has more, or less, of each channel.
      const more = color.map((value, i) => (presentColor[i] > LEAST_COLOR ? Math.round((value / presentColor[i] - 1) * 100) : 0));
      const roles = [...new Set(pictures.map((picture) => (isMirrored(picture) ? 'reflection' : 'refraction')))];
      const elements = roles.flatMap((role) => document.sources.find((source) => source.role === role) ?? []);
      if (elements.length === 0) refuse(`The ${roles.join(' and the ')} is needed to change what is seen there: add that element of the render.`);
      const behind = newMask(freshId(document, 'mask'), shortened(`${mask.name}, seen in glass`), withIds([{ ...materialTerm(rows.map(({ id }) => id)), params: { materials: rows.map(({ id }) => id), from: 'behind' } }]));
      return elements.reduce<TazzelDocument>((made, source) => {
        const added = layerEdits['add-layer'].apply(made, { type: 'add-layer', layer: 'element', params: { source: source.id }, zone: 'scene', blend: 'add', groupId: groupIds.at(-1) });
        const chain: ChainCorrection = { id: freshId(made, 'correction'), type: 'channel-mix', blend: 'all', params: completeParams(correctionById('channel-mix'), { red: [more[0], 0, 0], green: [0, more[1], 0], blue: [0, 0, more[2]] }), visible: true, opacity: 1, mask: null };
        return patchPicture(added, freshId(made, 'layer'), (own) => ({ ...own, name: shortened(`${mask.name}: ${source.role === 'refraction' ? 'seen through glass' : 'mirrored'}`), chain: [chain], mask: { maskId: behind.id, inverted: false, enabled: true } }));
      }, { ...document, masks: [...document.masks, behind] });
    },
  },
  'paint-light': {
    label: 'Paint light',
    apply: (document, { tones, what }) => {
      const { label, correction, params } = PAINTED_LIGHT[what];
      const mask = newMask(freshId(document, 'mask'), label, withIds([newTerm('paint', 'add', document), ...(tones === 'all' ? [] : [newTerm('tone', 'intersect', document, PAINTED_TONES[tones])])]));
      const withMask = { ...document, masks: [...document.masks, mask] };
      const added = correctionEdits['add-correction-layer'].apply(withMask, { type: 'add-correction-layer', correction, zone: 'scene', maskId: mask.id });
      return patchLayer(added, freshId(document, 'layer'), (layer) => (layer.kind === 'correction' ? { ...layer, name: label, correction: { ...layer.correction, params: completeParams(correctionById(correction), params) } } : layer));
    },
  },
  'paint-layer': {
    label: 'Paint a layer',
    apply: (document, { what }) => {
      const { layer: type, label, params } = PAINTED_LAYERS[what];
      const mask = newMask(freshId(document, 'mask'), label, [newTerm('paint', 'add', document)]);
      const added = layerEdits['add-layer'].apply({ ...document, masks: [...document.masks, mask] }, { type: 'add-layer', layer: type, zone: 'scene', params });
      return patchLayer(added, freshId(document, 'layer'), (layer) => ({ ...layer, name: label, mask: { maskId: mask.id, inverted: false, enabled: true } }));
    },
  },
  'add-ready-group': {
    label: 'Add a group of layers',
    apply: (document, { group: id }) => {
      const ready = readyGroupById(id) ?? refuse(`There is no ready group “${id}”.`);
      const lack = ready.lack(document);
      if (lack) refuse(lack);
      const made = ready.make(document);
      const nextLayer = freshIds(document, 'layer');
      const nextMask = freshIds(document, 'mask');
      const masks = made.masks.map((mask) => ({ ...mask, id: nextMask() }));
      const groupId = nextLayer();
      const nextCorrection = freshIds(document, 'correction');
      const use = (mask: number | null, inverted: boolean) => (mask === null ? null : { maskId: masks[mask].id, inverted, enabled: true });
      const layers = made.layers.map((part): Layer => {
        const shared = { id: nextLayer(), name: part.name, visible: true, opacity: 1, mask: use(part.mask, part.inverted) };
        if (part.kind === 'correction') return { ...shared, kind: 'correction', correction: { type: part.type, blend: 'all', params: completeParams(correctionById(part.type), part.params) } };
        const chain = part.chain.map(({ type, params, mask, inverted }) => ({ id: nextCorrection(), type, blend: 'all' as const, params: completeParams(correctionById(type), params), visible: true, opacity: 1, mask: use(mask, inverted) }));
        return { ...shared, kind: 'picture', type: part.type, params: completeParams(layerSpec(part.type), part.params), blend: part.blend, chain, placement: null };
      });
      return insert({ ...document, masks: [...document.masks, ...masks] }, ready.zone, undefined, newGroup(groupId, ready.label, layers), null);
    },
  },
  'add-look': {
    label: 'Apply a look',
    apply: (document, { name, scene, picture, masks, chains, tone }) => {
      const clash = masks.find(({ id }) => findMask(document, id));
      if (clash) refuse(`The document already has a mask with the id ${clash.id}.`);
      const title = named(name, 'a look');
      const inGroup = (made: TazzelDocument, layers: readonly Layer[], zone: Zone): TazzelDocument => {
        if (layers.length === 0) return made;
        const id = freshId({ ...made, buildUp: { scene: [...made.buildUp.scene, ...scene], picture: [...made.buildUp.picture, ...picture] } }, 'layer');
        return insert(made, zone, undefined, newGroup(id, shortened(`Look: ${title}`), layers), null);
      };
      const withMasks = { ...document, masks: [...document.masks, ...masks], tone: tone ?? document.tone };
      const grouped = inGroup(inGroup(withMasks, scene, 'scene'), picture, 'picture');
      return chains.reduce((made, { layerId, chain }) => patchPicture(made, layerId, (layer) => ({ ...layer, chain: [...layer.chain, ...chain] })), grouped);
    },
  },
};
