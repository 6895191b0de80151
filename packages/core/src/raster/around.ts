/** Pictures of everything around, read at places: what lies between four pixels, in straight lines. */

export type ThreePlanes = readonly [Float32Array, Float32Array, Float32Array];

/** The definition of the loop. The kernel is compared with it. */
export interface AroundLoop {
  /**
   * Three planes (one after the other in `from`) at places (`u`, `v`: in pixels of `from`, centres at a half; from 0 to `width`, at any height). Beyond its left and right `from` goes on at its other side, or (`isWhole` is
   * false) with its outermost columns; above and below with its outermost rows.
   */
  around(out: ThreePlanes, from: Float32Array, width: number, height: number, isWhole: boolean, u: Float32Array, v: Float32Array): void;
}

export const referenceAround: AroundLoop = {
  around: (out, from, width, height, isWhole, u, v) => {
    const inside = width * height;
    const column = (x: number) => (isWhole ? (x + width) % width : Math.min(width - 1, Math.max(0, x)));
    const row = (y: number) => Math.min(height - 1, Math.max(0, y)) * width;
    for (let i = 0; i < u.length; i++) {
      const [x, y] = [Math.fround(u[i] - 0.5), Math.fround(v[i] - 0.5)];
      const [left, top] = [Math.floor(x), Math.floor(y)];
      const [fx, fy] = [x - left, y - top];
      const [x0, x1, y0, y1] = [column(left), column(left + 1), row(top), row(top + 1)];
      for (let c = 0; c < 3; c++) {
        const at = (place: number) => from[c * inside + place];
        const upper = at(y0 + x0) + (at(y0 + x1) - at(y0 + x0)) * fx;
        out[c][i] = upper + (at(y1 + x0) + (at(y1 + x1) - at(y1 + x0)) * fx - upper) * fy;
      }
    }
  },
};
