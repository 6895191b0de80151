import { blurOfInfinity, type Camera, hyperfocal, sharpBetween } from '../camera/camera.ts';
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import type { KeptValues } from '../params/table.ts';
import { defineCorrection } from './define.ts';

/** No circle is larger than this share of the picture's width. */
const MOST_SHARE = 0.03;
/** What counts as sharp: a circle of so much of the sensor's width, 0.03 mm of 36. Common practice. */
const SHARP_SHARE = 0.03 / 36;

interface LensNumbers {
  readonly focusMetres: number;
  readonly untilMetres: number;
  readonly fNumber: number;
  readonly focalMillimetres: number;
  readonly sensorMillimetres: number;
}

/** From where to where it is set sharp. No lens is focused closer than at twice its focal length, where things are as large as on the sensor. */
function sharpAt({ focusMetres, untilMetres, focalMillimetres }: LensNumbers): readonly [near: number, far: number] {
  const closest = (2 * focalMillimetres) / 1000;
  const [one, other] = [focusMetres, untilMetres > 0 ? untilMetres : focusMetres].map((metres) => Math.max(closest, metres));
  return [Math.min(one, other), Math.max(one, other)];
}

/** Radius of what is infinitely far away, in pixels, for a lens focused at some metres. */
const farthestPx = ({ fNumber, focalMillimetres: f, sensorMillimetres }: LensNumbers, metres: number, width: number) => (blurOfInfinity(f, fNumber, metres * 1000) / 2 / sensorMillimetres) * width;

const metresText = (metres: number) => (Number.isFinite(metres) ? `${metres.toFixed(metres < 10 ? 2 : 1)} m` : 'infinity');

