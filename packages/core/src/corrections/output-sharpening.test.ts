import { describe, expect, it } from 'vitest';
import type { KeptValues } from '../params/table.ts';
import { completeParams } from '../params/table.ts';
import { outputSharpening } from './output-sharpening.ts';

const SIZE = { width: 3000, height: 2000 };
function radius(params: KeptValues): number {
  const wanted = outputSharpening.work === 'neighbourhood' ? outputSharpening.spread(completeParams(outputSharpening, { amountPercent: 50, ...params }), SIZE) : null;
  if (wanted?.kind !== 'local') throw new Error('It does not sharpen.');
  // A base is smoothed twice.
  return wanted.bases[0].sigmaPx * Math.SQRT2;
}

describe('sharpen for output', () => {
  // One minute of arc is 0.1164 mm at 40 cm, 0.2909 mm at 1 m (tan 1′ = 2.9089e-4).
  it.each([[300, 0.4, 1.374], [150, 0.4, 0.687], [300, 1, 3.436], [150, 2, 3.436]])('at %i dpi from %d m an eye resolves %d pixels', (dpi, seenFromMetres, pixels) => {
    expect(outputSharpening.facts?.(completeParams(outputSharpening, { medium: 'paper', dpi, seenFromMetres }))).toContain(`resolves ${pixels.toFixed(1)} pixels`);
    expect(radius({ medium: 'paper', dpi, seenFromMetres })).toBeCloseTo(Math.max(0.5, 0.6 * pixels), 2);
  });
  it('is never wider than what still looks like sharpness, and the same on every screen', () => {
    expect(radius({ medium: 'paper', dpi: 1200, seenFromMetres: 20 })).toBeCloseTo(8, 6);
    expect(radius({ medium: 'screen', dpi: 72 })).toBeCloseTo(radius({ medium: 'screen', dpi: 1200, seenFromMetres: 9 }), 9);
  });
});
