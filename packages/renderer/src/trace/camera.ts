/** Camera rays. @source thin lens, as in Ray, Applied Photographic Optics */
import { cross, normalized, type Triple } from '@tazzel/core';
import type { CameraDescription } from '../scene/model.ts';

/** Where a camera looks, as angles. An upright one looks level: the slope of its sight becomes shift, per millimetre of focal length. */
export function anglesOfSight({ at, lookAt, upright }: CameraDescription): { headingDegrees: number; tiltDegrees: number; rollDegrees: number; slope: number } {
  const [x, y, z] = [lookAt[0] - at[0], lookAt[1] - at[1], lookAt[2] - at[2]];
  const level = Math.hypot(x, z);
  const isSteep = level < 1e-4 * Math.abs(y);
  const headingDegrees = isSteep ? (y < 0 ? 180 : 0) : (Math.atan2(x, -z) * 180) / Math.PI;
  const stands = upright && !isSteep;
  return { headingDegrees, tiltDegrees: stands ? 0 : (Math.atan2(y, level) * 180) / Math.PI, rollDegrees: 0, slope: stands ? y / level : 0 };
}

export class CameraRays {
  readonly forward: Triple;
  readonly right: Triple;
  readonly up: Triple;
  /** Angle that one pixel covers in the middle of the picture, in radians. */
  readonly pixelAngle: number;
  /** The last ray. */
  ox = 0;
  oy = 0;
  oz = 0;
  dx = 0;
  dy = 0;
  dz = 0;
  readonly #at: Triple;
  readonly #halfWidth: number;
  readonly #halfHeight: number;
  readonly #shift: number;
  readonly #lensMetres: number;
  readonly #focusMetres: number;

  constructor(camera: CameraDescription, width: number, height: number) {
    const { at, lookAt } = camera;
    const sight: Triple = [lookAt[0] - at[0], lookAt[1] - at[1], lookAt[2] - at[2]];
    const level = Math.hypot(sight[0], sight[2]);
    const canStandUpright = camera.upright && level > 1e-6;
    this.forward = normalized(canStandUpright ? [sight[0], 0, sight[2]] : sight);
    const upwards: Triple = Math.abs(this.forward[1]) > 0.9999 ? [0, 0, 1] : [0, 1, 0];
    this.right = normalized(cross(this.forward, upwards));
    this.up = cross(this.right, this.forward);
    this.#at = at;
    this.#halfWidth = camera.sensorMillimetres / 2 / camera.focalMillimetres;
    this.#halfHeight = (this.#halfWidth * height) / width;
    this.#shift = camera.shiftMillimetres / camera.focalMillimetres + (canStandUpright ? sight[1] / level : 0);
    this.#lensMetres = camera.focus ? camera.focalMillimetres / camera.focus.fNumber / 2000 : 0;
    // The plane in focus is counted from the lens.
    this.#focusMetres = camera.focus?.distanceMetres ?? 1;
    this.pixelAngle = (2 * this.#halfWidth) / width;
  }

  /** The ray through a place in the picture (0…1, from the upper left) and one on the lens (0…1 each). */
  aim(u: number, v: number, lens1: number, lens2: number): void {
    const x = (2 * u - 1) * this.#halfWidth;
    const y = (1 - 2 * v) * this.#halfHeight + this.#shift;
    let dx = this.forward[0] + this.right[0] * x + this.up[0] * y;
    let dy = this.forward[1] + this.right[1] * x + this.up[1] * y;
    let dz = this.forward[2] + this.right[2] * x + this.up[2] * y;
    [this.ox, this.oy, this.oz] = this.#at;
    if (this.#lensMetres > 0) {
      const r = this.#lensMetres * Math.sqrt(lens1);
      const a = r * Math.cos(2 * Math.PI * lens2);
      const b = r * Math.sin(2 * Math.PI * lens2);
      const offset = [0, 1, 2].map((k) => this.right[k] * a + this.up[k] * b);
      this.ox += offset[0];
      this.oy += offset[1];
      this.oz += offset[2];
      dx = dx * this.#focusMetres - offset[0];
      dy = dy * this.#focusMetres - offset[1];
      dz = dz * this.#focusMetres - offset[2];
    }
    const size = Math.sqrt(dx * dx + dy * dy + dz * dz);
    this.dx = dx / size;
    this.dy = dy / size;
    this.dz = dz / size;
  }
}
