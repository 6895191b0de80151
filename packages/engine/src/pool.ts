/**
 * Tasks onto workers: by priority, cancellable. A worker that breaks down, ends without a word,
 * hangs or runs out of memory is replaced, and what it was doing is done again, once.
 */
import { Cancelled, EngineError, fromWire } from './errors.ts';
import { PROTOCOL_VERSION, type RequestMessage, type RequestOf, type ResponseMessage, type ResponseOf, type TaskKind, type WorkerPort } from './protocol.ts';

/** Lower runs first. */
export const PRIORITY = { pointer: 0, view: 1, load: 2, output: 3, card: 4, warm: 5 } as const;

export interface TaskOptions {
  readonly priority?: number;
  readonly signal?: AbortSignal;
  /** Who cancels does not wait for the worker to stop: only for tasks that write nowhere. */
  readonly leaveAtOnce?: boolean;
  readonly onProgress?: (share: number) => void;
}

interface Pending {
  readonly message: RequestMessage;
  readonly priority: number;
  readonly signal?: AbortSignal;
  readonly onProgress?: (share: number) => void;
  readonly resolve: (response: unknown) => void;
  readonly reject: (error: Error) => void;
  /** How often a worker was lost over it. */
  losses: number;
}

/** A request that a worker must have got before it can do anything else. */
export interface Standing<K extends TaskKind = TaskKind> {
  readonly kind: K;
  readonly request: RequestOf<K>;
}

interface Seat {
  port: WorkerPort;
  /** Messages of a worker that was replaced are not listened to. */
  generation: number;
  readonly inFlight: Map<number, Pending>;
  /** How long it has said nothing while it had something to do. */
  quietMs: number;
}

/** A second task waits at the worker, so that it need not idle while the answer to the first travels. */
export const TASKS_IN_FLIGHT = 2;
const TICK_MS = 1000;
/** A worker that says nothing for so long hangs. Tiles and overlays take milliseconds; taking pictures apart takes long on slow machines. */
const QUIET_MS = { quick: 45_000, long: 300_000 };
const QUICK = new Set<TaskKind>(['start', 'tile', 'keep', 'probe', 'output', 'job', 'mask-picture', 'outline', 'forget']);
/** What changes its input in place cannot be done twice. */
const ONCE = new Set<TaskKind>(['convert-light']);
/** So many losses in a row without one answer, and it is given up. */
const MOST_LOSSES = 6;

/** Calls a function again and again; returns what stops it. The platform has the clock. */
export type Every = (milliseconds: number, tick: () => void) => () => void;

export interface PoolOptions {
  /** What a new worker is told before anything else, besides the kernels. */
  readonly standing?: () => readonly Standing[];
  /** A worker was lost and replaced. */
  readonly onRestart?: (sentence: string) => void;
  /** Memory ran out: whatever can be given back should be, before it is tried again. */
  readonly onShortage?: () => void;
}

export class WorkerPool {
  readonly #seats: readonly Seat[];
  readonly #queue: Pending[] = [];
  #options: PoolOptions = {};
  #module: unknown = null;
  #nextId = 1;
  #losses = 0;
  #hasAnswered = false;
  #broken: EngineError | null = null;
  #stopClock: (() => void) | null = null;

  constructor(
    count: number,
    readonly open: () => WorkerPort,
    readonly every: Every,
  ) {
    this.#seats = Array.from({ length: count }, () => ({ port: open(), generation: 0, inFlight: new Map<number, Pending>(), quietMs: 0 }));
    for (const worker of this.#seats.keys()) this.#listen(worker);
  }

  get size(): number {
    return this.#seats.length;
  }

  /** What the pool does when a worker is lost. */
  configure(options: PoolOptions): void {
    this.#options = options;
  }

  async start(module: unknown): Promise<void> {
    this.#module = module;
    await this.broadcast('start', { version: PROTOCOL_VERSION, module });
  }

  run<K extends TaskKind>(kind: K, request: RequestOf<K>, options: TaskOptions = {}): Promise<ResponseOf<K>> {
    return new Promise((resolve, reject) => {
      if (this.#broken) return reject(this.#broken);
      const { signal, priority = PRIORITY.load, onProgress } = options;
      if (signal?.aborted) return reject(new Cancelled());
      const pending: Pending = { message: { id: this.#nextId++, kind, request }, priority, signal, onProgress, resolve: resolve as (response: unknown) => void, reject, losses: 0 };
      if (options.leaveAtOnce) signal?.addEventListener('abort', () => reject(new Cancelled()), { once: true });
      // Behind all of the same priority.
      const at = this.#queue.findIndex((other) => other.priority > pending.priority);
      this.#queue.splice(at < 0 ? this.#queue.length : at, 0, pending);
      this.#pump();
    });
  }

  /** To every worker, ahead of everything that is sent afterwards. */
  broadcast<K extends TaskKind>(kind: K, request: RequestOf<K>): Promise<ResponseOf<K>[]> {
    return Promise.all(
      this.#seats.map((_, worker) => new Promise<ResponseOf<K>>((resolve, reject) => {
        if (this.#broken) return reject(this.#broken);
        this.#send(worker, { message: { id: this.#nextId++, kind, request }, priority: 0, resolve: resolve as (response: unknown) => void, reject, losses: 0 });
      })),
    );
  }

  #listen(worker: number): void {
    const seat = this.#seats[worker];
    const { generation, port } = seat;
    const isCurrent = () => seat.generation === generation && !this.#broken;
    port.onMessage((message) => isCurrent() && this.#receive(worker, message));
    port.onFailure((reason) => isCurrent() && this.#replace(worker, reason));
  }

  #send(worker: number, pending: Pending): void {
    const seat = this.#seats[worker];
    if (seat.inFlight.size === 0) seat.quietMs = 0;
    seat.inFlight.set(pending.message.id, pending);
    try {
      seat.port.post(pending.message);
    } catch (error) {
      // What cannot be sent (there is no memory for the copy, or it is no plain data) fails alone.
      seat.inFlight.delete(pending.message.id);
      pending.reject(error instanceof RangeError ? new EngineError('out-of-memory', 'There is not enough memory to hand over work. Close other documents and tabs.') : (error as Error));
      return;
    }
    this.#stopClock ??= this.every(TICK_MS, () => this.#tick());
  }

  /** Time is counted in ticks, so that a machine that slept does not take its workers for dead. */
  #tick(): void {
    let isBusy = false;
    for (const [worker, seat] of this.#seats.entries()) {
      const [first] = seat.inFlight.values();
      if (!first) continue;
      isBusy = true;
      seat.quietMs += TICK_MS;
      if (seat.quietMs > QUIET_MS[QUICK.has(first.message.kind) ? 'quick' : 'long']) this.#replace(worker, 'it did not answer any more');
    }
    if (!isBusy) this.#endClock();
  }

  #endClock(): void {
    this.#stopClock?.();
    this.#stopClock = null;
  }

