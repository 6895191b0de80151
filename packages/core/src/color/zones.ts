/** In which numbers a picture is written down, and on which side of the tone line it works. */

/** Under the tone line is scene light (linear, unbounded), over it the picture (display-encoded, 0 to 1). */
export type Zone = 'scene' | 'picture';
export const ZONES: readonly Zone[] = ['scene', 'picture'];

/** linear: light. display: sRGB-encoded. data: numbers that no colour operation may convert. */
export type Encoding = 'linear' | 'display' | 'data';
export const ENCODINGS: readonly Encoding[] = ['linear', 'display', 'data'];
