/** The document as a whole. */
import type { DocumentCamera } from '../../camera/camera.ts';
import type { DocumentSun } from '../../sun/sun.ts';
import type { Size } from '../../raster/region.ts';
import { scaledLayer } from '../layers.ts';
import { scaledMask, usesMaterial } from '../mask-edits.ts';
import { mergedMaterials } from '../merge-rows.ts';
import type { Layer, Mask, Material, Override, Point, Source, TazzelDocument } from '../../model/model.ts';
import { LIMITS, shortened } from '../../limits.ts';
import { findMask, findSource, freshId } from '../../model/query.ts';
import { scaledOverride } from '../slots.ts';
import { type Handlers, named, refuse } from './define.ts';
import { copiesIn } from './in-layers.ts';
import { takenOver } from './scene.ts';
import { withinLimits } from './sources.ts';

export type DocumentEdit =
  | { type: 'rename-document'; name: string }
  | { type: 'refresh'; sources: readonly Source[]; materials: readonly Material[] | null; size: Size; /** What is drawn or given in pixels grows with the picture. */ scales?: boolean; camera?: DocumentCamera | null; sun?: DocumentSun | null; /** Under which name the render before stays in the list, and when it went; otherwise it does not. */ keeps?: { readonly name: string; readonly at: number | null } }
  /** Elements of a part of the picture that was rendered again, each laid over the layers of the element that it is a part of. */
  | { type: 'lay-over'; sources: readonly Source[]; over: Readonly<Record<string, string>> }
  | { type: 'build'; scene: readonly Layer[]; picture: readonly Layer[]; name: string; masks?: readonly Mask[] };

export const documentEdits: Handlers<DocumentEdit> = {
  'rename-document': {
    label: 'Rename document',
    apply: (document, { name }) => ({ ...document, name: named(name, 'a document') }),
  },
  'lay-over': {
    label: 'Lay a part over the render',
    apply: (document, { sources, over }) => {
      const known = new Set(document.sources.map(({ id }) => id));
      if (sources.some(({ id }) => known.has(id))) refuse('An element of the part has the id of another one.');
      const partOf = new Map(Object.entries(over).map(([part, whole]) => [whole, part]));
      const copyOf = copiesIn(document);
      let laid = 0;
      const walk = (layers: readonly Layer[]): Layer[] =>
        layers.flatMap((layer): Layer[] => {
          if (layer.kind === 'group') return [{ ...layer, layers: walk(layer.layers) }];
          const part = layer.kind === 'picture' && layer.type === 'element' && layer.blend === 'normal' ? partOf.get(String(layer.params.source)) : undefined;
          if (layer.kind !== 'picture' || part === undefined) return [layer];
          laid++;
          return [layer, copyOf({ ...layer, name: shortened(`${layer.name}, a part`), params: { ...layer.params, source: part } })];
        });
      const buildUp = { scene: walk(document.buildUp.scene), picture: walk(document.buildUp.picture) };
      if (laid === 0) refuse('No layer shows, in the mode Normal, an element that was rendered again. A part can lie over nothing else.');
      return { ...document, sources: [...document.sources, ...sources.map(withinLimits)], buildUp };
    },
  },
  refresh: {
    label: 'Replace by a newer render',
    concernsAllSchemes: true,
    apply: (document, { sources, materials, size, scales = false, camera, sun, keeps }) => {
      const ids = new Set(sources.map((source) => source.id));
      const lost = document.sources.find((source) => !ids.has(source.id));
      if (lost) refuse(`${lost.name} would be lost.`);
      if (ids.size !== sources.length) refuse('Two elements of the newer render share an id.');
      const rows = materials && mergedMaterials(document, materials);
      // Masks keep what they were made for: it may be back in the next render.
      const gone = rows ? document.materials.filter((old) => !rows.some(({ id }) => id === old.id) && document.masks.some((mask) => usesMaterial(mask, old.id))) : [];
      const by = { across: size.width / document.size.width, down: size.height / document.size.height };
      const finish = ({ masks, buildUp }: Pick<TazzelDocument, 'masks' | 'buildUp'>) => ({ masks: masks.map((mask) => scaledMask(mask, by.across, by.down)), buildUp: { scene: buildUp.scene.map((layer) => scaledLayer(layer, by)), picture: buildUp.picture.map((layer) => scaledLayer(layer, by)) } });
      const scaled = scales ? { ...finish(document), states: document.states.map((state) => ({ ...state, ...finish(state) })) } : {};
      const samplers = document.samplers.map(([x, y]): Point => [Math.min(size.width - 1, Math.floor(x * (scales ? by.across : 1))), Math.min(size.height - 1, Math.floor(y * (scales ? by.down : 1)))]);
      // Light that was rendered anew may have another colour.
      const isSame = (id: string) => sources.find((source) => source.id === id)?.file.hash === findSource(document, id)?.file.hash;
      const light = { ...document.light, own: document.light.own.filter(({ sourceId }) => isSame(sourceId)) };
      const grown = (overrides: readonly Override[]) => overrides.map((override) => scaledOverride(document, override, by));
      const { list, base, chosenId } = document.schemes;
      const schemes = scales ? { chosenId, base: grown(base), list: list.map((scheme) => ({ ...scheme, overrides: grown(scheme.overrides) })) } : document.schemes;
      const before = keeps && { id: freshId(document, 'render'), name: named(keeps.name, 'a render'), at: keeps.at, sources: document.sources, materials: document.materials, size: document.size, camera: document.camera, sun: document.sun };
      const renders = before ? [...document.renders, before].slice(-LIMITS.renders) : document.renders;
      return { ...document, ...scaled, renders, light, samplers, schemes, camera: takenOver(document.camera, camera), sun: takenOver(document.sun, sun), sources: sources.map(withinLimits), size, materials: rows ? [...rows, ...gone.map((material) => ({ ...material, area: 0 }))] : document.materials };
    },
  },
  build: {
    label: 'Build',
    concernsAllSchemes: true,
    apply: (document, { scene, picture, masks = [] }) => {
      const ids = [...scene, ...picture].flatMap(function all(layer: Layer): string[] {
        return layer.kind === 'group' ? [layer.id, ...layer.layers.flatMap(all)] : [layer.id];
      });
      if (new Set(ids).size !== ids.length) refuse('Two layers of the new build-up share an id.');
      const clash = masks.find(({ id }) => findMask(document, id));
      if (clash) refuse(`The document already has a mask with the id ${clash.id}.`);
      return { ...document, buildUp: { scene, picture }, masks: masks.length === 0 ? document.masks : [...document.masks, ...masks] };
    },
  },
};
