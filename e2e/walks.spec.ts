/** Pieces of real work, walked through as a person would: from files or the demo to a judged picture. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { bench, cardNames, cards, choose, colorAt, correctAll, downloaded, newDocument, openDemo, picturePoint, saved, settled, stroke, toStage, type } from './helpers.ts';
import { SHIPPED } from './shipped.ts';
import { smallDemo } from './small-demo.ts';
import { demoPart, demoSet } from '../tests/elements.ts';

const shelf = (page: Page) => page.getByRole('region', { name: 'Masks', exact: true });
const redder = ([r, , b]: readonly number[]) => r - b;
const sum = (color: readonly number[]) => color.reduce((a, b) => a + b, 0);
const addLayer = async (page: Page, name: string | RegExp) => {
  await page.getByRole('button', { name: 'Add a layer …' }).click();
  await page.getByRole('menuitem', { name }).click();
  await settled(page);
};
const withMask = (page: Page, name: string) => choose(page, bench(page).getByRole('combobox', { name: 'Mask' }).first(), name);
/** No layer is left out, and nothing is refused. */
const sound = (page: Page) => expect(page.getByRole('region', { name: 'Title block' })).not.toContainText('problem');
/** What came of it, for docs/practice.md, if it is asked for: TAZZEL_PRACTICE=1 npx playwright test walks.spec.ts */
const pictured = async (page: Page, name: string) => {
  if (!process.env.TAZZEL_PRACTICE) return;
  await saved(page);
  await settled(page);
  await page.screenshot({ path: `docs/practice/${name}.jpg`, type: 'jpeg', quality: 72 });
};
const SKY = [0.5, 0.1] as const;
const FACADE = [0.62, 0.62] as const;
const GRAVEL = [0.4, 0.95] as const;
const WATER = [0.796, 0.785] as const;
const PANE = [0.115, 0.655] as const;
const LEAVES = [0.075, 0.36] as const;
const SLAB = [0.75, 0.92] as const;
const DOORS = [0.534, 0.585] as const;

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
  await pictured(page, 'depth');
});

