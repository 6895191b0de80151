/** The stage Elements: from files to a build-up that is proven right, and a newer render under it. */
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import sharp from 'sharp';
import { demoPart, demoSet } from '../tests/elements.ts';
import { bench, canvasPixel, cardNames, choose, colorAt, downloaded, drop, fieldPoint, newDocument, notes, settled, toStage, type } from './helpers.ts';

const folder = mkdtempSync(join(tmpdir(), 'tazzel-e2e-'));
/** A stand-in for a folder that the browser was allowed to read. */
const standInFolder = (page: Page) =>
  page.addInitScript(() => {
    const files: File[] = [];
    Object.assign(globalThis, {
      renders: files,
      showDirectoryPicker: async () => ({
        name: 'renders',
        async *values() {
          for (const file of files) yield { kind: 'file', name: file.name, getFile: async () => file };
        },
      }),
    });
  });
/** Notes lie over a corner of the picture. */
const closeNotes = async (page: Page) => {
  const button = page.getByRole('button', { name: 'Close the notes' });
  if (await button.isVisible()) await button.click();
};
async function openSet(page: Page, files: readonly string[]): Promise<void> {
  await newDocument(page, files);
  await closeNotes(page);
  await toStage(page, 'Elements');
}
const row = (page: Page, name: string) => page.locator('tr[data-row]', { hasText: name }).first();

test('a set is checked, a fault is found and mended with one click, undo brings it back', async ({ page }) => {
  await openSet(page, demoSet('courtyard'));
  await expect(bench(page)).toContainText('direct_lighting + gi + reflection + refraction + specular + self_illumination + background = denoised_beauty?');
  await choose(page, bench(page).getByRole('combobox', { name: 'Light that came both ways' }), 'Filter × raw');
  await expect(bench(page)).toContainText('diffuse_filter × raw_lighting +');
  await choose(page, bench(page).getByRole('combobox', { name: 'Light that came both ways' }), 'Lit elements');
  await bench(page).getByRole('button', { name: 'Check', exact: true }).click();
  await expect(bench(page).locator('[data-verdict="adds-up"]')).toBeVisible();
  // Reflection read as display values: the check runs again by itself and says so.
  await row(page, 'reflection').click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Encoding' }), 'Display');
  await bench(page).getByRole('button', { name: 'The whole set' }).click();
  await expect(bench(page).locator('[data-verdict="off"]')).toBeVisible();
  await expect(bench(page)).toContainText('With reflection read in the other encoding the sum fits');
  await bench(page).getByRole('button', { name: 'Apply' }).first().click();
  await expect(bench(page).locator('[data-verdict="adds-up"]')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(bench(page).locator('[data-verdict="off"]')).toBeVisible();
  await page.keyboard.press('Control+z');
  await choose(page, bench(page).getByRole('combobox', { name: 'What to add up' }), 'Light groups');
  await expect(bench(page)).toContainText('The 6 light groups add up');
});

test('exact rebuild looks as the beauty does; filter × raw is a group; the difference is black', async ({ page }) => {
  await openSet(page, demoSet('courtyard'));
  await settled(page);
  const points = await Promise.all([[0.3, 0.3], [0.5, 0.6], [0.7, 0.75]].map(([x, y]) => fieldPoint(page, x, y)));
  const origin = await fieldPoint(page, 0, 0);
  const colors = async () => {
    await settled(page);
    return Promise.all(points.map(({ x, y }) => canvasPixel(page, x - origin.x, y - origin.y)));
  };
  const beauty = await colors();
  await bench(page).getByRole('button', { name: 'Exact rebuild' }).click();
  await expect.poll(() => cardNames(page)).toEqual(['denoised_beauty, for reference', 'Elements']);
  const rebuilt = await colors();
  for (const [i, color] of rebuilt.entries()) for (const c of [0, 1, 2]) expect(Math.abs(color[c] - beauty[i][c])).toBeLessThanOrEqual(3);
  await page.getByRole('button', { name: /Open Elements: 7 layers/ }).click();
  await expect.poll(() => cardNames(page)).toHaveLength(9);
  await bench(page).getByRole('button', { name: 'Look at the difference' }).click();
  await expect(page.getByText('Difference from denoised_beauty, 4 stops brighter')).toBeVisible();
  for (const color of await colors()) for (const c of [0, 1, 2]) expect(color[c]).toBeLessThan(70);
  await bench(page).getByRole('button', { name: 'Look at the difference' }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Granularity of the rebuild' }), 'Filter × raw');
  await bench(page).getByRole('button', { name: 'Exact rebuild' }).click();
  await page.getByRole('button', { name: /Open Elements/ }).click();
  await expect.poll(() => cardNames(page)).toContain('diffuse_filter × raw_lighting');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(() => cardNames(page)).toEqual(['denoised_beauty']);
});

test('enhancement says what is missing; a build-up is kept as a recipe and built again', async ({ page }) => {
  await openSet(page, demoSet('courtyard'));
  await bench(page).getByRole('button', { name: 'Enhancement' }).click();
  const report = notes(page);
  await expect(report).toContainText('Shadow is missing: shadows are not deepened.');
  // The coverage matte says what the materials are called, so glass and water are found.
  await expect(report).not.toContainText('no material is called');
  await closeNotes(page);
  await expect.poll(() => cardNames(page)).toEqual(['Beauty', 'Enhancement']);
  await bench(page).getByRole('button', { name: 'Keep this build-up as a recipe' }).click();
  await bench(page).getByRole('button', { name: 'Beauty only' }).click();
  await expect.poll(() => cardNames(page)).toEqual(['Beauty']);
  await page.reload();
  await settled(page);
  await bench(page).getByRole('button', { name: 'Build', exact: true }).click();
  await closeNotes(page);
  await expect.poll(() => cardNames(page)).toEqual(['Beauty', 'Enhancement']);
  await bench(page).getByRole('button', { name: /More about/ }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: 'Save as a file' }).click()]);
  expect(download.suggestedFilename()).toBe('courtyard-1.recipe.json');
  await bench(page).getByRole('button', { name: /More about/ }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await bench(page).getByLabel('Recipe file').setInputFiles(await download.path());
  await expect(bench(page).getByRole('button', { name: 'Build', exact: true })).toBeVisible();
});

