/** Undo and redo over immutable documents. A drag or a slider is one step: its edits share a gesture. */
import { applyEdit, type Edit, editLabel, type TazzelDocument } from '@tazzel/core';

export interface HistoryStep {
  readonly label: string;
  readonly before: TazzelDocument;
  /** Edits of one gesture are one step. */
  readonly gesture: string | null;
}

export interface History {
  readonly document: TazzelDocument;
  readonly past: readonly HistoryStep[];
  readonly future: readonly { readonly label: string; readonly after: TazzelDocument }[];
}

export const startHistory = (document: TazzelDocument): History => ({ document, past: [], future: [] });

/** @throws CoreError if the edit does not apply; the history is then unchanged */
export function edit(history: History, change: Edit, gesture: string | null = null): History {
  const document = applyEdit(history.document, change);
  return replaced(history, document, editLabel(change), gesture);
}

/** A change that is more than one edit, as one step. */
export function replaced(history: History, document: TazzelDocument, label: string, gesture: string | null = null): History {
  if (document === history.document) return history;
  const last = history.past[history.past.length - 1];
  const goesOn = gesture !== null && last?.gesture === gesture;
  const past = goesOn ? history.past : [...history.past, { label, before: history.document, gesture }];
  return { document, past, future: [] };
}

/** What was found out about files is no edit: it goes into every state, so that undoing does not forget it. */
export function everywhere({ document, past, future }: History, learn: (document: TazzelDocument) => TazzelDocument): History {
  return { document: learn(document), past: past.map((step) => ({ ...step, before: learn(step.before) })), future: future.map((step) => ({ ...step, after: learn(step.after) })) };
}

export function undo(history: History): History {
  const last = history.past[history.past.length - 1];
  if (!last) return history;
  return { document: last.before, past: history.past.slice(0, -1), future: [{ label: last.label, after: history.document }, ...history.future] };
}

export function redo(history: History): History {
  const [next, ...rest] = history.future;
  if (!next) return history;
  return { document: next.after, past: [...history.past, { label: next.label, before: history.document, gesture: null }], future: rest };
}
