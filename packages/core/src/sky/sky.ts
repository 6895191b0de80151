/** Light from the sky, direction by direction, in candela per square metre as linear sRGB. */
import { kelvinToLinearSrgb, xyYToLinearSrgb } from '../color/kelvin.ts';
import { luminanceOf } from '../color/luminance.ts';
import { fractalNoise } from '../noise.ts';
import { clearSkyLux } from '../sun/position.ts';
import type { Triple } from '../vector.ts';

export type SkyDescription =
  | { readonly kind: 'none' }
  | { readonly kind: 'uniform'; readonly luminance: number; readonly color: Triple }
  /** Preetham's daylight, scaled to `lux` on the ground; null follows the sun's altitude. `clouds` from 0 to 1. */
  | { readonly kind: 'daylight'; readonly turbidity: number; readonly lux: number | null; readonly clouds: number }
  /** One of the fifteen types of the CIE general sky. */
  | { readonly kind: 'general'; readonly type: number; readonly lux: number; readonly kelvin: number }
  /** Equirectangular picture, top row at the zenith, its middle column towards −z and +x to the right of it. RGB, interleaved; `luminance` scales it. */
  | { readonly kind: 'image'; readonly width: number; readonly height: number; readonly pixels: readonly number[]; readonly luminance: number };

/** Writes the radiance from a unit direction into `out`. */
export type Sky = (x: number, y: number, z: number, out: Float64Array) => void;

/** Perez' five coefficients. */
export type Perez = readonly [number, number, number, number, number];

export const LOWEST_COSINE = 0.01;

export function perez(c: Perez, cosine: number, gamma: number, cosineGamma: number): number {
  return (1 + c[0] * Math.exp(c[1] / Math.max(LOWEST_COSINE, cosine))) * (1 + c[2] * Math.exp(c[3] * gamma) + c[4] * cosineGamma * cosineGamma);
}

export interface Daylight {
  /** Luminance in kcd/m² and chromaticity towards a zenith angle and an angle to the sun, in radians. */
  at(theta: number, gamma: number): readonly [number, number, number];
}

/** Numbers of Preetham's daylight for luminance in kcd/m² and the chromaticities x and y: values at the zenith, and how they go on from there. */
export interface DaylightNumbers {
  readonly zenith: Triple;
  readonly perez: readonly [Perez, Perez, Perez];
}

/** @source Preetham, Shirley, Smits, "A Practical Analytic Model for Daylight", SIGGRAPH 1999, appendix */
export function daylightNumbers(turbidity: number, sunZenith: number): DaylightNumbers {
  const t = turbidity;
  const s = sunZenith;
  const cubic = (rows: readonly (readonly number[])[]) => rows.reduce((sum, [a, b, c, d], i) => sum + t ** (2 - i) * (a * s ** 3 + b * s ** 2 + c * s + d), 0);
  return {
    zenith: [
      (4.0453 * t - 4.971) * Math.tan((4 / 9 - t / 120) * (Math.PI - 2 * s)) - 0.2155 * t + 2.4192,
      cubic([[0.00166, -0.00375, 0.00209, 0], [-0.02903, 0.06377, -0.03202, 0.00394], [0.11693, -0.21196, 0.06052, 0.25886]]),
      cubic([[0.00275, -0.0061, 0.00317, 0], [-0.04214, 0.0897, -0.04153, 0.00516], [0.15346, -0.26756, 0.0667, 0.26688]]),
    ],
    perez: [
      [0.1787 * t - 1.463, -0.3554 * t + 0.4275, -0.0227 * t + 5.3251, 0.1206 * t - 2.5771, -0.067 * t + 0.3703],
      [-0.0193 * t - 0.2592, -0.0665 * t + 0.0008, -0.0004 * t + 0.2125, -0.0641 * t - 0.8989, -0.0033 * t + 0.0452],
      [-0.0167 * t - 0.2608, -0.095 * t + 0.0092, -0.0079 * t + 0.2102, -0.0441 * t - 1.6537, -0.0109 * t + 0.0529],
    ],
  };
}