test('recolour what is mirrored: doors and what mirrors them, reflections soft in the water only, a shadow moved, focus on the door', async ({ page }) => {
  await newDocument(page, readdirSync(smallDemo).filter((file) => /^courtyard(_\d|_geometry)\.exr$/.test(file)).map((file) => join(smallDemo, file)));
  await toStage(page, 'Elements');
  await bench(page).getByRole('button', { name: 'Exact rebuild' }).click();
  await settled(page);
  await toStage(page, 'Surfaces');
  const [doors, gravel] = [await colorAt(page, ...DOORS), await colorAt(page, ...GRAVEL)];
  await page.getByRole('button', { name: /^M\d+: Bronze/ }).click();
  await page.getByRole('radio', { name: 'off' }).click();
  // In the diffuse light by its reflectance; bronze has little of that, so what it mirrors is tinted as well.
  const colour = bench(page).getByRole('textbox', { name: 'New colour as a hex code' }).first();
  await colour.fill('#8a1f1a');
  await colour.press('Enter');
  await expect(cards(page).filter({ hasText: 'Bronze: repaint' })).toContainText('#8a1f1a');
  await type(page, 'Hue', '-28');
  await type(page, 'Saturation', '170');
  await expect.poll(async () => redder(await colorAt(page, ...DOORS))).toBeGreaterThan(redder(doors) + 10);
  await bench(page).getByRole('button', { name: /^Repaint #/ }).click();
  const before = await cardNames(page);
  await bench(page).getByRole('button', { name: 'In glass and mirrors, too' }).click();
  await expect.poll(async () => (await cardNames(page)).length).toBeGreaterThan(before.length);
  await settled(page);
  expect(await colorAt(page, ...GRAVEL)).toEqual(gravel);

  // Reflections strongly blurred, inside the water only.
  await shelf(page).getByRole('button', { name: 'Water' }).first().click();
  await settled(page);
  await toStage(page, 'Build-up');
  await page.getByRole('button', { name: /^Open Elements/ }).click();
  await page.getByRole('button', { name: /^Select [Rr]eflection$/ }).first().click();
  const [clear, glass] = [await colorAt(page, ...WATER), await colorAt(page, ...PANE)];
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'Gaussian blur' }).first().click();
  await type(page, 'Width', '6');
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask' }).last(), 'Water');
  await expect.poll(() => colorAt(page, ...WATER)).not.toEqual(clear);
  expect(await colorAt(page, ...PANE)).toEqual(glass);

  // A shadow on the gravel, moved to the right and softened.
  await toStage(page, 'Entourage');
  await bench(page).getByRole('button', { name: 'Move a place' }).click();
  const old = await colorAt(page, ...GRAVEL);
  await stroke(page, ...GRAVEL);
  await settled(page);
  await toStage(page, 'Entourage');
  await page.getByRole('button', { name: 'Select Moved', exact: true }).click();
  await type(page, 'To across', '24');
  await type(page, 'Softened', '2');
  await expect(page.getByRole('button', { name: 'It moves here' })).toBeVisible();
  await expect.poll(() => colorAt(page, ...GRAVEL)).not.toEqual(old);

  // A merged copy of it all; focus on the door, and a little less of that.
  await toStage(page, 'Build-up');
  await addLayer(page, /^Snapshot/);
  await correctAll(page, 'Focus');
  const place = await picturePoint(page, ...DOORS);
  const box = await page.getByTestId('picture').boundingBox();
  await bench(page).getByRole('button', { name: 'Click what is sharp' }).click();
  await page.mouse.click((box?.x ?? 0) + place.x, (box?.y ?? 0) + place.y);
  await type(page, 'Opacity', '80');
  await settled(page);
  const after = await colorAt(page, ...DOORS);
  await page.keyboard.press('c');
  await expect.poll(() => colorAt(page, ...DOORS)).not.toEqual(after);
  await page.keyboard.press('c');
  await expect.poll(() => colorAt(page, ...DOORS)).toEqual(after);
  await sound(page);
  await pictured(page, 'mirrored');
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
  await pictured(page, 'enhancement');
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
  await pictured(page, 'exterior');
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
  await pictured(page, 'what-bothers');
});

test('focus, glare, composite: sharp where it is clicked, brighter with the f-number or held, glow against streaks of a dirty lens, a chair by one mask and oak by another', async ({ page }) => {
  await page.goto('/demo/reading-room');
  await settled(page);
  const [CHAIR, TABLE] = [[0.8, 0.72], [0.72, 0.78]] as const;
  const add = async (name: string) => {
    await bench(page).getByRole('button', { name, exact: true }).click();
    await settled(page);
  };
  const shown = async () => {
    await settled(page);
    return page.getByTestId('picture').evaluate((canvas: HTMLCanvasElement) => [...(canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height).data ?? [])].reduce((all, value) => all + value, 0));
  };
  await toStage(page, 'Lens');
  await add('Focus');
  const metres = () => bench(page).getByRole('textbox', { name: 'Sharp at', exact: true }).inputValue().then(Number);
  const sharpAt = async (fx: number, fy: number) => {
    const before = await metres();
    await bench(page).getByRole('button', { name: 'Click what is sharp' }).click();
    const { x, y } = await picturePoint(page, fx, fy);
    await page.getByTestId('picture').click({ position: { x, y } });
    await expect.poll(metres).not.toBe(before);
    return metres();
  };
  const far = await sharpAt(0.45, 0.5);
  expect(await sharpAt(...CHAIR)).toBeLessThan(far);
  await type(page, 'f-number', '4');
  const held = await colorAt(page, ...CHAIR);
  await choose(page, bench(page).getByRole('combobox', { name: 'Exposure' }), 'Follows the f-number');
  await expect.poll(async () => sum(await colorAt(page, ...CHAIR))).toBeGreaterThan(sum(held));
  await choose(page, bench(page).getByRole('combobox', { name: 'Exposure' }), 'Held');
  await expect.poll(() => colorAt(page, ...CHAIR)).toEqual(held);

  await add('Glow');
  const plain = await shown();
  await type(page, 'Amount', '15');
  await expect.poll(shown).not.toBe(plain);
  await add('Streaks');
  const soft = await shown();
  await type(page, 'Amount', '12');
  await type(page, 'Blades', '7');
  await expect.poll(shown).not.toBe(soft);
  const clean = await shown();
  await type(page, 'Dust', '60');
  await type(page, 'Scratches', '60');
  await expect.poll(shown).not.toBe(clean);

  // The chair in another hue by the mask of its material, a second correction by that of another.
  await toStage(page, 'Surfaces');
  const [chair, table] = [await colorAt(page, ...CHAIR), await colorAt(page, ...TABLE)];
  await page.locator('tr[data-row]', { hasText: 'Felt' }).first().click();
  await type(page, 'Hue', '-110');
  await expect.poll(async () => { const [r, g] = await colorAt(page, ...CHAIR); return r - g; }).toBeGreaterThan(chair[0] - chair[1] + 5);
  await page.locator('tr[data-row]', { hasText: 'Oak' }).first().click();
  await type(page, 'Exposure', '-0.8');
  await expect.poll(async () => sum(await colorAt(page, ...TABLE))).toBeLessThan(sum(table));
  await sound(page);
  await pictured(page, 'glare');
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
  await stroke(page, ...TABLE);
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
  await pictured(page, 'late-wish');
});

