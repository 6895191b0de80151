import { newTerm, type Stroke, type TazzelDocument } from '@tazzel/core';
import { createSession } from '@tazzel/editor';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { full, memoryLocks, MemoryStorage } from '../../../../tests/storage.ts';

const storage = new MemoryStorage();
vi.mock('localforage', () => ({ default: storage.localforage }));
const { startAutosave } = await import('./autosave.ts');
type SaveState = Parameters<Parameters<typeof startAutosave>[3]>[0];
const { isFull, storageError } = await import('./database.ts');
const { saveDocument } = await import('./documents.ts');
const { claimDocument } = await import('./locks.ts');

/** What happens to the page. */
const listeners = new Map<string, (event: { preventDefault: () => void }) => void>();
const page = { addEventListener: (type: string, listener: () => void) => void listeners.set(type, listener), removeEventListener: (type: string) => void listeners.delete(type), visibilityState: 'visible' };

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('document', page);
  vi.stubGlobal('window', page);
  vi.stubGlobal('navigator', { locks: memoryLocks() });
  storage.clear();
  listeners.clear();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

async function setUp(save: (name: string) => Promise<unknown> = async () => undefined, held: (hash: string) => Blob | null = () => null) {
  const session = createSession(smallDocument());
  const states: SaveState[] = [];
  const written: TazzelDocument[] = [];
  const claim = await claimDocument('doc');
  if (!claim) throw new Error('no claim');
  const there = { isStored: true, lacking: [] as string[] };
  const keeper = {
    save: async (_: unknown, document: TazzelDocument) => {
      await save(document.name);
      written.push(document);
    },
    storeMissing: async () => ({ names: there.lacking, error: there.lacking.length > 0 ? new DOMException('no room', 'QuotaExceededError') : null }),
    isStored: async () => there.isStored,
  };
  const autosave = startAutosave(session, claim, held, (state) => void states.push(state), keeper);
  const rename = (name: string) => session.actions.edit({ type: 'rename-document', name }, 'typing');
  return { rename, states, kinds: () => states.map(({ kind }) => kind), written, names: () => written.map(({ name }) => name), autosave, session, claim, there };
}

describe('saving as one works', () => {
  it('in the middle of a drag at least every quarter of a second, the last state in the end', async () => {
    const { rename, names, kinds } = await setUp();
    for (let i = 0; i < 50; i++) {
      rename(`name ${i}`);
      await vi.advanceTimersByTimeAsync(20);
    }
    expect(names().length).toBeGreaterThanOrEqual(3);
    await vi.advanceTimersByTimeAsync(300);
    expect(names().at(-1)).toBe('name 49');
    expect(kinds().at(-1)).toBe('saved');
  });
  it('a slow disk is not asked twice at once, and gets what came meanwhile', async () => {
    let running = 0;
    const { rename, names } = await setUp(async () => {
      expect(++running).toBe(1);
      await new Promise((resolve) => setTimeout(resolve, 1000));
      running--;
    });
    rename('a');
    await vi.advanceTimersByTimeAsync(400);
    rename('b');
    rename('c');
    await vi.advanceTimersByTimeAsync(3000);
    expect(names()).toEqual(['a', 'c']);
  });
  it('a full disk is said and tried again until there is room', async () => {
    let isFullNow = true;
    const { rename, states, kinds, names, autosave } = await setUp(async () => isFullNow && full());
    rename('a');
    await vi.advanceTimersByTimeAsync(300);
    expect(states.at(-1)).toMatchObject({ kind: 'failed', sentence: expect.stringMatching(/storage is full: the last changes are not saved/) });
    expect(autosave.isSaved()).toBe(false);
    isFullNow = false;
    await vi.advanceTimersByTimeAsync(6000);
    expect(kinds().at(-1)).toBe('saved');
    expect(names()).toEqual(['a']);
  });
  it('closing writes what is left; undoing to what is stored writes that, too', async () => {
    const { rename, names, autosave, session } = await setUp();
    rename('a');
    await vi.advanceTimersByTimeAsync(300);
    session.actions.undo();
    expect(await autosave.stop()).toBe(true);
    expect(names()).toEqual(['a', 'Test']);
  });
  it('after it ended nothing is written or tried again, also if the last word failed', async () => {
    let tries = 0;
    const { rename, autosave } = await setUp(async () => {
      tries++;
      full();
    });
    rename('a');
    await vi.advanceTimersByTimeAsync(300);
    expect(await autosave.stop()).toBe(false);
    const before = tries;
    rename('b');
    await vi.advanceTimersByTimeAsync(60_000);
    expect(tries).toBe(before);
  });
  it('a stroke that is still painted is stored as it grows', async () => {
    const { session, written } = await setUp();
    session.actions.edit({ type: 'add-mask', name: 'Paint', terms: [newTerm('paint', 'add', session.getState().document)] });
    await vi.advanceTimersByTimeAsync(300);
    for (let n = 1; n <= 20; n++) {
      const path = Array.from({ length: n * 3 }, (_, i) => i);
      session.actions.set({ unfinished: { type: 'add-stroke', maskId: 'mask-1', termId: 'term-1', stroke: { erase: false, sizePx: 20, hardness: 1, opacity: 1, flow: 1, spacing: 0.1, path: path.map((v, i) => (i % 3 === 2 ? 1 : v)) } } });
      await vi.advanceTimersByTimeAsync(300);
    }
    const points = written.map(({ masks }) => ((masks[0].terms[0].params.strokes as readonly Stroke[])[0]?.path.length ?? 0) / 3);
    expect(points.at(-1)).toBe(20);
    expect(points.length).toBeGreaterThan(15);
    // The document itself has no step for it yet.
    expect(session.getState().history.past).toHaveLength(1);
  });
});

