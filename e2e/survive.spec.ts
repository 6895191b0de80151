/** What an artist's work survives: sweeping, full disks, cleared data, other tabs, killed browsers, lost workers. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type BrowserContext, chromium, expect, type Page, test } from '@playwright/test';
import { seeded } from '../tests/random.ts';
import { browserOptions, wholeBrowser } from './browser.ts';
import { bench, cards, demoFile, newDocument, notes, openDemo, saved, scaleOf, settled, toStage, type } from './helpers.ts';

const select = (page: Page, i: number) => cards(page).nth(i).getByRole('button', { name: /^Select/ }).click();
const titleBlock = (page: Page) => page.getByRole('region', { name: 'Title block' });
const understood = (page: Page) => page.getByRole('button', { name: 'Understood' }).click();

/** Runs a script with the open database `db`; it calls `resolve`. */
const idb = <T>(page: Page, script: string): Promise<T> =>
  page.evaluate(`new Promise((resolve, reject) => { const open = indexedDB.open('tazzel'); open.onerror = () => reject(open.error); open.onsuccess = () => { const db = open.result; const done = (value) => { db.close(); resolve(value); }; ${script} }; })`);
const storedFiles = (page: Page) => idb<number>(page, `db.transaction('files').objectStore('files').count().onsuccess = (event) => done(event.target.result);`);

/** From here on the page's storage takes nothing, until `giveRoom`. */
const fillDisk = (page: Page) =>
  page.evaluate(() => {
    const put = IDBObjectStore.prototype.put;
    Object.assign(window, { giveRoom: () => Object.assign(IDBObjectStore.prototype, { put }) });
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('no room', 'QuotaExceededError');
    };
  });
const giveRoom = (page: Page) => page.evaluate(() => (window as unknown as { giveRoom: () => void }).giveRoom());

/** A browser of its own, as people have it, that can be killed. */
async function ownBrowser(baseURL: string | undefined, { profile = mkdtempSync(join(tmpdir(), 'tazzel-profile-')), keepsPages = false } = {}): Promise<{ context: BrowserContext; profile: string; kill: () => void }> {
  const context = await chromium.launchPersistentContext(profile, { ...(keepsPages ? wholeBrowser : browserOptions), baseURL, viewport: { width: 1280, height: 800 }, ignoreDefaultArgs: keepsPages ? ['--disable-back-forward-cache'] : [] });
  return { context, profile, kill: () => void execFileSync('pkill', ['-9', '-f', profile]) };
}

test('the demo is opened beside many documents from before there were rows, and keeps all its files', async ({ page }) => {
  await openDemo(page);
  const all = await storedFiles(page);
  await page.goto('/render');
  await idb(page, `
    const write = db.transaction(['documents', 'rows', 'files'], 'readwrite');
    write.objectStore('documents').get('demo').onsuccess = ({ target }) => {
      const stored = target.result;
      const stroke = (n) => ({ erase: false, sizePx: 40, hardness: 0.5, opacity: 1, flow: 0.5, spacing: 0.1, path: Array.from({ length: 900 }, (_, i) => (i % 3 === 2 ? 1 : (i * n) % 800)) });
      stored.document.sources = [];
      stored.document.materials = [];
      stored.document.buildUp = { scene: [], picture: [] };
      stored.document.masks = [{ id: 'mask-1', name: 'Paint', growPx: 0, featherPx: 0, followEdges: false, inverted: false, strength: 1, terms: [{ kind: 'paint', operation: 'add', muted: false, filled: false, strokes: Array.from({ length: 60 }, (_, n) => stroke(n)) }] }];
      for (let n = 0; n < 40; n++) write.objectStore('documents').put({ ...stored, document: { ...stored.document, id: 'old-' + n, name: 'Old ' + n } }, 'old-' + n);
      for (const name of ['documents', 'rows']) write.objectStore(name).delete('demo');
      write.objectStore('files').clear();
    };
    write.oncomplete = () => done(null);`);
  await openDemo(page);
  expect(await storedFiles(page)).toBe(all);
  const other = await page.context().newPage();
  await other.goto('/');
  await expect(other.getByRole('listitem').filter({ hasText: 'layer' })).toHaveCount(41);
  expect(await storedFiles(other)).toBe(all);
});