test('three options for the client: doors in three colours, one of them in the evening, all delivered by name; the architect’s next render under all of it', async ({ page }) => {
  const schemes = page.getByRole('region', { name: 'Schemes', exact: true });
  const shown = page.getByRole('banner').getByRole('button', { name: /^Scheme:/ });
  await openDemo(page);
  const [plain, gravel] = [await colorAt(page, ...DOORS), await colorAt(page, ...GRAVEL)];
  const looks: number[][] = [];
  for (const [name, hue] of [['Green doors', '90'], ['Blue doors', '-150']]) {
    await toStage(page, 'Deliver');
    // Each begins with the picture without a scheme.
    if (looks.length > 0) {
      await schemes.getByText('Without a scheme').click();
      await settled(page);
    }
    await schemes.getByRole('button', { name: 'New scheme' }).click();
    await schemes.getByRole('button', { name: /^Scheme: Scheme \d/ }).dblclick();
    await page.keyboard.press('Control+a');
    await page.keyboard.type(name);
    await page.keyboard.press('Enter');
    await toStage(page, 'Surfaces');
    await page.getByRole('button', { name: /^M\d+: Bronze/ }).click();
    await type(page, 'Hue', hue);
    await page.getByRole('radio', { name: 'off' }).click();
    await settled(page);
    looks.push([...(await colorAt(page, ...DOORS))]);
    expect(await colorAt(page, ...GRAVEL)).toEqual(gravel);
  }
  expect(looks[0]).not.toEqual(looks[1]);
  // The blue ones also in the evening: the next scheme goes on from them.
  await toStage(page, 'Deliver');
  await schemes.getByRole('button', { name: 'New scheme' }).click();
  await toStage(page, 'Light');
  await page.getByRole('button', { name: 'Mix the light' }).click();
  await page.getByRole('button', { name: 'Load Dusk' }).click();
  await settled(page);
  await expect.poll(async () => sum(await colorAt(page, ...GRAVEL))).toBeLessThan(sum(gravel) * 0.8);

  await toStage(page, 'Deliver');
  for (const format of ['PNG', 'JPEG']) {
    await page.getByRole('radio', { name: format }).click();
    await bench(page).getByRole('button', { name: 'Keep in the list' }).click();
  }
  await bench(page).getByText('8 files').click();
  const files = (await bench(page).getByRole('list', { name: 'Files' }).getByRole('listitem').allInnerTexts()).join(' ');
  for (const name of [/library-\d+x\d+\.png/, /green-doors-\d+x\d+\.jpg/, /blue-doors-\d+x\d+\.png/, /scheme-3-\d+x\d+\.jpg/]) expect(files).toMatch(name);
  const zip = await downloaded(page, bench(page).getByRole('button', { name: 'As one zip' }));
  expect(Object.keys(unzipSync(readFileSync(zip.path)))).toHaveLength(8);

  // Two weeks later: the beauty a stop darker, in the place of the old one, under all schemes.
  await schemes.getByText('Green doors').first().click();
  await settled(page);
  const part = basename(demoPart('denoised_beauty'));
  const newer = join(mkdtempSync(join(tmpdir(), 'tazzel-newer-')), part);
  execFileSync('oiiotool', [join(smallDemo, part), '--subimage', 'denoised_beauty', '--mulc', '0.5', '--attrib', 'oiio:subimagename', 'denoised_beauty', '-d', 'half', '-o', newer]);
  await toStage(page, 'Elements');
  await page.getByLabel('Files of the newer render').setInputFiles(newer);
  await page.getByRole('dialog').getByRole('button', { name: 'Replace', exact: true }).click();
  await settled(page);
  await expect.poll(async () => sum(await colorAt(page, ...GRAVEL))).toBeLessThan(sum(gravel) * 0.9);
  const green = await colorAt(page, ...DOORS);
  await expect(shown).toHaveText('Green doors');
  await toStage(page, 'Deliver');
  await expect(page.getByRole('region', { name: 'Different in Green doors' }).getByRole('listitem')).toHaveCount(1);
  await schemes.getByText('Without a scheme').click();
  await settled(page);
  const now = await colorAt(page, ...DOORS);
  expect(now).not.toEqual(green);
  expect(sum(now)).toBeLessThan(sum(plain));
  await sound(page);
  await pictured(page, 'options');
});

