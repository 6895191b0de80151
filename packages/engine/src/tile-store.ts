/** Kept pictures, as tiles in memory that all workers share. What nobody uses now leaves when memory runs short, the least recently used first. */
import type { Pixels, Region } from '@tazzel/core';
import { Cancelled } from './errors.ts';
import type { StoredTile } from './protocol.ts';

export const pixelsOf = ({ region, buffer, opaque }: StoredTile): Pixels => ({ region, planes: new Float32Array(buffer), opaque });

interface Entry {
  readonly region: Region;
  buffer: ArrayBufferLike | null;
  opaque: boolean;
  done: Promise<void>;
  isReady: boolean;
  users: number;
}

/** A tile that stays until it is let go. */
export interface Lease {
  readonly tile: StoredTile;
  release(): void;
}

export const DEFAULT_KEPT_BYTES = 192 * 2 ** 20;
/** Buffers to use again, at most: giving shared memory back takes the platform its time. */
const MOST_SPARE = 16;

export class TileStore {
  readonly #entries = new Map<string, Entry>();
  readonly #spare = new Map<number, ArrayBufferLike[]>();
  #bytes = 0;

  constructor(
    readonly allocate: (byteLength: number) => ArrayBufferLike,
    readonly budgetBytes = DEFAULT_KEPT_BYTES,
  ) {}

  get bytesHeld(): number {
    return this.#bytes;
  }

  #id = (key: string, { x, y }: Region) => `${key} ${x} ${y}`;

  /** A tile that is there now. */
  find(key: string, region: Region): Lease | null {
    const id = this.#id(key, region);
    const entry = this.#entries.get(id);
    return entry?.isReady ? this.#lease(id, entry) : null;
  }

  /**
   * A tile that is there, is being made, or is made now. `make` fills the buffer and says whether alpha is 1 throughout. If whoever makes it
   * is cancelled, it is made for the others.
   * @throws Cancelled
   */
  async take(key: string, region: Region, planes: number, signal: AbortSignal | undefined, make: (buffer: ArrayBufferLike) => Promise<boolean>): Promise<Lease> {
    const id = this.#id(key, region);
    for (;;) {
      if (signal?.aborted) throw new Cancelled();
      const entry = this.#entries.get(id) ?? this.#begin(id, region, planes, make);
      entry.users++;
      try {
        await entry.done;
        entry.users--;
        return this.#lease(id, entry);
      } catch (error) {
        entry.users--;
        if (!(error instanceof Cancelled) || signal?.aborted) throw error;
      }
    }
  }

  #begin(id: string, region: Region, planes: number, make: (buffer: ArrayBufferLike) => Promise<boolean>): Entry {
    const bytes = region.width * region.height * planes * 4;
    const buffer = this.#buffer(bytes);
    const entry: Entry = { region, buffer, opaque: false, done: Promise.resolve(), isReady: false, users: 1 };
    entry.done = make(buffer).then(
      (opaque) => {
        entry.opaque = opaque;
        entry.isReady = true;
        entry.users--;
        this.#makeRoom();
      },
      (error) => {
        entry.users--;
        this.#drop(id, entry);
        throw error;
      },
    );
    this.#entries.set(id, entry);
    return entry;
  }

  #buffer(bytes: number): ArrayBufferLike {
    this.#makeRoom(bytes);
    const buffer = this.#spare.get(bytes)?.pop() ?? this.allocate(bytes);
    this.#bytes += bytes;
    return buffer;
  }

  #lease(id: string, entry: Entry): Lease {
    entry.users++;
    this.#entries.delete(id);
    this.#entries.set(id, entry);
    let isHeld = true;
    return {
      tile: { region: entry.region, buffer: entry.buffer as ArrayBufferLike, opaque: entry.opaque },
      release: () => {
        if (isHeld) entry.users--;
        isHeld = false;
      },
    };
  }

  #makeRoom(bytes = 0): void {
    for (const [id, entry] of this.#entries) {
      if (this.#bytes + bytes <= this.budgetBytes) return;
      if (entry.isReady && entry.users === 0) this.#drop(id, entry);
    }
  }

  #drop(id: string, entry: Entry): void {
    if (this.#entries.get(id) === entry) this.#entries.delete(id);
    const { buffer } = entry;
    if (!buffer) return;
    entry.buffer = null;
    this.#bytes -= buffer.byteLength;
    const spare = this.#spare.get(buffer.byteLength) ?? [];
    // What was given up half-way may still be written to.
    if (entry.isReady && spare.length < MOST_SPARE) spare.push(buffer);
    this.#spare.set(buffer.byteLength, spare);
  }

  /** Lets go of everything that nobody uses now. */
  forget(): void {
    for (const [id, entry] of [...this.#entries]) if (entry.isReady && entry.users === 0) this.#drop(id, entry);
    this.#spare.clear();
  }
}
