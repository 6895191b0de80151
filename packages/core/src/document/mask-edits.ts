/** Masks as data: made, joined from terms, checked. The edits of edits.ts are put together from these. */
import { refuse } from './edits/define.ts';
import { clampTo, LIMITS, shortened, withinCoordinates } from './limits.ts';
import type { Mask, MaskTerm, Material, Stroke, TazzelDocument } from './model.ts';
import { completeParams, defaultsOf, scaledParams } from '../params/table.ts';
import { masksWithin } from '../masks/evaluate.ts';
import { termSpec } from '../masks/registry.ts';
import { findMask, findMaterial, freshId } from './query.ts';

export type MaskPatch = Partial<Pick<Mask, 'name' | 'growPx' | 'featherPx' | 'followEdges' | 'inverted' | 'strength'>>;

export const newMask = (id: string, name: string, terms: readonly MaskTerm[]): Mask => ({ id, name, terms, growPx: 0, featherPx: 0, followEdges: false, inverted: false, strength: 1 });

export const materialTerm = (materialIds: readonly string[], operation: MaskTerm['operation'] = 'add'): MaskTerm => ({ kind: 'material', operation, muted: false, materialIds, from: 'auto' });

/** A term of a kind with its declared defaults. Shapes and strokes are drawn afterwards. */
export function newTerm(kind: MaskTerm['kind'], operation: MaskTerm['operation'], document: TazzelDocument): MaskTerm {
  const base = { operation, muted: false };
  const { width, height } = document.size;
  const params = defaultsOf(termSpec(kind));
  switch (kind) {
    case 'material':
      return { ...base, kind, materialIds: [], from: 'auto' };
    case 'paint':
      return { ...base, kind, filled: false, strokes: [] };
    case 'mask':
      return { ...base, kind, maskId: '' };
    case 'ellipse':
    case 'rectangle':
      return { ...base, kind, params, points: [[width / 2, height / 2], [width * 0.8, height / 2], [width / 2, height * 0.8]] };
    case 'polygon':
      return { ...base, kind, params, points: [[width * 0.3, height * 0.7], [width * 0.7, height * 0.7], [width * 0.5, height * 0.3]] };
    case 'gradient':
      return { ...base, kind, params, points: [[width / 2, height * 0.25], [width / 2, height * 0.75]] };
    default:
      return { ...base, kind, params, sourceId: null, layerId: null };
  }
}

/** Whether a mask is made of these materials alone. */
export const isJustMaterials = (mask: Mask, materialIds: readonly string[]): boolean => {
  const [term] = mask.terms;
  return mask.terms.length === 1 && term.kind === 'material' && term.operation === 'add' && !term.muted && !mask.inverted && mask.growPx === 0 && mask.featherPx === 0 && mask.strength === 1
    && term.materialIds.length === materialIds.length && materialIds.every((id) => term.materialIds.includes(id));
};

export const usesMaterial = (mask: Mask, materialId: string): boolean => mask.terms.some((term) => term.kind === 'material' && term.materialIds.includes(materialId));

/** Whether a mask holds what was drawn on the picture by hand. */
export const isDrawn = ({ terms }: Mask): boolean => terms.some((term) => 'points' in term || (term.kind === 'paint' && term.strokes.length > 0) || (term.kind === 'colour' && term.params.extent === 'connected'));

/**
 * A mask for a picture of another size: shapes, strokes, picked places and edges lie where they lay. What would grow beyond what a mask may hold
 * stays at the limit, so that nothing of it is lost.
 */
