import { luminanceOf, MID_GREY_COLOR } from '../color/luminance.ts';
import type { Triple } from '../vector.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { defineCorrection } from './define.ts';

/** Surfaces darker than this have no texture that could be kept. */
const LEAST_LUMINANCE = 1e-4;
/** Beauty darker than this says nothing of what was done to the light since. */
const LEAST_BEAUTY = 1e-5;
const MOST_CHANGE = 64;

/** What has become of a channel of the beauty: the factor between then and now. */
const since = (now: number, then: number) => (then > LEAST_BEAUTY ? Math.min(MOST_CHANGE, Math.max(0, now / then)) : 1);

/**
 * Another surface colour under the same light. Diffuse light is filter × raw light; what changes is the filter, so the difference of the two
 * filters times the raw light is added, and whatever else is in the picture (reflections, highlights) stays. Light that was changed on the way
 * here (another exposure, lamps up, sun down) counts as it is now: the raw light is scaled as the picture has been since the beauty. Texture is kept as the ratio of the
 * filter's luminance to that of the present colour. Prepared: new colour, texture, one over the luminance of the present colour.
 */
export const repaint = defineCorrection({
  work: 'points',
  id: 'repaint',
  label: 'Repaint',
  summary: 'Gives surfaces another colour and keeps the light on them, from the diffuse filter and the raw light.',
  group: 'Surface',
  params: {
    color: color({ label: 'New colour', of: 'surface', default: MID_GREY_COLOR, help: 'What the new surface throws back of the light.' }),
    presentColor: color({ label: 'Present colour', of: 'surface', default: MID_GREY_COLOR, help: 'Mean surface colour as rendered; texture is what differs from it.' }),
    texturePercent: number({ label: 'Texture', unit: '%', min: 0, max: 100, default: 100, step: 1, digits: 0, help: '100 keeps the light and dark of the surface, 0 paints it flat.' }),
    amountPercent: number({ label: 'Amount', unit: '%', min: 0, max: 100, default: 100, step: 1, digits: 0, help: 'How much of the old colour is gone.' }),
  },
  atHand: ['color'],
  onSurface: (mean) => ({ color: mean, presentColor: mean }),
  domain: 'light',
  zones: ['scene'],
  actsAtOnce: true,
  reads: [
    { roles: ['diffuse-filter'], label: 'diffuse filter' },
    { roles: ['raw-lighting'], label: 'raw lighting' },
    { roles: ['raw-gi'], label: 'raw GI', isOptional: true },
    { roles: ['denoised-beauty', 'beauty'], label: 'beauty', isOptional: true },
  ],
  isNoOp: ({ amountPercent }) => amountPercent === 0,
  prepare: ({ color: [red, green, blue], presentColor, texturePercent, amountPercent }) => {
    const now = luminanceOf(presentColor);
    return Float32Array.of(red, green, blue, now > LEAST_LUMINANCE ? texturePercent / 100 : 0, now > LEAST_LUMINANCE ? 1 / now : 0, amountPercent / 100);
  },
  pixel: (rgb, prepared, _place, [filter, direct, indirect, beauty]) => {
    const [texture, inverse, amount] = prepared.subarray(3);
    const ratio = 1 + texture * (luminanceOf(filter) * inverse - 1);
    return [0, 1, 2].map((c) => rgb[c] + amount * since(rgb[c], beauty[c]) * (direct[c] + indirect[c]) * (prepared[c] * ratio - filter[c])) as unknown as Triple;
  },
  kernel: 'repaint',
  examples: [
    { color: [0.5, 0.1, 0.05], presentColor: [0.2, 0.2, 0.25], texturePercent: 100, amountPercent: 100 },
    { color: [0.18, 0.18, 0.18], presentColor: [0, 0, 0], texturePercent: 60, amountPercent: 80 },
    { color: [0.18, 0.18, 0.18], presentColor: [0.18, 0.18, 0.18], texturePercent: 50, amountPercent: 0 },
  ],
  source: 'J. T. Kajiya, “The Rendering Equation”, SIGGRAPH 1986: light from a diffuse surface is its reflectance times the light it receives; texture as a ratio of luminances is common practice, no published source',
});