test('a document that was deleted comes back whole, also when another tab has started meanwhile; deleting frees at once', async ({ page }) => {
  await newDocument(page);
  const all = await storedFiles(page);
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await page.getByRole('button', { name: /^Delete/ }).click();
  await expect.poll(() => storedFiles(page)).toBe(0);
  const other = await page.context().newPage();
  await other.goto('/');
  await expect(other.getByText('There is no document yet')).toBeVisible();
  await other.close();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: /^Open kiln-yard/ })).toBeVisible();
  expect(await storedFiles(page)).toBe(all);
  await page.getByRole('button', { name: /^Open kiln-yard/ }).click();
  await settled(page);
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('on a full disk leaving is held back, following the advice saves the change, and the demo and copies say so', async ({ page }) => {
  await openDemo(page);
  await select(page, 6);
  await fillDisk(page);
  await type(page, 'Exposure', '1.5');
  await expect(page.getByRole('dialog')).toContainText('storage is full: the last changes are not saved');
  await understood(page);
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await expect(page.getByRole('dialog')).toContainText('Whoever leaves now loses what is not saved');
  await page.getByRole('button', { name: 'Stay' }).click();
  await expect(bench(page).getByRole('textbox', { name: 'Exposure' })).toHaveValue('1.50');
  await expect(titleBlock(page)).toContainText('Not saved');
  await giveRoom(page);
  // Saved by itself, without another change.
  await expect(titleBlock(page)).toContainText('Saved in this browser');
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await expect(page.getByRole('heading', { name: 'Documents in this browser' })).toBeVisible();
  await fillDisk(page);
  await page.getByRole('button', { name: /^Duplicate/ }).click();
  await expect(page.getByRole('dialog')).toContainText('storage is full: “Kiln Yard Library copy” could not be stored');
  await understood(page);
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await page.getByRole('menuitem', { name: 'The reading room' }).click();
  await expect(page.getByRole('dialog')).toContainText('storage is full: the demo could not be stored');
  await understood(page);
  await giveRoom(page);
  await page.getByRole('button', { name: /^Open Kiln Yard/ }).click();
  await settled(page);
  await select(page, 6);
  await expect(bench(page).getByRole('textbox', { name: 'Exposure' })).toHaveValue('1.50');
});

test('a file that could not be stored is not called saved, and is stored when there is room', async ({ page }) => {
  await newDocument(page, [demoFile('kiln-yard.exr')]);
  await fillDisk(page);
  await page.getByLabel('Picture files to add').setInputFiles(demoFile('kiln-yard_material_id.png'));
  // That nothing is saved any more cannot wait, and is said in a sheet over everything; about the file there is a note beside.
  await understood(page);
  await expect(notes(page)).toContainText('could not be stored: the browser’s storage is full');
  await expect(titleBlock(page)).toContainText('Not saved');
  await giveRoom(page);
  await expect(titleBlock(page)).toContainText('Saved in this browser');
  await page.reload();
  await settled(page);
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(page.locator('tr[data-row]', { hasText: 'material_id' })).toHaveCount(1);
});