/** Preetham's daylight as a function. */
export function preethamDaylight(turbidity: number, sunZenith: number): Daylight {
  const { zenith, perez: coefficients } = daylightNumbers(turbidity, sunZenith);
  const cosineSun = Math.cos(sunZenith);
  const bases = coefficients.map((c) => perez(c, 1, sunZenith, cosineSun));
  return {
    at(theta, gamma) {
      const cosine = Math.cos(theta);
      const cosineGamma = Math.cos(gamma);
      const value = (i: number) => (zenith[i] * perez(coefficients[i], cosine, gamma, cosineGamma)) / bases[i];
      return [value(0), value(1), value(2)];
    },
  };
}

/** a, b, c, d, e of the fifteen types. @source ISO 15469:2004 (CIE S 011) */
export const GENERAL: readonly Perez[] = [
  [4, -0.7, 0, -1, 0],
  [4, -0.7, 2, -1.5, 0.15],
  [1.1, -0.8, 0, -1, 0],
  [1.1, -0.8, 2, -1.5, 0.15],
  [0, -1, 0, -1, 0],
  [0, -1, 2, -1.5, 0.15],
  [0, -1, 5, -2.5, 0.3],
  [0, -1, 10, -3, 0.45],
  [-1, -0.55, 2, -1.5, 0.15],
  [-1, -0.55, 5, -2.5, 0.3],
  [-1, -0.55, 10, -3, 0.45],
  [-1, -0.32, 10, -3, 0.45],
  [-1, -0.32, 16, -3, 0.3],
  [-1, -0.15, 16, -3, 0.3],
  [-1, -0.15, 24, -2.8, 0.15],
];

/** Luminance relative to the zenith's, at a zenith angle and an angle to the sun, in radians. @source ISO 15469:2004 */
export function generalSky(type: number, theta: number, gamma: number, sunZenith: number): number {
  const [a, b, c, d, e] = GENERAL[type - 1];
  const scattering = (angle: number) => 1 + c * (Math.exp(d * angle) - Math.exp((d * Math.PI) / 2)) + e * Math.cos(angle) ** 2;
  const cosine = Math.cos(theta);
  const gradation = cosine <= 1e-9 ? 1 : 1 + a * Math.exp(b / cosine);
  return (scattering(gamma) * gradation) / (scattering(sunZenith) * (1 + a * Math.exp(b)));
}

/** Lux on level ground, by midpoints in zenith angle and azimuth. */
function luxOf(luminance: (x: number, y: number, z: number) => number): number {
  const rings = 64;
  const sectors = 128;
  let sum = 0;
  for (let i = 0; i < rings; i++) {
    const theta = ((i + 0.5) / rings) * (Math.PI / 2);
    for (let k = 0; k < sectors; k++) {
      const phi = ((k + 0.5) / sectors) * 2 * Math.PI;
      sum += luminance(Math.sin(theta) * Math.sin(phi), Math.cos(theta), Math.sin(theta) * Math.cos(phi)) * Math.cos(theta) * Math.sin(theta);
    }
  }
  return sum * (Math.PI / 2 / rings) * ((2 * Math.PI) / sectors);
}

/** Thin bands of cloud over a sky: lit from the sun's side, drawn out towards the horizon. */
function withClouds(sky: Sky, amount: number, sun: Triple): Sky {
  if (amount <= 0) return sky;
  const there = new Float64Array(3);
  return (x, y, z, out) => {
    sky(x, y, z, out);
    if (y <= 0.015) return;
    // A layer at one height: directions meet it at (x, z) / y.
    const u = x / (y + 0.09);
    const v = z / (y + 0.09);
    const bands = fractalNoise(u * 0.55 + 4, 3.1, v * 1.5 - 2, 5);
    const tufts = fractalNoise(u * 2.3 - 7, 8.4, v * 4.6, 4);
    const cover = Math.max(0, bands * 0.72 + tufts * 0.42 - 0.68 + 0.2 * amount);
    const density = (1 - Math.exp(-cover * 5 * amount)) * Math.min(1, (y - 0.015) * 9) * Math.min(1, 1.7 - y * 1.2);
    if (density <= 0) return;
    const towards = Math.max(0, x * sun[0] + y * sun[1] + z * sun[2]);
    // Clouds take the light of the sky low on the sun's side.
    sky(sun[0] * 0.75 + x * 0.25, Math.max(0.05, 0.12), sun[2] * 0.75 + z * 0.25, there);
    const level = (luminanceOf(out) * (1.15 + 0.9 * towards * towards)) / Math.max(1e-9, luminanceOf(there));
    for (let c = 0; c < 3; c++) out[c] += density * (there[c] * level - out[c]) * 0.85;
  };
}

