import type { SessionStore } from '@tazzel/editor';

/** Small pictures wait for a quiet moment and are made two at a time; what was superseded is dropped. */
type Task = (signal: AbortSignal) => Promise<void>;

const QUIET_MS = 140;
const AT_ONCE = 2;

interface Entry {
  readonly task: Task;
  readonly abort: AbortController;
  /** Everything else comes first. */
  readonly isLast: boolean;
}

class SmallPictures {
  readonly #waiting: Entry[] = [];
  #running = 0;
  #timer: ReturnType<typeof setTimeout> | undefined;

  /** Returns a function that withdraws the task. */
  add(task: Task, isLast = false): () => void {
    const entry = { task, abort: new AbortController(), isLast };
    this.#waiting.push(entry);
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#pump(), QUIET_MS);
    return () => {
      entry.abort.abort();
      const at = this.#waiting.indexOf(entry);
      if (at >= 0) this.#waiting.splice(at, 1);
    };
  }

  /** Runs a task now and after each change of the document, when there is time. Returns what ends it. */
  follow(session: SessionStore, task: Task, isLast = false): () => void {
    let withdraw = this.add(task, isLast);
    const unsubscribe = session.subscribe((now, before) => {
      if (now.document === before.document) return;
      withdraw();
      withdraw = this.add(task, isLast);
    });
    return () => {
      unsubscribe();
      withdraw();
    };
  }

  #pump(): void {
    while (this.#running < AT_ONCE && this.#waiting.length > 0) {
      const next = this.#waiting.findIndex(({ isLast }) => !isLast);
      const [{ task, abort }] = this.#waiting.splice(Math.max(0, next), 1);
      this.#running++;
      // A card that cannot be made stays as it was; the picture itself reports what is wrong.
      void task(abort.signal)
        .catch(() => undefined)
        .finally(() => {
          this.#running--;
          this.#pump();
        });
    }
  }
}

export const smallPictures = new SmallPictures();