test('a corrected role is remembered for the next files, and rules can be taken away', async ({ page }) => {
  const strange = join(folder, 'yard_gloss.exr');
  // Without the name of its part, which would say what it is.
  execFileSync('oiiotool', [demoPart('reflection'), '--subimage', 'reflection', '--eraseattrib', '.*name', '-o', strange]);
  const beauty = join(folder, 'yard_beauty.exr');
  execFileSync('oiiotool', [demoPart('denoised_beauty'), '--subimage', 'denoised_beauty', '--ch', 'R,G,B', '--eraseattrib', '.*name', '-o', beauty]);
  await openSet(page, [beauty, strange]);
  await row(page, 'yard_gloss').click();
  await expect(bench(page)).toContainText('Specular: the name says “specular”');
  await choose(page, bench(page).getByRole('combobox', { name: 'Role', exact: true }), /^Reflection$/);
  await expect(page.getByText('Elements called “yard gloss” are read as reflection from now on.')).toBeVisible();
  await expect(bench(page)).toContainText('Reflection: chosen by hand');
  await openSet(page, [beauty, strange]);
  await row(page, 'yard_gloss').click();
  await expect(bench(page)).toContainText('Reflection: your rule for “yard gloss”, for sure');
  await bench(page).getByRole('button', { name: 'The whole set' }).click();
  await bench(page).getByRole('button', { name: 'Rules for roles' }).click();
  const file = await downloaded(page, page.getByRole('dialog').getByRole('button', { name: 'Save as a file' }));
  expect(JSON.parse(readFileSync(file.path, 'utf8'))).toEqual({ format: 'tazzel-role-rules', rules: [{ words: ['yard', 'gloss'], role: 'reflection' }] });
  await page.getByRole('button', { name: 'Delete the rule for yard gloss: Reflection' }).click();
  await expect(page.getByRole('dialog')).toContainText('No rules yet');
  await page.getByLabel('File of rules').setInputFiles(file.path);
  await expect(page.getByRole('combobox', { name: 'Role for yard gloss' })).toBeVisible();
});

