/** Pieces of real work, walked through as a person would: from files or the demo to a judged picture. */
import { expect, type Page, test } from '@playwright/test';
import { bench, cardNames, choose, colorAt, correctAll, newDocument, openDemo, picturePoint, settled, toStage, type } from './helpers.ts';
import { SHIPPED } from './shipped.ts';
import { demoSet } from '../tests/elements.ts';

const shelf = (page: Page) => page.getByRole('region', { name: 'Masks', exact: true });
const sum = (color: readonly number[]) => color.reduce((a, b) => a + b, 0);
const addLayer = async (page: Page, name: string | RegExp) => {
  await page.getByRole('button', { name: 'Add a layer …' }).click();
  await page.getByRole('menuitem', { name }).click();
  await settled(page);
};
const withMask = (page: Page, name: string) => choose(page, bench(page).getByRole('combobox', { name: 'Mask' }).first(), name);
/** No layer is left out, and nothing is refused. */
const sound = (page: Page) => expect(page.getByRole('region', { name: 'Title block' })).not.toContainText('problem');
const SKY = [0.5, 0.1] as const;
const FACADE = [0.62, 0.62] as const;
const GRAVEL = [0.4, 0.95] as const;
const WATER = [0.796, 0.785] as const;

test('depth as an instrument: a band moved, darker far away, mist and a cool fill through it, contrast near and far', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Surfaces');
  await shelf(page).getByRole('button', { name: 'New mask' }).click();
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('menuitem', { name: 'Depth band', exact: true }).click();
  await type(page, 'From', '0');
  await type(page, 'To', '200');
  await type(page, 'From', '20');
  const mask = 'Mask';
  await toStage(page, 'Build-up');
  const [near, far] = [await colorAt(page, ...GRAVEL), await colorAt(page, ...FACADE)];
  await correctAll(page, 'Exposure');
  await withMask(page, mask);
  await type(page, 'Exposure', '-1');
  expect(sum(await colorAt(page, ...FACADE))).toBeLessThan(sum(far) * 0.9);
  expect(await colorAt(page, ...GRAVEL)).toEqual(near);
  await addLayer(page, /^atmosphere/);
  await withMask(page, mask);
  await choose(page, bench(page).getByRole('combobox', { name: 'Blend mode' }), 'Screen');
  await addLayer(page, /^Fill/);
  await withMask(page, mask);
  await bench(page).getByRole('textbox', { name: /as a hex code$/ }).first().fill('#5f86a8');
  await page.keyboard.press('Enter');
  const before = await colorAt(page, ...FACADE);
  await page.keyboard.press('Escape');
  await type(page, 'Opacity', '18');
  expect(await colorAt(page, ...FACADE)).not.toEqual(before);
  expect(await colorAt(page, ...GRAVEL)).toEqual(near);
  // Contrast and vibrance near, less of both far: ready, and judged in grey.
  await addLayer(page, /^Depth cues/);
  expect(await cardNames(page)).toContain('Depth cues');
  await page.keyboard.press('h');
  const [r, g, b] = await colorAt(page, ...FACADE);
  expect([r, g]).toEqual([g, b]);
  await page.keyboard.press('h');
  await sound(page);
});

test('the enhancement stack, whole: built from a render, two exposures in a pair, judged against the beauty, turned down', async ({ page }) => {
  await newDocument(page, [...demoSet('courtyard'), ...demoSet('courtyard_shadow')]);
  await toStage(page, 'Elements');
  const build = bench(page).getByRole('button', { name: 'Enhancement', exact: true });
  await expect(build).toBeEnabled();
  const rendered = await colorAt(page, ...FACADE);
  await build.click();
  await settled(page);
  await toStage(page, 'Build-up');
  const names = await cardNames(page);
  expect(names).toEqual(['Beauty', 'Enhancement']);
  await page.getByRole('button', { name: /^Open Enhancement/ }).click();
  for (const name of ['Diffuse filter', 'Ambient occlusion', 'Raw GI', 'Shadow, inverted', 'Raw lighting', 'Reflection', 'Specular', 'Refraction']) expect(await cardNames(page)).toContain(name);
  expect(await colorAt(page, ...FACADE)).not.toEqual(rendered);
  // Raw GI: panes darker with their gamma raised, everything else by its own value, as a pair under one mask.
  await page.getByRole('button', { name: 'Select Raw GI', exact: true }).first().click();
  const gravel = await colorAt(page, ...GRAVEL);
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'Exposure' }).first().click();
  await type(page, 'Exposure', '-1.7');
  await type(page, 'Gamma', '1.3');
  expect(await colorAt(page, ...GRAVEL)).not.toEqual(gravel);
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask' }).last(), 'Glazing');
  expect(await colorAt(page, ...GRAVEL)).toEqual(gravel);
  await bench(page).getByRole('button', { name: 'Exposure once more where its mask is not: a pair' }).click();
  await expect(bench(page).getByRole('button', { name: 'Remove Exposure' })).toHaveCount(3);
  expect(await colorAt(page, ...GRAVEL)).not.toEqual(gravel);
  // The finished render over it, to judge; then the layer that is too much is turned down by a key.
  await page.keyboard.press('c');
  await choose(page, page.getByRole('combobox', { name: 'Compared with' }), 'denoised_beauty');
  await settled(page);
  await page.keyboard.press('c');
  await page.getByRole('button', { name: 'Select Reflection', exact: true }).first().click();
  const water = await colorAt(page, ...WATER);
  await page.keyboard.press('Shift+2');
  await page.keyboard.press('Shift+2');
  await expect(bench(page).getByRole('textbox', { name: 'Opacity' }).first()).toHaveValue('20');
  await expect.poll(() => colorAt(page, ...WATER)).not.toEqual(water);
  await sound(page);
});

