/** Masks as data: made, joined from terms, checked. The edits of edits.ts are put together from these. */
import { refuse } from './edits/define.ts';
import { clampTo, LIMITS, shortened } from '../limits.ts';
import type { Mask, MaskTerm, Material, Stroke, TazzelDocument } from '../model/model.ts';
import { completeParams, type KeptValues, referencesOf, scaledParams } from '../params/table.ts';
import { masksWithin } from '../masks/evaluate.ts';
import { materialsIn } from '../masks/material.ts';
import { isTermType, knownTerm, termSpec } from '../masks/registry.ts';
import { findMask, findMaterial, freshId } from '../model/query.ts';

export type MaskPatch = Partial<Pick<Mask, 'name' | 'growPx' | 'featherPx' | 'followEdges' | 'inverted' | 'strength'>>;

/** A mask that is neither grown, softened nor inverted, at full strength. */
export const newMask = (id: string, name: string, terms: readonly MaskTerm[]): Mask => ({ id, name, terms, growPx: 0, featherPx: 0, followEdges: false, inverted: false, strength: 1 });

/** A line before it stands in a mask, where it gets an id of its own. */
const line = (type: string, operation: MaskTerm['operation'], params: KeptValues): MaskTerm => ({ id: 'term-1', type, operation, muted: false, params });

/** A line of rows of the schedule, read where their coverage is best. */
export const materialTerm = (materialIds: readonly string[], operation: MaskTerm['operation'] = 'add'): MaskTerm => line('material', operation, { materials: materialIds, from: 'auto' });

/** A term of a kind with what it begins with. Strokes are painted afterwards. @throws CoreError `unknown-operation` */
export function newTerm(type: string, operation: MaskTerm['operation'], document: TazzelDocument, params: KeptValues = {}): MaskTerm {
  const spec = termSpec(type);
  return line(type, operation, completeParams(spec, { ...spec.begin?.(document), ...params }));
}

/** The lines of a mask with ids of their own: what has one keeps it. */
export function withIds(terms: readonly MaskTerm[]): readonly MaskTerm[] {
  const taken = new Set<string>();
  let n = 0;
  return terms.map((term) => {
    let { id } = term;
    while (taken.has(id)) id = `term-${++n}`;
    taken.add(id);
    return id === term.id ? term : { ...term, id };
  });
}

/** Whether a mask is made of these materials alone. */
export const isJustMaterials = (mask: Mask, materialIds: readonly string[]): boolean => {
  const [term] = mask.terms;
  return mask.terms.length === 1 && term.type === 'material' && term.operation === 'add' && !term.muted && !mask.inverted && mask.growPx === 0 && mask.featherPx === 0 && mask.strength === 1
    && materialsIn(mask).length === materialIds.length && materialIds.every((id) => materialsIn(mask).includes(id));
};

export const usesMaterial = (mask: Mask, materialId: string): boolean => materialsIn(mask).includes(materialId);

/** Whether a mask holds what was drawn on the picture by hand. */
export const isDrawn = ({ terms }: Mask): boolean => terms.some((term) => drawnIn(term) || (term.type === 'colour' && term.params.extent === 'connected'));

const drawnIn = (term: MaskTerm): boolean => {
  const known = knownTerm(term);
  return known !== null && Object.entries(known.spec.params).some(([name, { kind }]) => (kind === 'places' || kind === 'strokes') && (known.values[name] as readonly unknown[]).length > 0);
};

/**
 * A mask for a picture of another size: shapes, strokes, picked places and edges lie where they lay. What would grow beyond what a mask may hold
 * stays at the limit, so that nothing of it is lost.
 */
export function scaledMask(mask: Mask, acrossBy: number, downBy: number): Mask {
  const mean = Math.sqrt(acrossBy * downBy);
  const by = { across: acrossBy, down: downBy };
  const terms = mask.terms.map((term) => (isTermType(term.type) ? { ...term, params: scaledParams(termSpec(term.type), term.params, by) } : term));
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

/** The document with one mask changed. @throws CoreError `edit-refused` if it is not there */
export function patchMask(document: TazzelDocument, maskId: string, change: (mask: Mask) => Mask): TazzelDocument {
  const mask = findMask(document, maskId) ?? refuse(`There is no mask ${maskId}.`);
  const next = change(mask);
  return { ...document, masks: document.masks.map((other) => (other === mask ? next : other)) };
}

/** A term as it may stand in a mask; one of a later version stays as it is. @throws CoreError `edit-refused`, `bad-parameter` */
export function checkedTerm(document: TazzelDocument, maskId: string, term: MaskTerm): MaskTerm {
  if (!isTermType(term.type)) return term;
  const spec = termSpec(term.type);
  const params = completeParams(spec, term.params);
  for (const id of referencesOf(spec, params, 'mask')) {
    const inner = findMask(document, id) ?? refuse(`There is no mask ${id}.`);
    if (inner.id === maskId || masksWithin(document, inner).has(maskId)) refuse(`${inner.name} refers to this mask, so this mask cannot refer to it.`);
  }
  return { ...term, params };
}

/** The document with other lines in the place of one. @throws CoreError `edit-refused`, `bad-parameter` */
export function withTerm(document: TazzelDocument, maskId: string, termId: string, change: (term: MaskTerm) => readonly MaskTerm[]): TazzelDocument {
  return patchMask(document, maskId, (mask) => {
    const index = mask.terms.findIndex(({ id }) => id === termId);
    if (index < 0) return refuse(`${mask.name} has no line ${termId}.`);
    return { ...mask, terms: mask.terms.toSpliced(index, 1, ...change(mask.terms[index]).map((next) => checkedTerm(document, maskId, next))) };
  });
}

/** With a stroke more, in the first of the term's parameters that takes strokes. */
export function withStroke(document: TazzelDocument, maskId: string, termId: string, stroke: Stroke): TazzelDocument {
  return withTerm(document, maskId, termId, (term) => {
    const name = strokesOf(term);
    if (name === null) return refuse('Only a paint term takes strokes.');
    const painted = (term.params[name] ?? []) as readonly Stroke[];
    if (painted.length >= LIMITS.strokes) return refuse(`A paint term holds at most ${LIMITS.strokes} strokes. Add another paint term.`);
    return [{ ...term, params: { ...term.params, [name]: [...painted, stroke] } }];
  });
}

/** The parameter of a term that takes strokes; null if none does. */
export const strokesOf = (term: MaskTerm): string | null => (isTermType(term.type) ? (Object.entries(termSpec(term.type).params).find(([, { kind }]) => kind === 'strokes')?.[0] ?? null) : null);