test('a fog pass: its height until it covers the picture, its distance until nothing is black, white; bluish by itself, over the beauty, turned down', async ({ page }) => {
  await openDemo(page);
  const [near, far, chimney] = [await colorAt(page, ...GRAVEL), await colorAt(page, ...FACADE), await colorAt(page, 0.637, 0.2)];
  await addLayer(page, /^Air/);
  await type(page, 'Light as a hex code', '#ffffff');
  // As low as it is now, the top of the chimney stands out of it.
  await type(page, 'Thins out over', '0');
  await type(page, 'Ends above', '3');
  await type(page, 'Visibility', '60');
  const out = await colorAt(page, 0.637, 0.2);
  await type(page, 'Ends above', '60');
  expect(sum(await colorAt(page, 0.637, 0.2))).toBeGreaterThan(sum(out));
  const [thin] = [await colorAt(page, ...FACADE)];
  await type(page, 'Visibility', '20');
  expect(sum(await colorAt(page, ...FACADE))).toBeGreaterThan(sum(thin));
  expect(sum(await colorAt(page, ...SKY))).toBeGreaterThan(750);
  await type(page, 'Light as a hex code', '#b9c8e0');
  // Only what it hides: its own picture, white to bluish on nothing.
  const whole = await colorAt(page, ...FACADE);
  expect(whole[2]).toBeGreaterThan(whole[0]);
  await type(page, 'Opacity', '35');
  const [soft, gravel] = [await colorAt(page, ...FACADE), await colorAt(page, ...GRAVEL)];
  // It is laid over the beauty: a share of what was there before is still seen, more of what is near.
  expect(sum(soft)).toBeGreaterThan(sum(far));
  expect(sum(soft)).toBeLessThan(sum(whole));
  expect(sum(gravel)).toBeGreaterThan(sum(near));
  expect(sum(gravel)).toBeLessThan(sum(soft));
  expect(sum(await colorAt(page, 0.637, 0.2))).toBeGreaterThan(sum(chimney));
  await sound(page);
  await pictured(page, 'fog');
});

