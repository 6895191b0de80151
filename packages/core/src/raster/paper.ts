/** Sizes on paper. */
const MM_PER_INCH = 25.4;

/** @returns whole pixels, at least one */
export const pixelsOf = (millimetres: number, dpi: number): number => Math.max(1, Math.round((millimetres / MM_PER_INCH) * dpi));
/** Pixels of a length as it is written: `2400`, `420mm`, `16.5in`; null if it is none. `dpi` 0 is not known. @throws RangeError if the resolution is needed and not known */
export function pixelsIn(text: string, dpi: number): number | null {
  const [, digits, unit] = /^(\d+(?:\.\d+)?)(mm|cm|in)?$/.exec(text.trim()) ?? [];
  if (digits === undefined) return null;
  const value = Number(digits);
  if (unit === undefined) return Number.isInteger(value) && value >= 1 ? value : null;
  if (!(dpi > 0)) throw new RangeError('how many pixels there are to an inch is not known');
  return pixelsOf(value * { mm: 1, cm: 10, in: MM_PER_INCH }[unit as 'mm' | 'cm' | 'in'], dpi);
}

export const millimetresOf = (pixels: number, dpi: number): number => (pixels / dpi) * MM_PER_INCH;
