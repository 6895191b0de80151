import type { Engine } from '@tazzel/engine';
import { startWebEngine } from '@tazzel/engine/web';
import { toast } from 'sonner';
import kernelsUrl from '@tazzel/kernels/kernels.wasm?url';

let engine: Promise<Engine> | null = null;

/** @throws Error in a browser that cannot share memory */
export function needSharedMemory(): void {
  if (!globalThis.crossOriginIsolated) throw new Error('This page is not isolated, so the browser grants no shared memory. Open it from the Tazzel server.');
}

/** The one engine of this page, started when it is first needed. @throws Error in a browser that cannot share memory */
export async function getEngine(): Promise<Engine> {
  needSharedMemory();
  engine ??= startWebEngine({ kernelsUrl, createWorker: (name) => new Worker(new URL('./engine-worker.ts', import.meta.url), { type: 'module', name }), onRestart: (sentence) => void toast(sentence) });
  try {
    return await engine;
  } catch (error) {
    // A start that failed, because the server was away, is tried again by whoever asks next.
    engine = null;
    throw error;
  }
}
