/** Fields of numbers that repeat, with smaller copies for where many of them fall into a pixel: what noise is looked up in. */

/** Side of a field, a power of two. */
export const FIELD_SIDE = 512;
/** Copies, the field itself among them: each has half the side of the one before. */
export const FIELD_LEVELS = 8;

/** A field of `FIELD_SIDE` squared numbers and its copies, one behind the other. */
export function withCopies(field: Float32Array): Float32Array {
  const levels = [field];
  for (let level = 1; level < FIELD_LEVELS; level++) {
    const [from, size] = [levels[level - 1], FIELD_SIDE >> level];
    const at = (x: number, y: number) => from[y * 2 * size + x];
    levels.push(Float32Array.from({ length: size * size }, (_, i) => {
      const [x, y] = [(i % size) * 2, Math.floor(i / size) * 2];
      return (at(x, y) + at(x + 1, y) + at(x, y + 1) + at(x + 1, y + 1)) / 4;
    }));
  }
  const out = new Float32Array(levels.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const level of levels) {
    out.set(level, at);
    at += level.length;
  }
  return out;
}

/** Where a copy begins: Σ of the sides squared before, a quarter each time. */
export const copyAt = (level: number): number => Math.round(((4 * FIELD_SIDE * FIELD_SIDE) / 3) * (1 - 0.25 ** level));

/** The field between its numbers at a place in its own lengths. `level` is the copy: 0 for the finest, rounded down. */
export function fieldAt(field: Float32Array, u: number, v: number, wanted: number): number {
  const level = Math.floor(Math.min(FIELD_LEVELS - 1, Math.max(0, wanted)));
  const size = FIELD_SIDE >> level;
  const start = copyAt(level);
  const [x, y] = [(u - Math.floor(u)) * size - 0.5 + size, (v - Math.floor(v)) * size - 0.5 + size];
  const [ix, iy] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [x - ix, y - iy];
  const at = (i: number, j: number) => field[start + (((iy + j) & (size - 1)) * size) + ((ix + i) & (size - 1))];
  const top = at(0, 0) + (at(1, 0) - at(0, 0)) * fx;
  return top + (at(0, 1) + (at(1, 1) - at(0, 1)) * fx - top) * fy;
}
