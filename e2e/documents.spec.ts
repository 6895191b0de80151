import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, expect, type Page, test } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { browserOptions } from './browser.ts';
import { bench, cardNames, cards, colorAt, demoFile, drop, newDocument, notes, openDemo, saved, scaleOf, settled, type } from './helpers.ts';
import { SHIPPED } from './shipped.ts';
import { demoSet } from '../tests/elements.ts';

const select = (page: Page, i: number) => cards(page).nth(i).getByRole('button', { name: /^Select/ }).click();
const idb = (page: Page, script: string) => page.evaluate(`new Promise((resolve, reject) => { const open = indexedDB.open('tazzel'); open.onerror = reject; open.onsuccess = () => { const db = open.result; ${script} }; })`);

test('start page: rename, duplicate, delete and take it back, open', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await expect(page.locator('li img')).toHaveCount(1);
  await page.getByRole('button', { name: /^Name: Kiln Yard Library/ }).dblclick();
  await page.keyboard.type('Competition entry');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Duplicate Competition entry' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'layers' })).toHaveCount(2);
  await page.getByRole('button', { name: 'Delete Competition entry copy' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'layers' })).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'layers' })).toHaveCount(2);
  await page.getByRole('button', { name: 'Open Competition entry copy' }).click();
  await settled(page);
  await expect.poll(() => cardNames(page)).toHaveLength(12);
  await expect(page).toHaveTitle('Competition entry copy – Tazzel');
});

test('a reload loses nothing', async ({ page }) => {
  await openDemo(page);
  await select(page, 6);
  await type(page, 'Exposure', '-2.5');
  await saved(page);
  await page.reload();
  await settled(page);
  await select(page, 6);
  await expect(bench(page).getByRole('textbox', { name: 'Exposure' })).toHaveValue('-2.50');
});

test('a browser that is killed in mid-drag loses at most the last second', async ({ baseURL }) => {
  const profile = mkdtempSync(join(tmpdir(), 'tazzel-profile-'));
  const start = () => chromium.launchPersistentContext(profile, { ...browserOptions, baseURL, viewport: { width: 1280, height: 800 } });
  const context = await start();
  const page = await context.newPage();
  await openDemo(page);
  await select(page, 6);
  const field = bench(page).getByRole('textbox', { name: 'Exposure' });
  const scale = await scaleOf(page, 'Exposure');
  await page.mouse.move(scale.x + scale.width / 2, scale.y);
  await page.mouse.down();
  for (let i = 0; i < 10; i++) await page.mouse.move(scale.x + scale.width * (0.5 + i * 0.03), scale.y);
  const shown = await field.inputValue();
  await page.waitForTimeout(1000);
  // No pointer up, no last words of the page: all its processes are gone.
  execFileSync('pkill', ['-9', '-f', profile]);
  const later = await start();
  const again = await later.newPage();
  await openDemo(again);
  await select(again, 6);
  await expect(bench(again).getByRole('textbox', { name: 'Exposure' })).toHaveValue(shown);
  await later.close();
});

test('a full disk is reported, nothing is lost, and saving goes on when there is room', async ({ page }) => {
  await openDemo(page);
  await page.evaluate(() => {
    const put = IDBObjectStore.prototype.put;
    Object.assign(window, { giveRoom: () => Object.assign(IDBObjectStore.prototype, { put }) });
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('no room', 'QuotaExceededError');
    };
  });
  await select(page, 6);
  await type(page, 'Exposure', '3');
  await expect(page.getByRole('dialog')).toContainText('storage is full');
  await page.getByRole('button', { name: 'Understood' }).click();
  await expect(page.getByRole('region', { name: 'Title block' })).toContainText('Not saved');
  await expect(bench(page).getByRole('textbox', { name: 'Exposure' })).toHaveValue('3.00');
  await page.evaluate(() => (window as unknown as { giveRoom: () => void }).giveRoom());
  await type(page, 'Exposure', '2.75');
  await expect(page.getByRole('region', { name: 'Title block' })).toContainText('Saved in this browser');
  await page.reload();
  await settled(page);
  await select(page, 6);
  await expect(bench(page).getByRole('textbox', { name: 'Exposure' })).toHaveValue('2.75');
});