describe('“saved” is only said when it is true', () => {
  it('files that could not be stored are named, whatever the document itself did', async () => {
    const { session, states, there } = await setUp();
    there.lacking = ['beauty.exr', 'gi.exr'];
    session.actions.addElements([]);
    session.actions.edit({ type: 'add-sources', sources: [{ ...smallDocument().sources[0], id: 'source-9', file: { ...smallDocument().sources[0].file, hash: 'e'.repeat(64) } }] });
    await vi.advanceTimersByTimeAsync(300);
    expect(states.at(-1)).toMatchObject({ kind: 'failed', sentence: expect.stringMatching(/storage is full: “beauty\.exr”, “gi\.exr” are not stored/) });
    there.lacking = [];
    await vi.advanceTimersByTimeAsync(6000);
    expect(states.at(-1)?.kind).toBe('saved');
  });
  it('data that was cleared under the open document is put back', async () => {
    const { names, states, there } = await setUp();
    await vi.advanceTimersByTimeAsync(10_000);
    expect(names()).toEqual([]);
    there.isStored = false;
    await vi.advanceTimersByTimeAsync(3500);
    there.isStored = true;
    expect(names()).toEqual(['Test']);
    expect(states.map(({ kind }) => kind)).toEqual(['saving', 'saved']);
  });
  it('leaving is held back by the browser while something is not stored', async () => {
    const { rename } = await setUp(async () => full());
    const leave = () => {
      const preventDefault = vi.fn();
      listeners.get('beforeunload')?.({ preventDefault });
      return preventDefault.mock.calls.length > 0;
    };
    expect(leave()).toBe(false);
    rename('a');
    await vi.advanceTimersByTimeAsync(300);
    expect(leave()).toBe(true);
  });
  it('a page that goes away writes at once, whatever is under way', async () => {
    const { rename, names } = await setUp(() => new Promise((resolve) => setTimeout(resolve, 1000)));
    rename('a');
    await vi.advanceTimersByTimeAsync(300);
    rename('b');
    listeners.get('pagehide')?.({ preventDefault: () => undefined });
    await vi.advanceTimersByTimeAsync(1100);
    expect(names()).toEqual(expect.arrayContaining(['a', 'b']));
  });
});

describe('a document is written by who holds it', () => {
  it('and by nobody else, who is told so', async () => {
    const claim = await claimDocument('doc');
    if (!claim) throw new Error('no claim');
    await saveDocument(claim, smallDocument(), 1);
    expect(await claimDocument('doc')).toBeNull();
    claim.release();
    await expect(saveDocument(claim, { ...smallDocument(), name: 'Old' }, 2)).rejects.toThrow(/taken over by another tab/);
    expect(storage.store('documents').get('doc')).toMatchObject({ document: { name: 'Test' } });
  });
  it('what could not be read again is not written over what can', async () => {
    const claim = await claimDocument('doc');
    if (!claim) throw new Error('no claim');
    await saveDocument(claim, smallDocument(), 1);
    await expect(saveDocument(claim, { ...after(smallDocument()), masks: 'none' as never }, 2)).rejects.toThrow(/cannot be stored, because the document could not be read again/);
    expect(storage.store('documents').get('doc')).toMatchObject({ savedAt: 1 });
  });
});

describe('what a failure is called', () => {
  it('no room, or the reason', () => {
    const noRoom = new DOMException('x', 'QuotaExceededError');
    expect([isFull(noRoom), isFull({ target: { error: noRoom } }), isFull(new Error('x')), isFull(null)]).toEqual([true, true, false, false]);
    expect(storageError(noRoom, 'the demo').message).toMatch(/storage is full: the demo could not be stored/);
    expect(storageError(new Error('A sentence.'), 'it').message).toBe('A sentence.');
    expect(storageError(new DOMException('x', 'InvalidStateError'), 'it').message).toBe('The browser could not store it (InvalidStateError). Reload the page and try again.');
  });
});
