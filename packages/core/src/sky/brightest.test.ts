import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { directionOf } from '../sun/position.ts';
import { dot, type Triple } from '../vector.ts';
import { sunOfEnvironment } from './brightest.ts';
import { preethamDaylight } from './sky.ts';

const SIZE = { width: 256, height: 128 };
const around = (light: (direction: Triple) => number) =>
  Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => light(directionOf({ azimuthDegrees: (((i % SIZE.width) + 0.5) / SIZE.width - 0.5) * 360, altitudeDegrees: 90 - ((Math.floor(i / SIZE.width) + 0.5) / SIZE.height) * 180 })));

describe('the sun of a picture of everything around', () => {
  // The sky of Preetham et al. 1999 with a sun drawn into it, a few pixels wide: where it stands is known.
  it.each([[12, -140], [35, 20], [60, 178], [80, -5]])('%i° high, at %i°: found to a degree', (altitudeDegrees, azimuthDegrees) => {
    const sun = directionOf({ altitudeDegrees, azimuthDegrees });
    const daylight = preethamDaylight(3, Math.acos(sun[1]));
    const random = seeded(3);
    const light = around((direction) => {
      if (direction[1] <= 0) return 0.05 + random() * 0.1;
      const angle = Math.acos(Math.min(1, dot(direction, sun)));
      const [Y] = daylight.at(Math.acos(direction[1]), angle);
      return Y + (angle < 0.03 ? 400 : 0);
    });
    const found = sunOfEnvironment(light, SIZE);
    expect(dot(directionOf(found ?? { altitudeDegrees: 0, azimuthDegrees: 0 }), sun)).toBeGreaterThan(Math.cos((1 * Math.PI) / 180));
  });
  it('is none where all is alike, where only the ground shines, and where nothing is a number', () => {
    // CIE overcast: three times as bright at the zenith as at the horizon.
    expect(sunOfEnvironment(around(([, y]) => (y > 0 ? (1 + 2 * y) / 3 : 0.1)), SIZE)).toBeNull();
    expect(sunOfEnvironment(around(([, y]) => (y > 0 ? 0.5 : 40)), SIZE)).toBeNull();
    expect(sunOfEnvironment(around(() => Number.NaN), SIZE)).toBeNull();
    expect(sunOfEnvironment(new Float32Array(0), { width: 0, height: 0 })).toBeNull();
  });
});
