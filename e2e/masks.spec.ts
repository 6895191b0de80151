/** Surfaces: pointing, selecting, recipes of masks, the brush, the schedule. */
import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import type { Page } from '@playwright/test';
import { bench, canvasPixel, cardNames, choose, downloaded, openDemo, settled, toStage } from './helpers.ts';

const surfaces = async (page: Page) => {
  await openDemo(page);
  await toStage(page, 'Surfaces');
  await settled(page);
};
const schedule = (page: Page) => page.getByRole('region', { name: 'Material schedule', exact: true });
const shelf = (page: Page) => page.getByRole('region', { name: 'Masks', exact: true });
const row = (page: Page, name: string) => schedule(page).locator('tr[data-row]', { has: page.getByRole('button', { name: `: ${name}.` }) });
const add = async (page: Page, term: string) => {
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('menuitem', { name: term, exact: true }).click();
  await settled(page);
};
/** A place of the fitted picture, given as shares of its size: 1200 × 800 in the middle of the field, 24 pixels from its nearer edges. */
async function fieldPoint(page: Page, fx: number, fy: number): Promise<{ x: number; y: number }> {
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  const zoom = Math.min((box.width - 48) / 1200, (box.height - 48) / 800);
  return { x: box.x + box.width / 2 + (fx - 0.5) * 1200 * zoom, y: box.y + box.height / 2 + (fy - 0.5) * 800 * zoom };
}
/** How white the shown matte is at a place of the picture, given as shares of its size. */
const matteAt = async (page: Page, fx: number, fy: number): Promise<number> => {
  const at = await fieldPoint(page, fx, fy);
  const box = await page.getByTestId('picture').boundingBox();
  return (await canvasPixel(page, at.x - (box?.x ?? 0), at.y - (box?.y ?? 0)))[0];
};
const matte = async (page: Page) => {
  await page.getByRole('radio', { name: 'matte' }).click();
  await settled(page);
};

test('see it, click it, add to it, keep it, correct it: a mask of two materials in front', async ({ page }) => {
  await surfaces(page);
  const before = await cardNames(page);
  const gravel = await fieldPoint(page, 0.45, 0.85);
  await page.mouse.move(gravel.x, gravel.y);
  await expect(page.getByText('M02', { exact: true }).last()).toBeVisible();
  await page.mouse.click(gravel.x, gravel.y);
  await expect(row(page, 'Gravel')).toHaveAttribute('data-selected', 'true');
  // Shift adds, and says so at the pointer; Alt takes away again.
  const path = await fieldPoint(page, 0.72, 0.9);
  await page.keyboard.down('Shift');
  await page.mouse.move(path.x, path.y);
  await expect(page.getByText('+', { exact: true }).last()).toBeVisible();
  await page.mouse.click(path.x, path.y);
  await page.keyboard.up('Shift');
  await expect(row(page, 'Concrete')).toHaveAttribute('data-selected', 'true');
  await expect(row(page, 'Gravel')).toHaveAttribute('data-selected', 'true');
  await page.keyboard.down('Alt');
  await page.mouse.click(path.x, path.y);
  await page.keyboard.up('Alt');
  await expect(row(page, 'Concrete')).toHaveAttribute('data-selected', 'false');
  await row(page, 'Concrete').click({ modifiers: ['Shift'] });
  await bench(page).getByRole('button', { name: 'Keep as a mask' }).click();
  await expect(bench(page)).toContainText('Gravel, Concrete');
  await matte(page);
  await expect.poll(() => matteAt(page, 0.45, 0.85)).toBeGreaterThan(240);
  expect(await matteAt(page, 0.72, 0.9)).toBeGreaterThan(240);
  expect(await matteAt(page, 0.5, 0.2)).toBeLessThan(10);
  // Only in front.
  await add(page, 'Depth band');
  await bench(page).getByRole('textbox', { name: 'From' }).fill('0');
  await bench(page).getByRole('textbox', { name: 'To' }).fill('7');
  await bench(page).getByRole('textbox', { name: 'To' }).press('Enter');
  await settled(page);
  await expect.poll(() => matteAt(page, 0.45, 0.95)).toBeGreaterThan(240);
  expect(await matteAt(page, 0.5, 0.74)).toBeLessThan(40);
  // Switched off for a moment, then inverted as a whole.
  await bench(page).getByRole('checkbox', { name: /^Depth band.* on$/ }).click();
  await expect.poll(() => matteAt(page, 0.5, 0.78)).toBeGreaterThan(200);
  await bench(page).getByRole('checkbox', { name: 'Inverted' }).click();
  await expect.poll(() => matteAt(page, 0.5, 0.2)).toBeGreaterThan(240);
  await page.keyboard.press('Control+z');
  await expect.poll(() => matteAt(page, 0.5, 0.2)).toBeLessThan(10);
  await expect.poll(() => cardNames(page)).toEqual(before);
});

test('the shelf: suggestions, shared masks, an own copy, what is used is kept', async ({ page }) => {
  await surfaces(page);
  await shelf(page).getByRole('button', { name: '+ Water' }).click();
  await expect(shelf(page).locator('tr[data-row]', { hasText: 'Water' })).toContainText('0');
  await toStage(page, 'Build-up');
  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask', exact: true }), 'Gravel');
  await expect(bench(page)).toContainText('shared by 2');
  await bench(page).getByRole('button', { name: 'Own copy' }).click();
  await expect(bench(page)).not.toContainText('shared by');
  await bench(page).getByRole('button', { name: 'Edit the mask' }).click();
  await expect(page).toHaveURL(/surfaces$/);
  await expect(bench(page)).toContainText('used once');
  await bench(page).getByRole('button', { name: 'Delete the mask' }).click();
  await expect(page.getByText('is used once. Take it off there first.')).toBeVisible();
});

