/** A file of layers: each of its pictures is delivered by itself, then they are put together. */
import { type Cut, type FilterId, type KeptValues, layerStack, type Size, type StackItem, type TazzelDocument } from '@tazzel/core';
import type { LayeredFormat, WrittenItem } from '@tazzel/formats';

/** Which picture is wanted. */
export interface Wanted {
  readonly document: TazzelDocument;
  readonly upto?: string;
  readonly resize?: { readonly width: number; readonly filter: FilterId };
  readonly level?: number;
  readonly cut?: Cut | null;
}
export interface Delivered {
  readonly parts: Uint8Array[];
  readonly size: Size;
  readonly problems: readonly string[];
}

const THUMBNAIL_SIDE = 256;

const countOf = (items: readonly StackItem[]): number => items.reduce((sum, item) => sum + (item.kind === 'group' ? countOf(item.items) : 1), 0);

/** @param deliver makes a PNG. @throws what that throws */
export async function deliverStack({ document, upto, resize, level, cut }: Wanted, format: LayeredFormat, values: KeptValues, deliver: (wanted: Wanted, onShare: (share: number) => void) => Promise<Delivered>, onProgress?: (share: number) => void): Promise<Delivered> {
  const stack = layerStack(document, upto ?? null);
  const total = countOf(stack.items) + 2;
  let done = 0;
  const problems = new Set<string>();
  const png = async (wanted: Wanted) => {
    const made = await deliver(wanted, (share) => onProgress?.((done + share) / total));
    done++;
    for (const problem of made.problems) problems.add(problem);
    return made;
  };
  // One after the other: each takes all workers.
  const written = async (items: readonly StackItem[]): Promise<WrittenItem[]> => {
    const list: WrittenItem[] = [];
    for (const item of items) {
      if (item.kind === 'group') list.push({ ...item, items: await written(item.items) });
      else {
        const { name, operator, opacity, visible } = item;
        list.push({ kind: 'picture', name, operator, opacity, visible, png: (await png({ document: item.document, upto: item.upto ?? undefined, resize, level, cut })).parts });
      }
    }
    return list;
  };
  const items = await written(stack.items);
  const merged = await png({ document, upto, resize, level, cut });
  const { width, height } = merged.size;
  const side = Math.min(THUMBNAIL_SIDE, width, Math.max(1, Math.floor((THUMBNAIL_SIDE * width) / height)));
  const thumbnail = await png({ document, upto, resize: { width: side, filter: 'lanczos' }, cut });
  return { parts: format.assemble({ ...merged.size, items, merged: merged.parts, thumbnail: thumbnail.parts }, values), size: merged.size, problems: [...problems, ...stack.notes] };
}
