/** Whites by their temperature, along the daylight locus or that of glowing bodies, and beside it. */
import type { Triple } from '../vector.ts';
import { kelvinToXy } from './kelvin.ts';
import { type Chromaticity, REC709, rgbToXyz } from './primaries.ts';
import { multiply } from './oklab.ts';

export const LOCI = { daylight: 'Daylight', glow: 'Glowing bodies' } as const;
export type LocusId = keyof typeof LOCI;

/** Where the daylight locus ends, and where it has gone over into that of glowing bodies. */
const [DAYLIGHT_ENDS, GLOW_BEGINS] = [4000, 2500];

/** @source CIE 15:2004, 3.1 (Judd, MacAdam, Wyszecki 1964), 4000–25 000 K */
function daylight(kelvin: number): Chromaticity {
  const t = Math.min(25_000, Math.max(DAYLIGHT_ENDS, kelvin));
  const x = t <= 7000 ? -4.607e9 / t ** 3 + 2.9678e6 / t ** 2 + 0.09911e3 / t + 0.244063 : -2.0064e9 / t ** 3 + 1.9018e6 / t ** 2 + 0.24748e3 / t + 0.23704;
  return [x, -3 * x * x + 2.87 * x - 0.275];
}

/** CIE 1960 u, v, in which distances from the locus are counted. */
const uvOf = ([x, y]: Chromaticity): Chromaticity => [(4 * x) / (12 * y - 2 * x + 3), (6 * y) / (12 * y - 2 * x + 3)];
const xyOf = ([u, v]: Chromaticity): Chromaticity => [(3 * u) / (2 * u - 8 * v + 4), (2 * v) / (2 * u - 8 * v + 4)];

function onLocus(locus: LocusId, kelvin: number): Chromaticity {
  const glow = kelvinToXy(kelvin);
  if (locus === 'glow') return glow;
  if (kelvin >= DAYLIGHT_ENDS) return daylight(kelvin);
  // Below its end daylight goes over into the glow of bodies.
  const share = Math.max(0, (kelvin - GLOW_BEGINS) / (DAYLIGHT_ENDS - GLOW_BEGINS));
  const [end, glowThere] = [daylight(DAYLIGHT_ENDS), kelvinToXy(DAYLIGHT_ENDS)];
  return [glow[0] + share * (end[0] - glowThere[0]), glow[1] + share * (end[1] - glowThere[1])];
}

/** How far 100 of tint lies from the locus, in CIE 1960 u, v. */
const MOST_TINT = 0.05;

/** What is square to the locus at a temperature, towards green. */
function aside(locus: LocusId, kelvin: number): Chromaticity {
  const [warm, cold] = [uvOf(onLocus(locus, kelvin / 1.01)), uvOf(onLocus(locus, kelvin * 1.01))];
  const [du, dv] = [cold[0] - warm[0], cold[1] - warm[1]];
  const length = Math.hypot(du, dv);
  return [dv / length, -du / length].map((value) => value * (du < 0 ? 1 : -1)) as unknown as Chromaticity;
}

/**
 * The chromaticity of light of a temperature (1700–25 000 K), and of a tint beside it: above 0 it is greener, below 0 more magenta.
 * @source CIE 15:2004 (loci; CIE 1960 UCS for distances, as Duv in ANSI C78.377)
 */
export function whiteOf(locus: LocusId, kelvin: number, tint: number): Chromaticity {
  const on = onLocus(locus, kelvin);
  if (tint === 0) return on;
  const [u, v] = uvOf(on);
  const [su, sv] = aside(locus, kelvin);
  return xyOf([u + (su * tint * MOST_TINT) / 100, v + (sv * tint * MOST_TINT) / 100]);
}

export const LINEAR_TO_XYZ = rgbToXyz(REC709);

/** Temperature and tint of light that is seen as this colour, as near as they come; null for what is no light. */
export function temperatureOf(locus: LocusId, rgb: Triple): { kelvin: number; tint: number } | null {
  const [x, y, z] = multiply(LINEAR_TO_XYZ, rgb);
  const sum = x + y + z;
  if (!(sum > 0) || !(y > 0)) return null;
  const wanted = uvOf([x / sum, y / sum]);
  const away = (kelvin: number) => {
    const [u, v] = uvOf(onLocus(locus, kelvin));
    return Math.hypot(u - wanted[0], v - wanted[1]);
  };
  // In mired temperatures are evenly far apart; golden section would need a single valley, which a fine search finds.
  const [coldest, warmest] = [1e6 / 25_000, 1e6 / 1700];
  let best = coldest;
  for (let mired = coldest; mired <= warmest; mired += 2) if (away(1e6 / mired) < away(1e6 / best)) best = mired;
  for (let step = 1; step > 0.01; step /= 2) for (const mired of [best - step, best + step]) if (mired >= coldest && mired <= warmest && away(1e6 / mired) < away(1e6 / best)) best = mired;
  const kelvin = 1e6 / best;
  const [u, v] = uvOf(onLocus(locus, kelvin));
  const [su, sv] = aside(locus, kelvin);
  return { kelvin, tint: Math.min(100, Math.max(-100, (((wanted[0] - u) * su + (wanted[1] - v) * sv) / MOST_TINT) * 100)) };
}
