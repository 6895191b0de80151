/** The browser's storage and locks in memory, for tests of what is kept and of who may write it. */

/** A key/value store as localForage has them; one map per store. `fail` may throw for a store and key, as a full disk does. */
export class MemoryStorage {
  readonly stores = new Map<string, Map<string, unknown>>();
  fail: (store: string, key: string, what: 'get' | 'set') => void = () => undefined;

  store(name: string): Map<string, unknown> {
    const known = this.stores.get(name) ?? new Map<string, unknown>();
    this.stores.set(name, known);
    return known;
  }

  readonly localforage = {
    createInstance: ({ storeName }: { storeName: string }) => {
      const items = this.store(storeName);
      const check = (key: string, what: 'get' | 'set') => this.fail(storeName, key, what);
      return {
        setItem: async (key: string, value: unknown) => {
          check(key, 'set');
          items.set(key, value);
          return value;
        },
        getItem: async (key: string) => {
          check(key, 'get');
          return items.get(key) ?? null;
        },
        keys: async () => [...items.keys()],
        removeItem: async (key: string) => void items.delete(key),
      };
    },
  };

  clear(): void {
    for (const items of this.stores.values()) items.clear();
    this.fail = () => undefined;
  }
}

export const full = () => {
  throw new DOMException('no room', 'QuotaExceededError');
};

interface Held {
  readonly mode: 'shared' | 'exclusive';
  readonly steal: () => void;
}
interface Options {
  readonly mode?: 'shared' | 'exclusive';
  readonly ifAvailable?: boolean;
  readonly steal?: boolean;
  readonly signal?: AbortSignal;
}

/** Web Locks in memory: shared and exclusive, in the order in which they are asked for, if available, stolen. */
export function memoryLocks() {
  const held = new Map<string, Held[]>();
  const queues = new Map<string, { mode: Held['mode']; grant: () => void }[]>();
  const isFree = (name: string, mode: Held['mode']) => (held.get(name) ?? []).every((other) => mode === 'shared' && other.mode === 'shared');
  const pump = (name: string) => {
    const queue = queues.get(name) ?? [];
    while (queue.length > 0 && isFree(name, queue[0].mode)) queue.shift()?.grant();
  };
  const request = (name: string, ...rest: [Options, (lock: unknown) => unknown] | [(lock: unknown) => unknown]): Promise<unknown> => {
    const [options, task] = rest.length === 1 ? [{} as Options, rest[0]] : rest;
    const mode = options.mode ?? 'exclusive';
    return new Promise((resolve, reject) => {
      const run = async () => {
        let isStolen = false;
        const mine: Held = {
          mode,
          steal: () => {
            isStolen = true;
            reject(new DOMException('stolen', 'AbortError'));
          },
        };
        held.set(name, [...(held.get(name) ?? []), mine]);
        try {
          const result = await task({ name, mode });
          if (!isStolen) resolve(result);
        } catch (error) {
          reject(error);
        } finally {
          held.set(name, (held.get(name) ?? []).filter((other) => other !== mine));
          pump(name);
        }
      };
      if (options.steal) {
        for (const other of held.get(name) ?? []) other.steal();
        held.set(name, []);
        return void run();
      }
      const queue = queues.get(name) ?? [];
      queues.set(name, queue);
      if (queue.length === 0 && isFree(name, mode)) return void run();
      if (options.ifAvailable) return void Promise.resolve(task(null)).then(resolve, reject);
      const entry = { mode, grant: () => void run() };
      queue.push(entry);
      options.signal?.addEventListener('abort', () => {
        const at = queue.indexOf(entry);
        if (at < 0) return;
        queue.splice(at, 1);
        reject(new DOMException('aborted', 'AbortError'));
        pump(name);
      });
    });
  };
  return { request };
}
