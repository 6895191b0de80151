/**
 * Procedural surface colours. Patterns lie on walls and floors by the direction of the surface (box mapping): courses run
 * level on every wall, boards along the floor. Each returns reflectances in 0…1.
 */
import type { Paint } from '../scene/model.ts';
import { fractalNoise, latticeNoise, smoothNoise } from '@tazzel/core';

/** Writes the colour of a place (metres) on a surface with the given geometric normal into `out`. */
export type Painter = (x: number, y: number, z: number, nx: number, ny: number, nz: number, out: Float64Array) => void;

const shade = (out: Float64Array, color: readonly number[], factor: number) => {
  for (let c = 0; c < 3; c++) out[c] = Math.min(0.98, Math.max(0, color[c] * factor));
};
const isFloor = (ny: number) => Math.abs(ny) > 0.7;
/** The level direction along a wall. */
const along = (x: number, z: number, nx: number, nz: number) => (Math.abs(nx) > Math.abs(nz) ? z : x);
const fraction = (v: number) => v - Math.floor(v);

type Of<P extends Paint['pattern']> = Extract<Paint, { pattern: P }>;

const makers: { readonly [P in Paint['pattern']]: (paint: Of<P>) => Painter } = {
  flat: ({ color }) => (_x, _y, _z, _nx, _ny, _nz, out) => out.set(color),

  brick: ({ color, mortar, lengthMetres, courseMetres, jointMetres }) => (x, y, z, nx, ny, nz, out) => {
    const flat = isFloor(ny);
    const u = flat ? x : along(x, z, nx, nz);
    const v = flat ? z : y;
    const course = Math.floor(v / courseMetres);
    const shifted = u / lengthMetres + (course & 1) * 0.5;
    const brick = Math.floor(shifted);
    const inJoint = fraction(v / courseMetres) * courseMetres < jointMetres || fraction(shifted) * lengthMetres < jointMetres;
    const weather = 0.86 + 0.28 * fractalNoise(u * 0.45, v * 0.45, 3, 3);
    if (inJoint) return shade(out, mortar, weather * (0.9 + 0.2 * smoothNoise(u * 60, v * 60, 1)));
    const own = latticeNoise(brick, course, 7);
    const burnt = latticeNoise(brick, course, 19) > 0.9 ? 0.55 : 1;
    const grain = 0.93 + 0.14 * smoothNoise(u * 90, v * 90, brick & 15);
    shade(out, color, (0.74 + 0.5 * own) * burnt * grain * weather);
    // Some bricks lean to yellow, some to violet.
    const lean = latticeNoise(brick, course, 31) - 0.5;
    out[1] *= 1 + 0.22 * lean;
    out[2] *= 1 - 0.18 * lean;
  },

  slats: ({ color, pitchMetres, gapMetres, lies }) => (x, y, z, nx, ny, nz, out) => {
    const flat = isFloor(ny);
    const level = flat ? x : along(x, z, nx, nz);
    const across = lies === 'upright' ? level : flat ? z : y;
    const lengthwise = lies === 'upright' ? (flat ? z : y) : level;
    const slat = Math.floor(across / pitchMetres);
    const at = fraction(across / pitchMetres) * pitchMetres;
    if (at < gapMetres) return shade(out, color, 0.09);
    // Slats are rounded: their edges turn away.
    const t = (at - gapMetres) / (pitchMetres - gapMetres);
    const roundness = 0.82 + 0.18 * Math.sin(Math.PI * t);
    const own = 0.76 + 0.44 * latticeNoise(slat, 5, 1);
    const fibre = 0.86 + 0.24 * smoothNoise(across * 140, lengthwise * 2.4, slat & 31);
    shade(out, color, own * roundness * fibre);
    out[2] *= 0.92 + 0.2 * latticeNoise(slat, 8, 2);
  },

  boards: ({ color, widthMetres, lengthMetres, along: direction }) => (x, y, z, nx, ny, nz, out) => {
    const flat = isFloor(ny);
    const u = flat ? (direction === 'x' ? x : z) : along(x, z, nx, nz);
    const v = flat ? (direction === 'x' ? z : x) : y;
    const row = Math.floor(v / widthMetres);
    const shifted = u / lengthMetres + latticeNoise(row, 3, 11);
    const board = Math.floor(shifted);
    const joint = fraction(v / widthMetres) * widthMetres < 0.003 || fraction(shifted) * lengthMetres < 0.003;
    if (joint) return shade(out, color, 0.35);
    const own = latticeNoise(board, row, 23);
    const wave = smoothNoise(u * 1.1 + own * 40, v * 16, row & 63);
    const rings = 0.5 + 0.5 * Math.sin((v * 150 + wave * 14 + own * 6) * 0.9);
    const fibre = smoothNoise(u * 5, v * 260, board & 63);
    shade(out, color, 0.8 + 0.28 * own + 0.1 * rings * wave + 0.1 * (fibre - 0.5));
    out[2] *= 0.94 + 0.12 * own;
  },

  concrete: ({ color, panelMetres }) => (x, y, z, nx, ny, nz, out) => {
    const flat = isFloor(ny);
    const u = flat ? x : along(x, z, nx, nz);
    const v = flat ? z : y;
    const pu = fraction(u / panelMetres) * panelMetres;
    const pv = fraction(v / panelMetres) * panelMetres;
    const cloud = fractalNoise(u * 0.8, v * 0.8, 5, 4);
    const panel = latticeNoise(Math.floor(u / panelMetres), Math.floor(v / panelMetres), 2);
    const joint = pu < 0.008 || pv < 0.008 ? 0.55 : 1;
    const pore = smoothNoise(u * 55, v * 55, 9) > 0.93 ? 0.8 : 1;
    shade(out, color, (0.82 + 0.26 * cloud + 0.1 * (panel - 0.5)) * joint * pore);
  },

  gravel: ({ color, grainMetres }) => (x, _y, z, _nx, _ny, _nz, out) => {
    // The nearest of jittered points is the stone that is seen (Worley's cellular noise).
    const u = x / grainMetres;
    const v = z / grainMetres;
    const iu = Math.floor(u);
    const iv = Math.floor(v);
    let best = 9;
    let second = 9;
    let stone = 0;
    for (let a = iu - 1; a <= iu + 1; a++) {
      for (let b = iv - 1; b <= iv + 1; b++) {
        const du = a + latticeNoise(a, b, 1) - u;
        const dv = b + latticeNoise(a, b, 2) - v;
        const d = du * du + dv * dv;
        if (d < best) {
          second = best;
          best = d;
          stone = latticeNoise(a, b, 3);
        } else if (d < second) second = d;
      }
    }
    const seam = Math.min(1, (Math.sqrt(second) - Math.sqrt(best)) * 4);
    const patch = 0.8 + 0.4 * fractalNoise(x * 0.35, z * 0.35, 2, 3);
    shade(out, color, (0.45 + 0.55 * seam) * (0.72 + 0.56 * stone) * patch);
    out[0] *= 1 + 0.12 * (stone - 0.5);
  },

  grass: ({ color }) => (x, _y, z, _nx, _ny, _nz, out) => {
    const clump = fractalNoise(x * 1.4, z * 1.4, 8, 4);
    const blade = latticeNoise(Math.floor(x * 90), Math.floor(z * 90), 5);
    shade(out, color, 0.5 + 0.7 * clump + 0.3 * (blade - 0.5));
    out[0] *= 0.85 + 0.5 * smoothNoise(x * 0.5, z * 0.5, 11);
  },

  plaster: ({ color }) => (x, y, z, nx, ny, nz, out) => {
    const flat = isFloor(ny);
    const u = flat ? x : along(x, z, nx, nz);
    const v = flat ? z : y;
    shade(out, color, 0.95 + 0.06 * fractalNoise(u * 1.3, v * 1.3, 4, 3) + 0.03 * (smoothNoise(u * 70, v * 70, 6) - 0.5));
  },

  cells: ({ color, other, cellMetres }) => (x, y, z, _nx, _ny, _nz, out) => {
    const t = latticeNoise(Math.floor(x / cellMetres[0]), Math.floor(y / cellMetres[1]), Math.floor(z / cellMetres[2]));
    for (let c = 0; c < 3; c++) out[c] = color[c] + (other[c] - color[c]) * t;
  },
};

export const painterOf = (paint: Paint): Painter => (makers[paint.pattern] as (paint: Paint) => Painter)(paint);
