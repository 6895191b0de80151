/** The first job as its words say it, from the start page to a list of deliveries. */
import { expect, type Page, test } from '@playwright/test';
import { bench, picturePoint, settled, type } from './helpers.ts';

const card = (page: Page) => page.getByRole('region', { name: 'First job' });
const expectStep = async (page: Page, title: string) => {
  await expect(card(page)).toContainText(title);
  const there = card(page).getByRole('button', { name: 'Go there' });
  if (await there.isVisible()) await there.click();
  await settled(page);
};
const click = async (page: Page, fx: number, fy: number) => {
  const box = await page.getByTestId('picture').boundingBox();
  const at = await picturePoint(page, fx, fy);
  await page.mouse.click((box?.x ?? 0) + at.x, (box?.y ?? 0) + at.y);
};

test('every step is ticked off by doing it; it survives a reload, and ends', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'First job, ten minutes' }).click();
  await settled(page);
  await expectStep(page, 'See what was rendered');
  await page.keyboard.press('c');
  await expectStep(page, 'Judge what a layer does');
  await page.keyboard.press('c');
  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  await page.keyboard.press('o');
  await expectStep(page, 'Correct one material');
  await click(page, 0.5, 0.56);
  await type(page, 'Saturation', '40');
  await expectStep(page, 'Make it evening');
  await page.getByRole('button', { name: 'Mix the light' }).click();
  // It is a step of its own to load one, but mixing is enough.
  await expectStep(page, 'Put another sky behind it');
  await page.getByRole('region', { name: 'Skies' }).getByRole('button', { name: 'Add the sky Late sun' }).click();
  await expectStep(page, 'Let somebody walk there');
  await page.reload();
  await settled(page);
  await expect(card(page)).toContainText('5 of 9');
  await page.getByRole('region', { name: 'Figures' }).getByRole('button', { name: /Woman, walking away|woman/i }).first().click();
  // Its picture is loaded first.
  await expect(page.getByRole('region', { name: 'Figures' }).getByRole('status')).toContainText('click the ground');
  await click(page, 0.45, 0.85);
  await expectStep(page, 'As a camera would see it');
  await card(page).getByRole('button', { name: 'Back' }).click();
  await expect(card(page)).toContainText('Let somebody walk there');
  await card(page).getByRole('button', { name: 'Skip' }).click();
  await bench(page).getByRole('button', { name: 'Evening glow', exact: true }).click();
  await expectStep(page, 'Compare');
  await page.keyboard.press('w');
  await expectStep(page, 'Deliver it');
  await bench(page).getByRole('button', { name: 'Keep in the list' }).click();
  await expect(card(page)).toContainText('That is the whole way');
  await card(page).getByRole('button', { name: 'Done' }).click();
  await expect(card(page)).toHaveCount(0);
});
