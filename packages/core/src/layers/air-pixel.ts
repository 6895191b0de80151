/** Air before a pixel: its light, and how much of what lies behind it hides. */
import { extinctionOf, forwardScatter, opticalDepth } from '../air/air.ts';
import type { CameraView } from '../camera/view.ts';
import type { PixelPlace } from '../corrections/define.ts';
import { dot, type Triple } from '../vector.ts';
import type { FillColor } from './fill-pixel.ts';

export interface Air {
  readonly visibilityMetres: number;
  /** No air nearer than this. */
  readonly startMetres: number;
  /** Its height is counted from here, in the document's world. */
  readonly groundMetres: number;
  /** e times thinner so much higher up; null if it is even. */
  readonly fallOffMetres: number | null;
  /** No air above this height over its ground; null if it has no end. */
  readonly ceilingMetres: number | null;
  readonly color: Triple;
  /** What is added of light on its way from the sun, evenly scattered. */
  readonly glow: Triple;
  readonly forwardness: number;
  /** How much of it lies before the sky, 0…1. */
  readonly sky: number;
}

export interface AirSight {
  /** Null if the camera is not known: rays are level then, and as long as depths. */
  readonly view: CameraView | null;
  /** Towards the sun; null if it is not known. */
  readonly sun: Triple | null;
  /** Whether metres are depths along the camera's axis, or distances. */
  readonly areDepths: boolean;
  /** Whether an element says how much of a pixel is not sky. */
  readonly hasAlpha: boolean;
}

/** What is farther than this, or nowhere, is sky. */
export const SKY_METRES = 50_000;
/** The way through air that does not end. */
const SKY_WAY = 1e6;
const NO_CEILING = 1e30;
/** Where no camera is known: the height of an eye. */
const EYE_METRES = 1.6;

/**
 * Packed for the kernel: axis x, y, 1 / focal length (0 without a camera), 1 if depths · rise of a ray for a metre of depth: its constant, by x, by y ·
 * eye over the ground · extinction · 1 / fall-off (0 if even) · start · ceiling · share of the sky · 1 if there is alpha · colour · glow × (1 − g²) · g · towards the sun: constant, by x, by y.
 */
export function prepareAir(air: Air, { view, sun, areDepths, hasAlpha }: AirSight): Float32Array {
  const along = (direction: Triple): Triple => (view ? [dot(view.forward, direction), dot(view.right, direction), dot(view.up, direction)] : [0, 0, 0]);
  const lit = view && sun ? 1 - air.forwardness ** 2 : 0;
  return Float32Array.of(
    ...(view ? [view.axisX, view.axisY, 1 / view.focalPx] : [0, 0, 0]),
    areDepths ? 1 : 0,
    ...along([0, 1, 0]),
    (view ? view.eye[1] : EYE_METRES) - air.groundMetres,
    extinctionOf(air.visibilityMetres),
    air.fallOffMetres === null ? 0 : 1 / air.fallOffMetres,
    air.startMetres,
    air.ceilingMetres ?? NO_CEILING,
    air.sky,
    hasAlpha ? 1 : 0,
    ...air.color,
    ...air.glow.map((value) => value * lit),
    air.forwardness,
    ...along(sun ?? [0, 0, 0]),
  );
}

/**
 * Light of the air and what it hides. `others`: near, far and the share of the far (see raster/sides.ts); alpha.
 * @source airlight: colour × (1 − transmittance), in linear light
 */
export function airPixel(prepared: Float32Array, [x, y]: PixelPlace, [[near, far, farShare], [covered]]: readonly (readonly number[])[]): FillColor {
  const [axisX, axisY, perFocal, areDepths, rise, riseX, riseY, eye, extinction, perFallOff, start, ceiling, sky, hasAlpha] = prepared;
  const [a, b] = [(x - axisX) * perFocal, (axisY - y) * perFocal];
  const length = Math.sqrt(1 + a * a + b * b);
  const dy = (rise + riseX * a + riseY * b) / length;
  const hidden = (end: number) => {
    let [from, to] = [start, end];
    // Only what lies below the ceiling.
    const crossing = (ceiling - eye) / dy;
    if (dy > 0) to = Math.min(to, crossing);
    else if (dy < 0) from = Math.max(from, crossing);
    else if (eye > ceiling) to = from;
    return to > from ? 1 - Math.exp(-opticalDepth(extinction, perFallOff === 0 ? null : 1 / perFallOff, eye + dy * from, dy, to - from)) : 0;
  };
  const skyHidden = sky * hidden(SKY_WAY);
  const hiddenAt = (metres: number) => (metres > 0 && metres < SKY_METRES ? hidden(areDepths ? metres * length : metres) : skyHidden);
  const surface = (1 - farShare) * hiddenAt(near) + farShare * hiddenAt(far);
  const skyShare = hasAlpha ? 1 - Math.min(1, Math.max(0, covered)) : 0;
  const g = prepared[20];
  const scatter = forwardScatter(g, (prepared[21] + prepared[22] * a + prepared[23] * b) / length) / (1 - g * g);
  const light = [0, 1, 2].map((c) => prepared[14 + c] + prepared[17 + c] * scatter);
  return [light[0], light[1], light[2], surface + skyShare * (skyHidden - surface)];
}
