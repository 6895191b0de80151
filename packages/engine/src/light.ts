/** Light of files that store it another way: other primaries, or luminance with colour differences. */
import { floatToHalf, halfToFloat, type Matrix, multiplyMatrix, type Plane, planeView } from '@tazzel/core';

const reader = ({ type, data }: Plane) => (type === 'f16' ? (i: number) => halfToFloat(data[i]) : (i: number) => data[i]);
const writer = ({ type, data }: Plane) =>
  type === 'f16'
    ? (i: number, value: number) => {
        data[i] = floatToHalf(value);
      }
    : (i: number, value: number) => {
        data[i] = value;
      };

/** Three planes of halves or floats through a matrix, in place. */
export function convertLight(color: readonly Plane[], matrix: Matrix): void {
  const read = color.map(reader);
  const write = color.map(writer);
  for (let i = 0; i < color[0].data.length; i++) {
    const out = multiplyMatrix(matrix, [read[0](i), read[1](i), read[2](i)]);
    for (const c of [0, 1, 2]) write[c](i, out[c]);
  }
}

/**
 * Planes RY, Y, BY: R = (RY + 1) · Y, B = (BY + 1) · Y, G from the luminance weights. Differences that were stored for every second
 * pixel are read between their samples. @source OpenEXR "Technical Introduction", "Luminance/Chroma Images"
 */
export function joinLuminance(color: readonly Plane[], { x: left, y: top }: { x: number; y: number }, sampling: readonly (readonly [number, number])[], [wr, wg, wb]: readonly [number, number, number], allocate: (byteLength: number) => ArrayBufferLike): Plane[] {
  const luminance = color[1];
  const { width, height } = luminance;
  const out = [0, 1, 2].map((): Plane => ({ type: 'f16', width, height, data: planeView('f16', allocate(width * height * 2)) }));
  const readY = reader(luminance);
  const between = (plane: Plane, [stepX, stepY]: readonly [number, number]) => {
    const read = reader(plane);
    const [firstX, firstY] = [Math.ceil(left / stepX), Math.ceil(top / stepY)];
    const clamp = (v: number, size: number) => Math.min(size - 1, Math.max(0, v));
    return (x: number, y: number) => {
      const [u, v] = [(left + x) / stepX - firstX, (top + y) / stepY - firstY];
      const [u0, v0] = [Math.floor(u), Math.floor(v)];
      const [fu, fv] = [u - u0, v - v0];
      const at = (i: number, j: number) => read(clamp(v0 + j, plane.height) * plane.width + clamp(u0 + i, plane.width));
      const upper = at(0, 0) + (fu === 0 ? 0 : fu * (at(1, 0) - at(0, 0)));
      if (fv === 0) return upper;
      const lower = at(0, 1) + (fu === 0 ? 0 : fu * (at(1, 1) - at(0, 1)));
      return upper + fv * (lower - upper);
    };
  };
  const [ry, by] = [between(color[0], sampling[0]), between(color[2], sampling[2])];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const light = readY(i);
      const r = (ry(x, y) + 1) * light;
      const b = (by(x, y) + 1) * light;
      const rgb = [r, (light - wr * r - wb * b) / wg, b];
      for (const c of [0, 1, 2]) out[c].data[i] = floatToHalf(rgb[c]);
    }
  }
  return out;
}