test('dusk with a burnt middle: the vignette undone there only, browner, another sky, orange inside, blue outside, lamps, their glow and trails', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Light');
  await page.getByRole('button', { name: 'Mix the light' }).click();
  await page.getByRole('button', { name: 'Load Dusk' }).click();
  await settled(page);
  await toStage(page, 'Build-up');
  // What the camera's lens took from the corners, given back where the middle is not to get brighter still.
  await correctAll(page, 'Vignette');
  await choose(page, bench(page).getByRole('combobox', { name: 'By the angle' }), /cos/);
  await type(page, 'Strength', '-100');
  const [corner, middle] = [await colorAt(page, 0.03, 0.97), await colorAt(page, 0.5, 0.5)];
  await withMask(page, 'Corners');
  expect(await colorAt(page, 0.5, 0.5)).toEqual(middle);
  expect(sum(await colorAt(page, 0.03, 0.97))).toBeLessThanOrEqual(sum(corner));
  const ratio = async (place: readonly [number, number]) => { const [r, , b] = await colorAt(page, ...place); return r / Math.max(1, b); };
  const before = await ratio(GRAVEL);
  await correctAll(page, 'White balance');
  await type(page, 'Temperature', '7600');
  expect(await ratio(GRAVEL)).toBeGreaterThan(before);

  // Another sky through alpha: nothing of the building changes.
  const [facade, sky] = [await colorAt(page, ...FACADE), await colorAt(page, ...SKY)];
  await toStage(page, 'Sky & air');
  await page.getByRole('region', { name: 'Skies' }).getByRole('button', { name: 'Add the sky Afterglow' }).click();
  await expect(bench(page)).toContainText('Sky, under the tone line');
  await settled(page);
  expect(await colorAt(page, ...SKY)).not.toEqual(sky);
  expect(await colorAt(page, ...FACADE)).toEqual(facade);

  // Orange inside: a fill where the refraction element is bright, that is, where lit rooms are behind panes.
  await toStage(page, 'Surfaces');
  await shelf(page).getByRole('button', { name: 'New mask' }).click();
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('menuitem', { name: 'Tone band', exact: true }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'What the term reads' }), /^refraction/);
  await type(page, 'From', '20');
  await toStage(page, 'Build-up');
  const [pane, gravel] = [await colorAt(page, ...PANE), await colorAt(page, ...GRAVEL)];
  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  await addLayer(page, /^Fill/);
  await withMask(page, 'Mask');
  await bench(page).getByRole('textbox', { name: /as a hex code$/ }).first().fill('#e07818');
  await page.keyboard.press('Enter');
  await choose(page, bench(page).getByRole('combobox', { name: 'Blend mode' }), 'Overlay');
  await type(page, 'Opacity', '60');
  expect(await colorAt(page, ...PANE)).not.toEqual(pane);
  expect(await colorAt(page, ...GRAVEL)).toEqual(gravel);
  // Blue everywhere else, and the two together, ready to be taken apart.
  await addLayer(page, /^Warm inside/);
  expect(await ratio(GRAVEL)).toBeLessThan(gravel[0] / Math.max(1, gravel[2]));

  // A darker edge at the left, by a gradient.
  await toStage(page, 'Surfaces');
  await shelf(page).getByRole('button', { name: 'New mask' }).click();
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('menuitem', { name: 'Gradient', exact: true }).click();
  await settled(page);
  await toStage(page, 'Build-up');
  await correctAll(page, 'Exposure');
  await withMask(page, 'Mask 2');
  await type(page, 'Exposure', '-0.6');
  // Leaves lighter in their darks, the slab down, the yard lights up.
  await toStage(page, 'Surfaces');
  const row = (name: string) => page.getByRole('region', { name: 'Material schedule', exact: true }).locator('tr[data-row]', { has: page.getByRole('button', { name: `: ${name}.` }) });
  await row('Leaves').click();
  await page.getByRole('radio', { name: 'off' }).click();
  const leaves = await colorAt(page, ...LEAVES);
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'Shadows and highlights' }).first().click();
  await type(page, 'Shadows', '80');
  expect(sum(await colorAt(page, ...LEAVES))).toBeGreaterThan(sum(leaves));
  const slab = await colorAt(page, ...SLAB);
  await row('Concrete').click();
  await type(page, 'Exposure', '-0.7');
  await page.getByRole('radio', { name: 'off' }).click();
  expect(sum(await colorAt(page, ...SLAB))).toBeLessThan(sum(slab));
  await toStage(page, 'Lens');
  await bench(page).getByRole('button', { name: 'Evening glow', exact: true }).click();
  await settled(page);
  expect(await cardNames(page)).toContain('Evening glow');
  // A light trail along the lane, under the glow: both ways in two lanes, for as long as the shutter is open.
  await page.getByRole('button', { name: 'Select Darker corners', exact: true }).click();
  await bench(page).getByRole('button', { name: 'Light trails', exact: true }).click();
  const lane = await colorAt(page, 0.3, 0.84);
  const box = await page.getByTestId('picture').boundingBox();
  for (const [fx, fy] of [[0.03, 0.93], [0.3, 0.85], [0.56, 0.76]]) {
    const at = await picturePoint(page, fx, fy);
    await page.mouse.click((box?.x ?? 0) + at.x, (box?.y ?? 0) + at.y);
  }
  await expect(page.getByRole('button', { name: 'Course 1, place 3' })).toBeVisible();
  await bench(page).getByRole('button', { name: 'Done' }).click();
  await type(page, 'Vehicles', '12');
  await type(page, 'Brightness', '1');
  await settled(page);
  expect(await colorAt(page, 0.3, 0.84)).not.toEqual(lane);
  await toStage(page, 'Build-up');
  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  await correctAll(page, 'Brightness and contrast');
  await type(page, 'Contrast', '12');
  await sound(page);
  await pictured(page, 'dusk');
});

