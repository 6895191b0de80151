import { describe, expect, it } from 'vitest';
import { extinctionOf, forwardScatter, opticalDepth, WEATHERS, weatherOf } from './air.ts';

describe('air', () => {
  // Koschmieder 1924: contrast of 2 % at the visibility; ln 50 = 3.912023.
  it('is as thick as its visibility says', () => {
    expect(extinctionOf(1000) * 1000).toBeCloseTo(3.912023, 6);
    expect(Math.exp(-opticalDepth(extinctionOf(10_000), null, 0, 0, 10_000))).toBeCloseTo(0.02, 12);
  });
  // Far edges of the international visibility code, per kilometre, after McCartney 1976.
  it.each([['Dense fog', 78.24], ['Thick fog', 19.56], ['Moderate fog', 7.824], ['Light fog', 3.912], ['Thin fog', 1.956], ['Haze', 0.978], ['Light haze', 0.3912], ['Clear', 0.1956], ['Very clear', 0.0782]])('%s ends at %f per kilometre', (label, perKilometre) => {
    const metres = WEATHERS.find((weather) => weather.label === label)?.metres ?? 0;
    expect(extinctionOf(metres) * 1000).toBeCloseTo(perKilometre, 2);
    expect(weatherOf(metres)).toBe(label);
    expect(weatherOf(metres + 1)).not.toBe(label);
  });
  // Beer–Lambert at 0.001 per metre.
  it.each([[100, 0.904837], [1000, 0.367879]])('even air lets %d m of it through by %f', (metres, transmittance) => expect(Math.exp(-opticalDepth(0.001, null, 3, 0.4, metres))).toBeCloseTo(transmittance, 6));
  // Exponential height fog: τ by adaptive quadrature (SciPy) to 1e-8.
  it.each([[0.02, 0, 0, 50, 100, 2], [0.02, 2, 0.1, 50, 100, 1.74161578], [0.02, 100, -0.5, 50, 200, 1.72932943], [0.05, 1.6, 0.0872, 20, 500, 9.38951676], [0.01, 10, 0.001, 30, 1000, 7.04720715], [0.01, 0, 1, 1000, 1e7, 10]])('σ %f from %f m, rising %f, e times thinner in %f m, over %f m', (extinction, y, dy, fallOff, length, tau) => expect(opticalDepth(extinction, fallOff, y, dy, length)).toBeCloseTo(tau, 7));
  it('stays a number however steep and far', () => {
    for (const dy of [-1, -1e-9, 0, 1e-9, 1]) for (const fallOff of [1e-3, 1, 1e6]) for (const y of [-100, 0, 1.6, 1e4]) expect(Number.isNaN(opticalDepth(0.01, fallOff, y, dy, 1e6))).toBe(false);
  });
  // Henyey–Greenstein 1941 with g = 0.76, times 4π.
  it.each([[0, 2.431534], [45, 0.094281], [90, 0.016964], [180, 0.006166]])('sends light on at %d° by %f', (degrees, phase) => expect(forwardScatter(0.76, Math.cos((degrees * Math.PI) / 180)) / (4 * Math.PI)).toBeCloseTo(phase, 5));
  it('sends on as much as comes, in all directions together', () => {
    let sum = 0;
    for (let i = 0; i < 20_000; i++) sum += forwardScatter(0.76, -1 + (i + 0.5) / 10_000) / 20_000;
    expect(sum).toBeCloseTo(1, 4);
    expect(forwardScatter(0, 0.3)).toBe(1);
  });
});
