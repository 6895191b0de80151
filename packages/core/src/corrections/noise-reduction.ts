import { flag } from '../params/flag.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/** At full strength this much light more or less counts as noise. */
const MOST_STOPS = 2;
/** Normals that far apart (about 15°), and surface colours, are those of another surface. */
const GUIDE_WIDTHS = [0.25, 0.08];

/** Takes out grain where the light around is alike, and stops at edges: of the light itself, and of the surfaces that the render's normals and diffuse filter show. */
export const noiseReduction = defineCorrection({
  work: 'neighbourhood',
  id: 'noise-reduction',
  label: 'Noise reduction',
  summary: 'Smooths grain and keeps edges; normals and diffuse filter of the render show it where surfaces end.',
  group: 'Detail',
  params: {
    strengthPercent: number({ label: 'Strength', unit: '%', min: 0, max: 100, default: 0, step: 1, digits: 0, help: 'How large differences count as noise.' }),
    reachPx: number({ label: 'Reach', unit: 'px', min: 2, max: 126, default: 14, step: 2, digits: 0, usual: [2, 62], help: 'How far around it looks, in pixels of the full picture. Coarse grain needs more.' }),
    followsSurfaces: flag({ label: 'Follow surfaces', default: true, help: 'Stops where the render’s normals or surface colours change. Switch it off for what is not part of the render, such as a photograph.' }),
  },
  domain: 'light',
  zones: ['scene', 'picture'],
  isNoOp: ({ strengthPercent }) => strengthPercent === 0,
  reads: [
    { roles: ['normals'], label: 'normals', isOptional: true },
    { roles: ['diffuse-filter'], label: 'diffuse filter', isOptional: true },
  ],
  // Passes over 1, 2, 4 … pixels reach 2, 6, 14 … pixels altogether.
  spread: ({ strengthPercent, reachPx, followsSurfaces }) => ({ kind: 'smooth', passes: Math.max(1, Math.round(Math.log2(reachPx / 2 + 1))), lightStops: (MOST_STOPS * strengthPercent) / 100, guideWidths: followsSurfaces ? GUIDE_WIDTHS : [] }),
  examples: [
    { strengthPercent: 0, reachPx: 14, followsSurfaces: true },
    { strengthPercent: 60, reachPx: 14, followsSurfaces: true },
    { strengthPercent: 25, reachPx: 4, followsSurfaces: false },
  ],
  source: 'H. Dammertz, D. Sewtz, J. Hanika, H. P. A. Lensch, “Edge-Avoiding À-Trous Wavelet Transform for fast Global Illumination Filtering”, HPG 2010; widths: common practice, no published source',
});
