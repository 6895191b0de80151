import { expect, test } from '@playwright/test';
import { canvasPixel, cards, openDemo } from './helpers.ts';
import { SHIPPED } from './shipped.ts';

test('the demo as it ships: whole, drawn, with the courtyard in other weather and the reading room beside it', async ({ page }) => {
  await openDemo(page, SHIPPED);
  await expect(page.getByRole('region', { name: 'Title block' })).toContainText('1200 × 800');
  await expect(cards(page)).toHaveCount(12);
  expect(Math.max(...(await canvasPixel(page, 380, 200)).slice(0, 3))).toBeGreaterThan(20);
  for (const [name, size] of [['late-sun', '1200 × 800'], ['reading-room', '1050 × 700']]) {
    await page.goto(`${SHIPPED}/demo/${name}`);
    await expect(page.locator('[data-settled="true"]')).toBeVisible();
    await expect(page.getByRole('region', { name: 'Title block' })).toContainText(size);
  }
});
