/**
 * The camera of a document: an ideal lens before a plane sensor. Its world is right-handed, in metres, y up, with the ground at height 0; files whose
 * z axis points up are turned into it (`up` says so).
 */
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import type { KeptValues, Parametric, ParamValues } from '../params/table.ts';
import { completeParams } from '../params/table.ts';

const metres = (label: string, help: string, initial = 0) => number({ label, unit: 'm', min: -100_000, max: 100_000, default: initial, step: 0.1, digits: 2, usual: [-50, 50], help });
const shift = (label: string, help: string) => number({ label, unit: 'mm', min: -200, max: 200, default: 0, step: 0.1, digits: 2, usual: [-12, 12], help });

export const cameraParams = {
  focalMillimetres: number({ label: 'Focal length', unit: 'mm', min: 1, max: 3000, default: 28, step: 1, digits: 1, usual: [12, 100], help: 'With the width of the sensor it makes the angle of view.' }),
  sensorMillimetres: number({ label: 'Sensor width', unit: 'mm', min: 1, max: 300, default: 36, step: 1, digits: 1, usual: [6, 60], help: '36 mm is full frame.' }),
  shiftX: shift('Shift to the right', 'How far the picture lies to the right of the lens’s axis, on the sensor.'),
  shiftY: shift('Shift upwards', 'How far the picture lies above the lens’s axis, on the sensor: keeps uprights parallel while looking up.'),
  heightMetres: metres('Eye height', 'Of the camera above the ground.', 1.6),
  tiltDegrees: number({ label: 'Tilt', unit: '°', min: -90, max: 90, default: 0, step: 0.5, digits: 2, usual: [-30, 30], help: 'Upwards above 0. An upright camera has none.' }),
  rollDegrees: number({ label: 'Roll', unit: '°', min: -180, max: 180, default: 0, step: 0.1, digits: 2, usual: [-10, 10], help: 'Turned around its own axis, clockwise as seen from behind it.' }),
  headingDegrees: number({ label: 'Heading', unit: '°', min: -360, max: 360, default: 0, step: 1, digits: 2, usual: [-180, 180], help: 'Where it looks on the plan: 0 along −z (north), 90 along +x (east).' }),
  eastMetres: metres('Place along x', 'On the plan; only positions of a render need it.'),
  southMetres: metres('Place along z', 'On the plan; only positions of a render need it.'),
  up: choice({ label: 'Up in the render is', options: { y: 'Y', z: 'Z' }, default: 'y', help: 'The axis of positions and normals that points up.' }),
  focusMetres: number({ label: 'Sharp at', unit: 'm', min: 0.01, max: 100_000, default: 10, step: 0.1, digits: 2, usual: [0.3, 100], help: 'Distance of the plane in focus.' }),
  fNumber: number({ label: 'f-number', unit: '', min: 0.5, max: 256, default: 8, step: 0.1, digits: 1, usual: [1, 22], help: 'Focal length over the diameter of the aperture.' }),
  shutterSeconds: number({ label: 'Shutter', unit: 's', min: 0.00001, max: 86_400, default: 1 / 125, step: 0.001, digits: 4, usual: [0.001, 1], help: 'How long it is exposed.' }),
  iso: number({ label: 'ISO', unit: '', min: 1, max: 10_000_000, default: 100, step: 10, digits: 0, usual: [50, 6400], help: 'Speed of the sensor (ISO 12232).' }),
};

export const camera: Parametric & { readonly params: typeof cameraParams } = { label: 'Camera', params: cameraParams };
export type Camera = ParamValues<typeof cameraParams>;

/** How a camera came to be known. */
export const CAMERA_ORIGINS = { file: 'From the file of the render', lines: 'Found from lines in the picture', hand: 'Set by hand' } as const;
export type CameraOrigin = keyof typeof CAMERA_ORIGINS;

/** As a document keeps it. */
export interface DocumentCamera {
  readonly from: CameraOrigin;
  readonly params: KeptValues;
}

/** @throws CoreError `bad-parameter` */
export const cameraOf = ({ params }: DocumentCamera): Camera => completeParams(camera, params) as unknown as Camera;

/** EV at ISO 100. @source ISO 2720 */
export const exposureValue = (fNumber: number, shutterSeconds: number, iso: number): number => Math.log2((fNumber * fNumber) / shutterSeconds) - Math.log2(iso / 100);

/** Picture value 1 is the luminance that saturates the sensor: 1.2 · 2^EV cd/m². @source ISO 12232 (saturation) */
export const scaleOfExposure = (ev100: number): number => 1 / (1.2 * 2 ** ev100);

/** Diameter of the blur of a point infinitely far away, on the sensor; all lengths alike. @source Ray, Applied Photographic Optics */
export const blurOfInfinity = (focal: number, fNumber: number, focus: number): number => ((focal / fNumber) * focal) / (focus - focal);

/** The same of a point at `distance`. */
export const blurDiameter = (focal: number, fNumber: number, focus: number, distance: number): number => (blurOfInfinity(focal, fNumber, focus) * Math.abs(distance - focus)) / distance;

/** Focused here, infinity is just sharp; all lengths alike, `circle` is the largest blur disc that counts as sharp. @source Ray, Applied Photographic Optics */
export const hyperfocal = (focal: number, fNumber: number, circle: number): number => (focal * focal) / (fNumber * circle) + focal;

/** From where to where it is sharp, focused at `focus`. @source as above */
export function sharpBetween(focal: number, fNumber: number, focus: number, circle: number): readonly [near: number, far: number] {
  const h = hyperfocal(focal, fNumber, circle);
  return [(focus * (h - focal)) / (h + focus - 2 * focal), focus >= h ? Number.POSITIVE_INFINITY : (focus * (h - focal)) / (h - focus)];
}

/** Angle of view across a length on the sensor, in degrees. @source 2·atan(d / 2f) */
export const angleOfView = (sensorMillimetres: number, focalMillimetres: number): number => (2 * Math.atan(sensorMillimetres / 2 / focalMillimetres) * 180) / Math.PI;
