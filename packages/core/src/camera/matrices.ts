/**
 * A camera as the matrices that OpenEXR files carry. Points are rows: p′ = p · M, with M in 16 numbers row by row.
 *
 * @source OpenEXR, ImfStandardAttributes.h (wording from memory): camera space is left-handed, x to the right, y up, z ahead; NDC runs from (0, 0) at the
 * upper left to (1, 1) at the lower right of the display window.
 */
import type { Size } from '../raster/region.ts';
import { type Camera, cameraParams } from './camera.ts';
import { cross, dot, normalized, type Triple } from '../vector.ts';
import { anglesOf, type CameraView, viewOfCamera } from './view.ts';

export type Matrix4 = readonly number[];

/** What a file says about its camera; numbers of standard attributes. */
export interface CameraFacts {
  readonly worldToCamera?: Matrix4;
  readonly worldToNDC?: Matrix4;
  /** Millimetres. */
  readonly focalMillimetres?: number;
  readonly sensorMillimetres?: number;
  readonly focusMetres?: number;
  readonly fNumber?: number;
  readonly shutterSeconds?: number;
  readonly iso?: number;
}

/** From the document's world into that of the file. */
const toFile = (up: Camera['up'], [x, y, z]: Triple): Triple => (up === 'z' ? [x, -z, y] : [x, y, z]);
export const fromFile = (up: Camera['up'], [x, y, z]: Triple): Triple => (up === 'z' ? [x, z, -y] : [x, y, z]);

/** @param size the display window */
export function matricesOf(camera: Camera, size: Size): { readonly worldToCamera: Matrix4; readonly worldToNDC: Matrix4 } {
  const view = viewOfCamera(camera, size);
  const [right, up, forward, eye] = [view.right, view.up, view.forward, view.eye].map((vector) => toFile(camera.up, vector));
  const from = (axis: Triple) => -dot(axis, eye);
  // Columns: what each coordinate of the result is made of.
  const matrix = (columns: readonly (readonly [Triple, number])[]): Matrix4 => [0, 1, 2, 3].flatMap((row) => columns.map(([axis, offset]) => (row < 3 ? axis[row] : offset)));
  const mixed = (a: Triple, s: number, t: number): readonly [Triple, number] => {
    const axis: Triple = [a[0] * s + forward[0] * t, a[1] * s + forward[1] * t, a[2] * s + forward[2] * t];
    return [axis, from(axis)];
  };
  return {
    worldToCamera: matrix([[right, from(right)], [up, from(up)], [forward, from(forward)], [[0, 0, 0], 1]]),
    worldToNDC: matrix([mixed(right, view.focalPx / size.width, view.axisX / size.width), mixed(up, -view.focalPx / size.height, view.axisY / size.height), mixed(forward, 1, 0), mixed(forward, 1, 0)]),
  };
}

const isMatrix = (m: Matrix4 | undefined): m is Matrix4 => m !== undefined && m.length === 16 && m.every(Number.isFinite);
const column = (m: Matrix4, c: number): Triple => [m[c], m[4 + c], m[8 + c]];

/**
 * The camera that a file's matrices describe; null if they describe none. Both matrices are needed for place and angle of view: `worldToNDC` alone has them
 * too, `worldToCamera` alone leaves the angle to `focalMillimetres`. NDC may also run from −1 to 1 with y up, as some write it. The world is taken to be right-handed.
 *
 * @param size the display window, in pixels
 */
export function cameraFromFacts(facts: CameraFacts, size: Size): Camera | null {
  const seen = isMatrix(facts.worldToNDC) ? fromProjection(facts.worldToNDC, size) : isMatrix(facts.worldToCamera) ? fromPose(facts.worldToCamera, facts, size) : null;
  if (!seen) return null;
  const up = upAxis(seen.right, seen.up);
  const [right, upwards, forward, eye] = [seen.right, seen.up, seen.forward, seen.eye].map((vector) => fromFile(up, vector));
  if (![...right, ...upwards, ...forward, ...eye, seen.focalPx, seen.axisX, seen.axisY].every(Number.isFinite)) return null;
  const sensor = facts.sensorMillimetres ?? (facts.focalMillimetres ? (facts.focalMillimetres / seen.focalPx) * size.width : cameraParams.sensorMillimetres.default);
  const perMillimetre = size.width / sensor;
  const usual = (value: number | undefined, { default: initial, min, max }: { default: number; min: number; max: number }) => (value !== undefined && value >= min && value <= max ? value : initial);
  const found: Camera = {
    ...anglesOf(forward, upwards),
    focalMillimetres: seen.focalPx / perMillimetre,
    sensorMillimetres: sensor,
    shiftX: (size.width / 2 - seen.axisX) / perMillimetre,
    shiftY: (seen.axisY - size.height / 2) / perMillimetre,
    heightMetres: eye[1],
    eastMetres: eye[0],
    southMetres: eye[2],
    up,
    focusMetres: usual(facts.focusMetres, cameraParams.focusMetres),
    fNumber: usual(facts.fNumber, cameraParams.fNumber),
    shutterSeconds: usual(facts.shutterSeconds, cameraParams.shutterSeconds),
    iso: usual(facts.iso, cameraParams.iso),
  };
  // A lens outside of all sense means that the matrices are no camera's.
  return Object.entries(cameraParams).every(([name, param]) => param.kind !== 'number' || ((found as Record<string, unknown>)[name] as number) >= param.min && ((found as Record<string, unknown>)[name] as number) <= param.max) ? found : null;
}

