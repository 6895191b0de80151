import type { Material } from '../document/model.ts';
import type { PaletteColor } from './palette.ts';

/** Rows of the material schedule for a palette: tags M01, M02 … by area. */
export function materialsFromPalette(sourceId: string, colors: readonly PaletteColor[]): Material[] {
  const digits = Math.max(2, String(colors.length).length);
  return colors.map(({ key, chip, area }, i) => {
    const tag = `M${String(i + 1).padStart(digits, '0')}`;
    return { id: `material-${i + 1}`, tag, name: tag, sourceId, colorKey: key, chip, area };
  });
}
