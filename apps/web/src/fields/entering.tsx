import type { Correction, KeptValues, Measure } from '@tazzel/core';
import { useContext } from 'react';
import { CHANNEL_INKS, fullestOf } from '../ui/bins.ts';
import { EnteringValues } from './curve-fields.tsx';

const [WIDTH, HEIGHT] = [256, 56];
const TRACES = [
  ['red', CHANNEL_INKS.red, undefined],
  ['green', CHANNEL_INKS.green, '3 1.5'],
  ['blue', CHANNEL_INKS.blue, '1.5 1.5'],
  ['luminance', 'currentColor', undefined],
] as const;

/** How the values are spread that a correction works on, with the places that it declares. */
export function Entering({ correction: { marks }, values }: { correction: Correction; values: KeptValues }) {
  const measure = useContext(EnteringValues);
  if (!marks) return null;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="my-1 block w-full border bg-sheet" role="img" aria-label="How the entering values are spread" data-testid="entering">
      {measure && TRACES.map(([name, stroke, dash]) => <path key={name} d={pathOf(measure, name)} fill="none" stroke={stroke} strokeDasharray={dash} />)}
      {marks(values).map((place, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: marks have no identity but their place
        <path key={i} d={`M${place * WIDTH} ${HEIGHT}v-9`} className="stroke-accent [stroke-width:2px]" />
      ))}
    </svg>
  );
}

function pathOf(measure: Measure, name: (typeof TRACES)[number][0]): string {
  const { bins } = measure[name];
  const ceiling = Math.max(1, fullestOf(bins) * 1.15);
  return bins.map((count, i) => `${i === 0 ? 'M' : 'L'}${((i + 0.5) / bins.length) * WIDTH} ${HEIGHT - Math.min(1, count / ceiling) * HEIGHT}`).join('');
}
