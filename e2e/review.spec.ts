/** A review from publishing to done: by a link in another browser, and as a file without a server. */
import { mkdtempSync, readFileSync, writeFileSync, mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import { bench, choose, downloaded, openDemo, settled, toStage, type } from './helpers.ts';

const section = (page: Page) => bench(page).getByRole('region', { name: 'Review' });
const remarks = (page: Page) => page.getByRole('list', { name: 'Remarks' }).getByRole('listitem');
/** A place of the picture, as shares of its field. */
const click = async (client: Page, x: number, y: number) => {
  const box = await client.getByTestId('sheet').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  await client.mouse.click(box.x + box.width * x, box.y + box.height * y);
};
const say = async (client: Page, text: string, name = 'Ada Holt') => {
  await client.getByRole('button', { name: 'New remark' }).click();
  await click(client, 0.4, 0.6);
  await client.getByRole('textbox', { name: 'New remark' }).fill(text);
  await client.getByRole('textbox', { name: 'Your name' }).fill(name);
};
const send = (client: Page) => client.getByRole('button', { name: 'Send' }).click();

test('by a link: pinned, drawn, answered, done; the next version beside the one before; a server that is away for a moment; closed', async ({ page, browser }) => {
  await openDemo(page);
  await toStage(page, 'Deliver');
  await page.getByRole('region', { name: 'Schemes', exact: true }).getByRole('button', { name: 'New scheme' }).click();
  await toStage(page, 'Build-up');
  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  await type(page, 'Opacity', '90');
  await toStage(page, 'Deliver');
  await section(page).getByRole('textbox', { name: 'Note to this version' }).fill('The doors, please.');
  await section(page).getByRole('button', { name: 'Publish for review' }).click();
  await expect(section(page).getByRole('button', { name: 'Publish version 2' })).toBeVisible();
  const link = await section(page).getByRole('textbox', { name: 'Link for the client' }).inputValue();

  const context = await browser.newContext({ viewport: { width: 390, height: 780 } });
  const client = await context.newPage();
  await client.goto(link);
  await expect(client.getByRole('heading', { name: 'Kiln Yard Library' })).toBeVisible();
  await expect(client.getByText('The doors, please.')).toBeVisible();
  // On a telephone nothing is wider than it.
  expect(await client.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await choose(client, client.getByRole('combobox', { name: 'Picture', exact: true }), 'Scheme 1');
  await expect(client.getByRole('img', { name: 'Scheme 1' })).toBeVisible();
  await choose(client, client.getByRole('combobox', { name: 'Picture', exact: true }), 'Main picture');

  // Words of others are words.
  const hostile = '<img src=x onerror="document.title=1"> \u202eright to left';
  await say(client, hostile);
  await client.getByRole('button', { name: 'Draw' }).click();
  const box = await client.getByTestId('sheet').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  await client.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.5);
  await client.mouse.down();
  for (let i = 0; i < 12; i++) await client.mouse.move(box.x + box.width * (0.3 + 0.02 * i), box.y + box.height * (0.5 + 0.01 * (i % 3)));
  await client.mouse.up();
  await expect(client.getByRole('button', { name: 'Undo a line' })).toBeVisible();
  // The server is away when it is sent: the words stay, and sent again they are there once.
  await context.route('**/api/reviews/**', (route) => route.abort());
  await send(client);
  await expect(client.getByRole('alert')).toContainText('cannot be reached');
  await expect(client.getByRole('textbox', { name: 'New remark' })).toHaveValue(hostile);
  await context.unroute('**/api/reviews/**');
  await send(client);
  await expect(remarks(client)).toHaveCount(1);
  await expect(remarks(client).first()).toContainText('<img src=x');
  expect(await client.title()).toBe('Tazzel');
  const { violations } = await new AxeBuilder({ page: client }).withTags(['wcag2a', 'wcag2aa']).analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html).join(' ')}`)).toEqual([]);

  // The artist sees it where it was put, answers, and publishes what became of it.
  const pin = page.getByTestId('review-pins').getByRole('button', { name: /^Remark 1/ });
  await expect(remarks(page)).toHaveCount(1);
  await remarks(page).first().getByRole('button').first().click();
  await settled(page);
  await expect(page.getByRole('banner').getByRole('button', { name: /^Scheme:/ })).toHaveText('Without a scheme');
  await expect(pin).toHaveAttribute('aria-pressed', 'true');
  await section(page).getByRole('button', { name: 'Answer' }).click();
  await section(page).getByRole('textbox', { name: 'Answer to remark 1' }).fill('Lighter now.');
  await section(page).getByRole('button', { name: 'Answer' }).click();
  await expect(section(page).getByText('Lighter now.')).toBeVisible();
  await section(page).getByRole('button', { name: 'Done' }).click();
  await expect(section(page).getByRole('button', { name: 'Open again' })).toBeVisible();
  await section(page).getByRole('button', { name: 'Publish version 2' }).click();
  await expect(section(page).getByRole('button', { name: 'Publish version 3' })).toBeVisible();

  await client.setViewportSize({ width: 1280, height: 800 });
  await expect(client.getByRole('combobox', { name: 'Version' })).toHaveText('Version 2');
  await expect(remarks(client).first()).toContainText('Lighter now.');
  await expect(remarks(client).first()).toContainText('version 1 · done');
  await choose(client, client.getByRole('combobox', { name: 'Other picture' }), 'Version 1');
  await client.getByRole('radio', { name: 'Wipe' }).click();
  const line = client.getByRole('slider', { name: 'Line between the two pictures' });
  await line.focus();
  await client.keyboard.press('End');
  await expect(line).toHaveAttribute('aria-valuenow', '100');
  await client.getByRole('button', { name: 'Open again' }).click();
  await expect(client.getByText('1 open')).toBeVisible();

  // It survives a reload of both, and ends when the studio closes it.
  await page.reload();
  await settled(page);
  await expect(section(page).getByRole('button', { name: 'Publish version 3' })).toBeVisible();
  await section(page).getByRole('button', { name: 'More …' }).click();
  await page.getByRole('menuitem', { name: 'Close the review' }).click();
  await expect(section(page)).toContainText('the link leads nowhere');
  await expect(client.getByText('This review was closed by the studio')).toBeVisible();
  await client.goto(`${link}x`);
  await expect(client.getByText('There is no review at this address')).toBeVisible();
  await context.close();
});

test('as a file: a page in a folder, remarks that come back, the next version', async ({ page, browser }) => {
  await openDemo(page);
  await toStage(page, 'Deliver');
  const zip = await downloaded(page, section(page).getByRole('button', { name: 'As a file' }));
  expect(zip.name).toBe('kiln-yard-library-review-1.zip');
  const folder = mkdtempSync(join(tmpdir(), 'tazzel-sent-'));
  const files = unzipSync(readFileSync(zip.path));
  for (const [name, bytes] of Object.entries(files)) {
    mkdirSync(dirname(join(folder, name)), { recursive: true });
    writeFileSync(join(folder, name), bytes);
  }
  const context = await browser.newContext({ acceptDownloads: true });
  const client = await context.newPage();
  await client.goto(pathToFileURL(join(folder, 'review.html')).href);
  await expect(client.getByRole('heading', { name: 'Kiln Yard Library' })).toBeVisible();
  await expect.poll(() => client.getByRole('img', { name: 'Main picture' }).evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(300);
  await say(client, 'Less grass </script><script>document.title=1</script>');
  await send(client);
  await client.reload();
  await expect(remarks(client)).toHaveCount(1);
  const saved = await downloaded(client, client.getByRole('button', { name: 'Save the remarks' }));
  expect(saved.name).toBe('Kiln-Yard-Library-remarks.json');

  await page.getByLabel('File of remarks').setInputFiles(saved.path);
  await expect(remarks(page)).toHaveCount(1);
  await expect(remarks(page).first()).toContainText('Less grass');
  await page.getByLabel('File of remarks').setInputFiles(saved.path);
  await expect(page.getByText('There is nothing new in this file.')).toBeVisible();
  await page.getByLabel('File of remarks').setInputFiles(join(folder, 'review-data.js'));
  await expect(page.getByText('does not hold remarks')).toBeVisible();
  await expect(remarks(page)).toHaveCount(1);
  const next = await downloaded(page, section(page).getByRole('button', { name: 'Save version 2 as a file' }));
  expect(next.name).toBe('kiln-yard-library-review-2.zip');
  const data = Buffer.from(unzipSync(readFileSync(next.path))['review-data.js']).toString();
  expect(data).toContain('Less grass');
  expect(data).not.toContain('</script>');
  await context.close();
});
