import { CoreError } from '../errors.ts';
import { applyEdit, type Edit } from './edits.ts';
import type { TazzelDocument } from '../model/model.ts';

/**
 * Why an edit cannot be done, in a sentence; null if it can. Menus, commands and drag and drop ask it, so that nothing is offered that would be refused: an edit is
 * pure, and trying it is the one answer that cannot differ from doing it.
 */
export function whyNot(document: TazzelDocument, edit: Edit): string | null {
  try {
    applyEdit(document, edit);
    return null;
  } catch (error) {
    if (error instanceof CoreError) return error.message;
    throw error;
  }
}
