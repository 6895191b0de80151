/** Corrections and the tone line, set by the picture: by a click in it, or by how its values are spread. */
import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { bench, canvasPixel, cardNames, correctAll, downloaded, notes, openDemo, scaleOf, settled, toStage, type } from './helpers.ts';

const field = (page: Page, name: string) => bench(page).getByRole('textbox', { name, exact: true });
/** Presses on the picture, at shares of its width and height. */
async function pressAt(page: Page, x: number, y: number): Promise<void> {
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('There is no picture.');
  await page.mouse.click(box.x + box.width * x, box.y + box.height * y);
}
const pictureValues = (page: Page) => page.getByRole('region', { name: 'Title block' });

test('white balance: a click on what should be neutral makes it so, as one step of the history', async ({ page }) => {
  await openDemo(page);
  await correctAll(page, 'White balance');
  await expect(field(page, 'Temperature')).toHaveValue('6504');
  await bench(page).getByRole('button', { name: 'Click what should be neutral' }).click();
  await expect(bench(page).getByRole('button', { name: 'Click in the picture' })).toHaveAttribute('aria-pressed', 'true');
  await pressAt(page, 0.62, 0.9);
  await expect(field(page, 'Temperature')).not.toHaveValue('6504');
  await settled(page);
  await page.mouse.move(5, 5);
  const box = await page.getByTestId('picture').boundingBox();
  if (box) await page.mouse.move(box.x + box.width * 0.62, box.y + box.height * 0.9);
  await expect
    .poll(async () => {
      const codes = (await pictureValues(page).innerText()).match(/picture\s+(\d+)\s+(\d+)\s+(\d+)/i)?.slice(1).map(Number) ?? [];
      return codes.length === 3 ? Math.max(...codes) - Math.min(...codes) : 255;
    })
    .toBeLessThanOrEqual(3);
  await page.keyboard.press('Control+z');
  await expect(field(page, 'Temperature')).toHaveValue('6504');
});

test('levels set by the picture reach from its darkest to its brightest; a click sets one end', async ({ page }) => {
  await openDemo(page);
  await correctAll(page, 'Levels');
  await expect(page.getByTestId('entering').locator('path')).toHaveCount(7);
  await bench(page).getByRole('button', { name: 'Set by the picture' }).click();
  await expect(field(page, 'White')).not.toHaveValue('100.0');
  const [black, white] = [Number(await field(page, 'Black').inputValue()), Number(await field(page, 'White').inputValue())];
  expect(black).toBeLessThan(white);
  await bench(page).getByRole('button', { name: 'Click what should be white' }).click();
  // Put away again without a click in the picture.
  await bench(page).getByRole('button', { name: 'Click in the picture' }).click();
  await expect(bench(page).getByRole('button', { name: 'Click what should be white' })).toBeVisible();
});

