import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';
import { sizeInPercent } from './sizes.ts';

/** What keeps its edges: light that changes by more than this within a width. */
const EDGE_STOPS = 0.6;
/** Each size is four times the one before it. */
const RATIO = 4;
const amount = (label: string, help: string) => number({ label, unit: '%', min: -100, max: 200, default: 0, step: 1, digits: 0, usual: [-60, 100], help });

/** Contrast of what is fine, of what is larger, and of what is larger still, each by itself; strong edges between light and dark are left as they are. */
export const localContrast = defineCorrection({
  work: 'neighbourhood',
  id: 'local-contrast',
  label: 'Local contrast',
  summary: 'Strengthens or softens texture, forms and broad changes of light, each by itself.',
  group: 'Light and tone',
  params: {
    finePercent: amount('Fine', 'Grain of wood and plaster, leaves: what is smaller than the size.'),
    mediumPercent: amount('Medium', 'Joints, folds, furniture: up to four times the size.'),
    coarsePercent: amount('Coarse', 'Broad light and dark, up to sixteen times the size.'),
    sizePercent: sizeInPercent('Size', 0.15, 'What counts as fine, as a share of the picture’s diagonal. Medium is four times, coarse sixteen times as large.'),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ finePercent, mediumPercent, coarsePercent }) => finePercent === 0 && mediumPercent === 0 && coarsePercent === 0,
  spread: ({ finePercent, mediumPercent, coarsePercent, sizePercent }, { width, height }) => {
    const amounts = [finePercent, mediumPercent, coarsePercent].map((percent) => percent / 100);
    // What lies beyond the coarsest size that is asked for needs no base.
    const count = amounts.findLastIndex((each) => each !== 0) + 1;
    const bases = amounts.slice(0, count).map((_, n) => ({ sigmaPx: (sizePercent / 100) * Math.hypot(width, height) * RATIO ** n, edgeStops: EDGE_STOPS }));
    return { kind: 'local', bases, weights: { amounts: amounts.slice(0, count), thresholds: bases.map(() => 0), curve: null } };
  },
  examples: [
    { finePercent: 0, mediumPercent: 0, coarsePercent: 0, sizePercent: 0.15 },
    { finePercent: 40, mediumPercent: 0, coarsePercent: 0, sizePercent: 0.3 },
    { finePercent: -100, mediumPercent: 60, coarsePercent: 30, sizePercent: 0.2 },
  ],
  source: 'Z. Farbman, R. Fattal, D. Lischinski, R. Szeliski, “Edge-Preserving Decompositions for Multi-Scale Tone and Detail Manipulation”, SIGGRAPH 2008 (the parts); K. He et al., “Guided Image Filtering”, IEEE TPAMI 2013 (the bases)',
});
