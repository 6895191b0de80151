/** How far the first job is, kept over reloads. */
import { createStore } from 'zustand/vanilla';
import { keepSetting, setting } from '../storage/database.ts';

interface Progress {
  /** In which document; null if nobody is at it. */
  readonly documentId: string | null;
  /** Steps in the order in which they were done. */
  readonly done: readonly string[];
}
const KEY = 'first job';
const NONE: Progress = { documentId: null, done: [] };

export const firstJobProgress = createStore<Progress>(() => NONE);
void setting<Progress>(KEY, NONE).then((kept) => firstJobProgress.setState(kept));

export function setFirstJob(next: Progress): void {
  firstJobProgress.setState(next);
  keepSetting(KEY, next);
}
export const beginFirstJob = (documentId: string): void => setFirstJob({ documentId, done: [] });
export const endFirstJob = (): void => setFirstJob(NONE);
