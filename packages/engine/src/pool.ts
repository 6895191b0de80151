/** Tasks onto workers: by priority, cancellable, tiles returning to the worker that remembers them. */
import { Cancelled, EngineError, fromWire } from './errors.ts';
import { PROTOCOL_VERSION, type RequestMessage, type RequestOf, type ResponseMessage, type ResponseOf, type TaskKind, type WorkerPort } from './protocol.ts';

/** Lower runs first. */
export const PRIORITY = { pointer: 0, view: 1, load: 2, output: 3, card: 4, warm: 5 } as const;

export interface TaskOptions {
  readonly priority?: number;
  readonly signal?: AbortSignal;
  /** Preferred worker, modulo their number: the one whose cache may hold the result. */
  readonly affinity?: number;
  /** Waits for that worker: another one would have to compute what is kept there. */
  readonly sticky?: boolean;
}

interface Pending {
  readonly message: RequestMessage;
  readonly priority: number;
  readonly affinity: number | null;
  readonly sticky: boolean;
  readonly signal?: AbortSignal;
  readonly resolve: (response: unknown) => void;
  readonly reject: (error: Error) => void;
}

/** A second task waits at the worker, so that it need not idle while the answer to the first travels. */
const TASKS_IN_FLIGHT = 2;

export class WorkerPool {
  readonly #ports: readonly WorkerPort[];
  readonly #inFlight: Map<number, Pending>[];
  readonly #queue: Pending[] = [];
  #nextId = 1;
  #broken: EngineError | null = null;

  constructor(ports: readonly WorkerPort[]) {
    this.#ports = ports;
    this.#inFlight = ports.map(() => new Map());
    for (const [worker, port] of ports.entries()) {
      port.onMessage((message) => this.#receive(worker, message));
      port.onFailure((reason) => this.#fail(reason));
    }
  }

  get size(): number {
    return this.#ports.length;
  }

  async start(module: unknown): Promise<void> {
    await this.broadcast('start', { version: PROTOCOL_VERSION, module });
  }

  run<K extends TaskKind>(kind: K, request: RequestOf<K>, options: TaskOptions = {}): Promise<ResponseOf<K>> {
    return new Promise((resolve, reject) => {
      if (this.#broken) return reject(this.#broken);
      if (options.signal?.aborted) return reject(new Cancelled());
      const affinity = options.affinity === undefined ? null : options.affinity % this.#ports.length;
      const pending: Pending = { message: { id: this.#nextId++, kind, request }, priority: options.priority ?? PRIORITY.load, affinity, sticky: options.sticky ?? false, signal: options.signal, resolve: resolve as (response: unknown) => void, reject };
      // Behind all of the same priority.
      const at = this.#queue.findIndex((other) => other.priority > pending.priority);
      this.#queue.splice(at < 0 ? this.#queue.length : at, 0, pending);
      this.#pump();
    });
  }

  /** To every worker, ahead of everything that is sent afterwards. */
  broadcast<K extends TaskKind>(kind: K, request: RequestOf<K>): Promise<ResponseOf<K>[]> {
    return Promise.all(
      this.#ports.map((_, worker) => new Promise<ResponseOf<K>>((resolve, reject) => {
        if (this.#broken) return reject(this.#broken);
        this.#send(worker, { message: { id: this.#nextId++, kind, request }, priority: 0, affinity: worker, sticky: true, resolve: resolve as (response: unknown) => void, reject });
      })),
    );
  }

  #send(worker: number, pending: Pending): void {
    this.#inFlight[worker].set(pending.message.id, pending);
    this.#ports[worker].post(pending.message);
  }

  #pump(): void {
    for (let worker = 0; worker < this.#ports.length; worker++) {
      while (this.#inFlight[worker].size < TASKS_IN_FLIGHT) {
        const next = this.#take(worker);
        if (!next) break;
        this.#send(worker, next);
      }
    }
  }

  /** The first task this worker should have: its own or anybody's, and another worker's only if that one is busy. */
  #take(worker: number): Pending | null {
    for (let i = this.#queue.length - 1; i >= 0; i--) {
      if (this.#queue[i].signal?.aborted) this.#queue.splice(i, 1)[0].reject(new Cancelled());
    }
    const idle = this.#inFlight[worker].size === 0;
    const mine = (task: Pending) => task.affinity === null || task.affinity === worker;
    const foreign = (task: Pending) => idle && !task.sticky && task.affinity !== null && this.#inFlight[task.affinity].size >= TASKS_IN_FLIGHT;
    const at = this.#queue.findIndex((task) => mine(task) || foreign(task));
    return at < 0 ? null : this.#queue.splice(at, 1)[0];
  }

  #receive(worker: number, message: ResponseMessage): void {
    const pending = this.#inFlight[worker].get(message.id);
    if (!pending) return;
    this.#inFlight[worker].delete(message.id);
    this.#pump();
    if (message.error) pending.reject(fromWire(message.error));
    else if (pending.signal?.aborted) pending.reject(new Cancelled());
    else pending.resolve(message.response);
  }

  #fail(reason: string): void {
    this.#broken = new EngineError('worker-failed', `The computation stopped: ${reason}. The document is saved; reload the page to go on.`);
    for (const pending of [...this.#queue.splice(0), ...this.#inFlight.flatMap((tasks) => [...tasks.values()])]) pending.reject(this.#broken);
    for (const tasks of this.#inFlight) tasks.clear();
  }

  terminate(): void {
    for (const port of this.#ports) port.terminate();
    this.#fail('it was closed');
  }
}

/** Waits for all, also when one fails: nothing may still write when the caller goes on. */
export async function allDone(tasks: readonly Promise<unknown>[]): Promise<void> {
  const failure = (await Promise.allSettled(tasks)).find((result) => result.status === 'rejected');
  if (failure) throw failure.reason;
}
