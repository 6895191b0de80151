import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import sharp from 'sharp';
import { bench, cards, choose, demoFile, newDocument, openDemo, settled, toStage, type } from './helpers.ts';

const rows = (page: Page, table: string) => page.getByRole('region', { name: table, exact: true }).locator('tr[data-row]');
const names = (page: Page, table: string) => rows(page, table).evaluateAll((items) => items.map((row) => row.querySelector('button')?.textContent ?? ''));

test('the material schedule sorts, searches, renames, and follows the picture', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Surfaces');
  await expect.poll(async () => (await names(page, 'Material schedule')).slice(0, 3)).toEqual(['Sky', 'Gravel', 'Leaves']);
  await page.getByRole('button', { name: 'Material', exact: true }).click();
  expect((await names(page, 'Material schedule')).slice(0, 3)).toEqual(['Bark', 'Brick', 'Bronze']);
  await page.getByRole('button', { name: 'Material', exact: true }).click();
  expect((await names(page, 'Material schedule'))[0]).toBe('Zinc');
  await expect(page.getByRole('columnheader', { name: 'Material' })).toHaveAttribute('aria-sort', 'descending');
  await page.getByRole('button', { name: 'Area', exact: true }).click();
  expect((await names(page, 'Material schedule'))[0]).toBe('Sky');
  await page.getByRole('searchbox', { name: /Search material schedule/ }).fill('gra');
  expect(await names(page, 'Material schedule')).toEqual(['Gravel', 'Grass']);
  await page.getByRole('searchbox', { name: /Search material schedule/ }).fill('marble');
  await expect(page.getByText('Nothing here is called “marble”.')).toBeVisible();
  await page.getByRole('searchbox', { name: /Search material schedule/ }).fill('');

  // A new name reaches the mask that stands for the material, and the card that uses it.
  await rows(page, 'Material schedule').getByRole('button', { name: /^M\d+: Brick\./ }).dblclick();
  await page.keyboard.type('Clinker');
  await page.keyboard.press('Enter');
  await expect(rows(page, 'Masks').nth(1)).toContainText('Clinker');
  await expect(cards(page).nth(8)).toContainText('Clinker');
  await page.keyboard.press('Control+z');
  await expect(cards(page).nth(8)).toContainText('Brick');
});

test('a mask of the shelf is shared: the second use says so, and shows on the picture', async ({ page }) => {
  await openDemo(page);
  await cards(page).nth(2).getByRole('button', { name: /^Select/ }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask' }), 'Glass');
  await expect(bench(page)).toContainText('shared by 2');
  await expect(rows(page, 'Masks').nth(3)).toContainText('2');
  await rows(page, 'Masks').nth(3).click();
  await expect(page.getByRole('radio', { name: 'hatch' })).toBeChecked();
  await rows(page, 'Masks').nth(3).getByRole('button').dblclick();
  await page.keyboard.type('Glazing');
  await page.keyboard.press('Enter');
  await expect(cards(page).nth(2)).toContainText('Glazing');
  await expect(cards(page).nth(11)).toContainText('not Glazing');
  // A material that has no mask yet gets one by being chosen.
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask' }), /Timber/);
  await expect(rows(page, 'Masks')).toHaveCount(7);
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask' }), 'None');
  await expect(cards(page).nth(2)).toContainText('everywhere');
});

test('what cannot be done says why', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Elements');
  await page.locator('tr[data-row]', { hasText: 'denoised_beauty' }).click();
  await bench(page).getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByText('denoised_beauty is used by a layer. Delete the layer first.')).toBeVisible();
  await page.locator('tr[data-row]', { hasText: 'depth' }).first().click();
  await bench(page).getByRole('button', { name: 'Remove' }).click();
  await expect(page.locator('tr[data-row]', { hasText: 'depth' })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(page.locator('tr[data-row]', { hasText: 'depth' })).toHaveCount(1);
});

test('settings are remembered: panels, fold, delivery', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: 'Dark panels' }).click();
  await page.getByRole('button', { name: 'Fold' }).click();
  await toStage(page, 'Deliver');
  await page.getByRole('radio', { name: 'OpenEXR' }).click();
  await choose(page, page.getByRole('combobox', { name: 'Size' }), /^Half/);
  await expect(page.getByRole('textbox', { name: 'File name' })).toHaveValue('kiln-yard-library-150x100');
  await page.waitForTimeout(500);
  await page.reload();
  await settled(page);
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dusk');
  await expect(page.getByRole('button', { name: 'Fold' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('radio', { name: 'OpenEXR' })).toBeChecked();
  await expect(page.getByRole('textbox', { name: 'File name' })).toHaveValue('kiln-yard-library-150x100');
});