test('pictures of every format of one drop; damage is named with its remedy', async ({ page }) => {
  await openSet(page, [demoPart('denoised_beauty')]);
  const photo = sharp({ create: { width: 1200, height: 800, channels: 3, background: '#204060' } });
  const occlusion = await sharp({ create: { width: 1200, height: 800, channels: 3, background: '#000000' } }).composite([{ input: { create: { width: 300, height: 800, channels: 3, background: '#a0a0a0' } }, left: 0, top: 0 }]).png().toBuffer();
  await drop(page, [
    { name: 'site.jpg', bytes: await photo.clone().jpeg().toBuffer() },
    { name: 'entourage.webp', bytes: await photo.clone().webp().toBuffer() },
    { name: 'sketch.tif', bytes: await photo.clone().tiff().toBuffer() },
    { name: 'ao.png', bytes: occlusion },
    { name: 'small_photo.png', bytes: await photo.clone().resize(300, 200).png().toBuffer() },
  ]);
  const report = notes(page);
  await expect(report).toContainText('ao: it is black with light creases, the inverse of what is multiplied');
  await expect(report).toContainText('small_photo.png is 300 × 200, the document 1200 × 800');
  await closeNotes(page);
  for (const name of ['site', 'entourage', 'sketch']) await expect(row(page, name)).toBeVisible();
  await row(page, 'ao').click();
  await bench(page).getByRole('button', { name: 'Invert' }).click();
  await expect(bench(page)).not.toContainText('the inverse of what is multiplied');
  await row(page, 'small_photo').click();
  await bench(page).getByRole('button', { name: 'Look at it alone' }).click();
  await bench(page).getByRole('button', { name: 'Scale to the picture' }).click();
  await settled(page);
  // Without fitting, only the upper left corner would be covered.
  const [at, origin] = [await fieldPoint(page, 0.6, 0.7), await fieldPoint(page, 0, 0)];
  expect((await canvasPixel(page, at.x - origin.x, at.y - origin.y)).slice(0, 3)).toEqual([0x20, 0x40, 0x60]);
  // In its own proportions it covers the picture as well; nothing of it is missing at the right edge.
  await bench(page).getByRole('button', { name: 'Fill and crop' }).click();
  await settled(page);
  await expect(bench(page)).toContainText('drawn at 1200 × 800');
  expect((await canvasPixel(page, at.x - origin.x, at.y - origin.y)).slice(0, 3)).toEqual([0x20, 0x40, 0x60]);
  await bench(page).getByRole('button', { name: 'In the middle' }).click();
  await expect(bench(page)).not.toContainText('drawn at');
});

test('a newer render takes the place of the old one under masks and corrections', async ({ page }) => {
  const [files, newer] = [demoSet('courtyard'), mkdtempSync(join(tmpdir(), 'tazzel-newer-'))];
  await openSet(page, files);
  await toStage(page, 'Surfaces');
  await page.locator('tr[data-row]').first().click();
  await type(page, 'Exposure', '0.5');
  const before = await cardNames(page);
  // The next render: the beauty half as bright, in the same parts.
  const next = files.map((path) => {
    const to = join(newer, basename(path));
    if (path === demoPart('denoised_beauty')) execFileSync('oiiotool', [path, '--subimage', 'denoised_beauty', '--mulc', '0.25', '--attrib', 'oiio:subimagename', 'denoised_beauty', '-d', 'half', '-o', to]);
    else copyFileSync(path, to);
    return to;
  });
  await toStage(page, 'Elements');
  await page.getByLabel('Files of the newer render').setInputFiles(next.filter((path) => basename(path) === basename(demoPart('denoised_beauty'))));
  const sheet = page.getByRole('dialog');
  await expect(sheet).toContainText('One element gets new pixels');
  await expect(sheet).toContainText('Not in the newer render, kept as they are: ');
  await settled(page);
  const [at, origin] = [await fieldPoint(page, 0.5, 0.25), await fieldPoint(page, 0, 0)];
  const sky = await canvasPixel(page, at.x - origin.x, at.y - origin.y);
  await sheet.getByRole('button', { name: 'Replace', exact: true }).click();
  await expect.poll(async () => { await settled(page); return (await canvasPixel(page, at.x - origin.x, at.y - origin.y))[2]; }).toBeLessThan(sky[2] * 0.75);
  await expect.poll(() => cardNames(page)).toEqual(before);
  // The one before is in the list, with its picture; it comes back, and the newer one is in its place there.
  const earlier = page.getByRole('list', { name: 'Renders before' }).getByRole('listitem');
  await expect(earlier).toHaveCount(1);
  const blue = async () => { await settled(page); return (await canvasPixel(page, at.x - origin.x, at.y - origin.y))[2]; };
  await earlier.getByRole('button', { name: /^Bring back Render 1/ }).click();
  await expect.poll(blue).toBe(sky[2]);
  await expect(earlier.first()).toContainText('Render 2');
  await page.reload();
  await settled(page);
  await toStage(page, 'Elements');
  await earlier.getByRole('button', { name: /^Bring back Render 2/ }).click();
  await expect.poll(blue).toBeLessThan(sky[2] * 0.75);
  await earlier.getByRole('button', { name: /^Remove Render/ }).click();
  await expect(earlier).toHaveCount(0);
  for (let n = 0; n < 2; n++) await page.keyboard.press('Control+z');
  await expect.poll(blue).toBe(sky[2]);
});

