/** The sun of a picture of everything around: its brightest place. */
import type { Size } from '../raster/region.ts';
import { positionOf } from '../sun/position.ts';
import { dot, normalized, type Triple } from '../vector.ts';

/** As many times as bright as the upper half is on average something must be to be called a sun. Common practice, no published source. */
const LEAST_PEAK = 4;
/** What is as bright as this share of the peak, and as near to it, belongs to it. Common practice, no published source. */
const [SUN_SHARE, NEAR_COSINE] = [0.5, Math.cos((12 * Math.PI) / 180)];

/**
 * Where the sun stands in a latitude-longitude picture, its top row at the zenith; null if nothing in its upper half is much brighter than the rest.
 * @param luminance row-major, width × height, linear
 * @returns degrees above the horizon, and from the middle of the picture to the right
 */
export function sunOfEnvironment(luminance: Float32Array, { width, height }: Size): { readonly altitudeDegrees: number; readonly azimuthDegrees: number } | null {
  const half = Math.floor(height / 2);
  const directionOf = (x: number, y: number): Triple => {
    const [azimuth, up] = [((x + 0.5) / width - 0.5) * 2 * Math.PI, (0.5 - (y + 0.5) / height) * Math.PI];
    return [Math.sin(azimuth) * Math.cos(up), Math.sin(up), -Math.cos(azimuth) * Math.cos(up)];
  };
  let [peak, at, sum, weights] = [0, 0, 0, 0];
  for (let y = 0; y < half; y++) {
    // Rows near the zenith stand for less of the sky.
    const weight = directionOf(0, y)[1] < 1 ? Math.sqrt(1 - directionOf(0, y)[1] ** 2) : 0;
    for (let x = 0; x < width; x++) {
      const value = luminance[y * width + x];
      if (!(value < Number.POSITIVE_INFINITY)) continue;
      sum += value * weight;
      weights += weight;
      if (value > peak) [peak, at] = [value, y * width + x];
    }
  }
  if (weights === 0 || peak < (LEAST_PEAK * sum) / weights) return null;
  const middle = directionOf(at % width, Math.floor(at / width));
  const found: [number, number, number] = [0, 0, 0];
  for (let y = 0; y < half; y++) {
    for (let x = 0; x < width; x++) {
      const value = luminance[y * width + x];
      if (!(value >= SUN_SHARE * peak && value < Number.POSITIVE_INFINITY)) continue;
      const direction = directionOf(x, y);
      if (dot(direction, middle) < NEAR_COSINE) continue;
      const weight = value * Math.sqrt(Math.max(0, 1 - direction[1] ** 2));
      for (let c = 0; c < 3; c++) found[c] += direction[c] * weight;
    }
  }
  return positionOf(normalized(found));
}