/** What stands behind the place: sky that is brighter at the horizon, hills, a row of trees. */
const SITE = `<svg xmlns="http://www.w3.org/2000/svg" width="900" height="600"><defs><linearGradient id="s" x2="0" y2="1"><stop offset="0" stop-color="#5f7fa6"/><stop offset="0.62" stop-color="#c9cfce"/></linearGradient></defs><rect width="900" height="600" fill="url(#s)"/><path d="M0 400C150 330 260 380 420 350S700 300 900 360V600H0Z" fill="#7d8c8f"/><path d="M0 440C200 400 330 450 520 420S800 400 900 430V600H0Z" fill="#56675c"/>${Array.from({ length: 30 }, (_, i) => `<ellipse cx="${i * 31 + ((i * 17) % 13)}" cy="${430 - ((i * 29) % 23)}" rx="${14 + ((i * 7) % 9)}" ry="${22 + ((i * 11) % 17)}" fill="#3f5244"/>`).join('')}</svg>`;

test('one surface after the other: gravel, roof, sky and brick, then doors and lamps; a site photograph behind, people by their eyes, vignette, soft top and bottom', async ({ page }) => {
  const WALL = [0.4, 0.577] as const;
  await openDemo(page);
  const [gravel, brick] = [await colorAt(page, ...GRAVEL), await colorAt(page, ...WALL)];
  await toStage(page, 'Surfaces');
  const schedule = page.getByRole('region', { name: 'Material schedule', exact: true });
  const surface = (name: string) => schedule.locator('tr[data-row]', { hasText: name }).first().click();
  const correct = async (name: string, params: Readonly<Record<string, string>>) => {
    await bench(page).getByRole('button', { name: 'Add …' }).click();
    await page.getByRole('option', { name, exact: true }).first().click();
    for (const [label, value] of Object.entries(params)) await type(page, label, value);
  };
  // Large first: shadows up, brightness and contrast, vibrance, a little towards yellow.
  await surface('Gravel');
  await correct('Shadows and highlights', { Shadows: '35' });
  await correct('Brightness and contrast', { Brightness: '6', Contrast: '8' });
  await correct('Vibrance', { Vibrance: '20' });
  await surface('Zinc');
  await correct('Brightness and contrast', { Brightness: '8' });
  await surface('Brick');
  await type(page, 'Saturation', '160');
  // Then what is small: the doors of bronze, and the lamps.
  await surface('Bronze');
  await type(page, 'Exposure', '0.4');
  await surface('Lamps');
  await type(page, 'Exposure', '0.3');

  // A photograph of the site stands behind, where alpha lets it through.
  await toStage(page, 'Sky & air');
  const [sky, facade] = [await colorAt(page, ...SKY), await colorAt(page, ...FACADE)];
  expect(sum(await colorAt(page, ...GRAVEL))).toBeGreaterThan(sum(gravel));
  expect(redder(await colorAt(page, ...WALL))).toBeGreaterThan(redder(brick));
  await page.getByRole('button', { name: 'Add the sky Clear noon' }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Sky', exact: true }), 'Photograph');
  await page.getByLabel('Picture files to add').setInputFiles({ name: 'site.png', mimeType: 'image/png', buffer: await sharp(Buffer.from(SITE)).png().toBuffer() });
  await choose(page, bench(page).getByRole('combobox', { name: 'Photograph' }), 'site');
  await expect.poll(() => colorAt(page, ...SKY)).not.toEqual(sky);
  expect(await colorAt(page, ...FACADE)).toEqual(facade);

  // What was said of its size has been read.
  await page.getByRole('region', { name: 'Notes' }).getByRole('button', { name: 'Close' }).click();
  // Two adults far from each other and a child: eyes of the grown-ups on the horizon, whatever their distance.
  await toStage(page, 'Entourage');
  const shelf = page.getByRole('region', { name: 'Figures to stand up' });
  const stand = async (name: string, fx: number, fy: number) => {
    await shelf.getByRole('button', { name: `Take ${name}`, exact: true }).click();
    await expect(shelf.getByRole('status')).toContainText('click the ground');
    await page.getByTestId('picture').click({ position: await picturePoint(page, fx, fy) });
    await expect(shelf.getByRole('status')).toHaveCount(0);
    const head = await page.getByRole('button', { name: new RegExp(`^Height of ${name}`) }).boundingBox();
    return head?.y ?? 0;
  };
  const near = await stand('Man, standing', 0.3, 0.92);
  const far = await stand('Woman, standing', 0.6, 0.8);
  const child = await stand('Child, standing', 0.45, 0.88);
  expect(Math.abs(near - far)).toBeLessThan(14);
  expect(child).toBeGreaterThan(Math.max(near, far) + 10);

  await toStage(page, 'Build-up');
  const corner = await colorAt(page, 0.01, 0.02);
  await correctAll(page, 'Vignette');
  await type(page, 'Corners', '-1');
  await expect.poll(async () => sum(await colorAt(page, 0.01, 0.02))).toBeLessThan(sum(corner));
  await correctAll(page, 'Tilt blur');
  await type(page, 'Width', '0.4');
  await sound(page);
  await pictured(page, 'one-surface-after-the-other');
});

test('a photograph in a render: held where it belongs, one shadow, darker where it stands, its warmth taken down, the place mirrored in it, mist, one grain', async ({ page }) => {
  await page.goto('/demo/late-sun');
  await settled(page);
  const [BODY, UNDER, BESIDE] = [[0.12, 0.72], [0.21, 0.868], [0.47, 0.8]] as const;
  await page.getByLabel('Picture files to add').setInputFiles(join(smallDemo, 'photograph/van_stand-in.exr'));
  await settled(page);
  await toStage(page, 'Entourage');
  const shelf = page.getByRole('region', { name: 'Figures to stand up' });
  await shelf.getByLabel('Add a picture of a person or a thing').setInputFiles({ name: 'van.png', mimeType: 'image/png', buffer: readFileSync('apps/web/public/figures/delivery-van.png') });
  await expect(shelf.getByRole('status')).toContainText('van');
  await page.getByTestId('picture').click({ position: await picturePoint(page, 0.22, 0.87) });
  await expect.poll(() => cardNames(page)).toContain('van');

  // Same horizon, same camera: by the eye level of its photograph, then by two places of it that are known.
  const panel = bench(page);
  await panel.getByText('A photograph in the place').click();
  await panel.getByText('Its eye level is known').click();
  await type(page, 'Eye level', '22.8');
  await type(page, 'Taken from', '8.6');
  await panel.getByRole('button', { name: 'As tall as its eye level says' }).click();
  await expect(panel).toContainText(/It was photographed from 1\.6\d m over its ground: it is looked at/);
  await panel.getByRole('button', { name: 'Hold by points' }).click();
  for (const [fx, fy] of [[0.105, 0.86], [0.22, 0.875]] as const) await page.getByTestId('picture').click({ position: await picturePoint(page, fx, fy) });
  await expect(panel).toContainText('2 of 4 are held');
  await panel.getByRole('button', { name: 'Hold by points' }).click();
  const point = page.getByRole('button', { name: 'Point 2 of van' });
  const from = await point.boundingBox();
  await point.focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(async () => (await point.boundingBox())?.x).toBeGreaterThan(from?.x ?? 0);
  await page.keyboard.press('Control+z');

  // The shadow that its stand-in caught, instead of a thrown one; not both.
  await type(page, 'Sun and shade', '0');
  await type(page, 'Contact', '0');
  const thrown = await colorAt(page, ...BESIDE);
  await choose(page, panel.getByRole('combobox', { name: 'Shadow' }), 'Caught in a render');
  await expect(panel).toContainText('The element that caught their shadow is not chosen');
  const none = await colorAt(page, ...BESIDE);
  await choose(page, panel.getByRole('combobox', { name: 'Caught shadow' }), /stand-in shadow/);
  await expect.poll(async () => sum(await colorAt(page, ...BESIDE))).toBeLessThan(sum(none));
  expect(thrown).not.toEqual(none);
  // What the place would mirror in it, inside of its own alpha; the rim of the old background goes.
  const dull = await colorAt(page, ...BODY);
  await choose(page, panel.getByRole('combobox', { name: 'Mirror the place' }), /stand-in reflection/);
  await type(page, 'Strength of it', '150');
  await expect.poll(async () => sum(await colorAt(page, ...BODY))).toBeGreaterThan(sum(dull));
  await type(page, 'Fringe', '3');
  await type(page, 'Edge drawn in', '1');
  // Its warmth goes, of it alone.
  await toStage(page, 'Build-up');
  const warm = redder(await colorAt(page, ...BODY));
  const ground = await colorAt(page, ...GRAVEL);
  await panel.getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'White balance' }).first().click();
  await type(page, 'Temperature', '5200');
  await expect.poll(async () => redder(await colorAt(page, ...BODY))).not.toBe(warm);
  expect(await colorAt(page, ...GRAVEL)).toEqual(ground);

  // Darker where it stands, brushed in.
  await toStage(page, 'Surfaces');
  const under = await colorAt(page, ...UNDER);
  await page.getByRole('button', { name: 'Find a command' }).click();
  await page.keyboard.type('Paint darker');
  await page.keyboard.press('Enter');
  await stroke(page, ...UNDER);
  await expect.poll(async () => sum(await colorAt(page, ...UNDER))).toBeLessThan(sum(under));

  // Mist in blue, one grain, contrast, clarity and a soft glow over all of it.
  await toStage(page, 'Sky & air');
  await bench(page).getByRole('button', { name: 'Painted mist' }).click();
  await stroke(page, 0.55, 0.72);
  await toStage(page, 'Build-up');
  for (const [name, label, value] of [['Grain', 'Amount', '0.06'], ['Local contrast', 'Medium', '15'], ['Glow', 'Amount', '6']] as const) {
    const before = (await page.getByTestId('picture').screenshot()).toString('base64');
    await correctAll(page, name);
    await type(page, label, value);
    await settled(page);
    await expect.poll(async () => (await page.getByTestId('picture').screenshot()).toString('base64')).not.toBe(before);
  }
  await sound(page);
  await pictured(page, 'photograph');
});