test('the modes that are offered follow the tone line, each with what it does', async ({ page }) => {
  await newDocument(page, [demoFile('kiln-yard.exr')]);
  const field = bench(page).getByRole('combobox', { name: 'Blend mode' });
  await field.click();
  await expect(page.getByRole('option')).toHaveCount(8);
  await expect(page.getByRole('option', { name: /^Multiply/ })).toContainText('factors above 1 brighten');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+Period');
  await field.click();
  await expect(page.getByRole('option')).toHaveCount(19);
  await page.getByRole('option', { name: /^Screen/ }).click();
  await page.keyboard.press('Shift+Comma');
  await expect(field).toContainText('Add');
});

test('reading can be cancelled: nothing comes in, and work goes on', async ({ page }) => {
  await openDemo(page);
  const before = await page.locator('tr[data-row]').count();
  // Large pictures of few bytes: there is time to cancel.
  const png = await page.evaluate(async () => {
    const canvas = new OffscreenCanvas(5000, 4000);
    canvas.getContext('2d')?.fillRect(0, 0, 9, 9);
    return [...new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer())];
  });
  const bytes = Buffer.from(png);
  await page.getByLabel('Picture files to add').setInputFiles([1, 2, 3, 4].map((n) => ({ name: `late-${n}.png`, mimeType: 'image/png', buffer: Buffer.concat([bytes.subarray(0, 33), pngText(`n${n}`), bytes.subarray(33)]) })));
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'Reading' })).toBeHidden();
  await expect(page.locator('tr[data-row]')).toHaveCount(before);
  await settled(page);
  await type(page, 'Opacity', '50');
  await expect(cards(page).last()).toContainText('50 %');
});

/** A tEXt chunk, so that equal pixels make different files. */
function pngText(text: string): Buffer {
  const body = Buffer.concat([Buffer.from('tEXtComment\0', 'latin1'), Buffer.from(text)]);
  const out = Buffer.alloc(body.length + 8);
  out.writeUInt32BE(body.length - 4, 0);
  body.copy(out, 4);
  return out;
}

test('the picture is there before the schedule, work goes on meanwhile, and undoing does not forget it', async ({ page }) => {
  // The schedule takes its time here, as it does with large pictures.
  await page.addInitScript(() => {
    const post = Worker.prototype.postMessage;
    Worker.prototype.postMessage = function (this: Worker, message: { kind?: string }, ...rest: unknown[]) {
      const send = () => (post as (...args: unknown[]) => void).call(this, message, ...rest);
      if (message.kind === 'palette') setTimeout(send, 4000);
      else send();
    } as typeof post;
  });
  await newDocument(page);
  await toStage(page, 'Surfaces');
  await expect(page.getByText('Reading materials and objects from the pictures of IDs …')).toBeVisible();
  await expect(bench(page)).toContainText('The pictures of IDs are being read.');
  await toStage(page, 'Elements');
  await expect(bench(page).getByRole('button', { name: 'Enhancement' })).toBeDisabled();
  // Work goes on meanwhile.
  await toStage(page, 'Build-up');
  await type(page, 'Opacity', '80');
  await toStage(page, 'Surfaces');
  await expect.poll(async () => (await names(page, 'Material schedule')).length).toBeGreaterThan(5);
  await page.keyboard.press('Control+z');
  expect((await names(page, 'Material schedule')).length).toBeGreaterThan(5);
  await expect(page.getByRole('button', { name: /Undo/ })).toBeDisabled();
  await expect(page.getByText('Saved in this browser')).toBeVisible();
  await page.reload();
  await settled(page);
  expect((await names(page, 'Material schedule')).length).toBeGreaterThan(5);
});

test('a picture of IDs that is none is named, and the document is there all the same', async ({ page }) => {
  const [beauty] = [demoFile('kiln-yard.exr')];
  const noise = await sharp({ create: { width: 60, height: 40, channels: 3, background: '#000', noise: { type: 'gaussian', mean: 128, sigma: 60 } } }).png().toBuffer();
  const path = join(mkdtempSync(join(tmpdir(), 'tazzel-ids-')), 'material_id.png');
  writeFileSync(path, noise);
  await newDocument(page, [beauty, path]);
  await expect(page.getByText(/material_id: This does not look like an ID picture/)).toBeVisible();
  await page.keyboard.press('Escape');
  await toStage(page, 'Surfaces');
  await expect(page.getByText('No materials yet.', { exact: false })).toBeVisible();
});
