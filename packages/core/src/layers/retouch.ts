import { choice } from '../params/choice.ts';
import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { point } from '../params/point.ts';
import { cameraOf } from '../camera/camera.ts';
import { alongPlane, levelPlane, uprightPlane } from '../camera/planes.ts';
import { viewOfCamera } from '../camera/view.ts';
import type { TazzelDocument } from '../model/model.ts';
import type { PictureMap } from '../raster/affine.ts';
import { defineLayer } from './define.ts';

/** Another place of the picture, laid over this one where its mask is painted: as it is, or in the light and colour of what lies around; or what is painted, moved elsewhere. */
export const retouch = defineLayer({
  id: 'retouch',
  label: 'Retouch',
  summary: 'Another place of the picture over this one, where it is painted: a copy, or healed into what lies around; or what is painted, moved.',
  isPlaced: false,
  readsBelow: true,
  params: {
    work: choice({ label: 'Does', options: { heal: 'Heal', clone: 'Copy', fill: 'Fill from around', move: 'Move' }, default: 'heal', help: 'The other place in the light and colour of what lies around the strokes, or as it is; nothing but what lies around, without any grain; or what is under the strokes goes elsewhere, and its old place is filled.' }),
    from: point({ label: 'From', unit: 'px', default: [60, 0], help: 'How far away the other place is, to the right and down: from where it takes, or to where it moves. Drag its handle on the picture.' }),
    scalePercent: number({ label: 'Size', unit: '%', min: 5, max: 2000, default: 100, step: 1, digits: 1, usual: [50, 200], byFactors: true, help: 'Of what is taken, about the middle of the strokes: what is farther away is smaller.' }),
    turnDegrees: number({ label: 'Turned', unit: '°', min: -180, max: 180, default: 0, step: 0.5, digits: 1, help: 'About the middle of the strokes, clockwise.' }),
    isMirrored: flag({ label: 'Mirrored', default: false, help: 'Left and right exchanged.' }),
    plane: choice({ label: 'Goes', options: { picture: 'In the picture', level: 'Along a level surface', upright: 'Along a wall' }, default: 'picture', help: 'Along a surface it grows and is sheared as the camera sees it there: paving, boards, bricks go on in their perspective. Turned and mirrored is on the surface.' }),
    wallDegrees: number({ label: 'Wall runs', unit: '°', min: -90, max: 90, default: 0, step: 1, digits: 1, help: 'Seen from above, clockwise: 0 runs straight away from the camera, 90 lies across its view.', when: { plane: 'upright' } }),
    middle: point({ label: 'Middle', unit: 'px', default: [0, 0], help: 'What size, turn and mirror leave where it is.' }),
    reachPx: number({ label: 'Spot', unit: 'px', min: 2, max: 2000, default: 40, step: 1, digits: 0, usual: [5, 300], byFactors: true, help: 'About as wide as what is healed: light and colour are taken from so far around.' }),
    leaves: choice({ label: 'Old place', options: { texture: 'Healed', even: 'Filled from around' }, default: 'texture', help: 'With the texture that lies on its other side, as far away as it moves; or even, without any grain.', when: { work: 'move' } }),
    softPx: number({ label: 'Softened', unit: 'px', min: 0, max: 500, default: 0, step: 0.5, digits: 1, usual: [0, 40], help: 'What is moved, blurred so far: a shadow with a softer edge.', when: { work: 'move' } }),
    drawnPx: number({ label: 'Drawn out', unit: 'px', min: 0, max: 4000, default: 0, step: 1, digits: 0, usual: [0, 200], help: 'What is moved, as it is seen while it goes so far: motion blur of a thing, over what is behind it.', when: { work: 'move' } }),
    drawnDegrees: number({ label: 'Direction', unit: '°', min: -90, max: 90, default: 0, step: 1, digits: 0, help: 'Of what is drawn out: 0 is to the side, clockwise.', when: { work: 'move' } }),
  },
  nameOf: ({ values }) => ({ heal: 'Healed', clone: 'Copied', fill: 'Filled', move: 'Moved' })[values.work],
  problem: ({ document, values }) => {
    if (values.work === 'fill') return null;
    const maps = mapsOf(values, document);
    if (typeof maps === 'string') return maps;
    return !(values.work === 'move' && values.drawnPx > 0) && values.from[0] === 0 && values.from[1] === 0 && values.scalePercent === 100 && values.turnDegrees === 0 && !values.isMirrored ? 'each place is its own. Set from where it takes, or to where it moves.' : null;
  },
  origin: (values, { document, zone, below, warped, healed, filled, moved }) => {
    const under = below(true);
    if (under === null) return null;
    const made = { domain: zone === 'scene' ? 'light' : 'display', bounded: false, scale: null, domainRegion: null } as const;
    if (values.work === 'fill') return { ...made, from: { kind: 'picture', node: filled(under, values.reachPx) } };
    const maps = mapsOf(values, document);
    if (typeof maps === 'string') return null;
    if (values.work !== 'move') return { ...made, from: { kind: 'picture', node: values.work === 'heal' ? healed(under, maps.taken, values.reachPx) : warped(under, maps.taken) } };
    const isHealed = values.leaves === 'texture' && (values.from[0] !== 0 || values.from[1] !== 0);
    const direction = (values.drawnDegrees * Math.PI) / 180;
    const node = moved(under, maps.moved, isHealed ? maps.other : null, values.reachPx, { softPx: values.softPx, way: [values.drawnPx * Math.cos(direction), values.drawnPx * Math.sin(direction)] });
    return { ...made, from: { kind: 'picture', node }, holdsMask: true };
  },
});

