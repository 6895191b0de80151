import { linearToOklab } from '../color/oklab.ts';
import { srgbDecode } from '../color/srgb.ts';
import type { Triple } from '../vector.ts';
import { sizeAtLevel } from '../raster/region.ts';
import { choice } from '../params/choice.ts';
import { color } from '../params/color.ts';
import { number } from '../params/number.ts';
import { point } from '../params/point.ts';
import { type FillRow, rise } from './define.ts';
import { elementTerm } from './element-term.ts';
import { readLooks } from './read.ts';

const clamp = (v: number) => Math.min(1, Math.max(0, v));

/** Below this coverage a connected area ends. */
const CONNECTED = 0.05;

/** What looks like a picked colour. Differences are distances in OKLab, in hundredths. */
export const colour = elementTerm({
  id: 'colour',
  label: 'Colour',
  summary: 'What looks like a colour picked from an element or from the picture so far; everywhere, or connected with the picked place.',
  params: {
    color: color({ label: 'Colour', of: 'light', default: [0.21586, 0.21586, 0.21586], help: 'The picked colour.' }),
    tolerance: number({ label: 'Tolerance', unit: '', min: 0, max: 100, default: 8, step: 0.5, digits: 1, help: 'Distance in OKLab, in hundredths: 2 is just noticed, 10 another colour.' }),
    soft: number({ label: 'Soft', unit: '', min: 0, max: 100, default: 4, step: 0.5, digits: 1, help: 'How much more difference it takes to fade out.' }),
    extent: choice({ label: 'Select', options: { everywhere: 'Everywhere', connected: 'Connected' }, default: 'everywhere', help: 'Connected areas begin at the picked place.' }),
    at: point({ label: 'Place', unit: 'px', default: [0, 0], help: 'Where the colour was picked.' }),
  },
  roles: ['denoised-beauty', 'beauty', 'picture'],
  any: true,
  picture: true,
  source: 'B. Ottosson, "A perceptual color space for image processing" (2020)',
  pick: { label: 'Pick a colour', take: ({ shown, pixel }) => ({ color: shown.map((value) => srgbDecode(Math.round(value * 255) / 255)) as unknown as Triple, at: pixel }) },
  prepare: ({ color: [red, green, blue], tolerance, soft, extent, at, ...reads }, inputs) => {
    const [r, g, b] = readLooks(reads, inputs);
    const wanted = linearToOklab([clamp(red), clamp(green), clamp(blue)]);
    const fall = rise((tolerance + soft) / 100, tolerance / 100);
    const coverage = (x: number, y: number) => {
      const [l, m, s] = linearToOklab([clamp(r(x, y)), clamp(g(x, y)), clamp(b(x, y))]);
      const difference = Math.hypot(l - wanted[0], m - wanted[1], s - wanted[2]);
      return soft === 0 ? (difference <= tolerance / 100 ? 1 : 0) : fall(difference);
    };
    const everywhere: FillRow = (y, out) => {
      for (let x = 0; x < out.length; x++) out[x] = coverage(x, y);
    };
    if (extent !== 'connected') return everywhere;
    const { width, height } = sizeAtLevel(inputs.size, inputs.level);
    const whole = new Float32Array(width * height);
    for (let y = 0; y < height; y++) everywhere(y, whole.subarray(y * width, (y + 1) * width));
    const reached = connected(whole, width, height, Math.min(width - 1, Math.max(0, at[0]) >> inputs.level), Math.min(height - 1, Math.max(0, at[1]) >> inputs.level));
    return (y, out) => {
      for (let x = 0, i = y * width; x < width; x++, i++) out[x] = reached[i] === 1 ? whole[i] : 0;
    };
  },
});

/** Pixels that are connected with a place, side by side, through coverage; 1 where they are. */
function connected(coverage: Float32Array, width: number, height: number, x: number, y: number): Uint8Array {
  const reached = new Uint8Array(coverage.length);
  const waiting = [y * width + x];
  while (waiting.length > 0) {
    const i = waiting.pop() as number;
    if (reached[i] === 1 || coverage[i] < CONNECTED) continue;
    reached[i] = 1;
    const column = i % width;
    if (column > 0) waiting.push(i - 1);
    if (column < width - 1) waiting.push(i + 1);
    if (i >= width) waiting.push(i - width);
    if (i < width * (height - 1)) waiting.push(i + width);
  }
  return reached;
}
