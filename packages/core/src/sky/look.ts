/** Computed skies as the few numbers that a loop needs, from day to night. */
import { kelvinToXy } from '../color/kelvin.ts';
import { clearSkyLux } from '../sun/position.ts';
import type { Triple } from '../vector.ts';
import { daylightNumbers, GENERAL, LOWEST_COSINE, type Perez } from './sky.ts';

/** Skies are in these: 1 is so many candela per square metre. */
export const SKY_UNIT = 10_000;

/** scale, a, b, k, c, d, e: towards a zenith angle θ and an angle γ to the sun it is scale × (1 + a e^(b / cos θ)) × (k + c e^(d γ) + e cos² γ). */
export type SkyRow = readonly [number, number, number, number, number, number, number];

export interface SkyLook {
  /** Luminance (in units of SKY_UNIT) and chromaticities x and y. */
  readonly rows: readonly [SkyRow, SkyRow, SkyRow];
  /** The mean luminance of the sky over level ground, in the same units. */
  readonly mean: number;
  /** Light that is added at the horizon under the sun: linear sRGB, in the same units. */
  readonly band: Triple;
  /** How fast it fades upwards: e^(−fade × sine of the height). */
  readonly bandFade: number;
  /** Light of the sun itself: linear sRGB on a surface that faces it, over π, in the same units; what is left of it behind the air. */
  readonly sunlight: Triple;
}

const RADIANS = Math.PI / 180;
const altitudeOf = (sun: Triple) => Math.asin(Math.min(1, Math.max(-1, sun[1]))) / RADIANS;

/** Numbers between those of a table of pairs, straight; beyond its ends the last one. */
function between(table: readonly (readonly [number, number])[], x: number): number {
  const next = table.findIndex(([at]) => at >= x);
  if (next <= 0) return next === 0 ? table[0][1] : table[table.length - 1][1];
  const [[x0, y0], [x1, y1]] = [table[next - 1], table[next]];
  return y0 + ((y1 - y0) * (x - x0)) / (x1 - x0);
}

/**
 * Decimal logarithms of the lux of a clear sky when the sun is below the horizon, by its height in degrees.
 * @source Explanatory Supplement to the Astronomical Almanac (1992), illumination at the ends of the twilights; value from memory
 */
const TWILIGHT: readonly (readonly [number, number])[] = [[-18, -3.2], [-12, -2.1], [-6, 0.53], [0, Math.log10(800)]];

/** Lux of a clear sky on level ground at any height of the sun. */
export const skyLux = (altitudeDegrees: number): number => (altitudeDegrees >= 0 ? clearSkyLux(altitudeDegrees) : 10 ** between(TWILIGHT, altitudeDegrees));

/** The way through the air for its way straight up. @source Kasten and Young 1989 */
export const airMass = (altitudeDegrees: number): number => 1 / (Math.sin(altitudeDegrees * RADIANS) + 0.50572 * (altitudeDegrees + 6.07995) ** -1.6364);

/** Wavelengths for red, green and blue, in micrometres. */
const WAVES = [0.61, 0.55, 0.465] as const;
/** Lux of the sun outside of the air. @source IESNA RP-21 (1984) */
const SUN_LUX = 127_500;

/** How much of the sun's light comes through. @source Preetham, Shirley, Smits 1999, appendix (Rayleigh and Ångström); coefficients from memory */
export function sunTransmittance(altitudeDegrees: number, turbidity: number): Triple {
  const mass = airMass(Math.max(0, altitudeDegrees));
  const haze = 0.04608 * turbidity - 0.04586;
  const [r, g, b] = WAVES.map((wave) => Math.exp(-mass * (0.008735 * wave ** -4.08 + haze * wave ** -1.3)));
  return [r, g, b];
}

const rowOf = ([a, b, c, d, e]: Perez, k: number, scale: number): SkyRow => [scale, a, b, k, c, d, e];
const rowValue = ([scale, a, b, k, c, d, e]: SkyRow, cosine: number, gamma: number) => scale * (1 + a * Math.exp(b / Math.max(LOWEST_COSINE, cosine))) * (k + c * Math.exp(d * gamma) + e * Math.cos(gamma) ** 2);
const constant = (value: number): SkyRow => [value, 0, 0, 1, 0, 0, 0];

/** Lux over π on level ground, by midpoints in zenith angle and azimuth. */
function meanOf(row: SkyRow, sun: Triple): number {
  const [rings, sectors] = [48, 48];
  let sum = 0;
  for (let i = 0; i < rings; i++) {
    const theta = ((i + 0.5) / rings) * (Math.PI / 2);
    const [sine, cosine] = [Math.sin(theta), Math.cos(theta)];
    // The sun's own azimuth is 0: the sky is alike on both sides of it.
    for (let k = 0; k < sectors; k++) {
      const toSun = cosine * sun[1] + sine * Math.hypot(sun[0], sun[2]) * Math.cos(((k + 0.5) / sectors) * Math.PI);
      sum += rowValue(row, cosine, Math.acos(Math.min(1, Math.max(-1, toSun)))) * cosine * sine;
    }
  }
  return (sum * (Math.PI / 2 / rings) * ((2 * Math.PI) / sectors)) / Math.PI;
}

