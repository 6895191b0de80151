/** Pictures that are stored turned or mirrored, as Exif says. @source Exif 2.3, tag 274 */
import { type Plane, planeView, type Size } from '@tazzel/core';
import type { Allocate } from './bytes.ts';

/** The orientation that an Exif block names: tag 274 of the first directory; 1 if there is none, or none that makes sense. */
export function exifOrientation(tiff: Uint8Array): number {
  if (tiff.length < 14) return 1;
  const view = new DataView(tiff.buffer, tiff.byteOffset, tiff.byteLength);
  const little = view.getUint16(0) === 0x4949;
  const directory = view.getUint32(4, little);
  if (directory + 2 > tiff.length) return 1;
  const count = view.getUint16(directory, little);
  for (let i = 0; i < count && directory + 14 + i * 12 <= tiff.length; i++) {
    const at = directory + 2 + i * 12;
    if (view.getUint16(at, little) !== 274) continue;
    const value = view.getUint16(at + 8, little);
    return value >= 1 && value <= 8 ? value : 1;
  }
  return 1;
}

/** Whether rows are stored as columns. */
export const isTurned = (orientation: number): boolean => orientation >= 5;
export const uprightSize = ({ width, height }: Size, orientation: number): Size => (isTurned(orientation) ? { width: height, height: width } : { width, height });
export const orientationNote = (orientation: number): Record<string, string> => (orientation === 1 ? {} : { orientation: `stored turned or mirrored (Exif ${orientation}), shown upright` });

/** A plane turned upright; the same one if it is. */
export function turnedUpright(plane: Plane, orientation: number, allocate: Allocate): Plane {
  if (orientation === 1) return plane;
  const { type, data } = plane;
  const { width, height } = uprightSize(plane, orientation);
  const turned = planeView(type, allocate(data.byteLength));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const [sx, sy] = storedPlace(orientation, x, y, width, height);
      turned[y * width + x] = data[sy * plane.width + sx];
    }
  }
  return { type, width, height, data: turned };
}

/** Where a pixel of the upright picture is stored. @source Exif 2.3, tag 274 */
function storedPlace(orientation: number, x: number, y: number, width: number, height: number): [number, number] {
  switch (orientation) {
    case 2:
      return [width - 1 - x, y];
    case 3:
      return [width - 1 - x, height - 1 - y];
    case 4:
      return [x, height - 1 - y];
    case 5:
      return [y, x];
    case 6:
      return [y, width - 1 - x];
    case 7:
      return [height - 1 - y, width - 1 - x];
    case 8:
      return [height - 1 - y, x];
    default:
      return [x, y];
  }
}
