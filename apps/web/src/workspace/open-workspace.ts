import { levelWithin } from '@tazzel/core';
import { createSession } from '@tazzel/editor';
import type { Engine } from '@tazzel/engine';
import { getEngine } from '../engine.ts';
import { forgetNotes, showReport } from '../notices.tsx';
import { createPointer } from '../picture/pointer.ts';
import { Viewport } from '../picture/viewport.ts';
import { type Autosave, type SaveState, startAutosave } from '../storage/autosave.ts';
import { pictureStore } from '../storage/database.ts';
import { heldFile, loadDocument } from '../storage/documents.ts';
import { type Claim, claimDocument, onTakeOver, takeOver, withinAMoment } from '../storage/locks.ts';
import { readRow } from '../storage/rows.ts';
import type { Workspace } from './context.ts';
import { startScheduleReader } from './schedule-reader.ts';

export type Opened = { readonly kind: 'open'; readonly workspace: Workspace; readonly close: () => Promise<void> } | { readonly kind: 'missing' } | { readonly kind: 'elsewhere' };

const PICTURE_SIDE = 320;

/** The workspace that has the engine now: whoever was before it does not clear what this one needs. */
let current: symbol | null = null;
/** Ends the small picture of a document that was left: the next one needs the engine. */
let endPicture: () => void = () => undefined;
let lastPicture: Promise<unknown> = Promise.resolve();

/** Resolves when the small picture of the document that was left is stored, or given up. */
export const lastPictureKept = (): Promise<unknown> => lastPicture;

/**
 * Opens a stored document for work; `force` takes it over from another tab. `onGone` is called when the document has to be given up, because
 * another tab took it over. `close` saves what is left and lets go of everything.
 */
export async function openWorkspace(id: string, force: boolean, onGone: () => void): Promise<Opened> {
  const claim = force ? await takeOver(id) : await claimDocument(id);
  if (!claim?.isHeld) return { kind: 'elsewhere' };
  try {
    const engine = await getEngine();
    endPicture();
    const mine = Symbol(id);
    current = mine;
    const loaded = await loadDocument(id, engine);
    if (!loaded) {
      claim.release();
      return { kind: 'missing' };
    }
    const session = createSession(loaded.document);
    const viewport = new Viewport(engine, session);
    const pointer = createPointer(engine, session);
    let state: SaveState = { kind: 'saved' };
    const listeners = new Set<() => void>();
    let failureTold = '';
    const saving = startAutosave(
      session,
      claim,
      (hash) => heldFile(engine, hash),
      (next) => {
        if (next.kind === state.kind && (next.kind !== 'failed' || next.sentence === (state as typeof next).sentence)) return;
        // Told once; after that the title block says it until there is room again.
        if (next.kind === 'failed' && failureTold !== next.sentence) showReport('Not saved', [next.sentence]);
        if (next.kind !== 'saving') failureTold = next.kind === 'failed' ? next.sentence : '';
        state = next;
        for (const listener of listeners) listener();
      },
      undefined,
      Number.isFinite(loaded.savedAt) ? loaded.savedAt : 0,
    );
    showReport('Opened with gaps', loaded.problems);
    void engine.preparePointer(loaded.document);
    const stopReading = startScheduleReader(engine, session);

    let pictureIsOld = true;
    /** The one that is under way: the engine keeps its pixels until it is stored. */
    let making = Promise.resolve();
    let pictureTimer: ReturnType<typeof setTimeout> | undefined;
    const pictureLater = (delay: number) => {
      clearTimeout(pictureTimer);
      pictureTimer = setTimeout(() => {
        pictureIsOld = false;
        making = keepPicture(engine, session.getState().document).catch(() => {
          pictureIsOld = true;
        });
      }, delay);
    };
    const unsubscribe = session.subscribe((now, before) => {
      if (now.document === before.document) return;
      pictureIsOld = true;
      pictureLater(2000);
      if (now.document.sources !== before.document.sources || now.document.materials !== before.document.materials) void engine.preparePointer(now.document);
    });
    pictureLater(3000);

    const workspace: Workspace = {
      engine,
      session,
      viewport,
      pointer,
      flush: saving.flush,
      isSaved: saving.isSaved,
      saveState: {
        get: () => state,
        subscribe: (listener) => {
          listeners.add(listener);
          return () => void listeners.delete(listener);
        },
      },
    };
    const putAway = () => {
      clearTimeout(pictureTimer);
      unsubscribe();
      stopReading();
      stopListening();
      forgetNotes();
      viewport.dispose();
      pointer.dispose();
    };
    const close = async () => {
      putAway();
      await saving.stop().catch(() => undefined);
      claim.release();
      // Leaving never waits for a picture: it is made while nobody else needs the engine, then the memory is given back.
      lastPicture = making.then(() => (pictureIsOld ? lastWord(engine, session.getState().document) : undefined)).finally(() => {
        if (current === mine) engine.keepOnly(new Set());
      });
    };
    const giveUp = () => {
      if (!saving.isSaved()) showReport('Taken over', [`Another tab took “${session.getState().document.name}” over before the last changes here could be stored. What was stored until then is there.`]);
      putAway();
      saving.abandon();
      claim.release();
      onGone();
    };
    const stopListening = watchClaim(claim, saving, giveUp);
    return { kind: 'open', workspace, close };
  } catch (error) {
    claim.release();
    throw error;
  }
}

/** The small picture of the start page. */
async function keepPicture(engine: Engine, document: Parameters<Engine['deliver']>[0]['document'], signal?: AbortSignal): Promise<void> {
  const level = levelWithin(document.size, PICTURE_SIDE);
  const { parts } = await engine.deliver({ document, level, values: { dither: false }, signal });
  await pictureStore.setItem(document.id, new Blob(parts as Uint8Array<ArrayBuffer>[], { type: 'image/png' }));
}

const LAST_PICTURE_MS = 10_000;

async function lastWord(engine: Engine, document: Parameters<Engine['deliver']>[0]['document']): Promise<void> {
  const abort = new AbortController();
  const end = new Promise<void>((resolve) => {
    endPicture = () => {
      abort.abort();
      resolve();
    };
    setTimeout(endPicture, LAST_PICTURE_MS);
  });
  await Promise.race([keepPicture(engine, document, abort.signal).catch(() => undefined), end]);
}

/**
 * Keeps the right to write: gives it up when another tab asks, lets go of it while the page waits in the browser's back/forward cache, and takes it
 * again when the page is shown. Returns what stops watching.
 */
function watchClaim(claim: Claim, { flush, savedAt }: Autosave, giveUp: () => void): () => void {
  const { id } = claim;
  const stop = onTakeOver(id, () => void flush().then(giveUp));
  claim.onLost(giveUp);
  // The last write is under way by now; whoever gets the claim next reads after it.
  const onHide = () => claim.release();
  const onShow = async ({ persisted }: PageTransitionEvent) => {
    if (!persisted) return;
    const isHeld = await claim.take(withinAMoment());
    const row = await readRow(id);
    // Meanwhile it may have been changed, deleted, or opened elsewhere: what is true now is opened anew.
    if (isHeld && row && row.savedAt <= savedAt()) void flush();
    else location.reload();
  };
  window.addEventListener('pagehide', onHide);
  window.addEventListener('pageshow', onShow);
  return () => {
    stop();
    window.removeEventListener('pagehide', onHide);
    window.removeEventListener('pageshow', onShow);
  };
}
