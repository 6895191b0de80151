/** A newer render under the same build-up: which element takes the place of which, and what is new or gone. */
import type { Size } from '../raster/region.ts';
import { wordsOf } from '../elements/words.ts';
import type { EditOf } from './edits.ts';
import { isDrawn, usesMaterial } from './mask-edits.ts';
import { mergedMaterials } from './merge-rows.ts';
import { LIMITS, shortened } from '../limits.ts';
import type { Material, Source, TazzelDocument } from '../model/model.ts';
import { layersInOrder } from '../model/query.ts';
import { usedSourceIds } from './layers.ts';
import type { SceneFacts } from './start.ts';

export interface RefreshPlan {
  readonly edit: EditOf<'refresh'>;
  /** If only a part of the picture was rendered: how it is laid over the render, which stays. */
  readonly part: EditOf<'lay-over'> | null;
  /** Elements that get new pixels: old name, new name. */
  readonly replaced: readonly { readonly from: string; readonly to: string }[];
  /** Elements that the newer render does not have; they stay as they are. */
  readonly kept: readonly string[];
  /** Elements that only the newer render has. */
  readonly added: readonly string[];
  readonly newMaterials: readonly string[];
  /** Materials that are no longer in the picture, with how many masks use them. */
  readonly goneMaterials: readonly { readonly name: string; readonly masks: number }[];
  /** Masks with shapes or paint, if the picture's size changes: these can be scaled with it. */
  readonly drawnMasks: readonly string[];
  readonly size: { readonly from: Size; readonly to: Size } | null;
}

/** Words of a name without version and frame numbers: `yard_v02_gi.0001` and `yard_v03_gi.0001` are alike. */
const nameWords = (source: Source) => wordsOf(source.name).filter((word) => !/^\d+$/.test(word) && !/^v$/.test(word)).join(' ');

/** How well a new source fits into the place of an old one; 0 if it does not. */
function likeness(old: Source, next: Source): number {
  const sameName = nameWords(old) === nameWords(next) && nameWords(old) !== '';
  const sameRole = old.role === next.role && old.role !== 'picture';
  // A file of one picture seldom says what it is: then its name speaks for the beauty that it held before.
  if (!sameName && !sameRole) return next.role === 'picture' && old.role.endsWith('beauty') && old.file.name === next.file.name ? 3 : 0;
  return (sameName ? 4 : 0) + (sameRole ? 2 : 0) + (old.name === next.name ? 1 : 0) + (old.part === next.part ? 0.5 : 0) + (old.colorChannels.join() === next.colorChannels.join() ? 0.25 : 0);
}

/**
 * Matches sources of a newer render by role, name and part. `materials` are those of the newer ID picture, or empty if it
 * has none; `size` is the newer picture's.
 */
export function planRefresh(document: TazzelDocument, sources: readonly Source[], materials: readonly Material[], size: Size, facts: SceneFacts = {}): RefreshPlan {
  const pairs = document.sources.flatMap((old) => sources.map((next) => ({ old, next, likeness: likeness(old, next) }))).filter((pair) => pair.likeness > 0);
  pairs.sort((a, b) => b.likeness - a.likeness);
  const nextOf = new Map<Source, Source>();
  const taken = new Set<Source>();
  // Several light groups share a role: without a name in common they are not told apart.
  const severalOf = (source: Source) => document.sources.filter((other) => other.role === source.role).length > 1;
  for (const { old, next, likeness: fit } of pairs) {
    if (nextOf.has(old) || taken.has(next) || (fit < 4 && severalOf(old))) continue;
    nextOf.set(old, next);
    taken.add(next);
  }
  const used = usedSourceIds(document);
  const merged = document.sources.map((old): Source => {
    const next = nextOf.get(old);
    if (!next) return old;
    const { file, part, colorChannels, alphaChannel, width, height, findings } = next;
    // How it is read was perhaps set by hand; alpha only if there still is one.
    const alpha = (old.alphaChannel === null) === (alphaChannel === null) ? old.alpha : next.alpha;
    const place = old.fit ? { x: old.x, y: old.y } : { x: next.x, y: next.y };
    return { ...old, ...place, file, part, colorChannels, alphaChannel, width, height, findings, alpha, encoding: old.file.format === file.format ? old.encoding : next.encoding };
  });
  const added = sources.filter((source) => !taken.has(source));
  // Pictures of the newer render are known by the ids of those whose place they take.
  const placeOf = new Map([...nextOf].map(([old, next]) => [next.id, old.id]));
  const coverageOf = ({ coverage }: Material) => (coverage ? { ...coverage, sourceId: placeOf.get(coverage.sourceId) ?? coverage.sourceId } : null);
  const rows = materials.length > 0 ? materials.map((material) => ({ ...material, sourceId: placeOf.get(material.sourceId) ?? material.sourceId, coverage: coverageOf(material) })) : null;
  const kinds = new Set(rows?.map(({ kind }) => kind));
  const schedule = rows ? mergedMaterials(document, rows) : [];
  const [now, before] = [new Set(schedule.map(({ id }) => id)), new Set(document.materials.map(({ id }) => id))];
  const masksOf = (id: string) => document.masks.filter((mask) => usesMaterial(mask, id)).length;
  const changed = size.width !== document.size.width || size.height !== document.size.height;
  return {
    edit: { type: 'refresh', sources: [...merged, ...added], materials: rows, size: { width: size.width, height: size.height }, ...facts },
    part: partEdit(document, size, nextOf),
    replaced: [...nextOf].map(([old, next]) => ({ from: old.name, to: next.name })),
    kept: document.sources.filter((old) => !nextOf.has(old)).map(({ id, name }) => (used.has(id) ? `${name} (used by a layer)` : name)),
    added: added.map(({ name }) => name),
    newMaterials: schedule.filter(({ id }) => !before.has(id)).map(({ tag }) => tag),
    goneMaterials: rows ? document.materials.filter(({ id, kind }) => kinds.has(kind) && !now.has(id)).map(({ id, name }) => ({ name, masks: masksOf(id) })) : [],
    drawnMasks: changed ? document.masks.filter(isDrawn).map(({ name }) => name) : [],
    size: changed ? { from: document.size, to: size } : null,
  };
}

/** Whether what came is a region of the picture as it is: all of it smaller, within the same frame. */
function partEdit(document: TazzelDocument, size: Size, nextOf: ReadonlyMap<Source, Source>): EditOf<'lay-over'> | null {
  const isSmaller = (source: Source) => source.width < document.size.width || source.height < document.size.height;
  if (nextOf.size === 0 || size.width !== document.size.width || size.height !== document.size.height || ![...nextOf.values()].every(isSmaller)) return null;
  const shown = new Set(layersInOrder(document).flatMap(({ layer }) => (layer.kind === 'picture' && layer.type === 'element' && layer.blend === 'normal' ? [String(layer.params.source)] : [])));
  const pairs = [...nextOf].filter(([old]) => shown.has(old.id));
  if (pairs.length === 0) return null;
  // How it is read was perhaps set by hand.
  const sources = pairs.map(([old, next]): Source => ({ ...next, name: shortened(`${old.name}, a part`, LIMITS.elementName), role: old.role, encoding: old.file.format === next.file.format ? old.encoding : next.encoding, inSum: 'out' }));
  return { type: 'lay-over', sources, over: Object.fromEntries(pairs.map(([old, next]) => [next.id, old.id])) };
}
