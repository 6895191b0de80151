import { luminanceOf, MID_GREY } from '../color/luminance.ts';
import { oklabToLinear } from '../color/oklab.ts';
import { srgbEncode } from '../color/srgb.ts';
import type { Triple } from '../vector.ts';
import { defineReading, type LegendEntry } from './define.ts';

const LEAST = -7;
const MOST = 5;

/** A step of the scale: lightness rises with light, so that the order is seen without knowing the colours; mid grey is grey. */
function colorOf(stop: number): Triple {
  const t = (stop - LEAST) / (MOST - LEAST);
  const chroma = stop === 0 ? 0 : stop < 0 ? 0.1 : 0.13;
  // From violet over blue and green on the dark side, from yellow over orange to red on the bright one.
  const hue = ((stop < 0 ? 300 - ((stop - LEAST) / -LEAST) * 150 : 105 - (stop / MOST) * 85) * Math.PI) / 180;
  const [r, g, b] = oklabToLinear([stop > 0 ? 0.9 - 0.05 * stop : 0.22 + 0.75 * t, chroma * Math.cos(hue), chroma * Math.sin(hue)]);
  return [srgbEncode(r), srgbEncode(g), srgbEncode(b)];
}

const steps: readonly LegendEntry[] = Array.from({ length: MOST - LEAST + 1 }, (_, i) => {
  const stop = LEAST + i;
  const sign = stop > 0 ? '+' : stop < 0 ? '−' : '';
  return { color: colorOf(stop), label: `${stop === LEAST ? '≤ ' : stop === MOST ? '≥ ' : ''}${sign}${Math.abs(stop)}` };
});

/** Scene light in steps of one stop about mid grey: each covers half a stop to both sides. */
export const stops = defineReading({
  id: 'stops',
  label: 'Stops of light',
  summary: 'Scene light in colours, a colour for each stop above or below mid grey.',
  of: 'light',
  pixel: (rgb) => {
    const light = luminanceOf(rgb);
    const stop = light > 0 ? Math.min(MOST, Math.max(LEAST, Math.round(Math.log2(light / MID_GREY)))) : LEAST;
    return steps[stop - LEAST].color;
  },
  unit: 'EV about mid grey',
  legend: steps,
  source: 'ISO 2720:1974 (a stop is a factor of two); the colours are ours',
});