export function scaledMask(mask: Mask, acrossBy: number, downBy: number): Mask {
  const mean = Math.sqrt(acrossBy * downBy);
  const across = (x: number) => withinCoordinates(x * acrossBy);
  const down = (y: number) => withinCoordinates(y * downBy);
  const terms = mask.terms.map((term): MaskTerm => {
    if (term.kind === 'paint') return { ...term, strokes: term.strokes.map((stroke) => ({ ...stroke, sizePx: clampTo(stroke.sizePx * mean, LIMITS.brushPx), path: stroke.path.map((value, i) => (i % 3 === 0 ? across(value) : i % 3 === 1 ? down(value) : value)) })) };
    if (!('params' in term)) return term;
    const params = scaledParams(termSpec(term.kind), term.params, { across: acrossBy, down: downBy });
    return 'points' in term ? { ...term, params, points: term.points.map(([x, y]) => [across(x), down(y)]) } : { ...term, params };
  });
  return { ...mask, terms, growPx: clampTo(mask.growPx * mean, [-LIMITS.edgePx, LIMITS.edgePx]), featherPx: clampTo(mask.featherPx * mean, [0, LIMITS.edgePx]) };
}

/** What a mask of some materials is called. */
export function maskNameOf(rows: readonly Material[]): string {
  if (rows.length === 0) return 'Mask';
  const { surface, name } = rows[0];
  const found = surface !== null && rows.every((row) => row.surface === surface) ? surface : rows.length <= 3 ? rows.map((row) => row.name).join(', ') : `${name} and ${rows.length - 1} more`;
  return shortened(found);
}

/** The mask of the shelf for some materials: the one that is there already, or a new one. */
export function ensureMaterialMask(document: TazzelDocument, materialIds: readonly string[]): { document: TazzelDocument; maskId: string } {
  const rows = materialIds.map((id) => findMaterial(document, id) ?? refuse(`There is no material ${id}.`));
  if (rows.length === 0) refuse('No material is selected.');
  const existing = document.masks.find((mask) => isJustMaterials(mask, materialIds));
  if (existing) return { document, maskId: existing.id };
  const mask = newMask(freshId(document, 'mask'), maskNameOf(rows), [materialTerm(materialIds)]);
  return { document: { ...document, masks: [...document.masks, mask] }, maskId: mask.id };
}

export function patchMask(document: TazzelDocument, maskId: string, change: (mask: Mask) => Mask): TazzelDocument {
  const mask = findMask(document, maskId) ?? refuse(`There is no mask ${maskId}.`);
  const next = change(mask);
  return { ...document, masks: document.masks.map((other) => (other === mask ? next : other)) };
}

/** A term as it may stand in a mask. @throws CoreError `edit-refused`, `bad-parameter` */
export function checkedTerm(document: TazzelDocument, maskId: string, term: MaskTerm): MaskTerm {
  const spec = termSpec(term.kind);
  if (term.kind === 'mask' && term.maskId !== '') {
    const inner = findMask(document, term.maskId) ?? refuse(`There is no mask ${term.maskId}.`);
    if (inner.id === maskId || masksWithin(document, inner).has(maskId)) refuse(`${inner.name} refers to this mask, so this mask cannot refer to it.`);
  }
  return 'params' in term ? { ...term, params: completeParams(spec, term.params) } : term;
}

export function withTerm(document: TazzelDocument, maskId: string, index: number, change: (term: MaskTerm) => readonly MaskTerm[]): TazzelDocument {
  return patchMask(document, maskId, (mask) => {
    const term = mask.terms[index] ?? refuse(`${mask.name} has no term ${index + 1}.`);
    return { ...mask, terms: mask.terms.toSpliced(index, 1, ...change(term).map((next) => checkedTerm(document, maskId, next))) };
  });
}

export function withStroke(document: TazzelDocument, maskId: string, index: number, stroke: Stroke): TazzelDocument {
  return withTerm(document, maskId, index, (term) => {
    if (term.kind !== 'paint') return refuse('Only a paint term takes strokes.');
    if (term.strokes.length >= LIMITS.strokes) return refuse(`A paint term holds at most ${LIMITS.strokes} strokes. Add another paint term.`);
    return [{ ...term, strokes: [...term.strokes, stroke] }];
  });
}
