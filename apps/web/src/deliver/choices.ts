/** How a picture is about to be delivered: kept for the next time, and seen over the picture. */
import { completeParams, type Cut, cutFault, defaultsOf, type FilterId, type KeptValues, resamplingFilters } from '@tazzel/core';
import { type PictureFormat, pictureFormats } from '@tazzel/formats';
import { useSyncExternalStore } from 'react';
import { keepSetting, setting } from '../storage/database.ts';

export const scales = ['Full', 'Half', 'Quarter', 'Eighth'];

export interface Choices {
  readonly format: string;
  /** Halvings, or `own` for a width of its own. */
  readonly size: number | 'own';
  readonly width: number;
  readonly filter: FilterId;
  readonly cut: Cut | null;
  /** Of each format, by its id. */
  readonly values: Readonly<Record<string, KeptValues>>;
}
export const FIRST: Choices = { format: pictureFormats[0].id, size: 0, width: 1920, filter: 'lanczos', cut: null, values: {} };

/** What was kept, as far as it is what it should be: an earlier version kept something else. */
function readChoices(kept: Partial<Choices>): Choices {
  const { size, width, filter, cut } = { ...FIRST, ...kept };
  return {
    ...FIRST,
    ...kept,
    values: kept.values ?? {},
    size: size === 'own' || scales[size] ? size : 0,
    width: width >= 1 ? Math.round(width) : FIRST.width,
    filter: Object.hasOwn(resamplingFilters, filter) ? filter : FIRST.filter,
    cut: cutFault(cut) === null ? cut : null,
  };
}

/** Kept values of an earlier version may be others. */
export function valuesOf(format: PictureFormat, { values }: Choices): KeptValues {
  try {
    return completeParams(format, values[format.id] ?? {});
  } catch {
    return defaultsOf(format);
  }
}

/** What belongs to the job and not to the format: set once, it is set of all that have it. Colours are of the format: print wants others than the web. */
const COMMON = new Set(['dpi', 'title', 'author']);

/** With other values of a format, and what of them is common in all formats that have it. */
export function withValues(choices: Choices, format: PictureFormat, patch: KeptValues): Choices {
  const common = Object.entries(patch).filter(([name]) => COMMON.has(name));
  const values = Object.fromEntries(
    pictureFormats.map((each) => {
      const theirs = each.id === format.id ? patch : Object.fromEntries(common.filter(([name]) => Object.hasOwn(each.params, name)));
      return [each.id, { ...valuesOf(each, choices), ...theirs }];
    }),
  );
  return { ...choices, values };
}

let choices = FIRST;
let isRead = false;
const listeners = new Set<() => void>();
function tell(next: Choices): void {
  choices = next;
  for (const listener of listeners) listener();
}
function listen(listener: () => void): () => void {
  listeners.add(listener);
  if (!isRead) {
    isRead = true;
    void setting<Partial<Choices>>('deliver', FIRST).then((kept) => tell(readChoices(kept)));
  }
  return () => void listeners.delete(listener);
}

export const useChoices = (): Choices => useSyncExternalStore(listen, () => choices);
export function choose(patch: Partial<Choices>): void {
  tell({ ...choices, ...patch });
  keepSetting('deliver', choices);
}
