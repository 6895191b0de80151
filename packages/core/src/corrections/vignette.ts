import { number } from '../params/number.ts';
import { point } from '../params/point.ts';
import { defineCorrection } from './define.ts';

/**
 * Light falls off (or rises) from a centre towards the corners, as through a lens. Between where it begins and the corners it runs along a
 * smooth step; softness says how long that is. Prepared: centre, one over the half axes, where it begins, one over its length, gain − 1.
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
    centre: point({ label: 'Centre', unit: '%', default: [50, 50], help: 'From the upper left corner of the picture.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isPlaced: true,
  isNoOp: ({ cornerStops }) => cornerStops === 0,
  prepare: ({ cornerStops, midpointPercent, softnessPercent, roundnessPercent, centre }, { width, height }) => {
    const [middle, soft] = [midpointPercent / 100, softnessPercent / 100];
    const begin = middle * (1 - soft);
    const end = middle + (1 - middle) * soft;
    const round = roundnessPercent / 100;
    const diagonal = Math.hypot(width, height);
    // The corners of a picture whose centre is the vignette's are at 1, whatever the shape.
    const axis = (side: number) => (1 - round) * (Math.SQRT2 / side) + round * (2 / diagonal);
    return Float32Array.of((centre[0] / 100) * width, (centre[1] / 100) * height, axis(width), axis(height), begin, 1 / Math.max(1e-6, end - begin), 2 ** cornerStops - 1);
  },
  pixel: (rgb, [cx, cy, ax, ay, begin, slope, change], [x, y]) => {
    const r = Math.hypot((x - cx) * ax, (y - cy) * ay);
    const t = Math.min(1, Math.max(0, (r - begin) * slope));
    const gain = 1 + change * t * t * (3 - 2 * t);
    return [rgb[0] * gain, rgb[1] * gain, rgb[2] * gain];
  },
  kernel: 'vignette',
  examples: [
    { cornerStops: 0, midpointPercent: 60, softnessPercent: 100, roundnessPercent: 50, centre: [50, 50] },
    { cornerStops: -2, midpointPercent: 50, softnessPercent: 60, roundnessPercent: 0, centre: [50, 50] },
    { cornerStops: 1.5, midpointPercent: 80, softnessPercent: 0, roundnessPercent: 100, centre: [20, 65] },
  ],
  source: 'common practice, no published source',
});
