import { choice } from '../params/choice.ts';
import { number } from '../params/number.ts';
import { UNBENT, unfolded, zoomToFill } from '../raster/bend.ts';
import { defineCorrection } from './define.ts';

const term = (label: string, help: string) => number({ label, unit: '%', min: -40, max: 40, default: 0, step: 0.1, digits: 1, usual: [-10, 10], help });

const termsOf = ({ firstPercent, secondPercent }: { readonly firstPercent: number; readonly secondPercent: number }) => [firstPercent / 100, secondPercent / 100] as const;

/** Straight lines bent as a lens bends them, or bent ones made straight. */
export const distortion = defineCorrection({
  work: 'neighbourhood',
  id: 'distortion',
  label: 'Distortion',
  summary: 'Bends straight lines as a lens does, or makes bent ones straight.',
  group: 'Lens',
  params: {
    firstPercent: term('Bent by', 'How much farther out a corner lies for the lens (k₁ of Brown and Conrady): above 0 like a cushion, below 0 like a barrel.'),
    secondPercent: term('Near the corners', 'The same, growing faster outwards (k₂).'),
    way: choice({ label: 'Does', options: { add: 'Bends as that lens', remove: 'Undoes that lens' }, default: 'add', help: 'The same numbers there and back.' }),
    edges: choice({ label: 'Edges', options: { fill: 'Cut off', show: 'Go on' }, default: 'fill', help: 'Enlarged until nothing lies outside; or the outermost pixels go on where there is nothing.' }),
  },
  domain: 'as-found',
  zones: ['scene', 'picture'],
  // Over everything: elements that lie above would not follow.
  prefers: 'picture',
  detail: 'moves',
  isNoOp: ({ firstPercent, secondPercent }) => firstPercent === 0 && secondPercent === 0,
  facts: (params) => {
    const [wanted] = termsOf(params);
    const [k1] = unfolded(termsOf(params));
    return k1 === wanted ? 'Masks go along, and so does what is clicked. Elements and figures above it do not: put it over them.' : `So strong a lens would fold the picture over itself: ${Math.round((k1 / (wanted || 1)) * 100)} % of it is done.`;
  },
  spread: (params, size) => {
    const { width, height } = size;
    const bend = { homography: UNBENT, middle: [width / 2, height / 2] as const, unitPx: Math.hypot(width, height) / 2, radial: unfolded(termsOf(params)), isInverse: params.way === 'add', channels: [1, 1, 1] as const };
    return { kind: 'bend', bend: { ...bend, zoom: params.edges === 'fill' ? zoomToFill(bend, size) : 1 } };
  },
  examples: [
    { firstPercent: 0, secondPercent: 0, way: 'add', edges: 'fill' },
    { firstPercent: -6, secondPercent: 1, way: 'add', edges: 'fill' },
    { firstPercent: 8, secondPercent: -2, way: 'remove', edges: 'show' },
  ],
  source: 'D. C. Brown, “Close-Range Camera Calibration”, Photogrammetric Engineering 37(8), 1971',
});
