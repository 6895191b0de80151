import { expect, test } from '@playwright/test';
import { blendModes, composite, type Rgba, zoneBlend } from '@tazzel/core';
import { seeded } from '../tests/random.ts';

/** Canvas names of the modes; `lighter` is the standard's plus-lighter. Subtract and divide are not in the standard. */
const canvasName: Readonly<Record<string, string>> = { normal: 'source-over', add: 'lighter' };

test('every mode of the standard equals Chromium’s own float16 canvas', async ({ page }) => {
  await page.goto('/');
  const modes = blendModes.map(({ id }) => id).filter((id) => id !== 'subtract' && id !== 'divide');
  expect(modes).toHaveLength(17);
  const random = seeded(500);
  const cases = Array.from({ length: 40 }, (_, i) => {
    const value = () => Math.round(random() * 250) / 250;
    return { b: [value(), value(), value()], ab: i % 3 === 0 ? 1 : 0.1 + 0.9 * value(), s: [value(), value(), value()], as: i % 4 === 0 ? 1 : 0.1 + 0.9 * value() };
  });
  const seen = await page.evaluate(
    ({ modes: names, cases: list }) => {
      const canvas = new OffscreenCanvas(1, 1);
      const context = canvas.getContext('2d', { colorType: 'float16' } as never) as OffscreenCanvasRenderingContext2D;
      const color = (rgb: number[], alpha: number) => `color(srgb ${rgb.join(' ')} / ${alpha})`;
      return names.map((name) =>
        list.map(({ b, ab, s, as }) => {
          context.globalCompositeOperation = 'source-over';
          context.clearRect(0, 0, 1, 1);
          context.fillStyle = color(b, ab);
          context.fillRect(0, 0, 1, 1);
          context.globalCompositeOperation = name as GlobalCompositeOperation;
          context.fillStyle = color(s, as);
          context.fillRect(0, 0, 1, 1);
          return [...(context.getImageData(0, 0, 1, 1, { pixelFormat: 'rgba-float16' } as never).data as unknown as Iterable<number>)];
        }),
      );
    },
    { modes: modes.map((id) => canvasName[id] ?? id), cases },
  );
  for (const [m, id] of modes.entries()) {
    for (const [i, { b, ab, s, as }] of cases.entries()) {
      const [r, g, bl, a] = composite(zoneBlend(id, 'picture'), b.map((v) => v * ab).concat(ab) as unknown as Rgba, s as unknown as [number, number, number], as);
      // The canvas divides by alpha when it is read and bounds its colours to 1.
      const expected = [r / a, g / a, bl / a].map((v) => Math.min(1, v)).concat(a);
      for (let c = 0; c < 4; c++) expect(Math.abs(seen[m][i][c] - expected[c]), `${id}, seed 500, case ${i}, channel ${c}: canvas ${seen[m][i]}, ours ${expected}`).toBeLessThan(0.004);
    }
  }
});
