/** The parameters of a layer of figures, for those who read and change them. */
import type { PictureLayer, Source } from '../model/model.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { placedFigures } from '../params/placed-figures.ts';
import { element } from '../params/references.ts';
import { completeParams, type ParamValues } from '../params/table.ts';
import type { Region } from '../raster/region.ts';

/** What the kind of layer is called in a document. */
export const FIGURES = 'figures';
/** Roles of elements of metres. */
export const DEPTHS = ['depth', 'distance'] as const;

const percent = (label: string, max: number, initial: number, help: string) => number({ label, unit: '%', min: 0, max, default: initial, step: 5, digits: 0, help });

const params = {
  figures: placedFigures({ label: 'Figures', help: 'What stands there: each with its picture, its place and its height.' }),
  style: choice({ label: 'Drawn', options: { 'as-is': 'As photographed', tone: 'Tones only', silhouette: 'Silhouettes' }, default: 'as-is', help: 'Their own colours, without colour, or as flat outlines.' }),
  styleColor: color({ label: 'Filled with', of: 'light', default: [0.85, 0.85, 0.85], help: 'The light of a silhouette.', when: { style: 'silhouette' } }),
  exposureStops: number({ label: 'Exposure', unit: 'EV', min: -6, max: 6, default: 0, step: 0.1, digits: 2, usual: [-2, 2], help: 'Beside the light of the place where they stand.' }),
  tint: color({ label: 'Tint', of: 'light', default: [1, 1, 1], help: 'Multiplied with their light.' }),
  modellingPercent: percent('Sun and shade', 100, 70, 'How far the sun models them: bright towards it, with a rim when it stands behind them.'),
  edgePx: number({ label: 'Edge drawn in', unit: 'px', min: 0, max: 20, default: 0, step: 0.1, digits: 1, usual: [0, 4], help: 'Pixels of its own picture that are taken off all around: a rim of what stood behind it.' }),
  fringePx: number({ label: 'Fringe', unit: 'px', min: 0, max: 40, default: 0, step: 0.5, digits: 1, usual: [0, 10], help: 'Edges take their colour from so many pixels inside, so that nothing of the old background shines on.' }),
  shadowFrom: choice({ label: 'Shadow', options: { thrown: 'Thrown by the sun', caught: 'Caught in a render', own: 'In their picture' }, default: 'thrown', help: 'One of them: the shape thrown on the ground here, one that a stand-in caught in a render of its own, or the one that was photographed with them.' }),
  caught: element({ label: 'Caught shadow', help: 'The element that is dark, or not transparent, where the shadow of a stand-in lies.', when: { shadowFrom: 'caught' } }),
  shadowPercent: percent('Strength', 100, 100, 'How much of its light the shadow takes from what lies below. What is thrown takes the sun’s only: shade stays shade.'),
  softPercent: number({ label: 'Softness', unit: '%', min: 0, max: 800, default: 100, step: 5, digits: 0, help: 'Of its edge: 100 % is the sun’s own, softer with distance; more is a hazy one.', when: { shadowFrom: 'thrown' } }),
  contactPercent: percent('Contact', 300, 100, 'How much they hide of the sky’s light where they touch the ground.'),
  mirrorPercent: percent('Mirrored', 100, 100, 'In water, glass and polished floors, as the reflection filter says.'),
  shines: element({ label: 'Mirror the place', help: 'What a black, mirroring stand-in showed in a render of its own: added inside of what is cut out.' }),
  shinesPercent: percent('Strength of it', 300, 100, 'How much of that is added.'),
  depth: element({ label: 'Hidden by', roles: DEPTHS, help: 'The element of depths or distances that tells what stands before them.' }),
};
export const figuresParams = { label: 'Figures', params } as const;
export type FiguresValues = ParamValues<typeof params>;
export const figuresValues = (layer: PictureLayer): FiguresValues => completeParams(figuresParams, layer.params) as unknown as FiguresValues;
export const isFigures = (layer: unknown): layer is PictureLayer => (layer as PictureLayer | null)?.kind === 'picture' && (layer as PictureLayer).type === FIGURES;


/** Where the picture of a figure lies in its own pixels. */
export const figureBox = ({ x, y, width, height, fit }: Source): Region => ({ x, y, ...(fit ?? { width, height }) });
