import { expect, type Page, test } from '@playwright/test';
import { bench, openDemo, toStage } from './helpers.ts';

const share = async (page: Page) => {
  const box = await page.getByRole('region', { name: 'Picture', exact: true }).boundingBox();
  const { width, height } = page.viewportSize() ?? { width: 1, height: 1 };
  return ((box?.width ?? 0) * (box?.height ?? 0)) / (width * height);
};
const divider = (page: Page, panel: string) => page.locator(`[data-panel="${panel}"]`);

test.use({ viewport: { width: 1280, height: 800 } });

test('panels fold, resize and leave the picture alone, with keys and with the pointer, and stay so', async ({ page }) => {
  await openDemo(page);
  const schedules = page.getByRole('complementary', { name: 'Schedules' });
  const buildUp = page.getByRole('region', { name: 'Build-up', exact: true });
  await expect(schedules).toBeVisible();
  // Without the schedules the picture has at least 60 % of the window.
  await page.keyboard.press('s');
  await expect(schedules).toBeHidden();
  await expect.poll(() => share(page)).toBeGreaterThanOrEqual(0.6);
  // One key shows it alone, the same key brings everything back that was there.
  await page.keyboard.press('a');
  await expect(bench(page)).toBeHidden();
  await expect(buildUp).toBeHidden();
  await expect.poll(() => share(page)).toBeGreaterThan(0.99);
  await page.keyboard.press('a');
  await expect(bench(page)).toBeVisible();
  await expect(schedules).toBeHidden();
  // A click on the folded edge opens it; dragging the edge resizes it.
  await divider(page, 'schedules').click();
  await expect(schedules).toBeVisible();
  const edge = await divider(page, 'bench').boundingBox();
  if (!edge) throw new Error('there is no edge');
  const width = async () => Math.round((await bench(page).boundingBox())?.width ?? 0);
  const before = await width();
  await page.mouse.move(edge.x + 2, edge.y + 200);
  await page.mouse.down();
  await page.mouse.move(edge.x - 58, edge.y + 200, { steps: 6 });
  await page.mouse.up();
  expect(await width()).toBe(before + 60);
  // Keys do the same, within limits.
  await divider(page, 'buildUp').focus();
  const value = async () => Number(await divider(page, 'buildUp').getAttribute('aria-valuenow'));
  const height = await value();
  await page.keyboard.press('ArrowUp');
  expect(await value()).toBe(height + 8);
  for (let i = 0; i < 5; i++) await page.keyboard.press('Shift+ArrowUp');
  expect(await value()).toBe(320);
  await page.keyboard.press('u');
  await expect(buildUp).toBeHidden();
  // It is the same after the page was loaded again; only the picture alone is not kept.
  await page.keyboard.press('a');
  // Settings are written beside the work, a moment later.
  await page.waitForTimeout(1000);
  await page.reload();
  await expect(page.getByTestId('picture')).toBeVisible();
  await expect(bench(page)).toBeVisible();
  await expect(buildUp).toBeHidden();
  await expect.poll(width).toBe(before + 60);
  await divider(page, 'buildUp').dblclick();
  await expect(buildUp).toBeVisible();
});

test('elements are flipped through with the arrow keys, numbers in a range of their own', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Elements');
  const rows = page.getByRole('region', { name: 'Elements', exact: true });
  await rows.locator('[data-row]', { hasText: 'depth' }).first().click();
  await page.keyboard.press('e');
  const picture = page.getByRole('region', { name: 'Picture', exact: true });
  await expect(picture).toContainText('Element: depth');
  await expect(picture).toContainText(/m is black, .* m white/);
  const name = () => picture.getByText(/^Element: /).innerText();
  const first = await name();
  await page.keyboard.press('ArrowDown');
  await expect.poll(name).not.toBe(first);
  await expect(rows.locator('[data-selected="true"]')).toHaveCount(1);
  await page.keyboard.press('ArrowUp');
  await expect.poll(name).toContain('Element: depth');
  await page.keyboard.press('e');
  await expect(picture).not.toContainText('Element: ');
});
