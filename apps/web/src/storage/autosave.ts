import type { TazzelDocument } from '@tazzel/core';
import type { SessionStore } from '@tazzel/editor';
import { storageSentence } from './database.ts';
import { saveDocument } from './documents.ts';

export type SaveState = { readonly kind: 'saved' } | { readonly kind: 'saving' } | { readonly kind: 'failed'; readonly sentence: string };

/** Changes are written at most this often, also in the middle of a drag. */
const INTERVAL_MS = 250;
const RETRY_MS = 5000;

/**
 * Writes the document whenever it changed. IndexedDB replaces a record as a whole or not at all, so a closed tab or a
 * full disk leaves the last good state. Returns a function that writes what is left and stops.
 */
export function startAutosave(session: SessionStore, onState: (state: SaveState) => void, save: typeof saveDocument = saveDocument): () => Promise<void> {
  let saved: TazzelDocument = session.getState().document;
  let writing: Promise<void> | null = null;
  let timer: ReturnType<typeof setTimeout> | null = null;

  const write = async () => {
    timer = null;
    if (writing) return;
    const { document } = session.getState();
    if (document === saved) return onState({ kind: 'saved' });
    let failed = false;
    writing = save(document, Date.now()).then(
      () => {
        saved = document;
      },
      (error) => {
        failed = true;
        onState({ kind: 'failed', sentence: storageSentence(error) });
      },
    );
    await writing;
    writing = null;
    if (session.getState().document !== saved) schedule(failed ? RETRY_MS : INTERVAL_MS);
    else onState({ kind: 'saved' });
  };
  const schedule = (delay: number) => {
    timer ??= setTimeout(write, delay);
  };
  const unsubscribe = session.subscribe((state, before) => {
    if (state.document === before.document) return;
    onState({ kind: 'saving' });
    schedule(INTERVAL_MS);
  });
  const flush = async () => {
    if (timer) clearTimeout(timer);
    await writing;
    await write();
  };
  const onHide = () => void flush();
  document.addEventListener('visibilitychange', onHide);
  window.addEventListener('pagehide', onHide);
  return async () => {
    unsubscribe();
    document.removeEventListener('visibilitychange', onHide);
    window.removeEventListener('pagehide', onHide);
    await flush();
  };
}
