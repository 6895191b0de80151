/**
 * Who may write what. A document belongs to one page at a time; files are stored under a lock that all who store share and that who sweeps
 * needs alone. The browser gives back what a page holds when it goes away.
 */
const documentLock = (id: string) => `tazzel-document-${id}`;
const FILES = 'tazzel-files';
/** A page that holds a document and is asked for it answers within this, or it is frozen. */
const ANSWER_MS = 2500;

/** Files are being stored that no document refers to yet, or are put back: nothing is swept meanwhile. */
export const whileFilesArrive = <T>(task: () => Promise<T>): Promise<T> => navigator.locks.request(FILES, { mode: 'shared' }, task) as Promise<T>;

/** Runs the task if nobody stores files now. Returns whether it ran. */
export const ifNoFilesArrive = (task: () => Promise<void>): Promise<boolean> =>
  navigator.locks.request(FILES, { ifAvailable: true }, async (lock) => {
    if (lock) await task();
    return lock !== null;
  }) as Promise<boolean>;

/** The right to write a document. It ends when it is given back or taken over by another page. */
export class Claim {
  #release: (() => void) | null = null;
  readonly #lost = new Set<() => void>();

  constructor(readonly id: string) {}

  get isHeld(): boolean {
    return this.#release !== null;
  }

  /** Asks for the lock. `how`: within a time, or in any case. Returns whether it was got. */
  take(how: LockOptions): Promise<boolean> {
    return new Promise((resolve) => {
      navigator.locks
        .request(documentLock(this.id), how, (lock) => {
          if (!lock) return resolve(false);
          return new Promise<void>((release) => {
            this.#release = release;
            resolve(true);
          });
        })
        .catch(() => {
          // Another page took it, or the time was over.
          const wasHeld = this.isHeld;
          this.#release = null;
          resolve(false);
          if (wasHeld) for (const listener of this.#lost) listener();
        });
    });
  }

  release(): void {
    this.#release?.();
    this.#release = null;
  }

  /** Called when another page took the document over. */
  onLost(listener: () => void): void {
    this.#lost.add(listener);
  }
}

/** What was just given back is free a moment later: who asks waits for so long before it counts as taken. */
const MOMENT_MS = 2000;
export const withinAMoment = (): LockOptions => ({ signal: AbortSignal.timeout(MOMENT_MS) });

/** Claims a document for this page; null if another page has it. */
export async function claimDocument(id: string): Promise<Claim | null> {
  const claim = new Claim(id);
  return (await claim.take(withinAMoment())) ? claim : null;
}

interface Request {
  readonly id: string;
}
const requests = () => new BroadcastChannel('tazzel-take-over');

/** Asks the page that has the document to save it and let go; one that does not answer loses it. */
export async function takeOver(id: string): Promise<Claim> {
  const channel = requests();
  channel.postMessage({ id } satisfies Request);
  channel.close();
  const claim = new Claim(id);
  if (!(await claim.take({ signal: AbortSignal.timeout(ANSWER_MS) }))) await claim.take({ steal: true });
  return claim;
}

/** Called when another page asks for a document. Returns what stops listening. */
export function onTakeOver(id: string, letGo: () => void): () => void {
  const channel = requests();
  channel.onmessage = ({ data }: MessageEvent<Request>) => {
    if (data?.id === id) letGo();
  };
  return () => channel.close();
}
