/** Camera rays and exposure. @source thin-lens formulas as in Ray, Applied Photographic Optics; ISO 12232 (saturation) */
import type { CameraDescription, Triple } from '../scene/model.ts';

const cross = (a: Triple, b: Triple): Triple => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const normalized = (a: Triple): Triple => {
  const size = Math.hypot(...a);
  return [a[0] / size, a[1] / size, a[2] / size];
};

/** EV at ISO 100. @source ISO 2720 */
export const exposureValue = (fNumber: number, shutterSeconds: number, iso: number): number => Math.log2((fNumber * fNumber) / shutterSeconds) - Math.log2(iso / 100);

/** Picture value 1 is the luminance that saturates the sensor: 1.2 · 2^EV cd/m². */
export const scaleOfExposure = (ev100: number): number => 1 / (1.2 * 2 ** ev100);

/** Diameter of the blur of a point at `distance`, in millimetres on the sensor; all lengths in millimetres. */
export const blurDiameter = (focal: number, fNumber: number, focus: number, distance: number): number => ((focal / fNumber) * Math.abs(distance - focus) * focal) / (distance * (focus - focal));

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
