import { choice } from '../params/choice.ts';
import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { point } from '../params/point.ts';
import type { AffineMap } from '../raster/affine.ts';
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
    middle: point({ label: 'Middle', unit: 'px', default: [0, 0], help: 'What size, turn and mirror leave where it is.' }),
    reachPx: number({ label: 'Spot', unit: 'px', min: 2, max: 2000, default: 40, step: 1, digits: 0, usual: [5, 300], byFactors: true, help: 'About as wide as what is healed: light and colour are taken from so far around.' }),
    leaves: choice({ label: 'Old place', options: { texture: 'Healed', even: 'Filled from around' }, default: 'texture', help: 'With the texture that lies on its other side, as far away as it moves; or even, without any grain.', when: { work: 'move' } }),
    softPx: number({ label: 'Softened', unit: 'px', min: 0, max: 500, default: 0, step: 0.5, digits: 1, usual: [0, 40], help: 'What is moved, blurred so far: a shadow with a softer edge.', when: { work: 'move' } }),
    drawnPx: number({ label: 'Drawn out', unit: 'px', min: 0, max: 4000, default: 0, step: 1, digits: 0, usual: [0, 200], help: 'What is moved, as it is seen while it goes so far: motion blur of a thing, over what is behind it.', when: { work: 'move' } }),
    drawnDegrees: number({ label: 'Direction', unit: '°', min: -90, max: 90, default: 0, step: 1, digits: 0, help: 'Of what is drawn out: 0 is to the side, clockwise.', when: { work: 'move' } }),
  },
  nameOf: ({ values }) => ({ heal: 'Healed', clone: 'Copied', fill: 'Filled', move: 'Moved' })[values.work],
  problem: ({ values }) => (values.work !== 'fill' && !(values.work === 'move' && values.drawnPx > 0) && values.from[0] === 0 && values.from[1] === 0 && values.scalePercent === 100 && values.turnDegrees === 0 && !values.isMirrored ? 'each place is its own. Set from where it takes, or to where it moves.' : null),
  origin: (values, { zone, below, warped, healed, filled, moved }) => {
    const under = below(true);
    if (under === null) return null;
    const made = { domain: zone === 'scene' ? 'light' : 'display', bounded: false, scale: null, domainRegion: null } as const;
    if (values.work === 'move') return { ...made, from: { kind: 'picture', node: moved(under, movedMap(values), values.leaves === 'even' || (values.from[0] === 0 && values.from[1] === 0) ? null : [1, 0, 0, 1, -values.from[0], -values.from[1]], values.reachPx, { softPx: values.softPx, way: [values.drawnPx * Math.cos((values.drawnDegrees * Math.PI) / 180), values.drawnPx * Math.sin((values.drawnDegrees * Math.PI) / 180)] }) }, holdsMask: true };
    const node = values.work === 'fill' ? filled(under, values.reachPx) : values.work === 'heal' ? healed(under, mapOf(values), values.reachPx) : warped(under, mapOf(values));
    return { ...made, from: { kind: 'picture', node } };
  },
});

interface Taking {
  readonly from: readonly [number, number];
  readonly scalePercent: number;
  readonly turnDegrees: number;
  readonly isMirrored: boolean;
  readonly middle: readonly [number, number];
}
/** From a place in the picture to the place that was moved there. */
function movedMap(values: Taking): AffineMap {
  const [a, b, c, d] = mapOf(values);
  const [x, y] = [values.middle[0] + values.from[0], values.middle[1] + values.from[1]];
  return [a, b, c, d, values.middle[0] - a * x - b * y, values.middle[1] - c * x - d * y];
}

/** From a place in the picture to the place that it is taken from. */
function mapOf({ from, scalePercent, turnDegrees, isMirrored, middle }: Taking): AffineMap {
  const angle = (turnDegrees * Math.PI) / 180;
  const scale = 100 / scalePercent;
  const [cos, sin] = [Math.cos(angle) * scale, Math.sin(angle) * scale];
  const aside = isMirrored ? -1 : 1;
  const [a, b, c, d] = [cos * aside, sin * aside, -sin, cos];
  return [a, b, c, d, middle[0] + from[0] - a * middle[0] - b * middle[1], middle[1] + from[1] - c * middle[0] - d * middle[1]];
}
