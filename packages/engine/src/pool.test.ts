import { FormatError } from '@tazzel/formats';
import { describe, expect, it } from 'vitest';
import { Cancelled, fromWire, toWire } from './errors.ts';
import { PRIORITY, WorkerPool } from './pool.ts';
import type { RequestMessage, ResponseMessage, WorkerPort } from './protocol.ts';

/** Workers that answer when they are told to. */
function setUp(count: number) {
  const posted: { worker: number; message: RequestMessage }[] = [];
  const answerers: ((message: ResponseMessage) => void)[] = [];
  const breakers: ((reason: string) => void)[] = [];
  const ports: WorkerPort[] = Array.from({ length: count }, (_, worker) => ({
    post: (message) => void posted.push({ worker, message }),
    onMessage: (listener) => void answerers.push(listener),
    onFailure: (listener) => void breakers.push(listener),
    terminate: () => undefined,
  }));
  const pool = new WorkerPool(ports);
  const name = (message: RequestMessage) => (message.request as { file: { name: string } }).file.name;
  const ask = (what: string, options: Parameters<WorkerPool['run']>[2] = {}) => pool.run('sha256', { file: { name: what, size: 1, handle: null } }, options);
  /** Answers the oldest question that a worker has. */
  const answer = (worker: number) => {
    const at = posted.findIndex((entry) => entry.worker === worker);
    const [{ message }] = posted.splice(at, 1);
    answerers[worker]({ id: message.id, response: `${name(message)} done` });
    return name(message);
  };
  const waiting = (worker: number) => posted.filter((entry) => entry.worker === worker).map(({ message }) => name(message));
  return { pool, ask, answer, waiting, break: (worker: number, reason: string) => breakers[worker](reason), fail: (worker: number, error: ReturnType<typeof toWire>) => answerers[worker]({ id: posted.filter((entry) => entry.worker === worker)[0].message.id, error }) };
}

describe('the pool', () => {
  it('gives two tasks to each worker and the rest by priority, in order within one', async () => {
    const { ask, answer, waiting } = setUp(1);
    const results = [ask('a'), ask('b'), ask('card', { priority: PRIORITY.card }), ask('view 1', { priority: PRIORITY.view }), ask('view 2', { priority: PRIORITY.view }), ask('pointer', { priority: PRIORITY.pointer })];
    expect(waiting(0)).toEqual(['a', 'b']);
    const order = Array.from({ length: 6 }, () => answer(0));
    expect(order).toEqual(['a', 'b', 'pointer', 'view 1', 'view 2', 'card']);
    expect(await Promise.all(results)).toEqual(['a done', 'b done', 'card done', 'view 1 done', 'view 2 done', 'pointer done']);
  });
  it('returns tiles to the worker that knows them; an idle one helps out unless the tile is bound', () => {
    const { ask, answer, waiting } = setUp(2);
    for (let i = 0; i < 4; i++) void ask(`mine ${i}`, { affinity: 2 });
    expect([waiting(0), waiting(1)]).toEqual([['mine 0', 'mine 1'], ['mine 2']]);
    const bound = setUp(2);
    for (let i = 0; i < 4; i++) void bound.ask(`bound ${i}`, { affinity: 2, sticky: true });
    expect([bound.waiting(0), bound.waiting(1)]).toEqual([['bound 0', 'bound 1'], []]);
    bound.answer(0);
    expect(bound.waiting(0)).toEqual(['bound 1', 'bound 2']);
    answer(1);
    expect(waiting(1)).toEqual(['mine 3']);
  });
  it('drops what was cancelled before it began, and the answer of what was cancelled later', async () => {
    const { ask, answer, waiting } = setUp(1);
    const abort = new AbortController();
    const running = ask('running', { signal: abort.signal });
    void ask('other');
    const queued = ask('queued', { signal: abort.signal });
    abort.abort();
    await expect(ask('late', { signal: abort.signal })).rejects.toBeInstanceOf(Cancelled);
    answer(0);
    await expect(running).rejects.toBeInstanceOf(Cancelled);
    await expect(queued).rejects.toBeInstanceOf(Cancelled);
    expect(waiting(0)).toEqual(['other']);
  });
  it('a worker that breaks down fails everything with one sentence, now and later', async () => {
    const { ask, pool, break: breakDown } = setUp(2);
    const tasks = [ask('a'), ask('b'), ask('c'), ask('d'), ask('e')].map((task) => task.catch((error: Error) => error.message));
    breakDown(1, 'out of memory');
    for (const message of await Promise.all(tasks)) expect(message).toBe('The computation stopped: out of memory. The document is saved; reload the page to go on.');
    await expect(ask('f')).rejects.toMatchObject({ code: 'worker-failed' });
    await expect(pool.broadcast('sha256', { file: { name: '', size: 0, handle: null } })).rejects.toMatchObject({ code: 'worker-failed' });
  });
  it('errors cross with family, code and sentence', async () => {
    const { ask, fail } = setUp(1);
    const task = ask('bad.exr');
    fail(0, toWire(new FormatError('corrupt', 'bad.exr', 'a chunk is missing.')));
    await expect(task).rejects.toMatchObject({ name: 'FormatError', code: 'corrupt', fileName: 'bad.exr', message: 'bad.exr: a chunk is missing.' });
    expect(fromWire(toWire(new RangeError('Array buffer allocation failed')))).toMatchObject({ code: 'out-of-memory', message: expect.stringContaining('not enough memory') });
    expect(fromWire(toWire('odd')).message).toBe('odd');
  });
});
