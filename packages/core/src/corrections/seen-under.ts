/** The angle over which the width of a picture is seen: what lens and eye do goes by angles. */
import type { Camera } from '../camera/camera.ts';
import type { KeptValues } from '../params/table.ts';

const RADIANS = Math.PI / 180;

/** In whole degrees, as a parameter `acrossDegrees`; nothing without a camera. */
export const seenUnder = (camera: Camera | null): KeptValues => (camera ? { acrossDegrees: Math.round((2 * Math.atan(camera.sensorMillimetres / (2 * camera.focalMillimetres))) / RADIANS) } : {});

/** Tangent of the angle that a pixel is wide, in the middle of a picture so many pixels across. */
export const tangentOfPixel = (acrossDegrees: number, width: number): number => (2 * Math.tan((acrossDegrees * RADIANS) / 2)) / width;
