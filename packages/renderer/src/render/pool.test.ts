import { describe, expect, it } from 'vitest';
import type { RequestMessage, RenderPort, ResponseMessage } from './protocol.ts';
import { RenderPool } from './pool.ts';

/** A worker that answers when it is told to. */
class FakePort implements RenderPort {
  readonly got: RequestMessage[] = [];
  ended = false;
  #listener: (message: ResponseMessage) => void = () => undefined;
  #failure: (reason: string) => void = () => undefined;
  post(message: RequestMessage): void {
    this.got.push(message);
  }
  onMessage(listener: (message: ResponseMessage) => void): void {
    this.#listener = listener;
  }
  onFailure(listener: (reason: string) => void): void {
    this.#failure = listener;
  }
  terminate(): void {
    this.ended = true;
  }
  answer(response: unknown = null, error?: ResponseMessage['error']): void {
    this.#listener({ id: this.got[this.got.length - 1].id, response, error });
  }
  breakDown(): void {
    this.#failure('out of memory');
  }
}

const tile = (n: number) => ({ tile: n, region: { x: 0, y: 0, width: 1, height: 1 }, first: 0, end: 1 });

describe('the pool of rendering workers', () => {
  it('gives each worker one request at a time, and the next to whoever is free', async () => {
    const [a, b] = [new FakePort(), new FakePort()];
    const pool = new RenderPool([a, b]);
    const results = [0, 1, 2, 3].map((n) => pool.run('tile', tile(n)));
    expect([a.got.length, b.got.length]).toEqual([1, 1]);
    b.answer(0.5);
    expect(await results[1]).toBe(0.5);
    expect((b.got[1].request as { tile: number }).tile).toBe(2);
    b.answer(0.25);
    a.answer(1);
    expect([await results[0], await results[2]]).toEqual([1, 0.25]);
    b.answer(2);
    expect(await results[3]).toBe(2);
  });
  it('a broadcast reaches every worker before its next shared request', async () => {
    const [a, b] = [new FakePort(), new FakePort()];
    const pool = new RenderPool([a, b]);
    const first = pool.run('tile', tile(0));
    const second = pool.run('tile', tile(1));
    const told = pool.broadcast('start', { module: {} });
    const third = pool.run('tile', tile(2));
    a.answer(1);
    expect(a.got[1].kind).toBe('start');
    a.answer();
    expect(a.got[2].kind).toBe('tile');
    b.answer(1);
    expect(b.got[1].kind).toBe('start');
    b.answer();
    a.answer(1);
    await Promise.all([first, second, told, third]);
  });
  it('an error comes back with its code and sentence; the worker goes on', async () => {
    const port = new FakePort();
    const pool = new RenderPool([port]);
    const bad = pool.run('tile', tile(0));
    const good = pool.run('tile', tile(1));
    port.answer(undefined, { name: 'RenderError', code: 'too-large', message: 'too much' });
    await expect(bad).rejects.toMatchObject({ name: 'RenderError', code: 'too-large', message: 'too much' });
    port.answer(3);
    expect(await good).toBe(3);
  });
  it('a broken worker ends everything with one sentence that says what to do', async () => {
    const [a, b] = [new FakePort(), new FakePort()];
    const pool = new RenderPool([a, b]);
    const waiting = [0, 1, 2].map((n) => pool.run('tile', tile(n)));
    b.breakDown();
    for (const one of waiting) await expect(one).rejects.toMatchObject({ code: 'worker-failed', message: expect.stringMatching(/out of memory.*smaller size or with fewer elements/) });
    await expect(pool.run('tile', tile(4))).rejects.toMatchObject({ code: 'worker-failed' });
    // A late answer of the other worker changes nothing.
    a.answer(1);
    pool.terminate();
    expect([a.ended, b.ended]).toEqual([true, true]);
  });
});
