/** What lies under the pointer: position, values, material. Follows the pointer one question at a time. */
import type { Material } from '@tazzel/core';
import type { SessionStore } from '@tazzel/editor';
import type { Engine, PixelValues } from '@tazzel/engine';
import { createStore, type StoreApi } from 'zustand/vanilla';

export interface PointerState {
  readonly pixel: { readonly x: number; readonly y: number } | null;
  /** Where on the screen, in CSS pixels of the picture field. */
  readonly at: { readonly x: number; readonly y: number } | null;
  readonly values: PixelValues | null;
  readonly material: Material | null;
  readonly metres: number | null;
}

export type PointerStore = StoreApi<PointerState> & {
  /** @param behind the pixel of the render that is seen there */
  move(pixel: PointerState['pixel'], behind: PointerState['pixel'], at: PointerState['at'], viewLevel: number): void;
  dispose(): void;
};

const NOTHING: PointerState = { pixel: null, at: null, values: null, material: null, metres: null };

export function createPointer(engine: Engine, session: SessionStore): PointerStore {
  const store = createStore<PointerState>(() => NOTHING);
  let level = 0;
  let asking = false;
  let askAgain = false;

  const ask = async () => {
    if (asking) {
      askAgain = true;
      return;
    }
    const { pixel } = store.getState();
    if (!pixel) return;
    asking = true;
    askAgain = false;
    try {
      const values = await engine.probe(session.getState().document, pixel.x, pixel.y, level);
      if (store.getState().pixel) store.setState({ values });
    } catch {
      // The picture itself says what is wrong; without values there is only nothing to read.
    }
    asking = false;
    if (askAgain) void ask();
  };
  const unsubscribe = session.subscribe((state, before) => {
    if (state.document !== before.document) void ask();
  });

  return Object.assign(store, {
    move: (pixel: PointerState['pixel'], behind: PointerState['pixel'], at: PointerState['at'], viewLevel: number) => {
      if (!pixel) return store.setState({ ...NOTHING, at });
      level = viewLevel;
      const { document, pointAt } = session.getState();
      store.setState({ pixel, at, material: behind && engine.materialAt(document, behind.x, behind.y, pointAt), metres: behind && engine.metresAt(document, behind.x, behind.y) });
      void ask();
    },
    dispose: unsubscribe,
  });
}
