/** What is painted by hand, kept as it is after each of the last strokes: a new stroke is painted on what was there, and undoing finds it again. */
import { paintKeys, type Plane, type Size, sizeAtLevel, type Stroke } from '@tazzel/core';
import { PRIORITY, type WorkerPool } from './pool.ts';

/** What a term of paint holds. */
export interface Painted {
  readonly strokes: readonly Stroke[];
  readonly filled: boolean;
}

/** The oldest planes leave beyond this. */
const PAINT_BYTES = 320 * 2 ** 20;

export class PaintStore {
  readonly #planes = new Map<string, { plane: Promise<Plane>; bytes: number }>();

  constructor(readonly pool: WorkerPool) {}

  /** The painted plane at a level, and a name for it. Only strokes that are new since a plane that is still there are painted. */
  async painted({ strokes, filled }: Painted, picture: Size, level: number): Promise<{ key: string; plane: Plane }> {
    const size = sizeAtLevel(picture, level);
    const keys = paintKeys(strokes, `${size.width} ${size.height} ${level} ${filled}`);
    const key = keys[strokes.length];
    let from = strokes.length;
    while (from > 0 && !this.#planes.has(keys[from])) from--;
    const base = this.#planes.get(keys[from]);
    if (base) this.#use(keys[from]);
    if (base && from === strokes.length) return { key, plane: await base.plane };
    const before = (await base?.plane.catch(() => null)) ?? null;
    const plane = this.pool.run('paint', { base: before, strokes: before ? strokes.slice(from) : strokes, filled, size, level }, { priority: PRIORITY.view });
    this.#planes.set(key, { plane, bytes: size.width * size.height * 4 });
    plane.catch(() => this.#planes.delete(key));
    this.#forgetOldest(key);
    return { key, plane: await plane };
  }

  #use(key: string): void {
    const entry = this.#planes.get(key);
    if (!entry) return;
    this.#planes.delete(key);
    this.#planes.set(key, entry);
  }

  #forgetOldest(kept: string): void {
    let bytes = [...this.#planes.values()].reduce((sum, entry) => sum + entry.bytes, 0);
    for (const [key, entry] of this.#planes) {
      if (bytes <= PAINT_BYTES) return;
      if (key === kept) continue;
      this.#planes.delete(key);
      bytes -= entry.bytes;
    }
  }

  forget(): void {
    this.#planes.clear();
  }
}
