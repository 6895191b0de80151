/**
 * Whole pictures in shared memory. Runtimes do not count shared memory, so nothing makes them collect what nobody reads any more, and a night of deliveries would fill
 * the machine: blocks are lent and given back, and the next picture of the same size is written to one of them.
 */
import type { Size } from '@tazzel/core';

/** Blocks that wait to be used again, at most: they are large. */
const SPARE = 2;
/** Pictures that are kept for the next form, at most. */
const KEPT = 2;

export class OutputMemory {
  #spare: ArrayBufferLike[] = [];

  constructor(readonly allocate: (byteLength: number) => ArrayBufferLike) {}

  take(byteLength: number): ArrayBufferLike {
    const found = this.#spare.findIndex((block) => block.byteLength === byteLength);
    return found < 0 ? this.allocate(byteLength) : this.#spare.splice(found, 1)[0];
  }

  /** Nobody reads or writes it any more. */
  giveBack(block: ArrayBufferLike): void {
    this.#spare = [block, ...this.#spare].slice(0, SPARE);
  }

  forget(): void {
    this.#spare = [];
  }
}

export interface FlatPicture {
  readonly size: Size;
  readonly pixels: ArrayBufferLike;
  readonly opaque: boolean;
  readonly problems: readonly string[];
}

interface Entry {
  readonly made: Promise<FlatPicture>;
  readonly giveBack: (block: ArrayBufferLike) => void;
  users: number;
}

/** The pictures of one document that were asked for last, for its next forms. What has left and is read by nobody is given back. */
export class FlatPictures {
  readonly #entries = new Map<string, Entry>();

  constructor(readonly most = KEPT) {}

  /** What `make` gives, or gave a moment ago, while `use` runs. What failed may be tried again. */
  async with<T>(key: string, make: () => Promise<FlatPicture>, giveBack: Entry['giveBack'], use: (picture: FlatPicture) => Promise<T>): Promise<T> {
    const entry: Entry = this.#entries.get(key) ?? { made: make(), giveBack, users: 0 };
    entry.users++;
    this.#entries.delete(key);
    this.#entries.set(key, entry);
    for (const oldest of this.#entries.keys()) {
      if (this.#entries.size <= this.most) break;
      this.#drop(oldest);
    }
    try {
      return await use(await entry.made);
    } finally {
      entry.users--;
      entry.made.catch(() => this.#entries.get(key) === entry && this.#entries.delete(key));
      this.#leave(entry, this.#entries.get(key) === entry);
    }
  }

  clear(): void {
    for (const key of [...this.#entries.keys()]) this.#drop(key);
  }

  #drop(key: string): void {
    const entry = this.#entries.get(key) as Entry;
    this.#entries.delete(key);
    this.#leave(entry, false);
  }

  #leave({ made, users, giveBack }: Entry, isKept: boolean): void {
    if (!isKept && users === 0) made.then(({ pixels }) => giveBack(pixels), () => undefined);
  }
}
