import { MID_GREY_COLOR } from '../color/luminance.ts';
import type { Triple } from '../vector.ts';
import { srgbEncode } from '../color/srgb.ts';
import { type Fill, type FillColor, prepareFill } from './fill-pixel.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { point } from '../params/point.ts';
import { defineLayer } from './define.ts';

const cover = (label: string, initial: number) => number({ label, unit: '%', min: 0, max: 100, default: initial, step: 1, digits: 0, help: '0 is transparent.' });

/** One colour, or a ramp. */
export const fill = defineLayer({
  id: 'fill',
  label: 'Fill',
  summary: 'One colour, or a ramp between two along a line or around a point.',
  isPlaced: false,
  params: {
    shape: choice({ label: 'Fill', options: { plain: 'One colour', linear: 'Ramp along a line', radial: 'Ramp around a point' }, default: 'plain', help: 'How the colours lie.' }),
    from: color({ label: 'Colour', of: 'light', default: MID_GREY_COLOR, help: 'Everywhere, or where the ramp begins.' }),
    fromCoverPercent: cover('Cover', 100),
    to: color({ label: 'Ends with', of: 'light', default: MID_GREY_COLOR, help: 'Where the ramp ends.' }),
    toCoverPercent: cover('End cover', 0),
    start: point({ label: 'Begins', unit: 'px', default: [0, 0], help: 'Where the ramp begins, or its middle.' }),
    end: point({ label: 'Ends', unit: 'px', default: [0, 100], help: 'Where the ramp ends, or its rim.' }),
  },
  nameOf: () => 'Fill',
  begin: ({ size: { width, height } }) => ({ start: [width / 2, 0], end: [width / 2, height] }),
  origin: ({ shape, from, fromCoverPercent, to, toCoverPercent, start, end }, { zone }) => {
    // Over the tone line a fill is made of the colours that one sees.
    const packed = ([r, g, b]: Triple, percent: number): FillColor => (zone === 'scene' ? [r, g, b, percent / 100] : [srgbEncode(r), srgbEncode(g), srgbEncode(b), percent / 100]);
    const made: Fill = { shape, from: packed(from, fromCoverPercent), to: packed(to, toCoverPercent), start, end };
    return { from: { kind: 'formula', formula: 'fill', prepared: prepareFill(made), of: made, reads: [] }, domain: zone === 'scene' ? 'light' : 'display', bounded: zone === 'picture', scale: null, domainRegion: null };
  },
});
