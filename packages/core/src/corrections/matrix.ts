/** What corrections have in common that mix channels: the definition of what assembly/tone.ts does as `matrix`. */
import type { Matrix } from '../color/primaries.ts';
import type { Triple } from '../vector.ts';

/** Three rows, each with what is added. */
export const mixOf = (rows: Matrix, offsets: Triple = [0, 0, 0]): Float32Array => Float32Array.from(rows.flatMap((row, i) => [...row, offsets[i]]));

export function mixed([r, g, b]: Triple, rows: ArrayLike<number>): Triple {
  const row = (at: number) => rows[at] * r + rows[at + 1] * g + rows[at + 2] * b + rows[at + 3];
  return [row(0), row(4), row(8)];
}
