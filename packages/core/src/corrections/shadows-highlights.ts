import { number } from '../params/number.ts';
import { CURVE_FROM, CURVE_STEPS, CURVE_STOPS } from '../raster/local.ts';
import { sizeInPercent } from './sizes.ts';
import { defineCorrection } from './define.ts';

const MID_GREY_STOPS = Math.log2(0.18);
/** Over so many stops from the middle on a side is taken in. A longer way than 1.5 times the most that is lifted: dark surroundings never end up lighter than lighter ones. */
const WAY = 4.5;
/** What keeps its edges: light that changes by more than this. */
const EDGE_STOPS = 0.35;
const smooth = (t: number) => t * t * (3 - 2 * t);
const share = (stops: number) => smooth(Math.min(1, Math.max(0, stops / WAY)));
const stops = (label: string, help: string) => number({ label, unit: 'EV', min: -2.5, max: 2.5, default: 0, step: 0.05, digits: 2, help });

/**
 * Lightens what lies in shadow and holds what is bright, by how light the surroundings are: a base that keeps its edges is moved along a curve, and all that lies on it
 * (texture, lines) keeps its contrast. Edges keep their place, so that nothing glows along them.
 */
export const shadowsHighlights = defineCorrection({
  work: 'neighbourhood',
  id: 'shadows-highlights',
  label: 'Shadows and highlights',
  summary: 'Opens shadows and brings highlights back, each by its surroundings; texture keeps its contrast.',
  group: 'Light and tone',
  params: {
    shadowsStops: stops('Shadows', 'How much light is added where the surroundings are darkest.'),
    highlightsStops: stops('Highlights', 'How much light is added where the surroundings are brightest; below 0 they come back. Under the tone line what is brighter than white comes back with its colour; over it white is white, and becomes grey.'),
    middleStops: number({ label: 'Middle', unit: 'EV', min: -3, max: 3, default: 0, step: 0.1, digits: 1, help: 'What counts as neither: 0 is the light of mid grey.' }),
    widthPercent: sizeInPercent('Width', 2, 'How large the surroundings are, as a share of the picture’s diagonal. Small widths follow small shadows, and take contrast from what is larger.'),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ shadowsStops, highlightsStops }) => shadowsStops === 0 && highlightsStops === 0,
  spread: ({ shadowsStops, highlightsStops, middleStops, widthPercent }, { width, height }) => {
    const middle = MID_GREY_STOPS + middleStops;
    const curve = Array.from({ length: CURVE_STEPS + 1 }, (_, i) => {
      const base = CURVE_FROM + (i / CURVE_STEPS) * CURVE_STOPS;
      return shadowsStops * share(middle - base) + highlightsStops * share(base - middle);
    });
    return { kind: 'local', bases: [{ sigmaPx: (widthPercent / 100) * Math.hypot(width, height), edgeStops: EDGE_STOPS }], weights: { amounts: [0], thresholds: [0], curve } };
  },
  examples: [
    { shadowsStops: 0, highlightsStops: 0, middleStops: 0, widthPercent: 2 },
    { shadowsStops: 1.2, highlightsStops: -0.8, middleStops: 0, widthPercent: 2 },
    { shadowsStops: -2.5, highlightsStops: 2.5, middleStops: 1, widthPercent: 0.3 },
  ],
  source: 'F. Durand, J. Dorsey, “Fast Bilateral Filtering for the Display of High-Dynamic-Range Images”, SIGGRAPH 2002 (base and detail); K. He et al., “Guided Image Filtering”, IEEE TPAMI 2013 (the base); the curve is common practice, no published source',
});
