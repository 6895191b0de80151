/** Another sky behind the demo's building: from the shelf, matched, changed, with clouds, at dusk; what it lacks is said. */
import { expect, type Page, test } from '@playwright/test';
import sharp from 'sharp';
import { bench, cardNames, cards, choose, colorAt, demoFile, newDocument, openDemo, saved, settled, toStage, type } from './helpers.ts';

const apart = (a: readonly number[], b: readonly number[]) => a.reduce((sum, value, c) => sum + Math.abs(value - b[c]), 0);
const SKY = [0.4, 0.04] as const;
const WALL = [0.62, 0.62] as const;
const ROOF = [0.45, 0.44] as const;
const shelf = (page: Page) => page.getByRole('region', { name: 'Skies' });
const pick = async (page: Page, name: string) => {
  await shelf(page).getByRole('button', { name }).click();
  await expect(bench(page)).toContainText('Sky, under the tone line');
  await settled(page);
};
const stops = (page: Page) => bench(page).getByRole('textbox', { name: 'Exposure' }).inputValue();

test('a sky of the shelf falls into place: brightness and sun of the picture, the building untouched; another one, undo, reload', async ({ page }) => {
  await openDemo(page);
  const [sky, wall] = [await colorAt(page, ...SKY), await colorAt(page, ...WALL)];
  await toStage(page, 'Sky & air');
  await pick(page, 'Add the sky Late sun');
  expect(await cardNames(page)).toContain('Sky');
  await expect.poll(async () => apart(await colorAt(page, ...SKY), sky)).toBeGreaterThan(10);
  expect(await colorAt(page, ...WALL)).toEqual(wall);
  // About as bright as the one that was rendered.
  const luminance = ([r, g, b]: readonly number[]) => 0.2 * r + 0.7 * g + 0.1 * b;
  const late = await colorAt(page, ...SKY);
  expect(Math.abs(luminance(late) - luminance(sky))).toBeLessThan(60);
  await expect(bench(page)).toContainText(/Its sun stands \d°/);
  const exposure = await stops(page);
  // Another one changes it: there is one sky.
  await pick(page, 'Change the sky to Blue hour');
  await expect.poll(() => stops(page)).not.toBe(exposure);
  expect((await cardNames(page)).filter((name) => name === 'Sky')).toHaveLength(1);
  await expect.poll(async () => { const [r, , b] = await colorAt(page, ...SKY); return b - r; }).toBeGreaterThan(60);
  expect(await colorAt(page, ...WALL)).toEqual(wall);
  await page.keyboard.press('Control+z');
  await expect.poll(() => stops(page)).toBe(exposure);
  await expect.poll(async () => apart(await colorAt(page, ...SKY), late)).toBeLessThan(4);
  await saved(page);
  await page.reload();
  await settled(page);
  await expect.poll(async () => apart(await colorAt(page, ...SKY), late)).toBeLessThan(4);
});

test('a sky of one’s own: clouds, a standard sky, a sun that does not belong, matched again', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Add a layer …' }).click();
  await page.getByRole('menuitem', { name: /^Sky/ }).first().click();
  await settled(page);
  const panel = bench(page);
  await expect(panel.getByRole('combobox', { name: 'Sun', exact: true })).toHaveText('The document’s');
  await expect(panel.getByRole('textbox', { name: 'Cover' })).toHaveCount(0);
  await choose(page, panel.getByRole('combobox', { name: 'Clouds', exact: true }), 'Stratus');
  await type(page, 'Cover', '100');
  const covered = await colorAt(page, ...SKY);
  await choose(page, panel.getByRole('combobox', { name: 'Clouds', exact: true }), 'None');
  expect(apart(await colorAt(page, ...SKY), covered)).toBeGreaterThan(10);
  await choose(page, panel.getByRole('combobox', { name: 'Sky', exact: true }), 'Sky of the CIE standard');
  await choose(page, panel.getByRole('combobox', { name: 'Type' }), /^1 Overcast/);
  await type(page, 'White', '3000');
  const [r, , b] = await colorAt(page, ...SKY);
  expect(r).toBeGreaterThan(b);
  await choose(page, panel.getByRole('combobox', { name: 'Sun', exact: true }), 'Of its own');
  await type(page, 'Sun’s height', '80');
  // One that is alike all around tells of no sun.
  await expect(panel).not.toContainText('shadows will tell');
  await choose(page, panel.getByRole('combobox', { name: 'Type' }), /^12/);
  await expect(panel).toContainText('shadows will tell');
  await type(page, 'Exposure', '6');
  await panel.getByRole('button', { name: 'As bright as the rendered sky' }).click();
  await expect.poll(async () => Math.abs(Number(await stops(page)))).toBeLessThan(4);
  await panel.getByRole('button', { name: 'Of its white' }).click();
  await expect.poll(async () => { const [red, , blue] = await colorAt(page, ...SKY); return blue - red; }).toBeGreaterThan(0);
});

test('without alpha and camera it says what to do', async ({ page }) => {
  await newDocument(page, [demoFile('kiln-yard_material_id.png')]);
  await toStage(page, 'Sky & air');
  await expect(bench(page)).toContainText('Click a sky of the shelf');
  await shelf(page).getByRole('button', { name: 'Add the sky Overcast' }).click();
  await expect(bench(page)).toContainText('There is no alpha: give the sky a mask');
  await expect(bench(page)).toContainText('The camera is not known');
});