interface Taking {
  readonly from: readonly [number, number];
  readonly scalePercent: number;
  readonly turnDegrees: number;
  readonly isMirrored: boolean;
  readonly middle: readonly [number, number];
  readonly plane: 'picture' | 'level' | 'upright';
  readonly wallDegrees: number;
}

/** Maps from places in the picture to the places that are seen there. */
interface Maps {
  /** What is taken from elsewhere. */
  readonly taken: PictureMap;
  /** What goes elsewhere. */
  readonly moved: PictureMap;
  /** What heals its old place: what lies on its other side, as far away. */
  readonly other: PictureMap;
}

const EVEN = [1, 0, 0, 1] as const;

/** Or what is missing, as a sentence. */
function mapsOf({ from, scalePercent, turnDegrees, isMirrored, middle, plane, wallDegrees }: Taking, document: TazzelDocument): Maps | string {
  const angle = (turnDegrees * Math.PI) / 180;
  const scale = 100 / scalePercent;
  const [cos, sin] = [Math.cos(angle) * scale, Math.sin(angle) * scale];
  const aside = isMirrored ? -1 : 1;
  const turned = [cos * aside, sin * aside, -sin, cos] as const;
  const there = [middle[0] + from[0], middle[1] + from[1]] as const;
  const along = alongOf(document, plane, wallDegrees);
  if (typeof along === 'string') return along;
  const [taken, moved, other] = [along(middle, there, turned), along(there, middle, turned), along(there, middle, EVEN)];
  if (taken && moved && other) return { taken, moved, other };
  return plane === 'level' ? 'both places must lie on one side of the horizon: on the floor, or on the ceiling.' : 'both places must lie on one side of where the wall would end far away.';
}

type Place = readonly [x: number, y: number];
/** What shows at one place what is at another one, turned, scaled and mirrored; null where that cannot be. */
type Along = (at: Place, to: Place, by: readonly [number, number, number, number]) => PictureMap | null;

/** In the picture, or along a surface of the scene: or what is missing for it, as a sentence. */
function alongOf(document: TazzelDocument, plane: Taking['plane'], wallDegrees: number): Along | string {
  if (plane === 'picture') return (at, to, [a, b, c, d]) => [a, b, c, d, to[0] - a * at[0] - b * at[1], to[1] - c * at[0] - d * at[1]];
  if (document.camera === null) return 'the camera is not known, and with it where surfaces lie. Set it under Elements, Camera and sun: two pairs of lines, or the horizon.';
  const view = viewOfCamera(cameraOf(document.camera), document.size);
  const surface = plane === 'level' ? levelPlane(view) : uprightPlane(view, wallDegrees);
  return (at, to, by) => {
    const homography = alongPlane(view, surface, at, to, by);
    return homography && { homography };
  };
}
