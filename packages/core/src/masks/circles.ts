/**
 * Which masks lead back to themselves: by naming each other, or by reading a picture that they have a share in. Found once for a document, in
 * time proportional to it, so that nothing that walks along masks can go round in a circle or take one way twice.
 */
import type { Layer, Mask, MaskTerm, TazzelDocument } from '../model/model.ts';
import { endOfLayer, findMask, layersInOrder, masksOf } from '../model/query.ts';
import { referencesOf } from '../params/table.ts';
import { remembered } from '../remembered.ts';
import { isTermType, termSpec } from './registry.ts';

/** Masks that lead back to each other, by the id of each; masks in no circle are left out. */
export type Circles = ReadonlyMap<string, ReadonlySet<string>>;

const circlesOfMasks = remembered((masks: readonly Mask[]): Circles => {
  const byId = new Map(masks.toReversed().map((mask) => [mask.id, mask]));
  return circlesOf(masks.map(({ id }) => id), (id) => namedBy(byId.get(id) ?? null));
});

/** Circles of masks that name each other. No edit makes them, but files can hold them. */
export const referenceCircles = (document: TazzelDocument): Circles => circlesOfMasks(document.masks);

/** The same with masks that read the picture after a layer: they depend on every mask that has a part in it. */
export const pictureCircles = remembered((document: TazzelDocument): Circles => {
  const read = new Set(document.masks.flatMap((mask) => picturesReadBy(mask)));
  if (read.size === 0) return referenceCircles(document);
  // The picture after a layer depends on the masks of that layer and on the picture before it: a chain, so that edges stay few.
  const order = layersInOrder(document).map(({ layer }) => layer);
  const pictures = order.map((_, i) => `picture ${i}`);
  const next = (node: string): readonly string[] => {
    if (!node.startsWith('picture ')) {
      const mask = findMask(document, node);
      return [...namedBy(mask), ...picturesReadBy(mask).flatMap((layerId) => pictures[endOfLayer(document, layerId)] ?? [])];
    }
    const i = Number(node.slice(8));
    // Opacity and mask of a group are seen in the picture after each layer inside it.
    return [...maskIdsOf(order[i]), ...(i > 0 ? [pictures[i - 1]] : [])];
  };
  return circlesOf(document.masks.map(({ id }) => id), next);
});

/** Ids of other parts of the document, of one kind, that the lines of a mask name. */
export const idsIn = (mask: Mask | null, kind: Parameters<typeof referencesOf>[2], also: (term: MaskTerm) => boolean = () => true): string[] =>
  (mask?.terms ?? []).flatMap((term) => (isTermType(term.type) && also(term) ? referencesOf(termSpec(term.type), term.params, kind) : []));

/** Masks that a mask names, in lines that are off as well. */
export const masksNamedBy = (mask: Mask | null): string[] => idsIn(mask, 'mask');
const isOn = ({ muted }: MaskTerm) => !muted;
const namedBy = (mask: Mask | null): string[] => idsIn(mask, 'mask', isOn);
const picturesReadBy = (mask: Mask | null): string[] => idsIn(mask, 'layer', isOn);
const maskIdsOf = (layer: Layer): string[] => masksOf(layer).map(({ maskId }) => maskId);

/**
 * Strongly connected components with more than one node, or with a node that leads to itself.
 * @source R. Tarjan, Depth-first search and linear graph algorithms, SIAM J. Computing 1 (1972); with a stack of its own instead of recursion
 */
function circlesOf(starts: readonly string[], next: (node: string) => readonly string[]): Circles {
  const masks = new Set(starts);
  const index = new Map<string, number>();
  const low = new Map<string, number>();
  const open: string[] = [];
  const isOpen = new Set<string>();
  const circles = new Map<string, ReadonlySet<string>>();
  for (const start of starts) {
    if (index.has(start)) continue;
    const walk: { node: string; edges: readonly string[]; at: number }[] = [];
    const enter = (node: string) => {
      index.set(node, index.size);
      low.set(node, index.size - 1);
      open.push(node);
      isOpen.add(node);
      walk.push({ node, edges: next(node), at: 0 });
    };
    enter(start);
    while (walk.length > 0) {
      const step = walk[walk.length - 1];
      if (step.at < step.edges.length) {
        const to = step.edges[step.at++];
        if (!index.has(to)) enter(to);
        else if (isOpen.has(to)) low.set(step.node, Math.min(low.get(step.node) as number, index.get(to) as number));
        continue;
      }
      walk.pop();
      const above = walk[walk.length - 1];
      if (above) low.set(above.node, Math.min(low.get(above.node) as number, low.get(step.node) as number));
      if (low.get(step.node) !== index.get(step.node)) continue;
      const members = open.splice(open.lastIndexOf(step.node));
      for (const member of members) isOpen.delete(member);
      if (members.length === 1 && !step.edges.includes(step.node)) continue;
      const circle = new Set(members.filter((member) => masks.has(member)));
      for (const member of circle) circles.set(member, circle);
    }
  }
  return circles;
}
