/** How far away things are along the lens's axis. */
import { cameraOf } from '../camera/camera.ts';
import { distancePerDepth, viewOfCamera } from '../camera/view.ts';
import type { TazzelDocument } from '../model/model.ts';
import type { Place } from '../params/places.ts';

/** Depth of a place of the picture by what an element of metres says there: distances run along rays, as far as the camera is known. */
export const depthThere = ({ camera, size }: Pick<TazzelDocument, 'camera' | 'size'>, [x, y]: Place, metres: number, role: string): number =>
  role === 'distance' && camera ? metres / distancePerDepth(viewOfCamera(cameraOf(camera), size), x, y) : metres;
