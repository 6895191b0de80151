import { createSession } from '@tazzel/editor';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { smallDocument } from '../../../../tests/documents.ts';
import { type SaveState, startAutosave } from './autosave.ts';
import { isFull, storageSentence } from './database.ts';

const listeners = { addEventListener: () => undefined, removeEventListener: () => undefined };
beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('document', listeners);
  vi.stubGlobal('window', listeners);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

function setUp(save: (name: string) => Promise<unknown>) {
  const session = createSession(smallDocument());
  const states: SaveState['kind'][] = [];
  const written: string[] = [];
  const stop = startAutosave(session, (state) => void states.push(state.kind), async (document) => {
    await save(document.name);
    written.push(document.name);
  });
  const rename = (name: string) => session.actions.edit({ type: 'rename-document', name }, 'typing');
  return { rename, states, written, stop, session };
}

describe('saving as one works', () => {
  it('in the middle of a drag at least every quarter of a second, the last state in the end', async () => {
    const { rename, written, states } = setUp(async () => undefined);
    for (let i = 0; i < 50; i++) {
      rename(`name ${i}`);
      await vi.advanceTimersByTimeAsync(20);
    }
    expect(written.length).toBeGreaterThanOrEqual(3);
    await vi.advanceTimersByTimeAsync(300);
    expect(written.at(-1)).toBe('name 49');
    expect(states.at(-1)).toBe('saved');
  });
  it('a slow disk is not asked twice at once, and gets what came meanwhile', async () => {
    let running = 0;
    const { rename, written } = setUp(async () => {
      expect(++running).toBe(1);
      await new Promise((resolve) => setTimeout(resolve, 1000));
      running--;
    });
    rename('a');
    await vi.advanceTimersByTimeAsync(400);
    rename('b');
    rename('c');
    await vi.advanceTimersByTimeAsync(3000);
    expect(written).toEqual(['a', 'c']);
  });
  it('a full disk is said and tried again until there is room', async () => {
    let full = true;
    const { rename, states, written } = setUp(async () => {
      if (full) throw new DOMException('no room', 'QuotaExceededError');
    });
    rename('a');
    await vi.advanceTimersByTimeAsync(300);
    expect(states.at(-1)).toBe('failed');
    full = false;
    await vi.advanceTimersByTimeAsync(6000);
    expect(states.at(-1)).toBe('saved');
    expect(written).toEqual(['a']);
  });
  it('closing writes what is left; undoing to what is stored writes that, too', async () => {
    const { rename, written, stop, session } = setUp(async () => undefined);
    rename('a');
    await vi.advanceTimersByTimeAsync(300);
    session.actions.undo();
    await stop();
    expect(written).toEqual(['a', 'Test']);
  });
});

describe('what a failure is called', () => {
  it('no room, or the reason', () => {
    const full = new DOMException('x', 'QuotaExceededError');
    expect([isFull(full), isFull({ target: { error: full } }), isFull(new Error('x')), isFull(null)]).toEqual([true, true, false, false]);
    expect(storageSentence(full)).toMatch(/storage is full/);
    expect(storageSentence(new Error('broken'))).toMatch(/could not save: broken\. Save the document as a project file/);
  });
});
