/** The stage Entourage: figures of the shelf and one's own stood on the ground, moved, changed, spread; and what is said where they cannot stand. */
import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { nodePlatform } from '@tazzel/engine/node';
import { encodePng } from '@tazzel/formats';
import { bench, cardNames, choose, colorAt, fieldPoint, openDemo, picturePoint, saved, settled, stroke, toStage, type } from './helpers.ts';

const shelf = (page: Page) => page.getByRole('region', { name: 'Figures to stand up' });
const list = (page: Page) => bench(page).getByRole('list', { name: 'Figures' });
const apart = (a: readonly number[], b: readonly number[]) => a.reduce((sum, value, c) => sum + Math.abs(value - b[c]), 0);
/** The chest of somebody whose feet are seen at a place of the yard, about 7 m away. */
const [FEET, CHEST] = [[0.6, 0.83], [0.6, 0.7]] as const;

async function click(page: Page, fx: number, fy: number, modifiers: readonly 'Shift'[] = []): Promise<void> {
  const { x, y } = await picturePoint(page, fx, fy);
  await page.getByTestId('picture').click({ position: { x, y }, modifiers: [...modifiers] });
}
/** Its picture is fetched first: nobody is in the hand before the shelf says so. */
async function take(page: Page, name: string): Promise<void> {
  await shelf(page).getByRole('button', { name: `Take ${name}`, exact: true }).click();
  await expect(shelf(page).getByRole('status')).toContainText('click the ground');
}

test('somebody of the shelf stands where one clicks: dragged along the ground, taller, away; what is above the horizon is no ground', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Entourage');
  const before = await colorAt(page, ...CHEST);
  await take(page, 'Woman, from behind');
  await expect(page.getByTestId('horizon')).toBeVisible();
  await click(page, 0.5, 0.1);
  await expect(page.getByText('that is above the horizon')).toBeVisible();
  await click(page, ...FEET);
  await expect.poll(() => cardNames(page)).toContain('Woman, from behind');
  await expect.poll(async () => apart(await colorAt(page, ...CHEST), before)).toBeGreaterThan(30);
  await expect(shelf(page).getByRole('status')).toHaveCount(0);
  // One step of the history takes figure and file away again.
  await page.keyboard.press('Control+z');
  expect(await cardNames(page)).not.toContain('Woman, from behind');
  await page.keyboard.press('Control+y');
  await page.getByRole('button', { name: 'Select Woman, from behind', exact: true }).click();

  const foot = page.getByRole('button', { name: 'Foot of Woman, from behind' });
  const box = await foot.boundingBox();
  if (!box) throw new Error('There is no handle.');
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 90, box.y + box.height / 2, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => apart(await colorAt(page, ...CHEST), before)).toBeLessThan(6);
  await type(page, 'Height', '2.4');
  await expect(list(page)).toContainText('2.40 m');
  await bench(page).getByRole('button', { name: 'Mirror Woman, from behind' }).click();
  await saved(page);
  await page.reload();
  await settled(page);
  await page.getByRole('button', { name: 'Select Woman, from behind', exact: true }).click();
  await expect(list(page)).toContainText('2.40 m');
  await bench(page).getByRole('button', { name: 'Take Woman, from behind away' }).click();
  expect(await cardNames(page)).not.toContain('Woman, from behind');
  await expect.poll(async () => apart(await colorAt(page, ...CHEST), before)).toBeLessThan(3);
});

test('several of one layer with Shift, spread by chance, dropped from the shelf, and a cut-out of one’s own', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Entourage');
  await take(page, 'Man, standing');
  await click(page, ...FEET, ['Shift']);
  await expect(list(page).getByRole('listitem')).toHaveCount(1);
  await click(page, 0.45, 0.85);
  await expect(list(page).getByRole('listitem')).toHaveCount(2);
  await expect(shelf(page).getByRole('status')).toHaveCount(0);
  await bench(page).getByText('Several, spread by chance').click();
  await type(page, 'Figures', '5');
  await bench(page).getByRole('button', { name: 'Spread them' }).click();
  await expect(list(page).getByRole('listitem')).toHaveCount(7);
  // Dragged there.
  await shelf(page).getByRole('tab', { name: 'Animals' }).click();
  const at = await picturePoint(page, 0.52, 0.86);
  await shelf(page).getByRole('button', { name: 'Take Dog' }).dragTo(page.getByTestId('picture'), { targetPosition: at });
  await expect(list(page).getByRole('listitem')).toHaveCount(8);
  await expect(list(page)).toContainText('Dog');
  // A picture of one's own, of which only the alpha tells where it stands.
  const bytes = readFileSync(new URL('../apps/web/public/figures/woman-dress.png', import.meta.url));
  await shelf(page).getByLabel('Add a picture of a person or a thing').setInputFiles({ name: 'visitor.png', mimeType: 'image/png', buffer: bytes });
  await expect(shelf(page).getByRole('status')).toContainText('visitor');
  await click(page, 0.4, 0.8);
  await expect(list(page)).toContainText('visitor');
  await expect(list(page)).toContainText('1.75 m');
  // What is no picture, and what is not cut out.
  await shelf(page).getByLabel('Add a picture of a person or a thing').setInputFiles({ name: 'visitor.png', mimeType: 'image/png', buffer: Buffer.from('no picture') });
  await expect(shelf(page).getByRole('alert')).toContainText('visitor.png');
  await settled(page);
});

