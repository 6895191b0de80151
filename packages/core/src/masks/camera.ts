/** What can be said of a pixel's ray without a camera in the file: an upright camera with a known horizontal angle. */
import type { MaskInputs } from './define.ts';

/** Directions of a pixel's ray, as lengths per metre of depth: to the right and up from the axis. The horizon lies `horizonShare` of the height from the top. */
export function rayOf({ size, level }: MaskInputs, viewDegrees: number, horizonShare: number): (x: number, y: number) => { right: number; up: number } {
  const focalPx = size.width / 2 / Math.tan((viewDegrees * Math.PI) / 360);
  const scale = 2 ** level;
  return (x, y) => ({ right: ((x + 0.5) * scale - size.width / 2) / focalPx, up: (size.height * horizonShare - (y + 0.5) * scale) / focalPx });
}
