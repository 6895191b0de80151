/** A camera from lines that are drawn on the picture: two pairs of edges that are parallel in the place, and square to each other. */
import { CoreError } from '../errors.ts';
import type { Size } from '../raster/region.ts';
import { type Camera, cameraParams } from './camera.ts';
import { cross, dot, normalized, plus, scaledBy, type Triple } from '../vector.ts';
import { anglesOf } from './view.ts';

type Place = readonly [x: number, y: number];
/** An edge from one place of the picture to another. */
export type Edge = readonly [from: Place, to: Place];

export interface DrawnLines {
  /** Two level edges that are parallel in the place, and two more that are square to them. In pixels of the picture. */
  readonly first: readonly [Edge, Edge];
  readonly second: readonly [Edge, Edge];
  /** Whether uprights are parallel in the picture: then the horizon lies off the middle by a shift of the lens and not by a tilt. */
  readonly isUpright: boolean;
}

const bad = (sentence: string): never => {
  throw new CoreError('bad-lines', sentence);
};

/** Where two edges meet, as (x, y, w): at infinity w is 0. Coordinates from the middle of the picture, in its widths. */
function meeting([a, b]: readonly [Edge, Edge], which: string, { width, height }: Size): Triple {
  const unit = ([x, y]: Place): Triple => [(x - width / 2) / width, (height / 2 - y) / width, 1];
  const lines = [a, b].map(([from, to]): Triple => {
    if (![...from, ...to].every(Number.isFinite)) return bad(`An edge of the ${which} pair has an end that is no place.`);
    if (Math.hypot(from[0] - to[0], from[1] - to[1]) < 2) return bad(`An edge of the ${which} pair has no length. Draw it along a longer edge of the building.`);
    return normalized(cross(unit(from), unit(to)));
  });
  const met = cross(lines[0], lines[1]);
  if (Math.hypot(...met) < 1e-7) return bad(`Both edges of the ${which} pair lie on one line. Draw them along two edges that are apart.`);
  return normalized(met);
}

/**
 * Angle of view, direction and shift or tilt of the camera. What lines cannot tell (place, height, sensor) is taken from `known`.
 *
 * The middle of the picture lies on the lens's axis; with `isUpright`, the axis meets the horizon below or above it. The heading is 0 along the first pair.
 *
 * @throws CoreError `bad-lines` for edges that meet nowhere, or where no camera sees such a right angle
 * @source Caprile and Torre, "Using vanishing points for camera calibration", IJCV 4 (1990): (v₁ − p)·(v₂ − p) + f² = 0
 */
export function cameraFromLines(lines: DrawnLines, size: Size, known: Camera): Camera {
  const [v1, v2] = [meeting(lines.first, 'first', size), meeting(lines.second, 'second', size)];
  // Beyond this many widths of the picture, lines count as parallel to it.
  const isFar = ([x, y, w]: Triple) => Math.hypot(x, y) > 200 * Math.abs(w);
  if (isFar(v1) && isFar(v2)) bad('Both pairs are parallel in the picture, so that they say nothing about the camera. Draw one pair along edges that lead away from it.');
  const joined = cross(v1, v2);
  if (Math.hypot(...joined) < 1e-4) bad('Both pairs run together at the same place. Draw the second along edges that are square to the first.');
  const horizon = normalized(joined);
  if (Math.abs(horizon[1]) < Math.abs(horizon[0])) bad('The horizon that follows from the lines stands upright. Draw both pairs along level edges.');
  const flat: Triple = horizon[1] < 0 ? scaledBy(horizon, -1) : horizon;
  // The axis: in the middle of the picture, or on the horizon above or below it.
  const axis: readonly [number, number] = lines.isUpright ? [0, -flat[2] / flat[1]] : [0, 0];
  const from = ([x, y, w]: Triple): Triple => [x - axis[0] * w, y - axis[1] * w, w];
  const [a, b] = [from(v1), from(v2)];
  const isOneFar = isFar(v1) || isFar(v2);
  const knownFocal = known.focalMillimetres / known.sensorMillimetres;
  const squared = isOneFar ? knownFocal ** 2 : -(a[0] * b[0] + a[1] * b[1]) / (a[2] * b[2]);
  if (!(squared > 1e-4)) bad('No camera sees these edges at a right angle. Check that the second pair is square to the first, and that each pair is parallel in the place.');
  const focal = Math.sqrt(squared);
  // Directions in the camera's own axes: to the right, up, ahead.
  const direction = ([x, y, w]: Triple): Triple => {
    const way = normalized([x, y, w * focal]);
    return way[2] < 0 ? scaledBy(way, -1) : way;
  };
  const ahead = direction(a);
  const upwards = normalized([flat[0], flat[1], (flat[2] + flat[0] * axis[0] + flat[1] * axis[1]) / focal]);
  // The camera’s own axes (right, up, ahead) are left-handed; the world (east, up, south) is not.
  const north = normalized(plus(ahead, scaledBy(upwards, -dot(ahead, upwards))));
  const east = cross(upwards, north);
  const world = (v: Triple): Triple => [dot(v, east), dot(v, upwards), -dot(v, north)];
  const sensor = known.sensorMillimetres;
  const found: Camera = {
    ...known,
    ...anglesOf(world([0, 0, 1]), world([0, 1, 0])),
    focalMillimetres: focal * sensor,
    shiftX: 0,
    shiftY: lines.isUpright ? -axis[1] * sensor : 0,
  };
  const { min, max } = cameraParams.focalMillimetres;
  if (found.focalMillimetres < min || found.focalMillimetres > max) bad(`The lines would need a focal length of ${found.focalMillimetres.toPrecision(3)} mm. Check that each pair is parallel in the place.`);
  if (Math.abs(found.shiftY) > cameraParams.shiftY.max) bad('The horizon that follows from the lines lies far outside of the picture. Choose a tilted camera, or draw them along level edges.');
  return found;
}

/** The camera with its horizon at a height of the picture: shifted if it stands upright, tilted otherwise. */
export function withHorizon(known: Camera, size: Size, y: number, isUpright: boolean): Camera {
  const perMillimetre = size.width / known.sensorMillimetres;
  const above = (y - size.height / 2) / perMillimetre;
  return isUpright ? { ...known, shiftY: above, tiltDegrees: 0 } : { ...known, shiftY: 0, tiltDegrees: (Math.atan(above / known.focalMillimetres) * 180) / Math.PI };
}
