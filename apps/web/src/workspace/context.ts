import type { TazzelDocument } from '@tazzel/core';
import type { Session, SessionStore } from '@tazzel/editor';
import type { Engine } from '@tazzel/engine';
import { createContext, useContext, useSyncExternalStore } from 'react';
import { useStore } from 'zustand';
import type { Viewport, ViewportState } from '../picture/viewport.ts';
import type { SaveState } from '../storage/autosave.ts';
import type { PointerStore } from '../picture/pointer.ts';

/** An open document with what shows and saves it. Made once per document; React only looks at it. */
export interface Workspace {
  readonly engine: Engine;
  readonly session: SessionStore;
  readonly viewport: Viewport;
  readonly pointer: PointerStore;
  readonly saveState: SaveStateStore;
  /** Writes what is left now. Returns whether everything is stored. */
  readonly flush: () => Promise<boolean>;
  readonly isSaved: () => boolean;
}

export interface SaveStateStore {
  readonly get: () => SaveState;
  readonly subscribe: (listener: () => void) => () => void;
}

const Context = createContext<Workspace | null>(null);
export const WorkspaceProvider = Context.Provider;

export function useWorkspace(): Workspace {
  const workspace = useContext(Context);
  if (!workspace) throw new Error('No document is open here.');
  return workspace;
}

export function useSession<T>(select: (session: Session) => T): T {
  return useStore(useWorkspace().session, select);
}

export const useDocument = (): TazzelDocument => useSession((session) => session.document);
/** A part of the document: whoever needs no more is not drawn anew by every step of a slider. What is selected must stay the same object while it says the same. */
export const usePart = <T>(select: (document: TazzelDocument) => T): T => useSession((session) => select(session.document));
export const useActions = () => useWorkspace().session.actions;

/** What the viewport says of itself: a part of it, or all that changes where a place is drawn. */
export function useViewport<T = ViewportState>(select: (state: ViewportState) => T = (state) => state as T): T {
  const { viewport } = useWorkspace();
  return useSyncExternalStore(viewport.subscribe, () => select(viewport.snapshot()));
}

export function useSaveState(): SaveState {
  const { saveState } = useWorkspace();
  return useSyncExternalStore(saveState.subscribe, saveState.get);
}
