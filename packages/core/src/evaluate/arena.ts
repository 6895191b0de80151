/** Memory for the planes of one task, a stack: what was taken last is given back first, so that it is still in the cache when it is used again. */

/** Memory that can be used again, as numbers counted from its start. */
export interface Room {
  readonly length: number;
  view(start: number, length: number): Float32Array;
}

/** Loops write whole vectors: what is written too much lies behind the planes. */
const BEHIND = 16;

export class Arena {
  #next = 0;
  #moves = 0;

  /** @param room null: memory comes from the platform, again and again */
  constructor(readonly room: Room | null) {}

  /** Numbers that are whatever was there before. What finds no room comes from the platform. */
  take(length: number): Float32Array {
    const start = this.#next;
    const end = start + Math.ceil((length + BEHIND) / BEHIND) * BEHIND;
    if (!this.room || end > this.room.length) return new Float32Array(length);
    this.#next = end;
    return this.room.view(start, length);
  }

  get mark(): number {
    return this.#next;
  }

  /** Nobody looks any more at what was taken since then. */
  release(mark: number): void {
    this.#next = mark;
  }

  /** How often the room went elsewhere. What was taken before is lost. */
  get moves(): number {
    return this.#moves;
  }

  /** The room has gone elsewhere. */
  moved(): void {
    this.#moves++;
  }
}
