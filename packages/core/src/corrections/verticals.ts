import type { Camera } from '../camera/camera.ts';
import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import type { KeptValues } from '../params/table.ts';
import { zoomToFill } from '../raster/bend.ts';
import type { Size } from '../raster/region.ts';
import { defineCorrection } from './define.ts';

const angle = (label: string, help: string) => number({ label, unit: '°', min: -40, max: 40, default: 0, step: 0.1, digits: 2, usual: [-15, 15], help });

type Rows = readonly number[];
const times = (a: Rows, b: Rows): number[] => [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => a[3 * r] * b[c] + a[3 * r + 1] * b[3 + c] + a[3 * r + 2] * b[6 + c]));

interface Turn {
  readonly verticalDegrees: number;
  readonly horizontalDegrees: number;
  readonly rollDegrees: number;
  readonly focalMillimetres: number;
  readonly sensorMillimetres: number;
}

/**
 * From places in the picture of a level camera to places in that of a turned one: K R K⁻¹, and shifted so that the middle stays in the middle.
 * @source Hartley and Zisserman, Multiple View Geometry, 8.4.2
 */
function turned({ verticalDegrees, horizontalDegrees, rollDegrees, focalMillimetres, sensorMillimetres }: Turn, { width, height }: Size): number[] {
  const [pitch, yaw, roll] = [verticalDegrees, horizontalDegrees, rollDegrees].map((degrees) => (degrees * Math.PI) / 180);
  const f = (focalMillimetres / sensorMillimetres) * width;
  const [cx, cy] = [width / 2, height / 2];
  // Axes: right, down, forward.
  const about = (sin: number, cos: number) => ({ x: [1, 0, 0, 0, cos, -sin, 0, sin, cos], y: [cos, 0, sin, 0, 1, 0, -sin, 0, cos], z: [cos, -sin, 0, sin, cos, 0, 0, 0, 1] });
  // A camera that looks up sees level things lower.
  const rotation = times(times(about(-Math.sin(roll), Math.cos(roll)).z, about(-Math.sin(pitch), Math.cos(pitch)).x), about(-Math.sin(yaw), Math.cos(yaw)).y);
  const [toPicture, fromPicture] = [[f, 0, cx, 0, f, cy, 0, 0, 1], [1 / f, 0, -cx / f, 0, 1 / f, -cy / f, 0, 0, 1]];
  const there = times(times(toPicture, rotation), fromPicture);
  // Where the middle of the old picture lies in the new one: the rotation turned back.
  const back = [0, 1, 2].map((c) => rotation[6 + c]);
  const shift = back[2] > 0.05 ? [(f * back[0]) / back[2], (f * back[1]) / back[2]] : [0, 0];
  return times(there, [1, 0, shift[0], 0, 1, shift[1], 0, 0, 1]);
}

/** What a tilted camera makes converge made parallel again: as a shifted lens would have drawn it. */
export const verticals = defineCorrection({
  work: 'neighbourhood',
  id: 'verticals',
  label: 'Verticals',
  summary: 'Makes uprights parallel that a tilted camera lets converge, as a shifted lens would have drawn them; levels and rolls, too.',
  group: 'Lens',
  params: {
    verticalDegrees: angle('Looks up by', 'The tilt that is taken back: uprights become parallel. It begins as the camera’s.'),
    horizontalDegrees: angle('Looks aside by', 'The same for level lines of a front that is seen at an angle.'),
    rollDegrees: angle('Rolled by', 'Clockwise as seen from behind the camera.'),
    focalMillimetres: number({ label: 'Focal length', unit: 'mm', min: 4, max: 3000, default: 28, step: 1, digits: 1, usual: [12, 100], help: 'With the sensor it says how far turning the camera moves things.' }),
    sensorMillimetres: number({ label: 'Sensor width', unit: 'mm', min: 1, max: 300, default: 36, step: 1, digits: 1, usual: [6, 60], help: '36 mm is full frame.' }),
    edges: choice({ label: 'Edges', options: { fill: 'Cut off', show: 'Go on' }, default: 'fill', help: 'Enlarged until nothing lies outside; or the outermost pixels go on where there is nothing.' }),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  // Over everything: elements that lie above would not follow.
  prefers: 'picture',
  detail: 'moves',
  begin: (camera: Camera | null): KeptValues => (camera ? { verticalDegrees: Math.max(-40, Math.min(40, camera.tiltDegrees)), rollDegrees: Math.max(-40, Math.min(40, camera.rollDegrees)), focalMillimetres: Math.max(4, camera.focalMillimetres), sensorMillimetres: camera.sensorMillimetres } : {}),
  isNoOp: ({ verticalDegrees, horizontalDegrees, rollDegrees }) => verticalDegrees === 0 && horizontalDegrees === 0 && rollDegrees === 0,
  facts: () => 'Masks go along, and so does what is clicked. Elements and figures above it do not: put it over them.',
  spread: (params, size) => {
    const bend = { homography: turned(params, size), middle: [size.width / 2, size.height / 2] as const, unitPx: 1, radial: [0, 0] as const, isInverse: false, channels: [1, 1, 1] as const };
    return { kind: 'bend', bend: { ...bend, zoom: params.edges === 'fill' ? zoomToFill(bend, size) : 1 } };
  },
  examples: [
    { verticalDegrees: 0, horizontalDegrees: 0, rollDegrees: 0, focalMillimetres: 28, sensorMillimetres: 36, edges: 'fill' },
    { verticalDegrees: 12, horizontalDegrees: 0, rollDegrees: 0.5, focalMillimetres: 24, sensorMillimetres: 36, edges: 'fill' },
    { verticalDegrees: -5, horizontalDegrees: 20, rollDegrees: -3, focalMillimetres: 50, sensorMillimetres: 36, edges: 'show' },
  ],
  source: 'R. Hartley, A. Zisserman, “Multiple View Geometry in Computer Vision”, 2nd ed. 2004, 8.4 (pictures of a turned camera)',
});
