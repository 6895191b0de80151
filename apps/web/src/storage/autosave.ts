import { applyEdit, type TazzelDocument } from '@tazzel/core';
import type { Session, SessionStore } from '@tazzel/editor';
import { neededFiles } from '@tazzel/formats';
import { isFull } from './database.ts';
import { isSentence, isStored, saveDocument, storeMissing } from './documents.ts';
import type { Claim } from './locks.ts';

export type SaveState = { readonly kind: 'saved' } | { readonly kind: 'saving' } | { readonly kind: 'failed'; readonly sentence: string };

/** Changes are written at most this often, also in the middle of a drag or a stroke. */
const INTERVAL_MS = 250;
const RETRY_MS = 5000;
/** How often one looks whether what was written is still there: the browser's data can be cleared under an open document. */
const LOOK_MS = 3000;

/** What the storage does, so that tests can let it fail. */
export interface Keeper {
  readonly save: (claim: Claim, document: TazzelDocument, savedAt: number, before: readonly string[]) => Promise<void>;
  readonly storeMissing: (document: TazzelDocument, held: (hash: string) => Blob | null) => Promise<{ names: readonly string[]; error: unknown }>;
  readonly isStored: (document: TazzelDocument, held: (hash: string) => Blob | null) => Promise<boolean>;
}
const storage: Keeper = { save: saveDocument, storeMissing, isStored };

export interface Autosave {
  /** Writes what is left now. Returns whether everything is stored. */
  flush(): Promise<boolean>;
  isSaved(): boolean;
  /** When the stored state was written. */
  savedAt(): number;
  /** Writes what is left and ends: nothing is written or tried again afterwards. */
  stop(): Promise<boolean>;
  /** Ends without another word, because the document belongs to another page now. */
  abandon(): void;
}

/**
 * Keeps a document stored while it is worked on, with all its files, and says truthfully whether it is. `held` gives the bytes of a file that this
 * page has.
 */
export function startAutosave(session: SessionStore, claim: Claim, held: (hash: string) => Blob | null, onState: (state: SaveState) => void, keeper: Keeper = storage, startedAt = Date.now()): Autosave {
  let saved: TazzelDocument | null = session.getState().document;
  let before = hashesOf(saved);
  let lastSavedAt = startedAt;
  let writing: Promise<void> | null = null;
  let timer: ReturnType<typeof setTimeout> | null = null;
  let failed = false;
  let ended = false;

  const isSaved = () => !failed && saved !== null && pendingDocument(session.getState()) === saved;
  /** One attempt, begun before anything is waited for. */
  const attempt = async (): Promise<void> => {
    const document = pendingDocument(session.getState());
    // Not earlier than the last one, whatever the clock does: the newest copy is told by it.
    lastSavedAt = Math.max(Date.now(), lastSavedAt + 1);
    const filesAreNew = hashesOf(document).some((hash) => !before.includes(hash)) || failed || saved === null;
    try {
      await keeper.save(claim, document, lastSavedAt, before);
      saved = document;
      before = hashesOf(document);
      const lost = filesAreNew ? await keeper.storeMissing(document, held) : { names: [], error: null };
      if (lost.names.length > 0) throw new LostFiles(lost.names, lost.error);
      failed = false;
    } catch (error) {
      failed = true;
      if (!ended) onState({ kind: 'failed', sentence: failureSentence(error) });
    }
  };
  const write = async (): Promise<void> => {
    timer = null;
    if (writing || ended) return;
    if (isSaved()) return onState({ kind: 'saved' });
    writing = attempt();
    await writing;
    writing = null;
    if (ended) return;
    if (isSaved()) onState({ kind: 'saved' });
    else schedule(failed ? RETRY_MS : INTERVAL_MS);
  };
  const schedule = (delay: number) => {
    if (!ended) timer ??= setTimeout(() => void write(), delay);
  };
  const soon = () => {
    // A change after a failure is tried at once: there may be room by now.
    if (failed && timer) {
      clearTimeout(timer);
      timer = null;
    }
    schedule(INTERVAL_MS);
  };
  const unsubscribe = session.subscribe((state, last) => {
    if (state.document === last.document && state.unfinished === last.unfinished) return;
    if (!failed) onState({ kind: 'saving' });
    soon();
  });
  const flush = async () => {
    for (let n = 0; n < 3 && !isSaved() && !ended; n++) {
      if (timer) clearTimeout(timer);
      timer = null;
      await writing;
      await write();
      if (failed) break;
    }
    return isSaved();
  };
  const look = async () => {
    if (ended || writing || !isSaved()) return;
    const there = await keeper.isStored(session.getState().document, held).catch(() => false);
    if (there || ended || writing || !isSaved()) return;
    saved = null;
    onState({ kind: 'saving' });
    await flush();
  };
  const looking = setInterval(() => void look(), LOOK_MS);
  // A document may be opened although its files could not be stored.
  void look();
  const onVisibility = () => void (document.visibilityState === 'hidden' ? flush() : look());
  /** A page that goes away may never come back to what it waits for: the last state is under way before this returns. */
  const onHide = () => void (isSaved() || ended || attempt());
  /** The browser asks whether the page may go while something is not stored. */
  const onLeave = (event: BeforeUnloadEvent) => {
    if (isSaved()) return;
    void flush();
    if (failed) event.preventDefault();
  };
  document.addEventListener('visibilitychange', onVisibility);
  window.addEventListener('pagehide', onHide);
  window.addEventListener('beforeunload', onLeave);
  const end = () => {
    ended = true;
    if (timer) clearTimeout(timer);
    clearInterval(looking);
    unsubscribe();
    document.removeEventListener('visibilitychange', onVisibility);
    window.removeEventListener('pagehide', onHide);
    window.removeEventListener('beforeunload', onLeave);
  };
  return {
    flush,
    isSaved,
    savedAt: () => lastSavedAt,
    stop: async () => {
      const done = await flush();
      end();
      await writing;
      return done;
    },
    abandon: end,
  };
}

