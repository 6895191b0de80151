/** Requests onto workers: each worker has one at a time, whoever is free takes the next. */
import { RenderError, type RenderErrorCode } from '../errors.ts';
import type { RenderPort, RenderTask, RequestOf, ResponseOf } from './protocol.ts';

interface Waiting {
  readonly kind: RenderTask;
  readonly request: unknown;
  readonly resolve: (response: unknown) => void;
  readonly reject: (error: Error) => void;
}

export class RenderPool {
  readonly #ports: readonly RenderPort[];
  readonly #busy: (Waiting & { id: number })[] = [];
  readonly #queues: Waiting[][];
  readonly #shared: Waiting[] = [];
  #nextId = 1;
  #broken: Error | null = null;

  constructor(ports: readonly RenderPort[]) {
    this.#ports = ports;
    this.#queues = ports.map(() => []);
    for (const [worker, port] of ports.entries()) {
      port.onMessage(({ id, response, error }) => {
        const task = this.#busy[worker];
        if (task?.id !== id) return;
        delete this.#busy[worker];
        this.#pump();
        if (error) task.reject(error.name === 'RenderError' ? new RenderError(error.code as RenderErrorCode, error.message) : new Error(error.message));
        else task.resolve(response);
      });
      port.onFailure((reason) => this.#fail(`The rendering stopped: ${reason}. Start it again; less memory is needed at a smaller size or with fewer elements.`));
    }
  }

  get size(): number {
    return this.#ports.length;
  }

  run<K extends RenderTask>(kind: K, request: RequestOf<K>): Promise<ResponseOf<K>> {
    return this.#enqueue(this.#shared, kind, request);
  }

  /** To every worker, each before its next shared request. */
  async broadcast<K extends RenderTask>(kind: K, request: RequestOf<K>): Promise<void> {
    await Promise.all(this.#queues.map((queue) => this.#enqueue(queue, kind, request)));
  }

  #enqueue<K extends RenderTask>(queue: Waiting[], kind: K, request: RequestOf<K>): Promise<ResponseOf<K>> {
    return new Promise((resolve, reject) => {
      if (this.#broken) return reject(this.#broken);
      queue.push({ kind, request, resolve: resolve as (response: unknown) => void, reject });
      this.#pump();
    });
  }

  #pump(): void {
    for (const [worker, port] of this.#ports.entries()) {
      if (this.#busy[worker]) continue;
      const next = this.#queues[worker].shift() ?? this.#shared.shift();
      if (!next) continue;
      const id = this.#nextId++;
      this.#busy[worker] = { ...next, id };
      port.post({ id, kind: next.kind, request: next.request });
    }
  }

  #fail(sentence: string): void {
    this.#broken ??= new RenderError('worker-failed', sentence);
    for (const task of [...this.#busy, ...this.#queues.flat(), ...this.#shared]) task?.reject(this.#broken);
    this.#busy.length = 0;
    this.#shared.length = 0;
    for (const queue of this.#queues) queue.length = 0;
  }

  terminate(): void {
    for (const port of this.#ports) port.terminate();
    this.#fail('The rendering was closed.');
  }
}
