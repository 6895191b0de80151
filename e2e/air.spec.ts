/** Air over the demo: in metres, by the weather, in the light of the rendered sky; what it lacks is said. */
import { expect, type Page, test } from '@playwright/test';
import { bench, cardNames, choose, colorAt, demoFile, newDocument, openDemo, saved, settled, stroke, toStage, type } from './helpers.ts';

const apart = (a: readonly number[], b: readonly number[]) => a.reduce((sum, value, c) => sum + Math.abs(value - b[c]), 0);
const add = async (page: Page) => {
  await page.getByRole('button', { name: 'Add a layer …' }).click();
  await page.getByRole('menuitem', { name: /^Air/ }).click();
  await settled(page);
};
const NEAR = [0.4, 0.97] as const;
const FAR = [0.62, 0.62] as const;
const SKY = [0.35, 0.05] as const;

test('what is far goes first, the sky at the zenith hardly; weather, light of the sky, undo, reload', async ({ page }) => {
  await openDemo(page);
  const before = [await colorAt(page, ...NEAR), await colorAt(page, ...FAR), await colorAt(page, ...SKY)];
  await add(page);
  expect(await cardNames(page)).toContain('Air');
  await expect(bench(page).getByRole('combobox', { name: 'Weather' })).toHaveText('Moderate fog');
  await expect(bench(page).getByRole('combobox', { name: 'Reads' })).toHaveText('depth');
  await choose(page, bench(page).getByRole('combobox', { name: 'Weather' }), /^Thick fog/);
  await expect(bench(page).getByRole('textbox', { name: 'Visibility' })).toHaveValue('100');
  await type(page, 'Thins out over', '6');
  await bench(page).getByRole('button', { name: 'Light of the rendered sky' }).click();
  const light = bench(page).getByRole('textbox', { name: 'Light', exact: true });
  await expect(light).not.toHaveValue('#ced8e5');
  const [near, far, sky] = [await colorAt(page, ...NEAR), await colorAt(page, ...FAR), await colorAt(page, ...SKY)];
  expect(apart(far, before[1])).toBeGreaterThan(apart(near, before[0]));
  // Nothing of it lies before the sky any more.
  await type(page, 'On the sky', '0');
  expect(apart(await colorAt(page, ...SKY), before[2])).toBeLessThan(6);
  expect(apart(await colorAt(page, ...SKY), before[2])).toBeLessThanOrEqual(apart(sky, before[2]));
  await page.keyboard.press('Control+z');
  expect(apart(await colorAt(page, ...SKY), sky)).toBeLessThan(3);
  await saved(page);
  await page.reload();
  await settled(page);
  expect(await cardNames(page)).toContain('Air');
  expect(apart(await colorAt(page, ...FAR), far)).toBeLessThan(3);
});

test('a scale by factors: keys go by a twentieth, typing takes anything in range', async ({ page }) => {
  await openDemo(page);
  await add(page);
  const visibility = bench(page).getByRole('textbox', { name: 'Visibility' });
  await type(page, 'Visibility', '1000');
  await visibility.focus();
  await page.keyboard.press('ArrowUp');
  await expect(visibility).toHaveValue('1050');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(visibility).toHaveValue('645');
  await type(page, 'Visibility', '999999999');
  await expect(visibility).toHaveValue('277000');
  // Unevenly, in banks, and blue with distance: each shows, and its fields come with it.
  await type(page, 'Visibility', '60');
  const even = await colorAt(page, ...FAR);
  await expect(bench(page).getByRole('textbox', { name: 'Banks of' })).toHaveCount(0);
  await type(page, 'Drifting', '100');
  await type(page, 'Banks of', '8');
  await expect.poll(async () => apart(await colorAt(page, ...FAR), even)).toBeGreaterThan(2);
  await type(page, 'Drifting', '0');
  await expect.poll(async () => apart(await colorAt(page, ...FAR), even)).toBeLessThan(2);
  await type(page, 'Blue distance', '200');
  await expect.poll(async () => { const [r, , b] = await colorAt(page, ...FAR); return b - r; }).toBeGreaterThan(even[2] - even[0] + 10);
});

test('without depths it is refused, and why is said', async ({ page }) => {
  await newDocument(page, [demoFile('kiln-yard_material_id.png')]);
  await add(page);
  await expect(page.locator('body')).toContainText('there is no element of depths or distances in metres');
  expect(await cardNames(page)).not.toContain('Air');
});

test('smoke where the brush goes, the simple fade, the rendered atmosphere with a strength of its own far away; shafts say what they lack', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Sky & air');
  const [near, wall] = [await colorAt(page, ...NEAR), await colorAt(page, ...FAR)];
  await bench(page).getByRole('button', { name: 'Painted smoke' }).click();
  await expect(page).toHaveURL(/surfaces$/);
  await settled(page);
  expect(await colorAt(page, ...FAR)).toEqual(wall);
  await stroke(page, ...FAR);
  await page.getByRole('radio', { name: 'off' }).click();
  await expect.poll(async () => apart(await colorAt(page, ...FAR), wall)).toBeGreaterThan(12);
  expect(await colorAt(page, ...NEAR)).toEqual(near);

  await toStage(page, 'Sky & air');
  await page.getByRole('button', { name: 'Select Painted smoke', exact: true }).click();
  await type(page, 'Shafts', '60');
  await expect(bench(page)).toContainText('Shafts are made of the glow: raise it first.');
  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  for (const [button, card] of [['Fade with depth', 'Fade with depth'], ['More of the rendered atmosphere', 'More of the rendered atmosphere']]) {
    const before = await colorAt(page, ...FAR);
    await bench(page).getByRole('button', { name: button }).click();
    await settled(page);
    expect(await cardNames(page)).toContain(card);
    if (button.startsWith('Fade')) await expect.poll(async () => apart(await colorAt(page, ...FAR), before)).toBeGreaterThan(3);
    await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  }
});