test('an exterior from render to picture: mist far away, a brighter middle, an S-curve, painted light, hues and sky by themselves', async ({ page }) => {
  await openDemo(page);
  // Atmosphere, stronger in the distance and not on the sky.
  await addLayer(page, /^atmosphere/);
  await choose(page, bench(page).getByRole('combobox', { name: 'Blend mode' }), 'Screen');
  await addLayer(page, /^Middle brighter/);
  const [middle, corner] = [await colorAt(page, 0.5, 0.5), await colorAt(page, 0.02, 0.02)];
  await page.getByRole('button', { name: 'Select Middle brighter, edges darker', exact: true }).first().click();
  await page.keyboard.press('o');
  expect(sum(await colorAt(page, 0.5, 0.5))).toBeLessThan(sum(middle));
  expect(sum(await colorAt(page, 0.02, 0.02))).toBeGreaterThan(sum(corner));
  await page.keyboard.press('o');
  await correctAll(page, 'Hue families');
  const blue = bench(page).getByRole('radio', { name: 'Blue' });
  await blue.click();
  await type(page, 'Saturation', '60');
  // Sky by levels, by itself.
  await toStage(page, 'Surfaces');
  const schedule = page.getByRole('region', { name: 'Material schedule', exact: true });
  await schedule.locator('tr[data-row]', { hasText: 'Sky' }).first().click();
  const [sky, facade] = [await colorAt(page, ...SKY), await colorAt(page, ...FACADE)];
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'Levels' }).first().click();
  await type(page, 'Black', '15');
  expect(sum(await colorAt(page, ...SKY))).toBeLessThan(sum(sky));
  expect(await colorAt(page, ...FACADE)).toEqual(facade);
  // The surface before and after, without touching anything else.
  await bench(page).getByRole('button', { name: 'Before', exact: true }).click();
  expect(await colorAt(page, ...SKY)).toEqual(sky);
  await bench(page).getByRole('button', { name: 'Before', exact: true }).click();
  // Light painted where the eye should go.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Paint lighter');
  await page.keyboard.press('Enter');
  await settled(page);
  const door = await colorAt(page, 0.53, 0.62);
  const at = await picturePoint(page, 0.53, 0.62);
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  await page.mouse.move(box.x + at.x - 6, box.y + at.y);
  await page.mouse.down();
  for (let i = 0; i < 6; i++) await page.mouse.move(box.x + at.x - 6 + 2 * i, box.y + at.y + (i % 2));
  await page.mouse.up();
  await page.mouse.move(box.x + 10, box.y + 10);
  await page.getByRole('radio', { name: 'off' }).click();
  await expect.poll(async () => sum(await colorAt(page, 0.53, 0.62))).toBeGreaterThan(sum(door));
  await sound(page);
});

