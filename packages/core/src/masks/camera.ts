import { type CameraView, viewOfCamera } from '../camera/view.ts';
import type { MaskInputs } from './define.ts';

/** The document's camera before the picture at the level of a mask: places in its pixels. Null if the document has none. */
export function viewAtLevel({ camera, size, level }: MaskInputs): CameraView | null {
  if (!camera) return null;
  const { focalPx, axisX, axisY, ...view } = viewOfCamera(camera, size);
  const scale = 1 / 2 ** level;
  return { ...view, focalPx: focalPx * scale, axisX: axisX * scale, axisY: axisY * scale };
}
