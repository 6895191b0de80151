/** What a camera sees: rays through pixels, places in the picture, the horizon, the ground. */
import type { Size } from '../raster/region.ts';
import type { Camera } from './camera.ts';
import { cross, dot, minus, normalized, plus, scaledBy, type Triple } from '../vector.ts';

const RADIANS = Math.PI / 180;

/** A camera before a picture of a size. Vectors are of length 1, in the document's world; places in pixels from the picture's upper left corner. */
export interface CameraView {
  readonly eye: Triple;
  readonly forward: Triple;
  readonly right: Triple;
  readonly up: Triple;
  /** Focal length in pixels: how far a metre aside is, a metre away. */
  readonly focalPx: number;
  /** Where the lens's axis meets the picture. */
  readonly axisX: number;
  readonly axisY: number;
}

/** @source pinhole camera, e.g. Hartley and Zisserman, Multiple View Geometry, ch. 6 */
export function viewOfCamera(camera: Camera, { width, height }: Size): CameraView {
  const heading = camera.headingDegrees * RADIANS;
  const tilt = camera.tiltDegrees * RADIANS;
  const roll = camera.rollDegrees * RADIANS;
  const level: Triple = [Math.sin(heading), 0, -Math.cos(heading)];
  const forward: Triple = plus(scaledBy(level, Math.cos(tilt)), [0, Math.sin(tilt), 0]);
  const aside: Triple = [Math.cos(heading), 0, Math.sin(heading)];
  const above = cross(aside, forward);
  const perMillimetre = width / camera.sensorMillimetres;
  return {
    eye: [camera.eastMetres, camera.heightMetres, camera.southMetres],
    forward,
    right: plus(scaledBy(aside, Math.cos(roll)), scaledBy(above, -Math.sin(roll))),
    up: plus(scaledBy(above, Math.cos(roll)), scaledBy(aside, Math.sin(roll))),
    focalPx: camera.focalMillimetres * perMillimetre,
    axisX: width / 2 - camera.shiftX * perMillimetre,
    axisY: height / 2 + camera.shiftY * perMillimetre,
  };
}

/** Angles of a camera that looks along `forward` with `up` upwards in the picture. Straight up or down, it has no heading of its own: its roll is 0 then. */
export function anglesOf(forward: Triple, up: Triple): Pick<Camera, 'tiltDegrees' | 'rollDegrees' | 'headingDegrees'> {
  const tilt = Math.asin(Math.min(1, Math.max(-1, forward[1])));
  const isSteep = Math.hypot(forward[0], forward[2]) < 1e-6;
  // Looking straight down, what is up in the picture lies ahead; looking up, it lies behind.
  const ahead = isSteep ? scaledBy(up, forward[1] < 0 ? 1 : -1) : forward;
  const heading = Math.atan2(ahead[0], -ahead[2]);
  const aside: Triple = [Math.cos(heading), 0, Math.sin(heading)];
  const roll = isSteep ? 0 : Math.atan2(dot(up, aside), dot(up, cross(aside, forward)));
  return { tiltDegrees: tilt / RADIANS, rollDegrees: roll / RADIANS, headingDegrees: heading / RADIANS };
}

/** Degrees of any number of turns, within one: from −180 to below 180. */
export const oneTurn = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180;

/** The ray through a place in the picture, as long as it gets per metre of depth (along the lens's axis): not of length 1. */
export function rayThrough(view: CameraView, x: number, y: number): Triple {
  const a = (x - view.axisX) / view.focalPx;
  const b = (view.axisY - y) / view.focalPx;
  const { forward: f, right: r, up: u } = view;
  return [f[0] + r[0] * a + u[0] * b, f[1] + r[1] * a + u[1] * b, f[2] + r[2] * a + u[2] * b];
}

/** The same into `out`, for those who ask for every pixel. */
export function rayInto({ axisX, axisY, focalPx, forward: f, right: r, up: u }: CameraView, x: number, y: number, out: Float64Array): void {
  const a = (x - axisX) / focalPx;
  const b = (axisY - y) / focalPx;
  for (let c = 0; c < 3; c++) out[c] = f[c] + r[c] * a + u[c] * b;
}

/** What goes in straight lines with rays does so with pixels that are `scale` of the picture's wide: at the centre of the first, and so much more with each column and each row. */
export function overPixels(view: CameraView, along: ArrayLike<number>, scale: number): readonly [first: number, perColumn: number, perRow: number] {
  const times = ([x, y, z]: Triple) => along[0] * x + along[1] * y + along[2] * z;
  return [times(rayThrough(view, scale / 2, scale / 2)), (times(view.right) * scale) / view.focalPx, (-times(view.up) * scale) / view.focalPx];
}

/** Where a place in the world is seen, and its depth in metres; null behind the camera. */
export function projected(view: CameraView, place: Triple): { readonly x: number; readonly y: number; readonly depthMetres: number } | null {
  const way = minus(place, view.eye);
  const depth = dot(way, view.forward);
  if (!(depth > 1e-9)) return null;
  return { x: view.axisX + (dot(way, view.right) / depth) * view.focalPx, y: view.axisY - (dot(way, view.up) / depth) * view.focalPx, depthMetres: depth };
}

/** Where all level lines of a direction run together; null if they do not meet, or behind the camera. */
export function vanishingPoint(view: CameraView, direction: Triple): readonly [x: number, y: number] | null {
  const depth = dot(direction, view.forward);
  if (depth < 1e-9) return null;
  return [view.axisX + (dot(direction, view.right) / depth) * view.focalPx, view.axisY - (dot(direction, view.up) / depth) * view.focalPx];
}

/**
 * The horizon's y at an x of the picture: where rays neither rise nor fall. Not finite if the camera looks straight up or down, or lies on its side.
 */
export function horizonAt(view: CameraView, x: number): number {
  const a = (x - view.axisX) / view.focalPx;
  return view.axisY + (view.focalPx * (view.forward[1] + view.right[1] * a)) / view.up[1];
}

/** The place on level ground (at a height in metres) that is seen at a place in the picture; null if the ray does not come down to it. */
export function groundAt(view: CameraView, x: number, y: number, groundMetres = 0): Triple | null {
  const ray = rayThrough(view, x, y);
  const depth = (groundMetres - view.eye[1]) / ray[1];
  return depth > 0 && Number.isFinite(depth) ? plus(view.eye, scaledBy(ray, depth)) : null;
}

/** Metres along the ray for metres of depth at a place in the picture. */
export const distancePerDepth = (view: CameraView, x: number, y: number): number => Math.hypot(1, (x - view.axisX) / view.focalPx, (y - view.axisY) / view.focalPx);

/** The direction of an upright camera that looks at a place, as a camera's angles: the height of the place becomes shift. */
export const towards = (from: Triple, to: Triple): Triple => normalized(minus(to, from));