test('correct what bothers: exposure, burnt windows, the shoulder, a chair and a wall; corrections and light mixes kept apart, each loaded again', async ({ page }) => {
  await page.goto('/demo/reading-room');
  await settled(page);
  await correctAll(page, 'Exposure');
  await type(page, 'Exposure', '0.3');
  await correctAll(page, 'Contrast');
  await bench(page).getByRole('textbox', { name: 'Contrast', exact: true }).fill('12');
  await page.keyboard.press('Enter');
  await correctAll(page, 'Highlight limit');
  await page.getByRole('button', { name: 'Select the tone line' }).click();
  await choose(page, page.getByRole('combobox', { name: 'Curve of the tone line' }), /^Toe and shoulder/);
  await bench(page).getByRole('button', { name: 'Shoulder', exact: true }).focus();
  for (let n = 0; n < 4; n++) await page.keyboard.press('ArrowLeft');
  await toStage(page, 'Surfaces');
  for (const [surface, saturation] of [['Oak', '60'], ['Plaster', '30']] as const) {
    await page.locator('tr[data-row]', { hasText: surface }).first().click();
    await type(page, 'Saturation', saturation);
  }
  await sound(page);
  // Corrections by themselves …
  await toStage(page, 'Build-up');
  const looks = page.getByRole('region', { name: 'Looks', exact: true });
  await looks.getByRole('button', { name: 'Keep corrections as a look' }).click();
  await page.getByRole('menuitem', { name: 'All corrections and the tone line' }).click();
  // … and the light mixes by themselves.
  await toStage(page, 'Light');
  const saving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save all scenarios as a file' }).click();
  const mixes = await saving;
  expect(mixes.suggestedFilename()).toBe('kiln-yard-reading-room.lights.json');
  const path = await mixes.path();

  await openDemo(page);
  await looks.getByRole('button', { name: /^Apply Kiln Yard, reading room/ }).click();
  await settled(page);
  expect(await cardNames(page)).toContain('Look: Kiln Yard, reading room');
  await toStage(page, 'Light');
  await page.getByLabel('File of light mixes').setInputFiles(path);
  await page.getByRole('button', { name: 'Load Morning' }).click();
  await bench(page).getByRole('button', { name: 'Mix the light' }).click();
  await settled(page);
  await expect(bench(page).getByRole('checkbox', { name: 'Facade lamps on' })).not.toBeChecked();
  await expect(bench(page).getByRole('textbox', { name: 'Interior lamps', exact: true })).toHaveValue('-3.00');
  await sound(page);
});

test('a client’s late wish: a darker armchair in another hue, reflections painted in from nothing, table legs by their material, the sun by itself', async ({ page }) => {
  await page.goto(`${SHIPPED}/demo/reading-room`);
  await settled(page);
  const CHAIR = [0.8, 0.72] as const;
  const RAFTER = [0.449, 0.077] as const;
  const TABLE = [0.72, 0.78] as const;
  await toStage(page, 'Surfaces');
  const [chair, table] = [await colorAt(page, ...CHAIR), await colorAt(page, ...TABLE)];
  await page.locator('tr[data-row]', { hasText: 'Felt' }).first().click();
  await type(page, 'Exposure', '-0.6');
  await expect.poll(async () => sum(await colorAt(page, ...CHAIR))).toBeLessThan(sum(chair) * 0.9);
  await type(page, 'Hue', '-110');
  await expect.poll(async () => { const [r, g] = await colorAt(page, ...CHAIR); return r - g; }).toBeGreaterThan(5);
  expect(await colorAt(page, ...TABLE)).toEqual(table);
  // Both hang on one mask.
  await expect(shelf(page).locator('tr', { hasText: 'Felt' })).toContainText('2');

  await toStage(page, 'Build-up');
  await addLayer(page, /^reflection/);
  await choose(page, bench(page).getByRole('combobox', { name: 'Blend mode' }), 'Screen');
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask' }).first(), 'Painted in from nothing …');
  await expect(page).toHaveURL(/surfaces$/);
  // Nothing is seen of it yet; then at half strength where the brush went.
  expect(await colorAt(page, ...TABLE)).toEqual(table);
  await bench(page).getByRole('textbox', { name: 'Opacity' }).first().fill('50');
  await page.keyboard.press('Enter');
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  const at = await picturePoint(page, ...TABLE);
  await page.mouse.move(box.x + at.x - 20, box.y + at.y);
  await page.mouse.down();
  for (let i = 0; i <= 10; i++) await page.mouse.move(box.x + at.x - 20 + 4 * i, box.y + at.y + (i % 2));
  await page.mouse.up();
  await page.mouse.move(box.x + 5, box.y + 5);
  await page.getByRole('radio', { name: 'off' }).click();
  await expect.poll(async () => sum(await colorAt(page, ...TABLE))).toBeGreaterThan(sum(table));
  // The legs of tables and chairs, wholly, by their material.
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('menuitem', { name: 'Material', exact: true }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Add a material' }), /Steel$/);
  await settled(page);
  await sound(page);

  // The sun by itself, on plaster alone: not where it falls onto the timber under the roof.
  await toStage(page, 'Build-up');
  const rafter = await colorAt(page, ...RAFTER);
  await addLayer(page, /^light_group_sun/);
  await choose(page, bench(page).getByRole('combobox', { name: 'Blend mode' }), 'Add');
  await expect.poll(async () => sum(await colorAt(page, ...RAFTER))).toBeGreaterThan(sum(rafter));
  await withMask(page, 'Plaster');
  await expect.poll(() => colorAt(page, ...RAFTER)).toEqual(rafter);
  await bench(page).getByRole('checkbox', { name: 'On', exact: true }).first().click();
  await expect.poll(async () => sum(await colorAt(page, ...RAFTER))).toBeGreaterThan(sum(rafter));
  await page.keyboard.press('Control+z');
  await sound(page);
});
