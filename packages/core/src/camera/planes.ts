/** Planes of the scene as a camera sees them: what goes along one of them grows, shrinks and is sheared in the picture. How far away the plane is does not matter. */
import { cross, dot, minus, normalized, plus, scaledBy, type Triple, UP } from '../vector.ts';
import type { Homography } from '../raster/homography.ts';
import { type CameraView, rayThrough } from './view.ts';

/** Directions of length 1 in the document's world; both sides of it are the same plane. */
export interface ScenePlane {
  readonly normal: Triple;
  /** On the plane: to the right in the picture, or away from the camera, and what is seen as down. */
  readonly across: Triple;
  readonly down: Triple;
}

const RADIANS = Math.PI / 180;
/** Steeper than this a camera has no direction on the ground. */
const STEEP = 1e-6;
/** A plane that is seen from the side by less than this has no places in the picture. */
const LEAST_FACING = 1e-4;

const asideOf = ({ forward, right }: CameraView): Triple => (Math.hypot(forward[0], forward[2]) < STEEP ? right : normalized(cross(forward, UP)));

/** A floor below the horizon, a ceiling above it. */
export function levelPlane(view: CameraView): ScenePlane {
  const across = asideOf(view);
  return { normal: UP, across, down: cross(across, UP) };
}

/** A wall. @param runsDegrees clockwise from above: 0 runs straight away from the camera, 90 lies across its view */
export function uprightPlane(view: CameraView, runsDegrees: number): ScenePlane {
  const aside = asideOf(view);
  const runs = plus(scaledBy(cross(UP, aside), Math.cos(runsDegrees * RADIANS)), scaledBy(aside, Math.sin(runsDegrees * RADIANS)));
  const across = dot(runs, view.right) < 0 ? scaledBy(runs, -1) : runs;
  return { normal: normalized(cross(across, UP)), across, down: [0, -1, 0] };
}

/**
 * From places in the picture to the places that are seen there when the plane goes along itself: `at` shows what `to` showed. Null where one of them is not on the plane.
 *
 * @param by what else the plane does about `at`, on its directions across and down: new place = (a · across + b · down, c · across + d · down)
 * @source R. Hartley and A. Zisserman, Multiple View Geometry in Computer Vision, 2nd ed., 2004, 13.1 (planes seen by cameras)
 */
export function alongPlane(view: CameraView, { normal, across, down }: ScenePlane, at: readonly [number, number], to: readonly [number, number], [a, b, c, d]: readonly [number, number, number, number] = [1, 0, 0, 1]): Homography | null {
  const [ray, rayThere] = [rayThrough(view, ...at), rayThrough(view, ...to)];
  const facing = dot(normal, ray) < 0 ? scaledBy(normal, -1) : normal;
  const [near, there] = [dot(facing, ray), dot(facing, rayThere)];
  if (!(near > LEAST_FACING * Math.hypot(...ray) && there > LEAST_FACING * Math.hypot(...rayThere))) return null;
  // Places on the plane at a distance of 1, as seen from the eye.
  const [from, target] = [scaledBy(ray, 1 / near), scaledBy(rayThere, 1 / there)];
  const done = (way: Triple): Triple => {
    const [u, v] = [dot(way, across), dot(way, down)];
    return plus(scaledBy(across, a * u + b * v), scaledBy(down, c * u + d * v));
  };
  // Linear in rays: what lies farther along its ray goes farther, too.
  const moved = (way: Triple): Triple => plus(done(minus(way, scaledBy(from, dot(facing, way)))), scaledBy(target, dot(facing, way)));
  const { focalPx: f, axisX, axisY, forward, right, up } = view;
  const rays: readonly Triple[] = [scaledBy(right, 1 / f), scaledBy(up, -1 / f), plus(forward, minus(scaledBy(up, axisY / f), scaledBy(right, axisX / f)))];
  const seen = rays.map((way) => {
    const [x, y, depth] = [right, up, forward].map((axis) => dot(axis, moved(way)));
    return [f * x + axisX * depth, axisY * depth - f * y, depth] as const;
  });
  // Depths as shares of that at the place itself.
  const unit = near / there;
  return [0, 1, 2].flatMap((row) => seen.map((column) => column[row] / unit));
}
