import { createSession } from '@tazzel/editor';
import { getEngine } from '../engine.ts';
import { showReport } from '../notices.tsx';
import { createPointer } from '../picture/pointer.ts';
import { Viewport } from '../picture/viewport.ts';
import { type SaveState, startAutosave } from '../storage/autosave.ts';
import { pictureStore } from '../storage/database.ts';
import { claimDocument, loadDocument } from '../storage/documents.ts';
import type { Workspace } from './context.ts';
import { startScheduleReader } from './schedule-reader.ts';

export type Opened = { readonly kind: 'open'; readonly workspace: Workspace; readonly close: () => Promise<void> } | { readonly kind: 'missing' } | { readonly kind: 'elsewhere' };

const PICTURE_SIDE = 320;

/** Opens a stored document for work. `close` saves what is left and lets go of everything. */
export async function openWorkspace(id: string): Promise<Opened> {
  const release = await claimDocument(id);
  if (!release) return { kind: 'elsewhere' };
  try {
    const engine = await getEngine();
    const loaded = await loadDocument(id, engine);
    if (!loaded) {
      release();
      return { kind: 'missing' };
    }
    const session = createSession(loaded.document);
    const viewport = new Viewport(engine, session);
    const pointer = createPointer(engine, session);
    let state: SaveState = { kind: 'saved' };
    const listeners = new Set<() => void>();
    let failureTold = false;
    const stopSaving = startAutosave(session, (next) => {
      if (next.kind === state.kind) return;
      // Told once; after that the title block says it until there is room again.
      if (next.kind === 'failed' && !failureTold) showReport('Not saved', [next.sentence]);
      if (next.kind !== 'saving') failureTold = next.kind === 'failed';
      state = next;
      for (const listener of listeners) listener();
    });
    showReport('Opened with gaps', loaded.problems);
    void engine.preparePointer(loaded.document);
    const stopReading = startScheduleReader(engine, session);

    /** The small picture of the start page. */
    const keepPicture = async () => {
      const { document } = session.getState();
      const level = Math.max(0, Math.ceil(Math.log2(Math.max(document.size.width, document.size.height) / PICTURE_SIDE)));
      const { parts } = await engine.deliver({ document, format: 'png8', level });
      await pictureStore.setItem(id, new Blob(parts as Uint8Array<ArrayBuffer>[], { type: 'image/png' }));
    };
    let pictureTimer: ReturnType<typeof setTimeout> | undefined;
    const pictureLater = (delay: number) => {
      clearTimeout(pictureTimer);
      pictureTimer = setTimeout(() => void keepPicture().catch(() => undefined), delay);
    };
    const unsubscribe = session.subscribe((now, before) => {
      if (now.document === before.document) return;
      pictureLater(2000);
      if (now.document.sources !== before.document.sources || now.document.materials !== before.document.materials) void engine.preparePointer(now.document);
    });
    pictureLater(3000);

    const workspace: Workspace = {
      engine,
      session,
      viewport,
      pointer,
      saveState: {
        get: () => state,
        subscribe: (listener) => {
          listeners.add(listener);
          return () => void listeners.delete(listener);
        },
      },
    };
    const close = async () => {
      clearTimeout(pictureTimer);
      unsubscribe();
      stopReading();
      viewport.dispose();
      pointer.dispose();
      await stopSaving().catch(() => undefined);
      await keepPicture().catch(() => undefined);
      release();
    };
    return { kind: 'open', workspace, close };
  } catch (error) {
    release();
    throw error;
  }
}
