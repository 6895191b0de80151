import { FormatError } from '@tazzel/formats';
import { describe, expect, it, vi } from 'vitest';
import { Cancelled, fromWire, toWire } from './errors.ts';
import { type PoolOptions, PRIORITY, WorkerPool } from './pool.ts';
import type { RequestMessage, ResponseMessage, WorkerPort } from './protocol.ts';

/** Workers that answer when they are told to. A worker that is replaced is heard no more. */
function setUp(count: number, options: PoolOptions = {}) {
  interface Worker {
    readonly posted: RequestMessage[];
    answer: (message: ResponseMessage) => void;
    fail: (reason: string) => void;
    isTerminated: boolean;
  }
  const opened: Worker[] = [];
  const open = (): WorkerPort => {
    const worker: Worker = { posted: [], answer: () => undefined, fail: () => undefined, isTerminated: false };
    opened.push(worker);
    return {
      post: (message) => void worker.posted.push(message),
      onMessage: (listener) => {
        worker.answer = listener;
      },
      onFailure: (listener) => {
        worker.fail = listener;
      },
      terminate: () => {
        worker.isTerminated = true;
      },
    };
  };
  const every = (milliseconds: number, tick: () => void) => {
    const timer = setInterval(tick, milliseconds);
    return () => clearInterval(timer);
  };
  const pool = new WorkerPool(count, open, every);
  pool.configure(options);
  const name = ({ kind, request }: RequestMessage) => (kind === 'sha256' ? (request as { file: { name: string } }).file.name : kind);
  const ask = (what: string, more: Parameters<WorkerPool['run']>[2] = {}) => pool.run('sha256', { file: { name: what, size: 1, handle: null } }, more);
  /** Answers the oldest question that a worker has. */
  const answer = (worker: number) => {
    const message = opened[worker].posted.shift() as RequestMessage;
    opened[worker].answer({ id: message.id, response: `${name(message)} done` });
    return name(message);
  };
  const waiting = (worker: number) => opened[worker].posted.map(name);
  /** So that the pool knows that its workers run. */
  const greet = async () => {
    const hello = ask('hello');
    answer(0);
    await hello;
  };
  return { pool, ask, answer, waiting, greet, opened, break: (worker: number, reason: string) => opened[worker].fail(reason), fail: (worker: number, error: ReturnType<typeof toWire>) => opened[worker].answer({ id: (opened[worker].posted.shift() as RequestMessage).id, error }) };
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
  it('what may be left at once is left at once', async () => {
    const { ask, answer } = setUp(1);
    const abort = new AbortController();
    const running = ask('running', { signal: abort.signal, leaveAtOnce: true });
    abort.abort();
    await expect(running).rejects.toBeInstanceOf(Cancelled);
    expect(answer(0)).toBe('running');
  });
  it('progress is handed on', () => {
    const { ask, opened } = setUp(1);
    const shares: number[] = [];
    void ask('a', { onProgress: (share) => void shares.push(share) });
    for (const progress of [0.25, 0.5]) opened[0].answer({ id: opened[0].posted[0].id, progress });
    expect(shares).toEqual([0.25, 0.5]);
  });
});

