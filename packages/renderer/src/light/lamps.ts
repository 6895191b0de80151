/** Lamps as the tracer sees them: how bright a point may find them, and where on them its shadow ray goes. */
import { kelvinToLinearSrgb } from '@tazzel/core';
import type { LampDescription, Triple } from '../scene/model.ts';
import { candelaAt, lumensOf, parseIes, type Web } from './ies.ts';

/** A ray towards a lamp and the light that comes along it. The fields are overwritten by the next call. */
export interface LampSample {
  x: number;
  y: number;
  z: number;
  distance: number;
  /** Radiance times solid angle over density, as a factor of the lamp's `light`; 0 if the lamp does not shine this way. */
  factor: number;
}

export interface Lamp {
  readonly group: number;
  /** Radiance of surfaces, intensity of points: linear sRGB in cd/m² or cd. */
  readonly light: Triple;
  /** Whether rays can meet it; points are never met. */
  readonly hasSurface: boolean;
  /** Upper estimate of the light that reaches a point, for choosing among lamps. */
  estimate(x: number, y: number, z: number): number;
  sample(x: number, y: number, z: number, u1: number, u2: number, out: LampSample): void;
}

const scaled = (color: Triple | readonly [number, number, number], by: number): Triple => [color[0] * by, color[1] * by, color[2] * by];
const cross = (a: Triple, b: Triple): Triple => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const normalized = (a: Triple): Triple => scaled(a, 1 / Math.hypot(...a));

/** Light behind coloured glass. */
export const filtered = ([r, g, b]: readonly [number, number, number], filter: Triple | undefined): Triple => (filter ? [r * filter[0], g * filter[1], b * filter[2]] : [r, g, b]);

export function lampOf(lamp: LampDescription, group: number): Lamp {
  const white = filtered(kelvinToLinearSrgb(lamp.kelvin), lamp.filter);
  switch (lamp.kind) {
    case 'sphere':
      return sphere(lamp.center, lamp.radius, scaled(white, lamp.lumens / (4 * Math.PI ** 2 * lamp.radius ** 2)), group, lamp.lumens);
    case 'rectangle':
      return rectangle(lamp.corner, lamp.u, lamp.v, white, group, lamp.lumens);
    case 'web':
      return web(lamp.at, normalized(lamp.aim), parseIes(lamp.ies), white, group, lamp.lumens);
  }
}

/** A direction at an angle (by its cosine) from an axis, turned around it by a share of the circle. */
export function coneDirection(ax: number, ay: number, az: number, cosine: number, turn: number, out: { x: number; y: number; z: number }): void {
  const sine = Math.sqrt(Math.max(0, 1 - cosine * cosine));
  const sign = az >= 0 ? 1 : -1;
  const a = -1 / (sign + az);
  const b = ax * ay * a;
  const c = sine * Math.cos(2 * Math.PI * turn);
  const s = sine * Math.sin(2 * Math.PI * turn);
  out.x = ax * cosine + c * (1 + sign * ax * ax * a) + s * b;
  out.y = ay * cosine + c * sign * b + s * (sign + ay * ay * a);
  out.z = az * cosine - c * sign * ax - s * ay;
}

/** @source cone sampling after Shirley, Wang, Zimmerman 1996 */
function sphere(center: Triple, radius: number, light: Triple, group: number, lumens: number): Lamp {
  return {
    group,
    light,
    hasSurface: true,
    estimate: (x, y, z) => lumens / Math.max(radius * radius, (x - center[0]) ** 2 + (y - center[1]) ** 2 + (z - center[2]) ** 2),
    sample(x, y, z, u1, u2, out) {
      const dx = center[0] - x;
      const dy = center[1] - y;
      const dz = center[2] - z;
      const squared = dx * dx + dy * dy + dz * dz;
      const sine2 = (radius * radius) / squared;
      if (sine2 >= 1) {
        out.factor = 0;
        return;
      }
      // 1 − cos of the cone, without cancellation for small spheres.
      const height = sine2 / (1 + Math.sqrt(1 - sine2));
      const cosine = 1 - u1 * height;
      const distance = Math.sqrt(squared);
      coneDirection(dx / distance, dy / distance, dz / distance, cosine, u2, out);
      out.distance = distance * cosine - Math.sqrt(Math.max(0, radius * radius - squared * (1 - cosine * cosine)));
      out.factor = 2 * Math.PI * height;
    },
  };
}

function rectangle(corner: Triple, u: Triple, v: Triple, white: Triple | readonly [number, number, number], group: number, lumens: number): Lamp {
  const across = cross(u, v);
  const area = Math.hypot(...across);
  const n = scaled(across, 1 / area);
  const middle: Triple = [corner[0] + (u[0] + v[0]) / 2, corner[1] + (u[1] + v[1]) / 2, corner[2] + (u[2] + v[2]) / 2];
  return {
    group,
    light: scaled(white, lumens / (Math.PI * area)),
    hasSurface: true,
    estimate(x, y, z) {
      const [dx, dy, dz] = [x - middle[0], y - middle[1], z - middle[2]];
      // Points behind the lamp get nothing; beside it, parts may still shine.
      const front = Math.max((x - corner[0]) * n[0] + (y - corner[1]) * n[1] + (z - corner[2]) * n[2], 0);
      const squared = Math.max(area * 0.25, dx * dx + dy * dy + dz * dz);
      return front <= 0 ? 0 : (lumens / squared) * (0.1 + front / Math.sqrt(squared));
    },
    sample(x, y, z, u1, u2, out) {
      const dx = corner[0] + u[0] * u1 + v[0] * u2 - x;
      const dy = corner[1] + u[1] * u1 + v[1] * u2 - y;
      const dz = corner[2] + u[2] * u1 + v[2] * u2 - z;
      const squared = dx * dx + dy * dy + dz * dz;
      const distance = Math.sqrt(squared);
      out.x = dx / distance;
      out.y = dy / distance;
      out.z = dz / distance;
      out.distance = distance;
      const cosine = -(out.x * n[0] + out.y * n[1] + out.z * n[2]);
      out.factor = cosine > 0 ? (area * cosine) / squared : 0;
    },
  };
}

function web(at: Triple, aim: Triple, photometry: Web, white: Triple | readonly [number, number, number], group: number, lumens: number): Lamp {
  const total = lumensOf(photometry);
  const aside = normalized(cross(aim, Math.abs(aim[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0]));
  const forward = cross(aside, aim);
  const brightest = Math.max(...photometry.candela.flat());
  const scale = total > 0 ? lumens / total : 0;
  return {
    group,
    light: scaled(white, scale),
    hasSurface: false,
    estimate: (x, y, z) => (scale * brightest) / Math.max(1e-4, (x - at[0]) ** 2 + (y - at[1]) ** 2 + (z - at[2]) ** 2),
    sample(x, y, z, _u1, _u2, out) {
      const [dx, dy, dz] = [at[0] - x, at[1] - y, at[2] - z];
      const distance = Math.max(1e-3, Math.hypot(dx, dy, dz));
      out.x = dx / distance;
      out.y = dy / distance;
      out.z = dz / distance;
      out.distance = distance;
      const down = -(out.x * aim[0] + out.y * aim[1] + out.z * aim[2]);
      const polar = (Math.acos(Math.min(1, Math.max(-1, down))) * 180) / Math.PI;
      const around = (Math.atan2(-(out.x * forward[0] + out.y * forward[1] + out.z * forward[2]), -(out.x * aside[0] + out.y * aside[1] + out.z * aside[2])) * 180) / Math.PI;
      out.factor = candelaAt(photometry, polar, around) / (distance * distance);
    },
  };
}
