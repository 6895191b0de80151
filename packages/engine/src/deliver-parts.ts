/** A file of several pictures: each is delivered by itself, then they are put together. */
import { freeName, type KeptValues, pictureParts, type PicturePart } from '@tazzel/core';
import { type NamedFile, safeName, type Several } from '@tazzel/formats';
import type { Delivered, Wanted } from './deliver-stack.ts';

interface PartsRequest {
  readonly wanted: Wanted;
  readonly several: Several;
  /** Makes one of them. */
  readonly deliver: (wanted: Wanted, values: KeptValues, onShare: (share: number) => void) => Promise<Delivered>;
  /** All masks of the document as channels of one picture, at full size. */
  readonly masks: (names: readonly string[]) => Promise<Uint8Array[]>;
  readonly onProgress?: (share: number) => void;
}

/** @throws what `deliver` throws */
export async function deliverParts({ wanted, several, deliver, masks, onProgress }: PartsRequest): Promise<Delivered> {
  const { document, upto, resize, level = 0, cut } = wanted;
  const { parts, notes } = pictureParts(document, upto ?? null);
  const problems = new Set<string>();
  const files: NamedFile[] = [];
  let size = document.size;
  // One after the other: each takes all workers.
  const add = async (part: PicturePart) => {
    const made = await deliver({ ...wanted, document: part.document, upto: part.upto ?? undefined }, several.valuesOf(part.holds), (share) => onProgress?.((files.length + share) / (parts.length + 1)));
    for (const problem of made.problems) problems.add(problem);
    size = made.size;
    files.push({ name: part.name, parts: made.parts });
  };
  for (const part of parts) await add(part);
  const isWhole = !resize && level === 0 && !cut;
  if (document.masks.length > 0 && isWhole) {
    const names: string[] = [];
    // A dot would make a layer of a channel.
    for (const { name } of document.masks) names.push(freeName(safeName(name).replaceAll('.', '_'), (tried) => names.includes(tried)));
    files.push({ name: freeName('masks', (tried) => files.some((file) => file.name === tried), ' '), parts: await masks(names) });
  }
  const left = document.masks.length > 0 && !isWhole ? ['Masks are only in files of the full size and all of the picture.'] : [];
  onProgress?.(1);
  return { parts: several.join(files), size, problems: [...problems, ...notes, ...left] };
}
