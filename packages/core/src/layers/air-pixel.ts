/** Air before a pixel: its light, and how much of what lies behind it hides. */
import { extinctionOf, forwardScatter, opticalDepth } from '../air/air.ts';
import type { CameraView } from '../camera/view.ts';
import type { PixelPlace } from '../corrections/define.ts';
import { FIELD_SIDE, fieldAt } from '../raster/field.ts';
import { cloudField, FIELD_FORMS } from '../sky/clouds.ts';
import { dot, type Triple } from '../vector.ts';
import type { FillColor } from './fill-pixel.ts';

export interface Air {
  readonly visibilityMetres: number;
  /** No air nearer than this. */
  readonly startMetres: number;
  /** No air farther than this; null if it goes on. */
  readonly endMetres: number | null;
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
  /** How far the glow comes only from where the sky is seen on the way to the sun, 0…1. */
  readonly shafts: number;
  /** How much of it lies before the sky, 0…1. */
  readonly sky: number;
  /** How unevenly it lies: 0 is even, at 1 it is from nothing to twice as thick. */
  readonly mist: number;
  /** How wide its banks are. */
  readonly mistMetres: number;
  readonly seed: number;
  /** 0 takes all colours alike, 1 takes blue from what is far and gives it to the air as clear air does. */
  readonly blue: number;
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
  /** Whether what lies below is read: each channel is veiled by itself then. */
  readonly readsBelow: boolean;
}

/** What is farther than this, or nowhere, is sky. */
export const SKY_METRES = 50_000;
/** The way through air that does not end. */
const SKY_WAY = 1e6;
const NO_CEILING = 1e30;
/** Banks are looked for at so many places along a ray, and not farther than where so much of it (in optical depths) lies before them. Common practice, no published source. */
const [MIST_STEPS, MIST_DEPTH] = [3, 2];
/** Wavelengths of red, green and blue in nanometres (dominant ones of the primaries), and how much more than green each is scattered by clear air. @source Rayleigh 1871: λ⁻⁴; primaries of ITU-R BT.709 */
const [RED_NM, GREEN_NM, BLUE_NM] = [611, 549, 464];
const SCATTERED: Triple = [(GREEN_NM / RED_NM) ** 4, 1, (GREEN_NM / BLUE_NM) ** 4];
/** How banks lean with height: they are not pillars. */
const [LEAN_X, LEAN_Z] = [0.9, -0.6];
/** Where the numbers of banks begin. */
const MIST_AT = 24;
/** Where it says how thick the air is for each channel; 0 if it is alike for all. */
const BLUE_AT = 37;
/** Where it says how far the glow comes past what stands before the sky. */
const SHAFTS_AT = 40;
/** Where it says how far it goes. */
const END_AT = 41;
/** Where no camera is known: the height of an eye. */
const EYE_METRES = 1.6;

/**
 * Packed for the kernel: axis x, y, 1 / focal length (0 without a camera), 1 if depths · rise of a ray for a metre of depth: its constant, by x, by y ·
 * eye over the ground · extinction · 1 / fall-off (0 if even) · start · ceiling · share of the sky · 1 if there is alpha · colour · glow × (1 − g²) · g · towards the sun: constant, by x, by y (24) ·
 * and of banks: how uneven, a metre in lengths of the field, a pixel's width in its texels for a metre of way, the eye: x, z · how far they are looked for · a ray's x and z for a metre of depth: constant, by x, by y · seed (37) · how thick it is for red, green and blue; 0 if alike · shafts (40) · where it ends (41).
 */
export function prepareAir(air: Air, { view, sun, areDepths, hasAlpha, readsBelow }: AirSight): Float32Array {
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
    ...(view && air.mist > 0
      ? [air.mist, 1 / (FIELD_FORMS * air.mistMetres), FIELD_SIDE / (FIELD_FORMS * air.mistMetres * view.focalPx), view.eye[0], view.eye[2], MIST_DEPTH / extinctionOf(air.visibilityMetres), ...along([1, 0, 0]), ...along([0, 0, 1]), air.seed]
      : new Array<number>(13).fill(0)),
    ...SCATTERED.map((more) => (readsBelow ? 1 + air.blue * (more - 1) : 0)),
    air.shafts,
    air.endMetres ?? SKY_WAY,
  );
}