test('a region that was rendered again is laid over the still at its place, under the same corrections', async ({ page }) => {
  await openSet(page, [demoPart('denoised_beauty')]);
  const region = join(mkdtempSync(join(tmpdir(), 'tazzel-region-')), 'courtyard_region.exr');
  // The same frame, with pixels of its middle alone, four times as bright.
  execFileSync('oiiotool', [demoPart('denoised_beauty'), '--subimage', 'denoised_beauty', '--mulc', '4', '--crop', '400x240+400+280', '--attrib', 'oiio:subimagename', 'denoised_beauty', '-d', 'half', '-o', region]);
  await toStage(page, 'Elements');
  const [inside, outside] = [await colorAt(page, 0.5, 0.5), await colorAt(page, 0.1, 0.9)];
  await page.getByLabel('Files of the newer render').setInputFiles(region);
  const sheet = page.getByRole('dialog', { name: 'Replace by a newer render' });
  await expect(sheet).toContainText('Only a part of the picture was rendered');
  await sheet.getByRole('button', { name: 'Lay it over' }).click();
  await expect.poll(async () => (await colorAt(page, 0.5, 0.5))[0]).toBeGreaterThan(inside[0] + 20);
  expect(await colorAt(page, 0.1, 0.9)).toEqual(outside);
  await toStage(page, 'Build-up');
  expect(await cardNames(page)).toEqual(['denoised_beauty', 'denoised_beauty, a part']);
  await page.keyboard.press('Control+z');
  await expect.poll(() => colorAt(page, 0.5, 0.5)).toEqual(inside);
});

test('a folder is looked at: a render that is put into it is offered once it is whole', async ({ page }) => {
  await standInFolder(page);
  await openSet(page, [demoPart('denoised_beauty')]);
  await page.getByRole('button', { name: 'Look at a folder …' }).click();
  await expect(page.getByText('Looking at “renders”')).toBeVisible();
  const bytes = readFileSync(demoPart('denoised_beauty')).toString('base64');
  const put = (share: number) =>
    page.evaluate(
      ([data, part]) => {
        const all = Uint8Array.from(atob(data as string), (char) => char.charCodeAt(0));
        (globalThis as unknown as { renders: File[] }).renders.splice(0, 1, new File([all.subarray(0, Math.round(all.length * (part as number)))], 'courtyard.exr', { lastModified: 1000 * (part as number) }));
      },
      [bytes, share] as const,
    );
  await put(0.3);
  await expect(page.getByText('courtyard.exr is not whole yet')).toBeVisible({ timeout: 15_000 });
  await put(1);
  const sheet = page.getByRole('dialog', { name: 'Replace by a newer render' });
  await expect(sheet).toContainText('new pixels', { timeout: 30_000 });
  await sheet.getByRole('button', { name: 'Replace', exact: true }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Look at a folder …' })).toBeVisible();
});

test('a render that is put into a folder becomes a document, while the start page is open', async ({ page }) => {
  await standInFolder(page);
  await page.goto('/');
  await page.getByRole('button', { name: 'Look at a folder …' }).click();
  await expect(page.getByText('Looking at “renders” while this page is open')).toBeVisible();
  const bytes = readFileSync(demoPart('denoised_beauty')).toString('base64');
  await page.evaluate((data) => void (globalThis as unknown as { renders: File[] }).renders.push(new File([Uint8Array.from(atob(data), (char) => char.charCodeAt(0))], 'courtyard.exr', { lastModified: 5 })), bytes);
  await expect(page.getByText('1 file of the folder became a document')).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'Open', exact: true }).last().click();
  await settled(page);
  await expect.poll(() => cardNames(page)).toEqual(['denoised_beauty']);
});