/** Below the horizon the land lies in haze: the horizon's light, dimmed with depth. */
function overLand(sky: Sky): Sky {
  return (x, y, z, out) => {
    if (y >= 0) return sky(x, y, z, out);
    const level = Math.sqrt(x * x + z * z) || 1;
    sky(x / level, 0, z / level, out);
    const dim = 0.25 + 0.55 * Math.exp(y * 14);
    for (let c = 0; c < 3; c++) out[c] *= dim;
  };
}

/**
 * A sky as a function of direction, in cd/m² of linear sRGB; below the horizon it is the land in haze. `y` is up.
 * @param sun a unit vector towards the sun; null puts it into the zenith, where a sky asks for it
 * @param sunAltitudeDegrees how high the sun stands, which scales skies that follow it
 */
export function skyOf(description: SkyDescription, sun: Triple | null, sunAltitudeDegrees: number): Sky {
  switch (description.kind) {
    case 'none':
      return (_x, _y, _z, out) => out.fill(0);
    case 'uniform': {
      const { luminance, color } = description;
      return (_x, _y, _z, out) => {
        for (let c = 0; c < 3; c++) out[c] = luminance * color[c];
      };
    }
    case 'daylight': {
      const toSun: Triple = sun ?? [0, 1, 0];
      // The model knows no twilight: the sky keeps the shape it has with the sun just above the horizon.
      const daylight = preethamDaylight(description.turbidity, Math.acos(Math.min(1, Math.max(0.02, toSun[1]))));
      const raw: Sky = (x, y, z, out) => {
        const length = Math.hypot(x, y, z) || 1;
        const gamma = Math.acos(Math.min(1, Math.max(-1, (x * toSun[0] + y * toSun[1] + z * toSun[2]) / length)));
        const [bigY, cx, cy] = daylight.at(Math.acos(Math.min(1, Math.max(0, y / length))), gamma);
        const rgb = xyYToLinearSrgb(cx, cy, bigY * 1000);
        for (let c = 0; c < 3; c++) out[c] = Math.max(0, rgb[c]);
      };
      return overLand(withClouds(scaledTo(raw, description.lux ?? clearSkyLux(sunAltitudeDegrees)), description.clouds, toSun));
    }
    case 'general': {
      const toSun: Triple = sun ?? [0, 1, 0];
      const sunZenith = Math.acos(Math.min(1, Math.max(0, toSun[1])));
      const white = kelvinToLinearSrgb(description.kelvin);
      const raw: Sky = (x, y, z, out) => {
        const gamma = Math.acos(Math.min(1, Math.max(-1, x * toSun[0] + y * toSun[1] + z * toSun[2])));
        const luminance = generalSky(description.type, Math.acos(Math.min(1, Math.max(0, y))), gamma, sunZenith);
        for (let c = 0; c < 3; c++) out[c] = luminance * white[c];
      };
      return overLand(scaledTo(raw, description.lux));
    }
    case 'image': {
      const { width, height, pixels, luminance } = description;
      return (x, y, z, out) => {
        const u = (Math.atan2(x, -z) / (2 * Math.PI) + 0.5) * width - 0.5;
        const v = (Math.acos(Math.min(1, Math.max(-1, y))) / Math.PI) * height - 0.5;
        const iu = Math.floor(u);
        const iv = Math.floor(v);
        for (let c = 0; c < 3; c++) {
          const at = (du: number, dv: number) => pixels[(Math.min(height - 1, Math.max(0, iv + dv)) * width + ((iu + du + width) % width)) * 3 + c];
          const top = at(0, 0) + (at(1, 0) - at(0, 0)) * (u - iu);
          const bottom = at(0, 1) + (at(1, 1) - at(0, 1)) * (u - iu);
          out[c] = (top + (bottom - top) * (v - iv)) * luminance;
        }
      };
    }
  }
}

function scaledTo(sky: Sky, lux: number): Sky {
  const rgb = new Float64Array(3);
  const found = luxOf((x, y, z) => {
    sky(x, y, z, rgb);
    return luminanceOf(rgb);
  });
  const factor = found > 0 ? lux / found : 0;
  return (x, y, z, out) => {
    sky(x, y, z, out);
    for (let c = 0; c < 3; c++) out[c] *= factor;
  };
}