/** The axis of the file that a camera without much roll has upwards: it lies across the picture's horizontal. */
function upAxis(right: Triple, up: Triple): Camera['up'] {
  const score = (axis: 1 | 2) => Math.abs(right[axis]) - 0.5 * Math.max(0, up[axis]);
  return score(2) < score(1) - 1e-9 ? 'z' : 'y';
}

function fromProjection(m: Matrix4, { width, height }: Size): CameraView | null {
  // w is the depth, up to a factor: its column is the direction of view.
  const [cx, cy, cw] = [column(m, 0), column(m, 1), column(m, 3)];
  const scale = Math.hypot(...cw);
  if (!(scale > 1e-12)) return null;
  const forward = normalized(cw);
  const [px, py] = [cx, cy].map((c) => dot(c, forward) / scale);
  const across: Triple = [0, 1, 2].map((k) => cx[k] / scale - px * forward[k]) as unknown as Triple;
  const down: Triple = [0, 1, 2].map((k) => cy[k] / scale - py * forward[k]) as unknown as Triple;
  const [sx, sy] = [Math.hypot(...across), Math.hypot(...down)];
  if (!(sx > 1e-12 && sy > 1e-12)) return null;
  // 0…1 has y down, −1…1 has it up: in a right-handed world, right × down points ahead.
  const isUnit = dot(cross(across, down), forward) > 0;
  const [focalX, focalY] = isUnit ? [sx * width, sy * height] : [(sx * width) / 2, (sy * height) / 2];
  // Pixels are square, or it is another picture's camera.
  if (Math.abs(focalX / focalY - 1) > 0.02) return null;
  const right = normalized(across);
  const up = normalized(isUnit ? [-down[0], -down[1], -down[2]] : down);
  const eye = solved([[...cx, -m[12]], [...cy, -m[13]], [...cw, -m[15]]]);
  if (!eye) return null;
  return { eye, forward, right, up, focalPx: (focalX + focalY) / 2, axisX: (isUnit ? px : (px + 1) / 2) * width, axisY: (isUnit ? py : (1 - py) / 2) * height };
}

function fromPose(m: Matrix4, facts: CameraFacts, { width, height }: Size): CameraView | null {
  if (!facts.focalMillimetres) return null;
  const [right, up, third] = [column(m, 0), column(m, 1), column(m, 2)].map(normalized) as [Triple, Triple, Triple];
  // A right-handed camera space looks along −z.
  const forward: Triple = dot(cross(right, up), third) > 0 ? [-third[0], -third[1], -third[2]] : third;
  const eye = solved([[...column(m, 0), -m[12]], [...column(m, 1), -m[13]], [...column(m, 2), -m[14]]]);
  if (!eye) return null;
  return { eye, forward, right, up, focalPx: (facts.focalMillimetres / (facts.sensorMillimetres ?? cameraParams.sensorMillimetres.default)) * width, axisX: width / 2, axisY: height / 2 };
}

/** Three equations a·x = b, each as four numbers; null if they have no single answer. By Cramer's rule. */
function solved(rows: readonly (readonly number[])[]): Triple | null {
  const determinant = (columns: readonly number[][]) => dot(columns[0] as unknown as Triple, cross(columns[1] as unknown as Triple, columns[2] as unknown as Triple));
  const columns = [0, 1, 2, 3].map((c) => rows.map((row) => row[c]));
  const whole = determinant(columns.slice(0, 3));
  if (!(Math.abs(whole) > 1e-18)) return null;
  return [0, 1, 2].map((c) => determinant([0, 1, 2].map((k) => columns[k === c ? 3 : k])) / whole) as unknown as Triple;
}
