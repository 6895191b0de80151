/** The application without a network, and newer versions of it: offered, never forced. */
import { createHash } from 'node:crypto';
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@playwright/test';
import { createApp } from '../apps/server/src/app.ts';
import { cardNames, settled } from './helpers.ts';
import { SHIPPED } from './shipped.ts';

test.use({ serviceWorkers: 'allow' });

test('after the first visit it starts without a network, with its demo', async ({ page, context }) => {
  await page.goto(SHIPPED);
  await expect(page.getByText('it starts without a network')).toBeVisible();
  await context.setOffline(true);
  await page.reload();
  // Without isolation there would be no shared memory, and no picture.
  expect(await page.evaluate(() => window.crossOriginIsolated)).toBe(true);
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await page.getByRole('menuitem', { name: 'The reading room' }).click();
  await page.waitForURL(/demo-reading-room/);
  await settled(page);
  expect(await cardNames(page)).toContain('Light mix');
  await page.reload();
  await settled(page);
});

test('a newer version is offered while the old one goes on, and used when one says so; another tab is told', async ({ page, context }) => {
  // The application without its demo, as a server has it that is renewed.
  const root = join(mkdtempSync(join(tmpdir(), 'tazzel-versions-')), 'dist');
  cpSync(fileURLToPath(new URL('../apps/web/dist', import.meta.url)), root, { recursive: true, filter: (path) => !/[\\/]dist[\\/]demo/.test(path) });
  const renew = (change: (html: string) => string) => {
    const html = change(readFileSync(join(root, 'index.html'), 'utf8'));
    writeFileSync(join(root, 'index.html'), html);
    const worker = join(root, 'service-worker.js');
    const list = /JSON\.parse\(("(?:[^"\\]|\\.)*")\)/;
    const code = readFileSync(worker, 'utf8');
    const files = JSON.parse(JSON.parse((list.exec(code) as RegExpExecArray)[1])) as { path: string; hash: string; isDemo: boolean }[];
    const now = files.filter(({ isDemo }) => !isDemo).map((file) => (file.path === '/index.html' ? { ...file, hash: createHash('sha256').update(html).digest('hex') } : file));
    writeFileSync(worker, code.replace(list, () => `JSON.parse(${JSON.stringify(JSON.stringify(now))})`));
  };
  renew((html) => html.replace('<title>Tazzel</title>', '<title>Tazzel one</title>'));
  const server = createApp(root).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  try {
    await page.goto(`http://localhost:${(server.address() as AddressInfo).port}/`);
    await expect(page.getByText('it starts without a network')).toBeVisible();
    renew((html) => html.replace('Tazzel one', 'Tazzel two'));
    await page.evaluate(() => navigator.serviceWorker.ready.then((registration) => registration.update()));
    await expect(page.getByText('A newer version of Tazzel is here.')).toBeVisible();
    // Whoever does not want it now keeps what there is.
    await page.reload();
    await expect(page).toHaveTitle('Tazzel one');
    const other = await context.newPage();
    await other.goto(page.url());
    await expect(other.getByText('it starts without a network')).toBeVisible();
    await page.getByRole('button', { name: 'Use it now' }).click();
    await expect(page).toHaveTitle('Tazzel two');
    await expect(other).toHaveTitle('Tazzel one');
    await other.getByRole('button', { name: 'Load again' }).click();
    await expect(other).toHaveTitle('Tazzel two');
    await expect(page.getByText('it starts without a network')).toBeVisible();
  } finally {
    server.close();
  }
});
