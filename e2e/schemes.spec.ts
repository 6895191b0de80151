/** Schemes and the list of deliveries: what is changed belongs to the one that is shown; all of them delivered in one go, as the shell does it. */
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { calledFrom } from '../tests/shell.ts';
import { bench, cardNames, choose, colorAt, downloaded, notes, openDemo, saved, settled, toStage, type } from './helpers.ts';

const WALL = [0.62, 0.62] as const;
const SKY = [0.4, 0.04] as const;
const schemes = (page: Page) => page.getByRole('region', { name: 'Schemes', exact: true });
const shown = (page: Page) => page.getByRole('banner').getByRole('button', { name: /^Scheme:/ });
const apart = (a: readonly number[], b: readonly number[]) => a.reduce((sum, value, c) => sum + Math.abs(value - b[c]), 0);
const show = async (page: Page, name: string) => {
  await shown(page).click();
  await page.getByRole('menuitem', { name }).first().click();
  await expect(shown(page)).toHaveText(name);
  await settled(page);
};

test('two schemes: made by changing, chosen in any stage, beside each other, their differences taken back', async ({ page }) => {
  await openDemo(page);
  const [wall, sky] = [await colorAt(page, ...WALL), await colorAt(page, ...SKY)];
  await expect(shown(page)).toHaveCount(0);
  await toStage(page, 'Deliver');
  await schemes(page).getByRole('button', { name: 'New scheme' }).click();
  await expect(shown(page)).toHaveText('Scheme 1');
  await expect(page.getByRole('region', { name: 'Different in Scheme 1' })).toContainText('Nothing yet');
  await toStage(page, 'Build-up');
  await page.getByRole('button', { name: 'Select Evening', exact: true }).click();
  await type(page, 'Exposure', '-1.5');
  await settled(page);
  const dark = await colorAt(page, ...WALL);
  expect(apart(dark, wall)).toBeGreaterThan(40);
  await show(page, 'Without a scheme');
  expect(await colorAt(page, ...WALL)).toEqual(wall);
  // What is changed now is changed in all that do not say otherwise; another sky in a second scheme.
  await shown(page).click();
  await page.getByRole('menuitem', { name: 'New scheme' }).click();
  await toStage(page, 'Sky & air');
  await page.getByRole('region', { name: 'Skies' }).getByRole('button', { name: 'Add the sky Overcast' }).click();
  await settled(page);
  await expect.poll(async () => apart(await colorAt(page, ...SKY), sky)).toBeGreaterThan(15);
  await toStage(page, 'Deliver');
  await expect(page.getByRole('region', { name: 'Different in Scheme 2' })).toContainText('Sky');
  await schemes(page).getByText('Scheme 1', { exact: true }).click();
  await settled(page);
  expect(await colorAt(page, ...SKY)).not.toEqual(await colorAt(page, ...WALL));
  await expect.poll(() => colorAt(page, ...WALL)).toEqual(dark);
  await expect(page.getByRole('region', { name: 'Different in Scheme 1' })).toContainText(/Exposure .1\.50 EV/);

  await schemes(page).getByRole('button', { name: 'All schemes beside each other' }).click();
  const sheet = page.getByRole('dialog', { name: 'Schemes' });
  await expect(sheet.getByRole('button', { name: /scheme/i })).toHaveCount(3);
  await sheet.getByRole('button', { name: 'Scheme 2' }).click();
  await expect(shown(page)).toHaveText('Scheme 2');
  await settled(page);
  // Before and after may be another scheme.
  await page.keyboard.press('c');
  await choose(page, page.getByRole('combobox', { name: 'Compared with' }), 'Scheme 1');
  await expect.poll(async () => apart(await colorAt(page, ...WALL), dark)).toBeLessThan(6);
  await page.keyboard.press('c');
  await settled(page);

  await schemes(page).getByText('Scheme 1', { exact: true }).click();
  await page.getByRole('button', { name: 'Take back what is different of Evening' }).click();
  await expect.poll(() => colorAt(page, ...WALL)).toEqual(wall);
  await page.keyboard.press('Control+z');
  await expect.poll(() => colorAt(page, ...WALL)).toEqual(dark);
  await saved(page);
  await page.reload();
  await settled(page);
  await expect(shown(page)).toHaveText('Scheme 1');
  await expect.poll(() => colorAt(page, ...WALL)).toEqual(dark);
  await schemes(page).getByRole('button', { name: 'Remove the scheme Scheme 1' }).click();
  await expect.poll(() => colorAt(page, ...WALL)).toEqual(wall);
});