test('a photograph without alpha is cut out by drawing over it, and stood up', async ({ page }) => {
  // A red post before a grey wall that is paler at the top.
  const [width, height] = [240, 180];
  const rgba = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const [x, y] = [i % width, Math.floor(i / width)];
    const isPost = Math.abs(x - 120) < 20 && y > 30 && y < 160;
    rgba.set(isPost ? [170, 40, 30, 255] : [130 + y / 4, 140 + y / 5, 150, 255], i * 4);
  }
  const buffer = Buffer.concat(await encodePng({ width, height, rgba }, nodePlatform));
  await openDemo(page);
  await toStage(page, 'Entourage');
  const add = () => shelf(page).getByLabel('Add a picture of a person or a thing').setInputFiles({ name: 'post.png', mimeType: 'image/png', buffer });
  const sheet = page.getByRole('dialog', { name: 'Cut out' });
  const over = async (from: readonly [number, number], to: readonly [number, number]) => {
    const box = await sheet.getByRole('img', { name: 'The picture: draw over it' }).boundingBox();
    if (!box) throw new Error('There is no picture to draw over.');
    await page.mouse.move(box.x + from[0] * box.width, box.y + from[1] * box.height);
    await page.mouse.down();
    await page.mouse.move(box.x + to[0] * box.width, box.y + to[1] * box.height, { steps: 4 });
    await page.mouse.up();
  };
  await add();
  await expect(sheet.getByRole('status')).toContainText('Nothing stays yet');
  await expect(sheet.getByRole('button', { name: 'Cut out and stand up' })).toBeDisabled();
  await over([0.5, 0.4], [0.5, 0.7]);
  // 39 by 129 of 240 by 180 pixels.
  await expect(sheet.getByRole('status')).toContainText('11.6 %');
  await page.keyboard.press('Control+z');
  await expect(sheet.getByRole('status')).toContainText('Nothing stays yet');
  await page.keyboard.press('Escape');
  await expect(sheet).toBeHidden();
  await expect(shelf(page).getByRole('status')).toHaveCount(0);
  // Given up, nothing came in; done, it is in the hand.
  await add();
  await over([0.5, 0.4], [0.5, 0.7]);
  await expect(sheet.getByRole('status')).toContainText('11.6 %');
  await sheet.getByRole('button', { name: 'Cut out and stand up' }).click();
  await expect(shelf(page).getByRole('status')).toContainText('post_cut-out');
  await click(page, ...FEET);
  await expect(list(page)).toContainText('post_cut-out');
  // Red where the wall of the photograph would be grey.
  await expect.poll(async () => {
    const [red, , blue] = await colorAt(page, FEET[0], FEET[1] - 0.06);
    return red - blue;
  }).toBeGreaterThan(20);
});

test('without a camera nobody can stand, and that is said; nothing in the hand pans the picture', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('Picture files').setInputFiles({ name: 'room.png', mimeType: 'image/png', buffer: readFileSync(new URL('../apps/web/public/figures/shrub.png', import.meta.url)) });
  await page.waitForURL(/\/document\/.*\/build-up/);
  await settled(page);
  await toStage(page, 'Entourage');
  await expect(bench(page)).toContainText('The camera is not known');
  await take(page, 'Man, standing');
  await expect(shelf(page).getByRole('status')).toBeVisible();
  const { x, y } = await fieldPoint(page, 0.5, 0.6);
  await page.mouse.click(x, y);
  await expect(page.getByText('with it how tall a figure is there')).toBeVisible();
  await shelf(page).getByRole('button', { name: 'Put away' }).click();
  await expect(shelf(page).getByRole('status')).toHaveCount(0);
});

test('a place is copied by strokes and its handle, then healed into what lies around', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Entourage');
  const GRAVEL = [0.42, 0.94] as const;
  const gravel = await colorAt(page, ...GRAVEL);
  await bench(page).getByRole('button', { name: 'Copy a place' }).click();
  await stroke(page, ...GRAVEL);
  await settled(page);
  await toStage(page, 'Entourage');
  await page.getByRole('button', { name: 'Select Copied', exact: true }).click();
  // From the bright wall of the barn, far above.
  await type(page, 'From across', '-90');
  await type(page, 'From down', '-55');
  await expect.poll(async () => apart(await colorAt(page, ...GRAVEL), gravel)).toBeGreaterThan(60);
  const copied = await colorAt(page, ...GRAVEL);
  await expect(page.getByRole('button', { name: 'It is taken from here' })).toBeVisible();
  // Along the ground it takes only what lies on the ground: more of the wall is above the horizon.
  await type(page, 'From down', '-90');
  await choose(page, bench(page).getByRole('combobox', { name: 'Goes' }), 'Along a level surface');
  await expect(page.getByText('on one side of the horizon')).toBeVisible();
  await type(page, 'From down', '-15');
  await choose(page, bench(page).getByRole('combobox', { name: 'Goes' }), 'Along a level surface');
  await expect.poll(async () => apart(await colorAt(page, ...GRAVEL), copied)).toBeGreaterThan(30);
  await choose(page, bench(page).getByRole('combobox', { name: 'Goes' }), 'In the picture');
  await type(page, 'From down', '-55');
  await choose(page, bench(page).getByRole('combobox', { name: 'Does' }), 'Heal');
  await expect.poll(async () => apart(await colorAt(page, ...GRAVEL), gravel)).toBeLessThan(apart(copied, gravel) * 0.6);
  await saved(page);
  await page.reload();
  await settled(page);
  expect(await cardNames(page)).toContain('Copied');
});