  #pump(): void {
    for (const [worker, seat] of this.#seats.entries()) {
      while (seat.inFlight.size < TASKS_IN_FLIGHT) {
        const next = this.#take();
        if (!next) break;
        this.#send(worker, next);
      }
    }
  }

  #take(): Pending | null {
    for (let i = this.#queue.length - 1; i >= 0; i--) {
      if (this.#queue[i].signal?.aborted) this.#queue.splice(i, 1)[0].reject(new Cancelled());
    }
    return this.#queue.shift() ?? null;
  }

  #receive(worker: number, message: ResponseMessage): void {
    const seat = this.#seats[worker];
    const pending = seat.inFlight.get(message.id);
    seat.quietMs = 0;
    if (!pending) return;
    if ('progress' in message) {
      pending.onProgress?.(message.progress);
      return;
    }
    if (message.error?.code === 'out-of-memory' && pending.losses === 0 && !ONCE.has(pending.message.kind)) {
      this.#options.onShortage?.();
      this.#replace(worker, 'memory ran out', pending);
      return;
    }
    seat.inFlight.delete(message.id);
    this.#losses = 0;
    this.#hasAnswered = true;
    this.#pump();
    if (message.error) pending.reject(fromWire(message.error));
    else if (pending.signal?.aborted) pending.reject(new Cancelled());
    else pending.resolve(message.response);
  }

  /** Another worker in the place of one that is lost. What that one was doing is tried once more; what only waited there waits on. */
  #replace(worker: number, reason: string, culprit?: Pending): void {
    const seat = this.#seats[worker];
    const inFlight = [...seat.inFlight.values()];
    const running = culprit ?? inFlight[0];
    const waiting = inFlight.filter((pending) => pending !== running);
    seat.inFlight.clear();
    seat.generation++;
    seat.port.terminate();
    this.#losses++;
    // A worker that never said a word has nothing to run: the program itself could not be loaded.
    if (!this.#hasAnswered || this.#losses > MOST_LOSSES) {
      this.#fail(reason, running ? [running, ...waiting] : waiting);
      return;
    }
    seat.port = this.open();
    this.#listen(worker);
    const standing = [{ kind: 'start', request: { version: PROTOCOL_VERSION, module: this.#module } }, ...(this.#options.standing?.() ?? [])] as readonly Standing[];
    for (const { kind, request } of standing) this.#send(worker, { message: { id: this.#nextId++, kind, request }, priority: 0, resolve: () => undefined, reject: () => undefined, losses: 1 });
    const again: Pending[] = [...waiting];
    if (running) {
      running.losses++;
      if (running.losses > 1 || ONCE.has(running.message.kind)) running.reject(lost(reason));
      else again.unshift(running);
    }
    for (const pending of again) this.#send(worker, pending);
    this.#options.onRestart?.(`A part of the computation broke down (${reason}) and was started again.`);
    this.#pump();
  }

  #fail(reason: string, inFlight: readonly Pending[] = []): void {
    this.#broken = new EngineError('worker-failed', this.#hasAnswered ? `The computation stopped: ${reason}. The document is saved; reload the page to go on.` : `The computation could not be started: ${reason}. Check that the server is reachable and try again.`);
    for (const pending of [...inFlight, ...this.#queue.splice(0), ...this.#seats.flatMap((seat) => [...seat.inFlight.values()])]) pending.reject(this.#broken);
    for (const seat of this.#seats) {
      seat.inFlight.clear();
      seat.generation++;
      seat.port.terminate();
    }
    this.#endClock();
  }

  terminate(): void {
    this.#fail('it was closed');
  }
}

const lost = (reason: string) =>
  reason === 'memory ran out'
    ? new EngineError('out-of-memory', 'There is not enough memory for this, also after everything else was given back. Close other documents and tabs, or use fewer or smaller elements.')
    : new EngineError('worker-failed', `This could not be computed: the computation broke down twice over it (${reason}). The document is saved.`);

/** Waits for all, also when one fails: nothing may still write when the caller goes on. */
export async function allDone(tasks: readonly Promise<unknown>[]): Promise<void> {
  const failure = (await Promise.allSettled(tasks)).find((result) => result.status === 'rejected');
  if (failure) throw failure.reason;
}
