import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { point } from '../params/point.ts';
import { defineCorrection } from './define.ts';
import { seenUnder, tangentOfPixel } from './seen-under.ts';

const WHITE = [1, 1, 1] as const;

/**
 * Light falls off (or rises) from a centre towards the corners, as through a lens. Between where it begins and the corners it runs along a
 * smooth step; softness says how long that is. Beside it the natural fall-off of a lens by the angle, to be added or undone. Prepared: centre, one over the half axes, where it begins, one over its length, gain − 1 of each channel, power of the natural one,
 * square of the tangent for a pixel squared.
 */
export const vignette = defineCorrection({
  work: 'points',
  id: 'vignette',
  label: 'Vignette',
  summary: 'Darkens or lightens towards the corners; also undoes what a lens did.',
  group: 'Lens',
  params: {
    cornerStops: number({ label: 'Corners', unit: 'EV', min: -5, max: 5, default: 0, step: 0.05, digits: 2, help: 'How much light the corners lose (below 0) or gain.' }),
    midpointPercent: number({ label: 'Midpoint', unit: '%', min: 0, max: 100, default: 60, step: 1, digits: 0, help: 'Half of the change has happened at this distance between centre and corner.' }),
    softnessPercent: number({ label: 'Softness', unit: '%', min: 0, max: 100, default: 100, step: 1, digits: 0, help: '0 is a hard edge at the midpoint, 100 begins in the centre and ends in the corner.' }),
    roundnessPercent: number({ label: 'Roundness', unit: '%', min: 0, max: 100, default: 50, step: 1, digits: 0, help: '0 follows the shape of the picture, 100 is a circle.' }),
    tint: color({ label: 'Colour', of: 'light', default: WHITE, help: 'Of the light that the corners keep: white takes all alike, blue makes them cool.' }),
    natural: choice({ label: 'By the angle', options: { none: 'No', cos4: 'As a simple lens (cos⁴)' }, default: 'none', help: 'The fall-off that a lens has by nature, beside the one above.' }),
    naturalPercent: number({ label: 'Strength', unit: '%', min: -100, max: 100, default: 100, step: 5, digits: 0, help: '100 adds it, −100 undoes it.', when: { natural: 'cos4' } }),
    acrossDegrees: number({ label: 'Seen under', unit: '°', min: 2, max: 150, default: 65, step: 1, digits: 0, help: 'The angle over which the width of the picture is seen: that of the camera, unless another is set.', when: { natural: 'cos4' } }),
    centre: point({ label: 'Centre', unit: '%', default: [50, 50], help: 'From the upper left corner of the picture.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isPlaced: true,
  begin: seenUnder,
  isNoOp: ({ cornerStops, tint, natural, naturalPercent }) => cornerStops === 0 && (natural === 'none' || naturalPercent === 0) && tint.every((one) => one === tint[0]),
  prepare: ({ cornerStops, midpointPercent, softnessPercent, roundnessPercent, tint, natural, naturalPercent, acrossDegrees, centre }, { width, height }) => {
    const [middle, soft] = [midpointPercent / 100, softnessPercent / 100];
    const begin = middle * (1 - soft);
    const end = middle + (1 - middle) * soft;
    const round = roundnessPercent / 100;
    const diagonal = Math.hypot(width, height);
    const most = Math.max(1e-6, ...tint);
    // The corners of a picture whose centre is the vignette's are at 1, whatever the shape.
    const axis = (side: number) => (1 - round) * (Math.SQRT2 / side) + round * (2 / diagonal);
    return Float32Array.of((centre[0] / 100) * width, (centre[1] / 100) * height, axis(width), axis(height), begin, 1 / Math.max(1e-6, end - begin), ...tint.map((one) => (2 ** cornerStops * Math.max(0, one)) / most - 1), natural === 'none' ? 0 : (2 * naturalPercent) / 100, tangentOfPixel(acrossDegrees, width) ** 2);
  },
  pixel: (rgb, [cx, cy, ax, ay, begin, slope, red, green, blue, power, perPixel], [x, y]) => {
    const r = Math.hypot((x - cx) * ax, (y - cy) * ay);
    const t = Math.min(1, Math.max(0, (r - begin) * slope));
    const bend = t * t * (3 - 2 * t);
    // cos⁴θ = (1 + tan²θ)⁻²
    const natural = power === 0 ? 1 : (1 + ((x - cx) ** 2 + (y - cy) ** 2) * perPixel) ** -power;
    return [rgb[0] * (1 + red * bend) * natural, rgb[1] * (1 + green * bend) * natural, rgb[2] * (1 + blue * bend) * natural];
  },
  kernel: 'vignette',
  examples: [
    { cornerStops: 0, midpointPercent: 60, softnessPercent: 100, roundnessPercent: 50, tint: WHITE, natural: 'none', naturalPercent: 100, acrossDegrees: 65, centre: [50, 50] },
    { cornerStops: -2, midpointPercent: 50, softnessPercent: 60, roundnessPercent: 0, tint: [0.7, 0.8, 1], natural: 'none', naturalPercent: 100, acrossDegrees: 65, centre: [50, 50] },
    { cornerStops: 1.5, midpointPercent: 80, softnessPercent: 0, roundnessPercent: 100, tint: WHITE, natural: 'cos4', naturalPercent: -100, acrossDegrees: 84, centre: [20, 65] },
  ],
  source: 'cos⁴ law of illumination (Kingslake, Optics in Photography, 1992) for the natural fall-off; the rest is common practice, no published source',
});
