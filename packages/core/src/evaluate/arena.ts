/** Memory for the planes of one task, used again for the next: giving it back and getting it anew takes as long as a layer does. */

/** Planes whose contents are whatever was there before. */
export type TakePlanes = (length: number) => Float32Array;

export const freshPlanes: TakePlanes = (length) => new Float32Array(length);

/** Regions differ by a few rows and columns: blocks are as large as the next of these, and serve all that are nearly as large. */
const SIZES_PER_OCTAVE = 4;
const LEAST = 4096;
/** Floats that wait to be used again, at most. */
const MOST_SPARE = 2 ** 23;

export class Arena {
  readonly #taken: Float32Array[] = [];
  readonly #spare = new Map<number, Float32Array[]>();
  #spareLength = 0;

  readonly take: TakePlanes = (length) => {
    const size = Math.ceil(2 ** (Math.ceil(Math.log2(Math.max(LEAST, length)) * SIZES_PER_OCTAVE) / SIZES_PER_OCTAVE));
    const spare = this.#spare.get(size)?.pop();
    if (spare) this.#spareLength -= size;
    const block = spare ?? new Float32Array(size);
    this.#taken.push(block);
    return block.subarray(0, length);
  };

  /** Nobody looks any more at what was taken since the last time. */
  reset(): void {
    for (const block of this.#taken.splice(0)) {
      if (this.#spareLength + block.length > MOST_SPARE) continue;
      this.#spareLength += block.length;
      const list = this.#spare.get(block.length) ?? [];
      list.push(block);
      this.#spare.set(block.length, list);
    }
  }

  forget(): void {
    this.#taken.length = 0;
    this.#spare.clear();
    this.#spareLength = 0;
  }
}
