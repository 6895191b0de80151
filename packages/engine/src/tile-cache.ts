import type { Region, TilePixels } from '@tazzel/core';

const BUDGET_BYTES = 256 * 2 ** 20;

/** Results of tiles by key, the least recently used leaving first. Each worker has its own; tiles keep to their worker. */
export class TileCache {
  readonly #tiles = new Map<string, TilePixels>();
  #bytes = 0;

  #id = (level: number, { x, y, width, height }: Region, key: string) => `${level} ${x} ${y} ${width} ${height} ${key}`;

  put(level: number, region: Region, key: string, pixels: TilePixels): void {
    const id = this.#id(level, region, key);
    this.#drop(id);
    this.#tiles.set(id, pixels);
    this.#bytes += pixels.planes.byteLength;
    for (const oldest of this.#tiles.keys()) {
      if (this.#bytes <= BUDGET_BYTES) break;
      this.#drop(oldest);
    }
  }

  /** The result with the most steps, at most `limit`, among `keys` (keys[n] is the result after n steps). */
  latest(level: number, region: Region, keys: readonly string[], limit: number): { steps: number; pixels: TilePixels } | null {
    for (let steps = limit; steps > 0; steps--) {
      const id = this.#id(level, region, keys[steps]);
      const pixels = this.#tiles.get(id);
      if (!pixels) continue;
      this.#tiles.delete(id);
      this.#tiles.set(id, pixels);
      return { steps, pixels };
    }
    return null;
  }

  clear(): void {
    this.#tiles.clear();
    this.#bytes = 0;
  }

  #drop(id: string): void {
    const pixels = this.#tiles.get(id);
    if (!pixels) return;
    this.#tiles.delete(id);
    this.#bytes -= pixels.planes.byteLength;
  }
}