test('the tone line is selected, gets another curve, and is drawn; undo makes it straight again', async ({ page }) => {
  await openDemo(page);
  const names = await cardNames(page);
  await page.getByRole('button', { name: 'Select the tone line' }).focus();
  await page.keyboard.press('Enter');
  await expect(bench(page)).toContainText('Light from 0 to 1 is shown as it is');
  await bench(page).getByRole('combobox', { name: 'Curve of the tone line' }).click();
  await page.getByRole('option', { name: 'Reinhard' }).click();
  await settled(page);
  await expect(field(page, 'White')).toHaveValue('4.00');
  await expect(bench(page).getByRole('group', { name: 'Picture values over stops of light' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Select the tone line' })).toContainText('Reinhard');
  await field(page, 'White').fill('12');
  await field(page, 'White').press('Enter');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Select the tone line' })).toContainText('Straight');
  // A layer is at hand again as soon as one is selected.
  await page.getByRole('button', { name: `Select ${names[0]}`, exact: true }).first().click();
  await expect(bench(page)).toContainText('Layer');
});

test('a control at hand on a surface adds its correction: one drag is one step; copied to another surface, folded', async ({ page }) => {
  await openDemo(page);
  const before = await cardNames(page);
  await toStage(page, 'Surfaces');
  await page.locator('tr[data-row]', { hasText: 'Concrete' }).first().click();
  const scale = await scaleOf(page, 'Exposure');
  await page.mouse.move(scale.x + scale.width / 2, scale.y);
  await page.mouse.down();
  await page.mouse.move(scale.x + scale.width / 2 + 12, scale.y, { steps: 6 });
  await page.mouse.up();
  await expect.poll(() => cardNames(page)).toContain('Concrete: exposure');
  await expect(field(page, 'Exposure').first()).not.toHaveValue('0.00');
  await bench(page).getByRole('button', { name: 'Copy to …' }).click();
  await page.getByRole('menuitem', { name: /^Pool stone/ }).click();
  await expect.poll(() => cardNames(page)).toContain('Pool stone: exposure');
  await bench(page).getByRole('button', { name: 'Fold into a group' }).click();
  await expect.poll(() => cardNames(page)).toContain('Concrete');
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => cardNames(page)).toEqual(before);
});

test('a correction is dragged from card to card, and turned into one for all below', async ({ page }) => {
  await openDemo(page);
  const card = (name: string | RegExp) => page.locator('li[data-layer]').filter({ hasText: name });
  const tabOf = (name: string | RegExp) => card(name).getByTitle(/^Hue and saturation, of this layer alone/);
  const tab = await tabOf(/^Raw lighting/).boundingBox();
  const target = await card(/^Occlusion/).boundingBox();
  if (!tab || !target) throw new Error('The cards are not on the screen.');
  await page.mouse.move(tab.x + tab.width / 2, tab.y + tab.height / 2);
  await page.mouse.down();
  await page.mouse.move(target.x + target.width / 2, target.y + target.height / 2, { steps: 12 });
  await page.mouse.up();
  await expect(tabOf(/^Occlusion/)).toBeVisible();
  await expect(tabOf(/^Raw lighting/)).toHaveCount(0);
  await tabOf(/^Occlusion/).click();
  await bench(page).getByRole('button', { name: 'Hue and saturation for all below instead of this layer alone' }).click();
  await expect.poll(async () => (await cardNames(page)).includes('Hue and saturation')).toBe(true);
});

test('a table of colours from a file changes the picture; one that is none gets a sentence; a decision list goes out and comes in', async ({ page }) => {
  await openDemo(page);
  await correctAll(page, 'Table of colours');
  await bench(page).getByLabel('Table of colours', { exact: true }).setInputFiles({ name: 'bad.cube', mimeType: 'text/plain', buffer: Buffer.from('LUT_3D_SIZE 2\n0 0 0\n') });
  await expect(notes(page)).toContainText('bad.cube: it holds 1 of 8 values');
  await bench(page).getByLabel('Table of colours', { exact: true }).setInputFiles({ name: 'dark.cube', mimeType: 'text/plain', buffer: Buffer.from('TITLE "Dark"\nLUT_1D_SIZE 2\n0 0 0\n0.2 0.2 0.2\n') });
  await settled(page);
  await expect(bench(page)).toContainText('Dark');
  await expect.poll(async () => Math.max(...(await canvasPixel(page, 380, 80)).slice(0, 3))).toBeLessThan(60);
  await correctAll(page, 'Slope, offset, power');
  await type(page, 'Slope', '1.5');
  const file = await downloaded(page, bench(page).getByRole('button', { name: 'Save as .cdl' }));
  await type(page, 'Slope', '0.5');
  await bench(page).getByLabel('Colour decision list', { exact: true }).setInputFiles({ name: 'back.cdl', mimeType: 'application/xml', buffer: readFileSync(file.path) });
  await expect(field(page, 'Slope')).toHaveValue('1.500');
  // It is matched to the render: what was made so dark becomes as bright as that again.
  await bench(page).getByRole('button', { name: 'Match', exact: true }).click();
  await settled(page);
  await expect.poll(async () => Math.max(...(await canvasPixel(page, 380, 80)).slice(0, 3))).toBeGreaterThan(100);
});
