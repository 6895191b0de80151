import { cameraOf } from '../camera/camera.ts';
import { type CameraView, groundAt, viewOfCamera } from '../camera/view.ts';
import { sourceOf } from '../masks/read.ts';
import type { TazzelDocument } from '../model/model.ts';
import type { Place } from '../params/places.ts';
import type { OnPlan } from '../trails/course.ts';
import type { Traffic } from '../trails/lamps.ts';
import { scaledBy } from '../vector.ts';
import { defineLayer } from './define.ts';
import { DEPTHS } from './figures-values.ts';
import { TRAILS, trailsParams } from './trails-values.ts';

/** A line of the picture on the ground; places above the horizon have none. */
function onGround(view: CameraView, path: readonly Place[], groundMetres: number): readonly OnPlan[] {
  return path.flatMap(([x, y]): OnPlan[] => {
    const place = groundAt(view, x, y, groundMetres);
    return place ? [[place[0], place[2]]] : [];
  });
}
const filterOf = ({ sources }: TazzelDocument) => sources.find(({ role }) => role === 'reflection-filter') ?? null;

/** What the lamps of passing vehicles draw while the shutter is open. Added to the light below. */
export const trailsLayer = defineLayer({
  id: TRAILS,
  label: trailsParams.label,
  summary: 'Lamps of passing traffic in a long exposure, along courses on the ground.',
  isPlaced: false,
  params: trailsParams.params,
  nameOf: () => trailsParams.label,
  problem: ({ document, values }) => {
    if (document.camera === null) return 'the camera is not known, and with it where the ground is. Set it under Elements, Camera and sun: two pairs of lines, or the horizon.';
    if (values.courses.length === 0) return 'nothing drives there yet. Draw a course on the ground: click where it begins, where it turns, where it ends.';
    const view = viewOfCamera(cameraOf(document.camera), document.size);
    return values.courses.some((path) => onGround(view, path, values.groundMetres).length >= Math.min(2, path.length)) ? null : 'its courses lie above the horizon, where there is no ground: draw them further down.';
  },
  uses: ({ document, values }) => [sourceOf({ source: values.depth }, document, DEPTHS), filterOf(document)].flatMap((source) => (source ? [source.id] : [])),
  origin: (values, planning) => {
    const { document, source: read } = planning;
    if (!document.camera) return null;
    const view = viewOfCamera(cameraOf(document.camera), document.size);
    const courses = values.courses.map((path) => onGround(view, path, values.groundMetres)).filter((places) => places.length > 1);
    if (courses.length === 0) return null;
    const metres = sourceOf({ source: values.depth }, document, DEPTHS);
    const depths = metres && read(metres.id);
    const mirror = values.mirrorPercent / 100;
    const filter = filterOf(document);
    const filtered = filter && depths && mirror > 0 ? read(filter.id) : null;
    const metresPerSecond = values.kmPerHour / 3.6;
    const brightness = 2 ** values.exposureStops;
    const node = planning.trails({
      trails: {
        view,
        courses,
        groundMetres: values.groundMetres,
        lanes: Math.round(values.lanes),
        laneMetres: values.laneMetres,
        traffic: values.traffic as Traffic,
        vehicles: Math.round(values.vehicles),
        lengthMetres: metresPerSecond * values.shutterSeconds,
        lampHeightMetres: values.lampHeightMetres,
        lampMetres: values.lampMetres,
        trackMetres: values.trackMetres,
        towards: scaledBy(values.towards, brightness),
        away: scaledBy(values.away, brightness),
        flicker: values.flickerPercent / 100,
        flashMetres: metresPerSecond / values.flickerHertz,
        seed: Math.round(values.seed),
      },
      mirror,
      areDepths: depths?.role !== 'distance',
      sides: depths ? { node: planning.sides(depths) } : null,
      filter: filtered ? { node: planning.element(filtered) } : null,
    });
    return { from: { kind: 'picture', node }, domain: 'light', bounded: false, scale: null, domainRegion: null };
  },
});
