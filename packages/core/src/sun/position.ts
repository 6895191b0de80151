/** Where the sun stands and how much light it gives. */
import type { Triple } from '../vector.ts';

const RADIANS = Math.PI / 180;
const sin = (degrees: number) => Math.sin(degrees * RADIANS);
const cos = (degrees: number) => Math.cos(degrees * RADIANS);

export interface SunPosition {
  /** Above the horizon, without refraction. */
  readonly altitudeDegrees: number;
  /** From north over east. */
  readonly azimuthDegrees: number;
}

/**
 * @param time milliseconds since 1970, UTC
 * @source NOAA solar calculator, after Meeus, Astronomical Algorithms, ch. 25; good to 0.01°
 */
export function sunPosition(time: number, latitudeDegrees: number, longitudeDegrees: number): SunPosition {
  const julian = time / 86_400_000 + 2440587.5;
  const t = (julian - 2451545) / 36525;
  const meanLongitude = 280.46646 + t * (36000.76983 + 0.0003032 * t);
  const anomaly = 357.52911 + t * (35999.05029 - 0.0001537 * t);
  const eccentricity = 0.016708634 - t * (0.000042037 + 1.267e-7 * t);
  const center = sin(anomaly) * (1.914602 - t * (0.004817 + 0.000014 * t)) + sin(2 * anomaly) * (0.019993 - 0.000101 * t) + 0.000289 * sin(3 * anomaly);
  const node = 125.04 - 1934.136 * t;
  const apparent = meanLongitude + center - 0.00569 - 0.00478 * sin(node);
  const meanObliquity = 23 + (26 + (21.448 - t * (46.815 + t * (0.00059 - 0.001813 * t))) / 60) / 60;
  const obliquity = meanObliquity + 0.00256 * cos(node);
  const declination = Math.asin(sin(obliquity) * sin(apparent)) / RADIANS;
  const y = Math.tan((obliquity / 2) * RADIANS) ** 2;
  const equationMinutes = (4 / RADIANS) * (y * sin(2 * meanLongitude) - 2 * eccentricity * sin(anomaly) + 4 * eccentricity * y * sin(anomaly) * cos(2 * meanLongitude) - (y * y * sin(4 * meanLongitude)) / 2 - 1.25 * eccentricity ** 2 * sin(2 * anomaly));
  const minutes = (((time / 60_000) % 1440) + 1440) % 1440;
  const hourAngle = (((minutes + equationMinutes + 4 * longitudeDegrees) / 4) % 360) - 180;
  const altitude = Math.asin(sin(latitudeDegrees) * sin(declination) + cos(latitudeDegrees) * cos(declination) * cos(hourAngle)) / RADIANS;
  const azimuth = Math.atan2(sin(hourAngle), cos(hourAngle) * sin(latitudeDegrees) - Math.tan(declination * RADIANS) * cos(latitudeDegrees)) / RADIANS + 180;
  return { altitudeDegrees: altitude, azimuthDegrees: ((azimuth % 360) + 360) % 360 };
}

/** Lux on a surface that faces the sun, in clear air; 0 below the horizon. @source IESNA RP-21 (1984) */
export const sunLux = (altitudeDegrees: number): number => (altitudeDegrees <= 0 ? 0 : 127_500 * Math.exp(-0.21 / sin(altitudeDegrees)));

/** Lux of a clear sky on level ground. @source IESNA RP-21 (1984) */
export const clearSkyLux = (altitudeDegrees: number): number => 800 + 15_500 * Math.sqrt(Math.max(0, sin(altitudeDegrees)));

/** Where the sun stands, by angles or by place and time. */
export type SunPlace =
  | ({ readonly place: 'angles' } & SunPosition)
  /** `northDegrees` is the compass direction of −z. */
  | { readonly place: 'date'; readonly latitudeDegrees: number; readonly longitudeDegrees: number; readonly utc: string; readonly northDegrees: number };

/** A unit vector for a compass direction (0 along −z, 90° along +x, as on a plan with north up) and a height above the horizon. */
export const directionOf = ({ azimuthDegrees, altitudeDegrees }: SunPosition): Triple => [sin(azimuthDegrees) * cos(altitudeDegrees), sin(altitudeDegrees), -cos(azimuthDegrees) * cos(altitudeDegrees)];

/** Compass direction and height of a vector of any length. */
export function positionOf([x, y, z]: Triple): SunPosition {
  return { azimuthDegrees: Math.atan2(x, -z) / RADIANS, altitudeDegrees: Math.atan2(y, Math.hypot(x, z)) / RADIANS };
}

/** Towards the sun, in a world with y up. */
export function sunDirection(sun: SunPlace): { direction: Triple; altitudeDegrees: number } {
  const { azimuthDegrees, altitudeDegrees } = sun.place === 'angles' ? sun : sunPosition(Date.parse(sun.utc), sun.latitudeDegrees, sun.longitudeDegrees);
  return { direction: directionOf({ azimuthDegrees: azimuthDegrees - (sun.place === 'date' ? sun.northDegrees : 0), altitudeDegrees }), altitudeDegrees };
}