describe('a worker that is lost', () => {
  it('is replaced; the new one is told what it must know, and does what the old one had to do', async () => {
    const told: string[] = [];
    const { ask, answer, waiting, greet, opened, break: breakDown } = setUp(2, { standing: () => [{ kind: 'forget', request: null }], onRestart: (sentence) => void told.push(sentence) });
    await greet();
    const tasks = ['a', 'b', 'c', 'd', 'e'].map((what) => ask(what));
    expect([waiting(0), waiting(1)]).toEqual([['a', 'b'], ['c', 'd']]);
    breakDown(1, 'it ended without a word');
    expect(opened[1].isTerminated).toBe(true);
    expect(waiting(2)).toEqual(['start', 'forget', 'c', 'd']);
    for (const worker of [2, 2, 2, 2, 2, 0, 0]) answer(worker);
    expect(await Promise.all(tasks)).toEqual(['a done', 'b done', 'c done', 'd done', 'e done']);
    expect(told).toEqual(['A part of the computation broke down (it ended without a word) and was started again.']);
  });
  it('what breaks two workers is given up, what only waited there is not', async () => {
    const { ask, answer, waiting, greet, break: breakDown } = setUp(1);
    await greet();
    const deadly = ask('deadly').catch((error: Error) => error);
    const harmless = ask('harmless');
    breakDown(0, 'it ended without a word');
    expect(waiting(1)).toEqual(['start', 'deadly', 'harmless']);
    answer(1);
    breakDown(1, 'it ended without a word');
    expect(await deadly).toMatchObject({ code: 'worker-failed', message: expect.stringMatching(/broke down twice over it/) });
    expect(waiting(2)).toEqual(['start', 'harmless']);
    answer(2);
    answer(2);
    expect(await harmless).toBe('harmless done');
  });
  it('what changes its input in place is not done twice', async () => {
    const { pool, greet, waiting, break: breakDown } = setUp(1);
    await greet();
    const task = pool.run('convert-light', { color: [], matrix: [] as never });
    breakDown(0, 'it ended without a word');
    await expect(task).rejects.toMatchObject({ code: 'worker-failed' });
    expect(waiting(1)).toEqual(['start']);
  });
  it('that hangs is noticed, and one that says how far it is does not hang', async () => {
    vi.useFakeTimers();
    try {
      const { pool, ask, answer, greet, waiting, opened } = setUp(1);
      await greet();
      const tile = pool.run('tile', { draw: { jobId: 1, target: { place: { node: 0, steps: 0 }, tone: null, focus: null }, picture: 0, region: { x: 0, y: 0, width: 1, height: 1 }, kept: [], start: null } }).catch(() => 'lost');
      vi.advanceTimersByTime(60_000);
      expect(opened).toHaveLength(2);
      expect(waiting(1)).toEqual(['start', 'tile']);
      answer(1);
      vi.advanceTimersByTime(60_000);
      expect(await tile).toBe('lost');
      answer(2);
      void ask('slow', { onProgress: () => undefined });
      const slow = opened.at(-1);
      for (let n = 0; n < 20; n++) {
        vi.advanceTimersByTime(200_000);
        for (const { id } of slow?.posted ?? []) slow?.answer({ id, progress: n / 20 });
      }
      expect(opened).toHaveLength(3);
    } finally {
      vi.useRealTimers();
    }
  });
  it('that runs out of memory is replaced after everything was given back, and tried once more', async () => {
    let shortages = 0;
    const { ask, answer, greet, waiting, fail } = setUp(1, { onShortage: () => void shortages++ });
    await greet();
    const task = ask('large');
    fail(0, toWire(new RangeError('Array buffer allocation failed')));
    expect([shortages, waiting(1)]).toEqual([1, ['start', 'large']]);
    answer(1);
    fail(1, toWire(new RangeError('Array buffer allocation failed'), 'large.exr'));
    await expect(task).rejects.toMatchObject({ code: 'out-of-memory', message: 'large.exr: there is not enough memory. Close other documents and tabs, or use fewer or smaller elements.' });
  });
  it('it is what ran out of memory that is tried once, not what happened to run beside it', async () => {
    const { ask, answer, greet, waiting, opened } = setUp(1);
    await greet();
    const [small, large] = [ask('small'), ask('large').catch((error: Error) => error)];
    for (const worker of [0, 1]) {
      const { id } = opened[worker].posted.find((message) => (message.request as { file?: { name: string } }).file?.name === 'large') as RequestMessage;
      opened[worker].answer({ id, error: toWire(new RangeError('Array buffer allocation failed')) });
    }
    expect(await large).toMatchObject({ code: 'out-of-memory' });
    expect(waiting(1)).toContain('small');
    for (let n = 0; n < 2; n++) answer(1);
    while (waiting(1).length > 0) answer(1);
    expect(await small).toBe('small done');
  });
  it('again and again without one answer ends with one sentence, now and later', async () => {
    const { ask, greet, opened, pool } = setUp(1);
    await greet();
    const tasks = Array.from({ length: 20 }, (_, n) => ask(`${n}`).catch((error: Error) => error.message));
    for (let n = 0; n < 10; n++) opened[opened.length - 1].fail('out of luck');
    expect((await Promise.all(tasks)).at(-1)).toBe('The computation stopped: out of luck. The document is saved; reload the page to go on.');
    await expect(ask('f')).rejects.toMatchObject({ code: 'worker-failed' });
    await expect(pool.broadcast('forget', null)).rejects.toMatchObject({ code: 'worker-failed' });
    expect(opened.length).toBeLessThan(10);
  });
  it('before it ever ran says that it could not be started', async () => {
    const { pool, break: breakDown } = setUp(2);
    const start = pool.start(null);
    breakDown(0, 'a worker broke down');
    await expect(start).rejects.toThrow('The computation could not be started: a worker broke down. Check that the server is reachable and try again.');
  });
});

describe('errors', () => {
  it('errors cross with family, code and sentence', async () => {
    const { ask, fail } = setUp(1);
    const task = ask('bad.exr');
    fail(0, toWire(new FormatError('corrupt', 'bad.exr', 'a chunk is missing.')));
    await expect(task).rejects.toMatchObject({ name: 'FormatError', code: 'corrupt', fileName: 'bad.exr', message: 'bad.exr: a chunk is missing.' });
  });
  it('of an engine are said in our words, with the file', () => {
    const said = (error: unknown) => fromWire(toWire(error, 'yard.exr'));
    expect(said(new RangeError('Array buffer allocation failed'))).toMatchObject({ code: 'out-of-memory', message: expect.stringContaining('yard.exr: there is not enough memory') });
    expect(said(new RangeError('Invalid typed array length: 9')).message).toMatch(/something unexpected/);
    expect(said(new RangeError('Invalid typed array length: 99999999999'))).toMatchObject({ code: 'out-of-memory' });
    expect(said(new RangeError('Maximum call stack size exceeded'))).toMatchObject({ code: 'too-deep', message: expect.stringMatching(/^yard\.exr: its parts lie too deep/) });
    expect(said(new RangeError('Offset is outside the bounds of the DataView'))).toMatchObject({ code: 'unexpected' });
    expect(said(new TypeError('Failed to fetch'))).toMatchObject({ message: expect.stringMatching(/^yard\.exr: a part of the program could not be loaded/) });
    expect(said(new DOMException('gone', 'NotReadableError'))).toMatchObject({ code: 'missing-file', message: expect.stringMatching(/yard\.exr: the file cannot be read any more/) });
    expect(said('odd').message).toBe('yard.exr: something unexpected happened (odd). The document is saved.');
  });
});