test('a picture as a sky: a photograph behind the building; one that is not of everything around is refused as such', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Sky & air');
  await pick(page, 'Add the sky Clear noon');
  const clear = await colorAt(page, ...SKY);
  const panel = bench(page);
  await choose(page, panel.getByRole('combobox', { name: 'Sky', exact: true }), 'Photograph');
  await expect(panel).toContainText('Choose its picture');
  await page.getByLabel('Picture files to add').setInputFiles(demoFile('kiln-yard_material_id.png'));
  await choose(page, panel.getByRole('combobox', { name: 'Photograph' }), 'kiln-yard_material_id');
  await expect.poll(async () => apart(await colorAt(page, ...SKY), clear)).toBeGreaterThan(40);
  await choose(page, panel.getByRole('combobox', { name: 'Sky', exact: true }), 'Environment');
  await expect(panel).toContainText('twice as wide as high; only those are offered');
  await panel.getByRole('combobox', { name: 'All around' }).click();
  await expect(page.getByRole('option')).toHaveText(['Nothing']);
});

test('an environment is turned by its sun; one without a sun says so', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Sky & air');
  await pick(page, 'Add the sky Clear noon');
  const panel = bench(page);
  await choose(page, panel.getByRole('combobox', { name: 'Sky', exact: true }), 'Environment');
  // 90° to the right of the middle, and 30° high.
  const around = (spot: string) => sharp({ create: { width: 256, height: 128, channels: 3, background: '#405060' } }).composite([{ input: { create: { width: 4, height: 4, channels: 3, background: spot } }, left: 190, top: 41 }]).png().toBuffer();
  const files = await Promise.all([['sunny_dome.png', '#ffffff'], ['even_dome.png', '#506070']].map(async ([name, spot]) => ({ name, mimeType: 'image/png', buffer: await around(spot) })));
  await page.getByLabel('Picture files to add').setInputFiles(files);
  await choose(page, panel.getByRole('combobox', { name: 'All around' }), 'sunny_dome');
  await settled(page);
  await panel.getByRole('button', { name: 'Turn its sun to the picture’s' }).click();
  // The picture's sun stands at −120°.
  await expect.poll(async () => Math.abs(Number((await panel.getByRole('textbox', { name: 'Turned' }).inputValue()).replace('−', '-')) - 150)).toBeLessThan(1);
  await expect(panel).toContainText('Its sun stands 22° higher than that of the picture: shadows will tell.');
  await choose(page, panel.getByRole('combobox', { name: 'All around' }), 'even_dome');
  await panel.getByRole('button', { name: 'Turn its sun to the picture’s' }).click();
  await expect(panel.getByRole('alert')).toContainText('It has no sun');
});

test('a sky in glass and water, kept for other documents, dragged onto the picture', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Sky & air');
  await pick(page, 'Add the sky Blue hour');
  const roof = await colorAt(page, ...ROOF);
  await bench(page).getByRole('button', { name: 'In glass and water, too' }).click();
  await expect(bench(page)).toContainText('Sky in reflections, under the tone line');
  await settled(page);
  const blue = ([r, , b]: readonly number[]) => b - r;
  await expect.poll(async () => blue(await colorAt(page, ...ROOF))).toBeGreaterThan(blue(roof) + 10);
  await shelf(page).getByRole('button', { name: 'Keep this sky' }).click();
  await expect(shelf(page).getByRole('button', { name: 'Change the sky to Kiln Yard Library' })).toBeVisible();
  // Its edges at full size, one place after the other, and as they were without it.
  await cards(page).getByRole('button', { name: 'Select Sky', exact: true }).click();
  await bench(page).getByRole('button', { name: 'Look at its edges' }).click();
  await bench(page).getByRole('button', { name: /^Edge 1 of \d/ }).click();
  await expect(bench(page).getByRole('button', { name: /^Edge 2 of \d/ })).toBeVisible();
  await settled(page);
  const shown = () => page.getByTestId('picture').evaluate((canvas: HTMLCanvasElement) => [...(canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height).data ?? [])].reduce((sum, value) => sum + value, 0));
  const without = await shown();
  const old = bench(page).getByRole('button', { name: 'Edges as they were' });
  await old.click();
  await settled(page);
  await expect.poll(shown).not.toBe(without);
  await old.click();
  await settled(page);
  await expect.poll(shown).toBe(without);
  await page.keyboard.press('0');
  await settled(page);
  // By the pointer, from the shelf onto the picture: what mirrors it follows.
  await shelf(page).getByRole('button', { name: 'Change the sky to Overcast' }).dragTo(page.getByTestId('picture'));
  await expect(bench(page)).toContainText('Sky, under the tone line');
  await expect(bench(page).getByRole('combobox', { name: 'Type' })).toContainText('Overcast');
  await settled(page);
  await expect.poll(async () => blue(await colorAt(page, ...ROOF))).toBeLessThan(blue(roof) + 10);
  await saved(page);
  await page.reload();
  await settled(page);
  await shelf(page).getByRole('button', { name: 'Take Kiln Yard Library off the shelf' }).click();
  await expect(shelf(page).getByRole('button', { name: 'Change the sky to Kiln Yard Library' })).toHaveCount(0);
});

test('the demo’s courtyard on a misty morning: its sky under its air, and back to the documents', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await page.getByRole('menuitem', { name: 'The courtyard on a misty winter morning' }).click();
  await page.waitForURL(/demo-misty-morning/);
  await settled(page);
  const names = await cardNames(page);
  expect(names.indexOf('Sky')).toBeGreaterThan(names.indexOf('Light mix'));
  expect(names.indexOf('Air')).toBe(names.indexOf('Sky') + 1);
  // White sky, pale wall.
  const [sky, wall] = [await colorAt(page, ...SKY), await colorAt(page, ...WALL)];
  expect(Math.max(...sky) - Math.min(...sky)).toBeLessThan(30);
  expect(Math.min(...sky)).toBeGreaterThan(140);
  expect(Math.max(...wall) - Math.min(...wall)).toBeLessThan(60);
});