test('data that is cleared under an open document is put back', async ({ page }) => {
  await openDemo(page);
  const all = await storedFiles(page);
  // Counted where it is cleared: what is missed is put back at once.
  const left = await idb<number>(page, `
    const write = db.transaction([...db.objectStoreNames], 'readwrite');
    for (const name of db.objectStoreNames) write.objectStore(name).clear();
    const count = write.objectStore('files').count();
    write.oncomplete = () => done(count.result);`);
  expect(left).toBe(0);
  await expect.poll(() => storedFiles(page)).toBe(all);
  await expect(titleBlock(page)).toContainText('Saved in this browser');
  await page.reload();
  await settled(page);
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('records that cannot be read are listed beside all others, with what is left of them', async ({ page }) => {
  await openDemo(page);
  await page.goto('/');
  await idb(page, `
    const write = db.transaction(['documents', 'rows'], 'readwrite');
    write.objectStore('documents').get('demo').onsuccess = ({ target }) => {
      const stored = target.result;
      write.objectStore('documents').put({ document: { ...stored.document, id: 'undated', name: 'Undated' }, savedAt: 'yesterday' }, 'undated');
      write.objectStore('documents').put({ document: { ...stored.document, id: 'broken', format: 'x' }, savedAt: 3 }, 'broken');
      write.objectStore('documents').put(7, 'number');
    };
    write.oncomplete = () => done(null);`);
  await page.reload();
  await expect(page.getByRole('listitem').filter({ hasText: 'Undated' })).toContainText('date unknown');
  const broken = page.getByRole('listitem').filter({ hasText: 'Damaged document' });
  await expect(broken).toHaveCount(2);
  const [download] = await Promise.all([page.waitForEvent('download'), broken.first().getByRole('button', { name: 'Save what is there' }).click()]);
  expect(download.suggestedFilename()).toMatch(/what-is-left\.zip$/);
  await page.getByRole('button', { name: 'Open Kiln Yard Library' }).click();
  await settled(page);
});

test('another tab takes a document over; the first one lets go of it, saved', async ({ page }) => {
  await openDemo(page);
  await select(page, 6);
  await type(page, 'Exposure', '-3');
  const other = await page.context().newPage();
  await other.goto('/document/demo/build-up');
  await expect(other.getByText('being worked on in another tab')).toBeVisible();
  await other.goto('/');
  await other.getByRole('button', { name: /^Name: Kiln Yard Library/ }).dblclick();
  await other.keyboard.type('Renamed');
  await other.keyboard.press('Enter');
  await expect(other.getByRole('dialog')).toContainText('worked on in another tab');
  await understood(other);
  await other.goto('/document/demo/build-up');
  await other.getByRole('button', { name: 'Take over here' }).click();
  await settled(other);
  await select(other, 6);
  await expect(bench(other).getByRole('textbox', { name: 'Exposure' })).toHaveValue('-3.00');
  await expect(page.getByText('being worked on in another tab')).toBeVisible();
  await type(other, 'Exposure', '2');
  await saved(other);
  await other.reload();
  await settled(other);
  await select(other, 6);
  await expect(bench(other).getByRole('textbox', { name: 'Exposure' })).toHaveValue('2.00');
});

test('with the back/forward cache on: an address typed again, and the way back, find the document free', async ({ baseURL }) => {
  const { context, kill } = await ownBrowser(baseURL, { keepsPages: true });
  // Over the browser's own protocol: Playwright loses pages that come out of the cache.
  const cdp = await context.newCDPSession(await context.newPage());
  const run = async <T>(expression: string): Promise<T> => (await cdp.send('Runtime.evaluate', { expression, awaitPromise: true, returnByValue: true })).result.value as T;
  const goTo = (path: string) => cdp.send('Page.navigate', { url: `${baseURL}${path}` });
  const isOpen = async () => {
    await expect.poll(() => run(`location.pathname.startsWith('/document') && document.querySelector('[data-settled="true"]') !== null`).catch(() => false)).toBe(true);
    expect(await run<string>('document.body.innerText')).not.toContain('another tab');
  };
  const isAway = () => expect.poll(() => run('location.pathname').catch(() => '')).toBe('/render');
  await goTo('/demo');
  await isOpen();
  for (let n = 0; n < 3; n++) {
    await goTo('/render');
    await isAway();
    await goTo('/document/demo/build-up');
    await isOpen();
  }
  await run('window.isTheSamePage = true');
  await goTo('/render');
  await isAway();
  const { currentIndex, entries } = await cdp.send('Page.getNavigationHistory');
  await cdp.send('Page.navigateToHistoryEntry', { entryId: entries[currentIndex - 1].id });
  await isOpen();
  expect(await run('window.isTheSamePage === true')).toBe(true);
  // The page that came back holds the document again, and writes it.
  await run(`document.querySelector('li[data-layer] [aria-label$=" on"]').click()`);
  const isStored = `new Promise((resolve) => { indexedDB.open('tazzel').onsuccess = ({ target: { result: db } }) => { db.transaction('documents').objectStore('documents').get('demo').onsuccess = ({ target }) => { db.close(); resolve(target.result.document.buildUp.scene.some(({ visible }) => !visible)); }; }; })`;
  await expect.poll(() => run(isStored)).toBe(true);
  expect(await run<string>('document.body.innerText')).toContain('Saved in this browser');
  kill();
});

test('a browser that is killed at any moment, in a drag or a stroke, loses at most a moment', async ({ baseURL }) => {
  const random = seeded(11);
  let { context, profile, kill } = await ownBrowser(baseURL);
  for (let n = 0; n < 2; n++) {
    const page = await context.newPage();
    await openDemo(page);
    const paints = n % 2 === 1;
    let shown = '';
    let scale = { x: 0, width: 0, y: 0 };
    const box = { x: 250, y: 64 };
    if (paints) {
      await toStage(page, 'Surfaces');
      await settled(page);
      await page.getByRole('button', { name: 'New mask' }).click();
      await page.keyboard.press('p');
      await expect(bench(page).getByRole('button', { name: 'Painting' })).toBeVisible();
      await page.mouse.move(box.x + 200, box.y + 200);
      await page.mouse.down();
    } else {
      await select(page, 6);
      scale = await scaleOf(page, 'Exposure');
      await page.mouse.move(scale.x + scale.width / 2, scale.y);
      await page.mouse.down();
    }
    const end = Date.now() + 1200 + random() * 1200;
    let moves = 0;
    for (; Date.now() < end; moves++) {
      if (paints) await page.mouse.move(box.x + 200 + (moves % 50) * 4, box.y + 200 + Math.floor(moves / 50) * 10);
      // Never back over the value it began with: where the last move ends is chance.
      else await page.mouse.move(scale.x + scale.width * (0.6 + (moves % 80) / 240), scale.y);
    }
    if (!paints) {
      shown = await bench(page).getByRole('textbox', { name: 'Exposure' }).inputValue();
      expect(shown).not.toBe('0.50');
    }
    await page.waitForTimeout(600);
    kill();
    ({ context, kill } = await ownBrowser(baseURL, { profile }));
    const again = await context.newPage();
    await openDemo(again);
    await expect(again.getByRole('dialog')).toHaveCount(0);
    if (paints) {
      const points = await idb<number>(again, `db.transaction('documents').objectStore('documents').get('demo').onsuccess = ({ target }) => { const term = target.result.document.masks.at(-1).terms.at(-1); done((term.params.strokes[0]?.path.length ?? 0) / 3); };`);
      expect(points).toBeGreaterThan(moves * 0.5);
    } else {
      await select(again, 6);
      await expect(bench(again).getByRole('textbox', { name: 'Exposure' })).toHaveValue(shown);
    }
    await again.close();
  }
  await context.close();
});

test('a worker that ends without a word is noticed; the picture comes all the same', async ({ page }) => {
  await openDemo(page);
  for (const worker of page.workers()) await worker.evaluate(() => self.close()).catch(() => undefined);
  await select(page, 6);
  await type(page, 'Exposure', '1.25');
  await settled(page);
  await expect(page.getByText('broke down').first()).toBeVisible();
  await expect(titleBlock(page)).toContainText('Saved in this browser');
  // And leaving does not wait for anything.
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await expect(page.getByRole('heading', { name: 'Documents in this browser' })).toBeVisible();
});

test('a start that failed because the server was away is tried again', async ({ page }) => {
  await page.goto('/');
  await page.route('**/*.wasm', (route) => route.abort());
  await page.getByLabel('Picture files').setInputFiles(demoFile('kiln-yard_material_id.png'));
  await expect(page.getByRole('dialog')).toContainText('could not be started: a part of the program could not be loaded');
  await understood(page);
  await page.unroute('**/*.wasm');
  await page.getByLabel('Picture files').setInputFiles(demoFile('kiln-yard_material_id.png'));
  await page.waitForURL(/\/document\//);
  await settled(page);
});