/** The field of its banks, for the loop. */
export const airTable = (prepared: Float32Array) => (prepared[MIST_AT] === 0 ? null : { key: `clouds ${prepared[MIST_AT + 12]}`, values: cloudField(prepared[MIST_AT + 12]) });

/**
 * Light of the air and what it hides. `step` is the width of a pixel in those of the full picture. `others`: near, far and the share of the far (see raster/sides.ts); alpha; the picture below, where each channel is veiled by itself; how much on the way to the sun is covered.
 * @source airlight: colour × (1 − transmittance), in linear light
 */
export function airPixel(prepared: Float32Array, [x, y]: PixelPlace, [[near, far, farShare], [covered], below, [before]]: readonly (readonly number[])[], step: number): FillColor {
  const [axisX, axisY, perFocal, areDepths, rise, riseX, riseY, eye, extinction, perFallOff, start, ceiling, sky, hasAlpha] = prepared;
  const [a, b] = [(x - axisX) * perFocal, (axisY - y) * perFocal];
  const length = Math.sqrt(1 + a * a + b * b);
  const dy = (rise + riseX * a + riseY * b) / length;
  const [uneven, tile, texels, eyeX, eyeZ, reach] = prepared.subarray(MIST_AT, MIST_AT + 6);
  const [dx, dz] = [MIST_AT + 6, MIST_AT + 9].map((at) => (prepared[at] + prepared[at + 1] * a + prepared[at + 2] * b) / length);
  /** How much more than evenly there is of it on the way: 1 on the mean over all banks. */
  const banks = (from: number, way: number) => {
    if (uneven === 0) return 1;
    const field = cloudField(prepared[MIST_AT + 12]);
    const part = Math.min(way, reach) / MIST_STEPS;
    let sum = 0;
    for (let k = 0; k < MIST_STEPS; k++) {
      const at = from + (k + 0.5) * part;
      const height = eye + dy * at;
      sum += fieldAt(field, (eyeX + dx * at + LEAN_X * height) * tile, (eyeZ + dz * at + LEAN_Z * height) * tile, Math.log2(Math.max(1e-6, at * texels * step)));
    }
    return Math.max(0, 1 + uneven * ((2 * sum) / MIST_STEPS - 1));
  };
  const depthTo = (end: number) => {
    let [from, to] = [start, Math.min(end, prepared[END_AT])];
    // Only what lies below the ceiling.
    const crossing = (ceiling - eye) / dy;
    if (dy > 0) to = Math.min(to, crossing);
    else if (dy < 0) from = Math.max(from, crossing);
    else if (eye > ceiling) to = from;
    return to > from ? opticalDepth(extinction, perFallOff === 0 ? null : 1 / perFallOff, eye + dy * from, dy, to - from) * banks(from, to - from) : 0;
  };
  const toSky = depthTo(SKY_WAY);
  /** Null is sky. */
  const [toNear, toFar] = [near, far].map((metres) => (metres > 0 && metres < SKY_METRES ? depthTo(areDepths ? metres * length : metres) : null));
  const skyShare = hasAlpha ? 1 - Math.min(1, Math.max(0, covered)) : 0;
  /** What is hidden, for light that is scattered `more` than usual. */
  const hiddenFor = (more: number) => {
    const hides = (depth: number | null) => (depth === null ? sky * (1 - Math.exp(-toSky * more)) : 1 - Math.exp(-depth * more));
    const surface = (1 - farShare) * hides(toNear) + farShare * hides(toFar);
    return surface + skyShare * (hides(null) - surface);
  };
  const g = prepared[20];
  const scatter = forwardScatter(g, (prepared[21] + prepared[22] * a + prepared[23] * b) / length) / (1 - g * g) * (1 - prepared[SHAFTS_AT] * before);
  const light = [0, 1, 2].map((c) => prepared[14 + c] + prepared[17 + c] * scatter);
  if (prepared[BLUE_AT] === 0) return [light[0], light[1], light[2], hiddenFor(1)];
  const [r, green, b2] = light.map((value, c) => {
    const hidden = hiddenFor(prepared[BLUE_AT + c]);
    return below[c] + hidden * (value - below[c]);
  });
  return [r, green, b2, 1];
}