test('bad files are named with the reason, good ones of the same drop load, the document stays', async ({ page }) => {
  await openDemo(page);
  const before = await cardNames(page);
  const exr = readFileSync(demoFile('kiln-yard.exr'));
  const huge = Buffer.from(exr.subarray(0, 3000));
  const window = huge.indexOf('dataWindow\0box2i\0') + 'dataWindow\0box2i\0'.length + 4;
  huge.writeInt32LE(29999, window + 8);
  huge.writeInt32LE(29999, window + 12);
  const good = await sharp({ create: { width: 1200, height: 800, channels: 3, background: '#204060' } }).png().toBuffer();
  await drop(page, [
    { name: 'cut.exr', bytes: exr.subarray(0, 60_000) },
    { name: 'huge.exr', bytes: huge },
    { name: 'letter.png', bytes: Buffer.from('Dear client, the doors should be green.') },
    { name: 'photo.jpg', bytes: Buffer.from([0xff, 0xd8, 0xff, 0xe0, 0, 16, 74, 70, 73, 70]) },
    { name: 'empty.exr', bytes: new Uint8Array() },
    { name: 'neighbours.png', bytes: good },
  ]);
  const report = notes(page);
  await expect(report).toBeVisible();
  for (const sentence of [/cut\.exr: .*ends/, /huge\.exr: 30000 × 30000 pixels/, /letter\.png: the contents are no picture that is read/, /photo\.jpg: the file ends inside its header/, /empty\.exr: the file is empty/]) await expect(report).toContainText(sentence);
  // Said beside the work, and there to be read again.
  await page.getByRole('button', { name: 'Close the notes' }).click();
  await expect(report).toBeHidden();
  await page.getByRole('button', { name: /^Notes \d/ }).click();
  await expect(report).toContainText('letter.png');
  await expect.poll(() => cardNames(page)).toEqual(before);
  await expect(page.locator('tr[data-row]', { hasText: 'neighbours' })).toHaveCount(1);
  await settled(page);
});

test('a damaged stored document opens with what can be read', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await expect(page.getByRole('heading', { name: 'Tazzel' })).toBeVisible();
  await page.waitForTimeout(500);
  await idb(page, `
    const store = db.transaction('documents', 'readwrite').objectStore('documents');
    store.get('demo').onsuccess = (event) => {
      const stored = event.target.result;
      stored.document.buildUp.scene[6].opacity = 'lots';
      stored.document.buildUp.scene[0].chain = [{ id: 'correction-90', type: 'of-later-days', blend: 'all', params: { strength: 'much' }, visible: true, opacity: 1, mask: null }];
      store.put(stored, 'demo');
      stored.document = { broken: true };
      store.put(stored, 'other').onsuccess = () => resolve(db.close());
    };`);
  await page.reload();
  await expect(page.getByText('This is not a Tazzel document')).toBeVisible();
  await page.getByRole('button', { name: 'Open Kiln Yard Library' }).click();
  await expect(page.getByRole('dialog')).toContainText('The layer “Evening” was left out: its opacity is “lots”, expected a number.');
  await expect(page.getByRole('dialog')).toContainText('holds a correction that this version does not know (of-later-days). It stays, and does nothing.');
  await page.getByRole('button', { name: 'Understood' }).click();
  await settled(page);
  await expect.poll(() => cardNames(page)).toHaveLength(11);
  await cards(page).first().getByRole('button', { name: '“of-later-days”, not known here' }).click();
  await expect(bench(page)).toContainText('This version does not know this correction.');
});

test('files that went missing are named, and adding them again brings them back', async ({ page }) => {
  await openDemo(page, SHIPPED);
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await expect(page.getByRole('heading', { name: 'Tazzel' })).toBeVisible();
  await page.waitForTimeout(500);
  await idb(page, `db.transaction('files', 'readwrite').objectStore('files').clear().onsuccess = () => resolve(db.close());`);
  await page.reload();
  await page.getByRole('button', { name: 'Open Kiln Yard Library' }).click();
  await expect(page.getByRole('dialog')).toContainText('“courtyard_1.exr” is missing in the browser’s storage');
  await page.getByRole('button', { name: 'Understood' }).click();
  await page.getByLabel('Picture files to add').setInputFiles([...demoSet('courtyard'), ...demoSet('courtyard_fog')]);
  await expect(notes(page)).toContainText('was missing and is back');
  await settled(page);
  await expect(page.getByRole('region', { name: 'Title block' })).not.toContainText('missing');
});