test('a list of deliveries: one zip, the same as the shell writes; into a folder, where nothing is overwritten and a full disk ends it', async ({ page }) => {
  // A folder as browsers have them, in memory; one of its files does not fit any more.
  await page.addInitScript(() => {
    const files = new Map<string, number>([['kiln-yard-library-150x100.jpg', 1]]);
    const handle = (name: string) => ({ createWritable: async () => ({ write: async (part: Uint8Array) => {
      if (files.size >= 4) throw new DOMException('full', 'QuotaExceededError');
      files.set(name, (files.get(name) ?? 0) + part.length);
    }, close: async () => undefined }) });
    Object.assign(window, { folder: files, showDirectoryPicker: async () => ({ name: 'For print', keys: () => files.keys(), getFileHandle: async (name: string) => handle(name), removeEntry: async (name: string) => void files.delete(name) }) });
  });
  await openDemo(page);
  await toStage(page, 'Deliver');
  await schemes(page).getByRole('button', { name: 'New scheme' }).click();
  await toStage(page, 'Build-up');
  await page.getByRole('button', { name: 'Select Evening', exact: true }).click();
  await type(page, 'Exposure', '-1');
  await toStage(page, 'Deliver');
  await bench(page).getByRole('button', { name: 'Keep in the list' }).click();
  await page.getByRole('radio', { name: 'JPEG' }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Size', exact: true }), /^Half/);
  await bench(page).getByRole('button', { name: 'Keep in the list' }).click();
  await bench(page).getByText('4 files').click();
  const names = ['kiln-yard-library-150x100.jpg', 'kiln-yard-library-300x200.png', 'kiln-yard-library-scheme-1-150x100.jpg', 'kiln-yard-library-scheme-1-300x200.png'];
  expect((await bench(page).getByRole('list', { name: 'Files' }).getByRole('listitem').allInnerTexts()).toSorted()).toEqual(names);
  const zip = await downloaded(page, bench(page).getByRole('button', { name: 'As one zip' }));
  expect(zip.name).toMatch(/^kiln-yard-library-\d{4}-\d\d-\d\d\.zip$/);
  const inZip = unzipSync(readFileSync(zip.path));
  expect(Object.keys(inZip).toSorted()).toEqual(names);

  const project = await downloaded(page, page.getByRole('button', { name: 'Save the project file' }));
  const folder = mkdtempSync(join(tmpdir(), 'tazzel-e2e-'));
  const run = calledFrom(folder);
  expect(await run('deliver', project.path, '--list')).toMatchObject({ status: 0, stdout: expect.stringContaining('png, 300 × 200') });
  expect(await run('deliver', project.path, '--out', 'pictures')).toMatchObject({ status: 0 });
  expect(readdirSync(join(folder, 'pictures')).toSorted()).toEqual(names);
  const pixels = (file: string | Uint8Array) => sharp(file).raw().toBuffer();
  for (const name of names) expect(Buffer.compare(await pixels(inZip[name]), await pixels(join(folder, 'pictures', name))), name).toBe(0);
  // Nothing is overwritten; a scheme by hand is what the list delivers of it.
  expect((await run('deliver', project.path, '--out', 'pictures', '--format', 'jpeg')).stdout).toContain('kiln-yard-library-150x100-2.jpg');
  expect(await run('flatten', project.path, '--out', 'scheme.png', '--scheme', 'Scheme 1')).toMatchObject({ status: 0 });
  expect(Buffer.compare(await pixels(join(folder, 'scheme.png')), await pixels(inZip[names[3]]))).toBe(0);
  expect(await run('flatten', project.path, '--out', 'x.png', '--scheme', 'Noon')).toMatchObject({ status: 2, stderr: expect.stringContaining('There are: Scheme 1, none') });

  await bench(page).getByRole('button', { name: 'Folder …' }).click();
  await expect(notes(page)).toContainText('2 of 4 files were not delivered');
  await expect(notes(page)).toContainText('There is no room left on the disk');
  expect(await page.evaluate(() => [...(window as unknown as { folder: Map<string, number> }).folder.keys()].toSorted())).toEqual(['kiln-yard-library-150x100-2.jpg', 'kiln-yard-library-150x100.jpg', 'kiln-yard-library-300x200.png']);
  expect(await cardNames(page)).toContain('Evening');
});

test('a picture in other proportions, in another colour space, with its author; what is cut off is seen, what was chosen stays', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Deliver');
  const frame = page.getByTestId('cut-frame');
  await expect(frame).toHaveCount(0);
  await choose(page, bench(page).getByRole('combobox', { name: 'Proportions' }), '2 : 1');
  await expect(frame).toBeVisible();
  await type(page, 'Moved', '-100');
  await choose(page, bench(page).getByRole('combobox', { name: 'Colours' }), 'Display P3');
  await bench(page).getByRole('textbox', { name: 'Author' }).fill('A. Nobody');
  await page.keyboard.press('Enter');
  const wide = await downloaded(page, bench(page).getByRole('button', { name: 'Save the picture' }));
  expect(wide.name).toBe('kiln-yard-library-300x150.png');
  const { icc, comments } = await sharp(wide.path).metadata();
  expect(icc?.includes(Buffer.from('\0D\0i\0s\0p\0l\0a\0y\0 \0P\x003'))).toBe(true);
  expect(comments).toEqual([{ keyword: 'Author', text: 'A. Nobody' }]);
  await bench(page).getByRole('button', { name: 'Keep in the list' }).click();
  await expect(bench(page)).toContainText('PNG, 300 × 150');
  // Any part of it, by numbers or dragged by its corners.
  await choose(page, bench(page).getByRole('combobox', { name: 'Proportions' }), 'A part of it');
  await type(page, 'From the left', '50');
  await type(page, 'From the top', '20');
  const corner = await frame.getByTitle('Lower right corner of the part').boundingBox();
  if (!corner) throw new Error('The part has no corner.');
  await page.mouse.move(corner.x + 6, corner.y + 6);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(corner.x + 6 - 12 * i, corner.y + 6 - 6 * i);
  await page.mouse.up();
  const wideNow = Number(await bench(page).getByRole('textbox', { name: 'Part, across' }).inputValue());
  expect(wideNow).toBeLessThan(170);
  const dragged = await downloaded(page, bench(page).getByRole('button', { name: 'Save the picture' }));
  expect((await sharp(dragged.path).metadata()).width).toBe(wideNow);
  await choose(page, bench(page).getByRole('combobox', { name: 'Proportions' }), 'As it is');
  await expect(frame).toHaveCount(0);
  await choose(page, bench(page).getByRole('combobox', { name: 'Colours' }), 'sRGB');
  const whole = await downloaded(page, bench(page).getByRole('button', { name: 'Save the picture' }));
  // The upper 150 rows, by libvips and Little CMS; the pattern against banding may differ by a code on either side.
  const [part, all] = [await sharp(wide.path).toColorspace('srgb').raw().toBuffer(), await sharp(whole.path).extract({ left: 0, top: 0, width: 300, height: 150 }).raw().toBuffer()];
  expect(part.length).toBe(all.length);
  expect(part.filter((value, i) => Math.abs(value - all[i]) > 3).length / part.length).toBeLessThan(0.001);
  await saved(page);
  await page.reload();
  await settled(page);
  await expect(bench(page).getByRole('textbox', { name: 'Author' })).toHaveValue('A. Nobody');
  await expect(bench(page)).toContainText('PNG, 300 × 150');
});
