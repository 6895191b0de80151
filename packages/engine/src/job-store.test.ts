import { emptyDocument } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { Cancelled } from './errors.ts';
import { JobStore } from './job-store.ts';
import type { MaskStore } from './mask-store.ts';
import type { WorkerPool } from './pool.ts';
import type { SourceStore } from './source-store.ts';

const document = emptyDocument('d', 'D', { width: 4, height: 4 });

/** Jobs over workers that were told `told` by the time it resolves. */
function jobs(told: () => Promise<null[]>) {
  const sent: { id: number; keep: readonly number[] }[] = [];
  const broadcast = (_kind: string, { job, keep }: { job: { id: number }; keep: readonly number[] }) => {
    sent.push({ id: job.id, keep });
    return told();
  };
  return { sent, store: new JobStore({ broadcast } as unknown as WorkerPool, { pin: () => undefined } as unknown as SourceStore, {} as MaskStore) };
}

describe('JobStore', () => {
  it('goes on at once: workers read in order, so nothing waits until they have answered', async () => {
    const { sent, store } = jobs(() => new Promise(() => undefined));
    expect(await store.with(document, { level: 0 }, async ({ job }) => job.id)).toBe(1);
    expect(await store.with(document, { level: 1 }, async ({ job }) => job.id)).toBe(2);
    expect(await store.with(document, { level: 0 }, async ({ job }) => job.id)).toBe(1);
    expect(sent).toEqual([
      { id: 1, keep: [1] },
      { id: 2, keep: [1, 2] },
    ]);
  });

  it('that workers could not be told of says why, and is told again the next time', async () => {
    const { sent, store } = jobs(() => Promise.reject(new Error('There is not enough memory to hand over work.')));
    const unknown = () => Promise.reject(new Error('Job 1 is not known here.'));
    await expect(store.with(document, { level: 0 }, unknown)).rejects.toThrow('not enough memory');
    await expect(store.with(document, { level: 0 }, unknown)).rejects.toThrow('not enough memory');
    expect(sent.map(({ id }) => id)).toEqual([1, 2]);
    const failed = jobs(async () => [null]);
    await expect(failed.store.with(document, { level: 0 }, unknown)).rejects.toThrow('not known here');
  });

  it('is cancelled without waiting for anything', async () => {
    const { store } = jobs(() => new Promise(() => undefined));
    await expect(store.with(document, { level: 0 }, () => Promise.reject(new Cancelled()))).rejects.toThrow(Cancelled);
    await expect(store.with(document, { level: 0, signal: AbortSignal.abort() }, async () => 1)).rejects.toThrow(Cancelled);
  });
});