test('a second tab does not write into the same document', async ({ context, page }) => {
  await openDemo(page);
  const other = await context.newPage();
  await other.goto('/document/demo/build-up');
  await expect(other.getByText('being worked on in another tab')).toBeVisible();
  await page.close();
  await other.reload();
  await settled(other);
});

test('unknown documents, pages and stages', async ({ page }) => {
  await page.goto('/document/none/build-up');
  await expect(page.getByText('There is no such document')).toBeVisible();
  await page.goto('/nowhere');
  await expect(page.getByText('cannot be shown')).toBeVisible();
  await newDocument(page, [demoFile('kiln-yard_material_id.png')]);
  const address = page.url().replace('build-up', 'sculpture');
  await page.goto('/');
  await page.goto(address);
  await expect(page).toHaveURL(/build-up/);
});

test('a file of layers opens as a document: names, modes, opacities, a group; what is missing in it is said', async ({ page }) => {
  const plane = async (r: number, g: number, b: number) => [new Uint8Array(await sharp({ create: { width: 80, height: 60, channels: 3, background: { r, g, b } } }).png().toBuffer()), { level: 0 }] as const;
  const stack = '<image version="0.0.6" w="80" h="60"><stack><layer name="Gone" src="gone.png"/><stack name="Veils" opacity="0.5"><layer name="Red veil" src="red.png"/></stack><layer name="Shade" src="grey.png" composite-op="svg:multiply"/><layer name="Ground" src="white.png"/></stack></image>';
  const file = zipSync({ mimetype: [strToU8('image/openraster'), { level: 0 }], 'stack.xml': strToU8(stack), 'red.png': [...(await plane(255, 0, 0))], 'grey.png': [...(await plane(128, 128, 128))], 'white.png': [...(await plane(255, 255, 255))] });
  await page.goto('/');
  await page.getByLabel('Picture files').setInputFiles({ name: 'Facade.ora', mimeType: 'image/openraster', buffer: Buffer.from(file) });
  await page.waitForURL(/\/document\/.*\/build-up/);
  await settled(page);
  expect(await cardNames(page)).toEqual(['Ground', 'Shade', 'Veils']);
  await expect(page.getByText('“Gone”: its picture gone.png is missing')).toBeVisible();
  // Half red over mid grey.
  const color = await colorAt(page, 0.5, 0.5);
  for (const [c, wanted] of [192, 64, 64].entries()) expect(Math.abs(color[c] - wanted)).toBeLessThanOrEqual(2);
  // What is no such file is refused with a reason.
  await page.goto('/');
  await page.getByLabel('Picture files').setInputFiles({ name: 'broken.ora', mimeType: 'image/openraster', buffer: Buffer.from('no zip at all') });
  await expect(page.getByText('no readable stack.xml')).toBeVisible();
});

test('everything in one file, and back in another browser: the same picture; put back twice it is there once', async ({ page, browser }) => {
  await openDemo(page);
  await select(page, 6);
  await type(page, 'Exposure', '-1.5');
  await saved(page);
  const color = await colorAt(page, 0.5, 0.5);
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await page.getByRole('button', { name: 'Storage and backup …' }).click();
  const sheet = page.getByRole('dialog', { name: 'Storage' });
  await expect(sheet.getByRole('row', { name: /Kiln Yard Library/ })).toBeVisible();
  const [download] = await Promise.all([page.waitForEvent('download'), sheet.getByRole('button', { name: 'Back up everything' }).click()]);
  expect(download.suggestedFilename()).toMatch(/^tazzel-backup-\d{4}-\d\d-\d\d\.zip$/);
  const path = await download.path();

  const context = await browser.newContext();
  const other = await context.newPage();
  await other.goto('/');
  await other.getByRole('button', { name: 'Storage and backup …' }).click();
  await other.getByLabel('Backup file').setInputFiles(demoFile('kiln-yard_material_id.png'));
  await expect(other.getByText('this is no backup of Tazzel')).toBeVisible();
  await other.getByRole('button', { name: 'Close' }).first().click();
  for (const said of ['1 document put back.', 'Nothing is new: its document is here already.']) {
    await other.getByLabel('Backup file').setInputFiles(path);
    await expect(other.getByText(said)).toBeVisible();
  }
  await other.keyboard.press('Escape');
  await other.getByRole('button', { name: 'Open Kiln Yard Library' }).click();
  await settled(other);
  expect(await colorAt(other, 0.5, 0.5)).toEqual(color);
  await context.close();
});