/** Depth of field after rendering. */
export const focus = defineCorrection({
  work: 'neighbourhood',
  id: 'focus',
  label: 'Focus',
  summary: 'Sharp where one clicks; nearer and farther things are blurred as a lens of that f-number does it, by the render’s depth.',
  group: 'Lens',
  params: {
    focusMetres: number({ label: 'Sharp at', unit: 'm', min: 0, max: 10_000, default: 0, step: 0.05, digits: 2, usual: [0, 50], help: 'Distance of the plane in focus, along the lens’s axis; of what is seen in glass and mirrors, where an element says it. At 0 everything stays sharp.' }),
    untilMetres: number({ label: 'And as far as', unit: 'm', min: 0, max: 10_000, default: 0, step: 0.05, digits: 2, usual: [0, 50], help: 'Everything between the two distances stays sharp. At 0 there is but one.' }),
    fNumber: number({ label: 'f-number', unit: '', min: 0.5, max: 64, default: 2.8, step: 0.1, digits: 1, usual: [1, 22], byFactors: true, help: 'Focal length over the diameter of the opening: half of it doubles the blur.' }),
    focalMillimetres: number({ label: 'Focal length', unit: 'mm', min: 1, max: 3000, default: 28, step: 1, digits: 1, usual: [12, 200], help: 'The camera’s own is where it begins; a longer one blurs more.' }),
    sensorMillimetres: number({ label: 'Sensor width', unit: 'mm', min: 1, max: 300, default: 36, step: 1, digits: 1, usual: [6, 60], help: '36 mm is full frame.' }),
    blades: number({ label: 'Blades', unit: '', min: 3, max: 16, default: 9, step: 1, digits: 0, help: 'Of the opening, three at least: its shape is what a lamp out of focus looks like.' }),
    roundnessPercent: number({ label: 'Roundness', unit: '%', min: 0, max: 100, default: 100, step: 5, digits: 0, help: 'How far the blades bow out: at 100 the opening is a circle, at 0 a polygon.' }),
    rotationDegrees: number({ label: 'Turned', unit: '°', min: -180, max: 180, default: 0, step: 1, digits: 0, help: 'Of the opening, clockwise.' }),
    catsEyePercent: number({ label: 'Cut off in corners', unit: '%', min: 0, max: 100, default: 0, step: 5, digits: 0, help: 'How much the barrel hides of the opening in the corners: discs become cat’s eyes there. Their light stays; Vignette darkens corners.' }),
    exposure: choice({ label: 'Exposure', options: { held: 'Held', follows: 'Follows the f-number' }, default: 'held', help: 'A wider opening lets in more light, unless the shutter makes up for it.' }),
    renderedAt: number({ label: 'Rendered at f/', unit: '', min: 0.5, max: 64, default: 8, step: 0.1, digits: 1, usual: [1, 22], byFactors: true, help: 'The f-number for which the exposure is as it is, where it follows.' }),
    shows: choice({ label: 'Shows', options: { picture: 'The picture', sharp: 'What is sharp' }, default: 'picture', help: 'What is sharp is striped, everything else is dimmed.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  prefers: 'scene',
  detail: 'softens',
  reads: [{ roles: ['seen-depth', 'depth', 'distance'], label: 'depth' }],
  begin: (camera: Camera | null): KeptValues => (camera ? { fNumber: camera.fNumber, focalMillimetres: camera.focalMillimetres, sensorMillimetres: camera.sensorMillimetres, renderedAt: camera.fNumber } : {}),
  picks: [
    { label: 'Click what is sharp', of: 'metres', take: ([metres]) => ({ focusMetres: Math.round(metres * 1000) / 1000, untilMetres: 0 }) },
    { label: 'Click where that ends', of: 'metres', take: ([metres], { focusMetres }): KeptValues => (focusMetres === 0 ? { focusMetres: Math.round(metres * 1000) / 1000 } : { untilMetres: Math.round(metres * 1000) / 1000 }) },
  ],
  facts: (params) => {
    if (params.focusMetres === 0) return 'Click in the picture what is to be sharp.';
    const [near, far] = sharpAt(params);
    const { focalMillimetres: f, fNumber, sensorMillimetres } = params;
    const circle = sensorMillimetres * SHARP_SHARE;
    const [from, to] = [sharpBetween(f, fNumber, near * 1000, circle)[0] / 1000, sharpBetween(f, fNumber, far * 1000, circle)[1] / 1000];
    return `Sharp from ${metresText(from)} to ${metresText(to)} (circles up to ${circle.toFixed(3)} mm on the sensor). Focused at ${metresText(hyperfocal(f, fNumber, circle) / 1000)}, infinity is just sharp.`;
  },
  isNoOp: ({ focusMetres }) => focusMetres === 0,
  spread: (params, { width }) => {
    const [nearMetres, farMetres] = sharpAt(params);
    const { blades, roundnessPercent, rotationDegrees, catsEyePercent, exposure, renderedAt, fNumber } = params;
    return {
      kind: 'focus',
      lens: { nearMetres, farMetres, nearPx: farthestPx(params, nearMetres, width), farPx: farthestPx(params, farMetres, width), mostPx: MOST_SHARE * width },
      aperture: { blades: Math.round(blades), roundness: roundnessPercent / 100, rotationRadians: (rotationDegrees * Math.PI) / 180, catsEye: catsEyePercent / 100 },
      gain: exposure === 'follows' ? (renderedAt / fNumber) ** 2 : 1,
      shows: params.shows === 'sharp',
      sharpPx: (SHARP_SHARE * width) / 2,
    };
  },
  examples: [
    { focusMetres: 0, untilMetres: 0, fNumber: 2.8, focalMillimetres: 28, sensorMillimetres: 36, blades: 9, roundnessPercent: 100, rotationDegrees: 0, catsEyePercent: 0, exposure: 'held', renderedAt: 8, shows: 'picture' },
    { focusMetres: 5, untilMetres: 0, fNumber: 1.4, focalMillimetres: 85, sensorMillimetres: 36, blades: 6, roundnessPercent: 20, rotationDegrees: 10, catsEyePercent: 40, exposure: 'follows', renderedAt: 2, shows: 'picture' },
    { focusMetres: 2, untilMetres: 4, fNumber: 2.8, focalMillimetres: 35, sensorMillimetres: 36, blades: 9, roundnessPercent: 100, rotationDegrees: 0, catsEyePercent: 0, exposure: 'held', renderedAt: 8, shows: 'sharp' },
  ],
  source: 'Thin lens: S. F. Ray, Applied Photographic Optics; slices: M. Kraus, M. Strengert, “Depth-of-Field Rendering by Pyramidal Image Processing”, Computer Graphics Forum 26(3), 2007',
});
