/** A list of deliveries in one go: files are named, made and handed over one after the other; one that fails costs itself. */
import { type Delivery, freeName, plannedPictures, type Size, type TazzelDocument, underScheme } from '@tazzel/core';
import { type PictureFormat, pictureFormatById, safeName } from '@tazzel/formats';
import type { Engine } from './engine.ts';
import { Cancelled } from './errors.ts';
import { FlatPictures } from './outputs.ts';

/** What became of a file. */
export interface DeliveredFile {
  readonly name: string;
  readonly size: Size;
  /** 0 if it was not written. */
  readonly bytes: number;
  /** What the picture lacks, or why there is none; empty if all is well. */
  readonly problems: readonly string[];
}

export interface DeliverListRequest {
  readonly document: TazzelDocument;
  readonly deliveries: readonly Delivery[];
  /** As 2026-11-30. */
  readonly day: string;
  /** Whether there is a file of that name, which must stay. */
  readonly isTaken: (fileName: string) => boolean;
  /** What it throws ends the list: there is no place for the others either. */
  readonly write: (fileName: string, parts: readonly Uint8Array[], format: PictureFormat) => Promise<void>;
  readonly signal?: AbortSignal;
  readonly onProgress?: (share: number, fileName: string) => void;
}

/** Pictures that are made at a time: while one is packed by one worker, the others compute the next. */
const LANES = 3;
const NOT_MADE = 'It was not made, because the one before could not be written.';

/** @returns each file, also those that were not written because of the first that could not be, or because it was cancelled */
export async function deliverList(engine: Pick<Engine, 'deliver'>, { document, deliveries, day, isTaken, write, signal, onProgress }: DeliverListRequest): Promise<readonly DeliveredFile[]> {
  const names = new Set<string>();
  const planned = plannedPictures(document, deliveries, day).map((picture) => {
    const format = pictureFormatById(picture.delivery.format);
    const ending = format?.endings[0] ?? 'picture';
    const name = `${freeName(safeName(picture.name), (tried) => names.has(`${tried}.${ending}`) || isTaken(`${tried}.${ending}`))}.${ending}`;
    names.add(name);
    return { ...picture, format, name };
  });
  const schemes = new Map<string | null, { readonly document: TazzelDocument; readonly shared: FlatPictures }>();
  const shown = (schemeId: string | null) => {
    const known = schemes.get(schemeId) ?? { document: underScheme(document, schemeId), shared: new FlatPictures() };
    schemes.set(schemeId, known);
    // Their pixels are large: those of the scheme before are let go.
    for (const [id, { shared }] of schemes) if (id !== schemeId) shared.clear();
    return known;
  };
  const shares = planned.map(() => 0);
  let isFull = false;
  const make = async (i: number, before: Promise<unknown>): Promise<DeliveredFile> => {
    const { delivery, schemeId, size, name, format } = planned[i];
    const failed = (sentence: string): DeliveredFile => ({ name, size, bytes: 0, problems: [sentence] });
    if (isFull) return failed(NOT_MADE);
    if (signal?.aborted) return failed('It was cancelled before.');
    if (!format) return failed(`There is no format “${delivery.format}” here.`);
    const { width, filter, halvings, cut, upto, values } = delivery;
    let made: Awaited<ReturnType<Engine['deliver']>>;
    try {
      const told = (share: number) => {
        shares[i] = share;
        onProgress?.(shares.reduce((sum, each) => sum + each, 0) / planned.length, name);
      };
      made = await engine.deliver({ ...shown(schemeId), format: format.id, values, ...(width === null ? { level: halvings } : { resize: { width, filter } }), cut, upto: upto ?? undefined, signal, onProgress: told });
    } catch (error) {
      return failed(error instanceof Cancelled ? 'It was cancelled.' : sentenceOf(error));
    }
    await before;
    if (isFull) return failed(NOT_MADE);
    try {
      await write(name, made.parts, format);
      return { name, size, bytes: made.parts.reduce((sum, part) => sum + part.length, 0), problems: made.problems };
    } catch (error) {
      isFull = true;
      return failed(sentenceOf(error));
    }
  };
  const files: Promise<DeliveredFile>[] = [];
  for (const i of planned.keys()) {
    // They are handed over in their order, so that what is there when something fails is the beginning of the list.
    files.push(make(i, files[i - 1] ?? Promise.resolve()));
    if (i >= LANES - 1) await files[i - LANES + 1];
  }
  const made = await Promise.all(files);
  for (const { shared } of schemes.values()) shared.clear();
  return made;
}

const sentenceOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