/** The document as it would be if the gesture that is under way ended now: a long stroke is stored while it grows. */
function pendingDocument({ document, unfinished }: Session): TazzelDocument {
  if (!unfinished) return document;
  if (lastPending?.document === document && lastPending.unfinished === unfinished) return lastPending.pending;
  try {
    lastPending = { document, unfinished, pending: applyEdit(document, unfinished) };
    return lastPending.pending;
  } catch {
    // What cannot be done yet is not lost yet.
    return document;
  }
}
let lastPending: { document: TazzelDocument; unfinished: NonNullable<Session['unfinished']>; pending: TazzelDocument } | null = null;

const hashesOf = (document: TazzelDocument): readonly string[] => neededFiles(document).map(({ hash }) => hash);

class LostFiles extends Error {
  constructor(
    readonly names: readonly string[],
    readonly reason: unknown,
  ) {
    super('files');
  }
}

/** Why something is not stored, and what helps. */
export function failureSentence(error: unknown): string {
  const files = error instanceof LostFiles ? error.names : [];
  const reason = error instanceof LostFiles ? error.reason : error;
  const what = files.length === 0 ? 'the last changes are not saved' : `${files.slice(0, 3).map((name) => `“${name}”`).join(', ')}${files.length > 3 ? ` and ${files.length - 3} more files are` : files.length > 1 ? ' are' : ' is'} not stored`;
  const keep = 'Keep this page open: saving is tried again by itself.';
  if (isFull(reason)) return `The browser’s storage is full: ${what}. Delete documents on the start page (open it in another tab), or save this one as a project file. ${keep}`;
  if (isSentence(reason)) return (reason as Error).message;
  if (files.length > 0) return `The browser’s storage lost files: ${what}, and they cannot be read any more. Add them again, or save a project file. ${keep}`;
  return `The browser could not save, so ${what} (${reason instanceof Error ? reason.message : String(reason)}). Save the document as a project file. ${keep}`;
}
