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
  shadowPercent: percent('Shadow', 100, 100, 'How much of the sun’s light they take from what lies behind them. Shade stays shade.'),
  softPercent: percent('Softness', 800, 100, 'Of its edge: 100 % is the sun’s own, softer with distance; more is a hazy one.'),
  contactPercent: percent('Contact', 300, 100, 'How much they hide of the sky’s light where they touch the ground.'),
  mirrorPercent: percent('Mirrored', 100, 100, 'In water, glass and polished floors, as the reflection filter says.'),
  depth: element({ label: 'Hidden by', roles: DEPTHS, help: 'The element of depths or distances that tells what stands before them.' }),
};
export const figuresParams = { label: 'Figures', params } as const;
export type FiguresValues = ParamValues<typeof params>;
export const figuresValues = (layer: PictureLayer): FiguresValues => completeParams(figuresParams, layer.params) as unknown as FiguresValues;
export const isFigures = (layer: unknown): layer is PictureLayer => (layer as PictureLayer | null)?.kind === 'picture' && (layer as PictureLayer).type === FIGURES;


/** Where the picture of a figure lies in its own pixels. */
export const figureBox = ({ x, y, width, height, fit }: Source): Region => ({ x, y, ...(fit ?? { width, height }) });
