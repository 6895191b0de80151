/** Sizes on paper. */
const MM_PER_INCH = 25.4;

/** @returns whole pixels, at least one */
export const pixelsOf = (millimetres: number, dpi: number): number => Math.max(1, Math.round((millimetres / MM_PER_INCH) * dpi));
export const millimetresOf = (pixels: number, dpi: number): number => (pixels / dpi) * MM_PER_INCH;
