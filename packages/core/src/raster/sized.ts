/** One picture at several sizes, read at places with a blur of their own: what lies between pixels and between sizes, in straight lines. */

/** A rectangle of a picture at one of its sizes: planes one after the other, where it begins in pixels of that size, and how many of the picture's own one of them is wide. */
export interface OneSize {
  readonly planes: Float32Array;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly scale: number;
}

/** What all places have in common. */
export interface Moved {
  readonly u: number;
  readonly v: number;
  readonly blur: number;
}

/** The definition of the loop. The kernel is compared with it. */
export interface SizedLoop {
  /**
   * Planes one after the other, each as long as `u`, at places of the picture (in its own pixels, centres at a half), blurred over `wide` of them; all of them moved, and blurred at least so much. Each size is half of
   * the one before; between a size whose pixels are as wide and the next, shares go with the width. Outside of the outermost centres of a rectangle there is nothing.
   */
  sized(out: Float32Array, sizes: readonly OneSize[], u: Float32Array, v: Float32Array, wide: Float32Array, moved: Moved): void;
}

export const referenceSized: SizedLoop = {
  sized: (out, sizes, u, v, wide, moved) => {
    const count = u.length;
    for (let i = 0; i < count; i++) {
      const [k, share] = sizeFor(Math.max(moved.blur, wide[i]) / sizes[0].scale, sizes.length);
      const [x, y] = [Math.fround(u[i] + Math.fround(moved.u)), Math.fround(v[i] + Math.fround(moved.v))];
      for (let plane = 0; plane * count < out.length; plane++) {
        const fine = valueAt(sizes[k], plane, x, y);
        out[plane * count + i] = share > 0 ? fine + (valueAt(sizes[k + 1], plane, x, y) - fine) * share : fine;
      }
    }
  },
};

/** Which of so many sizes has pixels that are no wider than `times` those of the first, and the share of the next. */
export function sizeFor(times: number, sizes: number): readonly [size: number, share: number] {
  if (!(times > 1)) return [0, 0];
  const k = Math.floor(Math.log2(times));
  return k >= sizes - 1 ? [sizes - 1, 0] : [k, times / 2 ** k - 1];
}

function valueAt({ planes, x: left, y: top, width, height, scale }: OneSize, plane: number, u: number, v: number): number {
  const [x, y] = [Math.fround(u / scale - 0.5) - left, Math.fround(v / scale - 0.5) - top];
  if (!(x >= 0 && y >= 0 && x < width - 1 && y < height - 1)) return 0;
  const [column, row] = [Math.floor(x), Math.floor(y)];
  const at = plane * width * height + row * width + column;
  const upper = planes[at] + (planes[at + 1] - planes[at]) * (x - column);
  const lower = planes[at + width] + (planes[at + width + 1] - planes[at + width]) * (x - column);
  return upper + (lower - upper) * (y - row);
}
