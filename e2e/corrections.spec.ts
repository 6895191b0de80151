/** Corrections and the tone line, set by the picture: by a click in it, or by how its values are spread. */
import { expect, type Page, test } from '@playwright/test';
import { bench, cardNames, correctAll, openDemo, settled } from './helpers.ts';

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
