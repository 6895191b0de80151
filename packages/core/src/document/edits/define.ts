/** What all edits are made of. */
import { CoreError } from '../../errors.ts';
import { LIMITS, shortened } from '../../limits.ts';
import type { TazzelDocument } from '../../model/model.ts';

/** Edits by their type: what each is called in the history, and what it does. What concerns all schemes belongs to none, whichever is shown. */
export type Handlers<E extends { readonly type: string }> = { readonly [T in E['type']]: { readonly label: string; readonly concernsAllSchemes?: boolean; readonly apply: (document: TazzelDocument, edit: Extract<E, { type: T }>) => TazzelDocument } };

export const refuse = (sentence: string): never => {
  throw new CoreError('edit-refused', sentence);
};

export const unit = (value: number) => (Number.isFinite(value) ? Math.min(1, Math.max(0, value)) : refuse('An opacity lies between 0 and 1.'));

export function named(name: string, what: string, most: number = LIMITS.name): string {
  const trimmed = name.trim();
  return trimmed === '' ? refuse(`The name of ${what} cannot be empty.`) : shortened(trimmed, most);
}
