import { scheduleSources } from '@tazzel/core';
import type { SessionStore } from '@tazzel/editor';
import type { Engine } from '@tazzel/engine';
import { toast } from 'sonner';

/**
 * Reads what the pictures of IDs in a document hold while the artist already works: the picture need not wait for it. Returns what stops it.
 */
export function startScheduleReader(engine: Pick<Engine, 'findSchedule'>, session: SessionStore): () => void {
  let stopped = false;
  let last = '';
  const look = async () => {
    const { document, readsSchedule } = session.getState();
    const pictures = document.materials.length > 0 ? [] : scheduleSources(document.sources);
    const wanted = pictures.map(({ id }) => id).join();
    // What could not be read is not read again unless other pictures come.
    if (readsSchedule || wanted === '' || wanted === last) return;
    last = wanted;
    session.actions.set({ readsSchedule: true });
    const { materials, problems } = await engine.findSchedule(document.sources).catch((error: Error) => ({ materials: [], problems: [error.message] }));
    if (stopped) return;
    session.actions.learnMaterials(materials);
    session.actions.set({ readsSchedule: false });
    for (const problem of problems) toast(problem, { duration: 20_000 });
  };
  const unsubscribe = session.subscribe((now, before) => {
    if (now.document.sources !== before.document.sources || (before.readsSchedule && !now.readsSchedule)) void look();
  });
  void look();
  return () => {
    stopped = true;
    unsubscribe();
  };
}