test('a shape is moved by its handles; a colour is picked; what cannot work says why', async ({ page }) => {
  await surfaces(page);
  await page.getByRole('button', { name: 'New mask' }).click();
  await add(page, 'Ellipse');
  await matte(page);
  await expect.poll(() => matteAt(page, 0.5, 0.5)).toBeGreaterThan(240);
  expect(await matteAt(page, 0.1, 0.1)).toBeLessThan(10);
  const handle = await page.getByRole('button', { name: 'Centre' }).boundingBox();
  if (!handle) throw new Error('no handle');
  const to = await fieldPoint(page, 0.15, 0.15);
  await page.mouse.move(handle.x + handle.width / 2, handle.y + handle.height / 2);
  await page.mouse.down();
  for (let i = 1; i <= 8; i++) await page.mouse.move(handle.x + ((to.x - handle.x) * i) / 8, handle.y + ((to.y - handle.y) * i) / 8);
  await page.mouse.up();
  await expect.poll(() => matteAt(page, 0.1, 0.1)).toBeGreaterThan(240);
  // One drag is one step.
  await page.keyboard.press('Control+z');
  await expect.poll(() => matteAt(page, 0.1, 0.1)).toBeLessThan(10);
  await bench(page).getByRole('button', { name: 'Remove ellipse' }).click();

  await add(page, 'Colour');
  await bench(page).getByRole('button', { name: 'Pick a colour' }).click();
  const sky = await fieldPoint(page, 0.5, 0.1);
  await page.mouse.click(sky.x, sky.y);
  await expect.poll(() => matteAt(page, 0.5, 0.1)).toBeGreaterThan(200);
  expect(await matteAt(page, 0.45, 0.9)).toBeLessThan(60);

  await add(page, 'Height band');
  await choose(page, bench(page).getByRole('combobox', { name: 'What the term reads' }), 'depth');
  await choose(page, bench(page).getByRole('combobox', { name: 'The element holds' }), 'Depths');
  await add(page, 'Mask of the shelf');
  await expect(bench(page).getByRole('alert')).toContainText('The mask it refers to is gone');
});

test('painting: strokes are seen at once, stay strokes, are erased, and undone one by one', async ({ page }) => {
  await surfaces(page);
  await page.getByRole('button', { name: 'New mask' }).click();
  await page.keyboard.press('p');
  await expect(bench(page).getByRole('button', { name: 'Painting' })).toBeVisible();
  await matte(page);
  const stroke = async (fy: number) => {
    const [from, to] = [await fieldPoint(page, 0.2, fy), await fieldPoint(page, 0.8, fy)];
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    for (let i = 1; i <= 20; i++) await page.mouse.move(from.x + ((to.x - from.x) * i) / 20, from.y);
    // Before the button is released the stroke is on the screen.
    await expect.poll(() => matteAt(page, 0.5, fy)).toBeGreaterThan(150);
    await page.mouse.up();
    await settled(page);
  };
  await stroke(0.3);
  await stroke(0.7);
  await expect(bench(page)).toContainText('2 strokes');
  await expect.poll(() => matteAt(page, 0.5, 0.3)).toBeGreaterThan(240);
  await page.keyboard.press('Control+z');
  await expect(bench(page)).toContainText('1 stroke');
  await expect.poll(() => matteAt(page, 0.5, 0.7)).toBeLessThan(10);
  // A straight line erased with Shift, from the last place to a click.
  await page.keyboard.press('Shift+P');
  await expect(bench(page).getByRole('checkbox', { name: 'Erase' })).toBeChecked();
  const middle = await fieldPoint(page, 0.5, 0.3);
  await page.mouse.move(middle.x, middle.y - 40);
  await page.mouse.down();
  await page.mouse.move(middle.x, middle.y + 40, { steps: 10 });
  await page.mouse.up();
  await settled(page);
  await expect.poll(() => matteAt(page, 0.5, 0.3)).toBeLessThan(20);
  expect(await matteAt(page, 0.3, 0.3)).toBeGreaterThan(240);
  await bench(page).getByRole('button', { name: 'Fill' }).click();
  await expect.poll(() => matteAt(page, 0.5, 0.9)).toBeGreaterThan(240);
});

test('the schedule: objects, surfaces of several, columns, and a table for other programs', async ({ page }) => {
  await surfaces(page);
  await expect(row(page, 'Concrete')).toContainText('36');
  await row(page, 'Brick').click();
  await row(page, 'Old brick').click({ modifiers: ['Control'] });
  await bench(page).getByRole('button', { name: 'One surface' }).click();
  await row(page, 'Sky').click();
  await row(page, 'Old brick').click();
  await expect(row(page, 'Brick')).toHaveAttribute('data-selected', 'true');
  await expect(bench(page)).toContainText('Brick, Old brick');
  const { name, path } = await downloaded(page, schedule(page).getByRole('button', { name: 'Save the schedule as CSV' }));
  expect(name).toBe('kiln-yard-library_schedule.csv');
  const table = readFileSync(path, 'utf8').split('\r\n');
  expect(table[0]).toBe('tag,kind,name,surface,area %,mean red,mean green,mean blue,LRV,layers');
  expect(table.find((text) => text.startsWith('M07'))).toMatch(/^M07,material,Brick,"Brick, Old brick",(4|3\.99)\.?\d+,\d+,\d+,\d+,2\d\.\d,Brick: hue and saturation$/);
  await page.keyboard.press('j');
  await expect(schedule(page)).toContainText('Hall: roof');
  const chimney = await fieldPoint(page, 0.63, 0.2);
  await page.mouse.click(chimney.x, chimney.y);
  await expect(row(page, 'Chimney')).toHaveAttribute('data-selected', 'true');
});