const scaledRow = ([scale, ...rest]: SkyRow, by: number): SkyRow => [scale * by, ...rest] as unknown as SkyRow;

/** What the zenith turns to after sunset. Common practice, no published source. */
const BLUE_HOUR = [0.242, 0.245] as const;
/** The band over the sunset: its strength over the mean of the sky, and its light, by the sun's height. Common practice, no published source. */
const BAND: readonly (readonly [number, number])[] = [[-16, 0], [-10, 2.5], [-6, 7], [-3, 11], [0, 10], [4, 4], [10, 0.5], [16, 0]];
const BAND_GREEN: readonly (readonly [number, number])[] = [[-12, 0.34], [-6, 0.4], [-2, 0.46], [4, 0.64], [10, 0.8]];
const BAND_BLUE: readonly (readonly [number, number])[] = [[-12, 0.34], [-6, 0.2], [-2, 0.14], [4, 0.28], [10, 0.55]];

/**
 * A clear sky. The published model ends where the sun sets: below, it keeps the shape that it has with the sun at the horizon, is as bright as twilights were
 * measured, its zenith turns to the blue hour, and a band of warm light lies over the place where the sun went down.
 * @source Preetham, Shirley, Smits 1999, for the sun above the horizon
 */
export function clearLook(turbidity: number, sun: Triple): SkyLook {
  const altitude = altitudeOf(sun);
  const zenithAngle = Math.acos(Math.min(1, Math.max(0.02, sun[1])));
  const { zenith, perez } = daylightNumbers(turbidity, zenithAngle);
  const dusk = Math.min(1, Math.max(0, (14 - altitude) / 20)) ** 1.2;
  const rows = [0, 1, 2].map((i) => {
    const [a, b, c, d, e] = perez[i];
    // What is left of the day: its horizon as far as it is bright, its colours less and less.
    const keeps = i === 0 ? 1 - 0.9 * dusk : 1 - dusk;
    const shape = rowOf([i === 0 ? a : a * keeps, b, c * keeps, d, e * keeps], 1, 1);
    const wanted = i === 0 ? zenith[i] : zenith[i] + dusk * (BLUE_HOUR[i - 1] - zenith[i]);
    return scaledRow(shape, wanted / rowValue(shape, 1, zenithAngle));
  });
  const mean = skyLux(altitude) / Math.PI / SKY_UNIT;
  const band = mean * between(BAND, altitude);
  const [r, g, b] = sunTransmittance(altitude, turbidity);
  // The sun does not go out at once: its last rim is half a degree high.
  const up = Math.min(1, Math.max(0, (altitude + 0.8) / 1.6)) * (SUN_LUX / Math.PI / SKY_UNIT);
  return {
    rows: [scaledRow(rows[0], mean / meanOf(rows[0], sun)), rows[1], rows[2]],
    mean,
    band: [band, band * between(BAND_GREEN, altitude), band * between(BAND_BLUE, altitude)],
    bandFade: 8 + Math.min(6, Math.max(0, -altitude)),
    sunlight: [r * up, g * up, b * up],
  };
}

/** What the fifteen types are. @source ISO 15469:2004 (CIE S 011) */
export const GENERAL_LABELS = [
  'Overcast, steep gradation',
  'Overcast, steep, brighter to the sun',
  'Overcast, moderate gradation',
  'Overcast, moderate, brighter to the sun',
  'Uniform',
  'Partly cloudy, no gradation',
  'Partly cloudy, brighter around the sun',
  'Partly cloudy, corona of the sun',
  'Partly cloudy, sun hidden',
  'Partly cloudy, sun hidden, brighter around it',
  'White and blue, corona of the sun',
  'Clear, clean air',
  'Clear, polluted air',
  'Cloudless, turbid, broad corona',
  'White and blue, turbid, broad corona',
] as const;

/** One of the fifteen types, as bright as a clear sky at that height of the sun; its colour is one white. @source ISO 15469:2004 (CIE S 011) */
export function generalLook(type: number, kelvin: number, sun: Triple): SkyLook {
  const [a, b, c, d, e] = GENERAL[type - 1];
  const shape = rowOf([a, b, c, d, e], 1 - c * Math.exp((d * Math.PI) / 2), 1);
  const altitude = altitudeOf(sun);
  const mean = skyLux(altitude) / Math.PI / SKY_UNIT;
  const [x, y] = kelvinToXy(kelvin);
  return { rows: [scaledRow(shape, mean / meanOf(shape, sun)), constant(x), constant(y)], mean, band: [0, 0, 0], bandFade: 1, sunlight: [0, 0, 0] };
}
