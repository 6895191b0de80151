/** Where the sun stands, by a shadow on level ground. */
import { type CameraView, groundAt, rayThrough } from './view.ts';
import { minus, type Triple } from '../vector.ts';
import { positionOf, sunDirection, type SunPosition } from '../sun/position.ts';
import { type Sun, sunPlace } from '../sun/sun.ts';

export interface ShadowLine {
  /** Where something upright stands. */
  readonly foot: readonly [x: number, y: number];
  /** Where the shadow of its top ends. */
  readonly tip: readonly [x: number, y: number];
  /** Its top, where that is seen; null leaves the sun's height as it is. */
  readonly top: readonly [x: number, y: number] | null;
}

/** Shorter shadows on the ground, in metres, have no direction. */
const LEAST_METRES = 0.01;

/**
 * Direction of the sun from −z over +x, and its height if the top is given; a sentence if the points say nothing. All points in pixels of the picture.
 * @source geometry: the sun lies opposite to the shadow, at a height of atan(height ÷ length of the shadow)
 */
export function sunOfShadow(view: CameraView, { foot, tip, top }: ShadowLine): Pick<SunPosition, 'azimuthDegrees'> & { readonly altitudeDegrees: number | null } | string {
  const [at, end] = [groundAt(view, ...foot), groundAt(view, ...tip)];
  if (!at || !end) return 'Both ends must lie on the ground, below the horizon.';
  const way = minus(at, end);
  const length = Math.hypot(way[0], way[2]);
  if (length < LEAST_METRES) return 'Draw it from the foot of something upright to the tip of its shadow.';
  const { azimuthDegrees } = positionOf([way[0] / length, 0, way[2] / length]);
  if (!top) return { azimuthDegrees, altitudeDegrees: null };
  const height = heightOver(view, at, top);
  return height === null || height <= 0 ? 'The top must lie over the foot.' : { azimuthDegrees, altitudeDegrees: (Math.atan2(height, length) * 180) / Math.PI };
}

/** How high over a place on the ground a point of the picture is, on the upright through that place that comes nearest to its ray. */
function heightOver(view: CameraView, [x, , z]: Triple, top: readonly [number, number]): number | null {
  const { eye } = view;
  const ray = rayThrough(view, ...top);
  const level = ray[0] ** 2 + ray[2] ** 2;
  if (level === 0) return null;
  const along = ((x - eye[0]) * ray[0] + (z - eye[2]) * ray[2]) / level;
  return along > 0 ? eye[1] + along * ray[1] : null;
}

/** The sun of a document with that direction: where it is given by place and time, north is turned until it stands there. */
export function withShadow(values: Sun, { azimuthDegrees, altitudeDegrees }: { readonly azimuthDegrees: number; readonly altitudeDegrees: number | null }): Partial<Sun> {
  if (values.place === 'angles') return { azimuthDegrees, ...(altitudeDegrees === null ? {} : { altitudeDegrees }) };
  const now = positionOf(sunDirection(sunPlace(values)).direction).azimuthDegrees;
  // North is the compass direction of −z: turning it forwards turns the sun back.
  return { northDegrees: ((values.northDegrees + now - azimuthDegrees + 540) % 360) - 180 };
}
