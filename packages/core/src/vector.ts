/** Three numbers: a place or direction in the world, or a colour. */
export type Triple = readonly [number, number, number];

// Any numbers; NaN and infinities go through. Each makes a new triple.

/** Upwards in the document's world. */
export const UP: Triple = [0, 1, 0];

/** Right-handed: x × y = z. */
export const cross = (a: Triple, b: Triple): Triple => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
/** The sum of products: the square of the length for a triple with itself. */
export const dot = (a: Triple, b: Triple): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
/** Each number times one. */
export const scaledBy = (a: Triple, by: number): Triple => [a[0] * by, a[1] * by, a[2] * by];
/** Number by number. */
export const plus = (a: Triple, b: Triple): Triple => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
/** Number by number. */
export const minus = (a: Triple, b: Triple): Triple => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
/** Of length 1; what has no length has no direction (NaN). */
export const normalized = (a: Triple): Triple => scaledBy(a, 1 / Math.hypot(...a));
