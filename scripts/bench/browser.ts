/** The same twenty layers in Chromium: does the document open and edit, and in how much memory. */
import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { TazzelDocument } from '@tazzel/core';
import { chromium } from '@playwright/test';
import { createApp } from '../../apps/server/src/app.ts';
import { wholeBrowser } from '../../e2e/browser.ts';
import { median, timed } from './measure.ts';

const root = fileURLToPath(new URL('../../apps/web/dist', import.meta.url));

/** Proportional memory of all processes that carry `mark` on their command line, in MB: shared pages count once. */
function memoryOf(mark: string): number {
  let kilobytes = 0;
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(mark)) continue;
      kilobytes += Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))?.[1] ?? 0);
    } catch {
      // The process ended meanwhile.
    }
  }
  return kilobytes / 1024;
}

/** @param folder the files of the document; also the mark by which the browser's processes are found */
export async function inBrowser(document: TazzelDocument, folder: string): Promise<void> {
  const server = createApp(root).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const address = `http://localhost:${(server.address() as { port: number }).port}`;
  const profile = `${folder}/profile`;
  const context = await chromium.launchPersistentContext(profile, { ...wholeBrowser, viewport: { width: 1280, height: 800 }, serviceWorkers: 'block' });
  let peak = 0;
  const watch = setInterval(() => {
    peak = Math.max(peak, memoryOf(profile));
  }, 250);
  try {
    const page = await context.newPage();
    await page.addInitScript(() => {
      const held = { longest: 0 };
      Object.assign(window, { held });
      new PerformanceObserver((list) => {
        for (const { duration } of list.getEntries()) held.longest = Math.max(held.longest, duration);
      }).observe({ type: 'longtask' });
    });
    const longest = (reset = false) => page.evaluate((forget) => {
      const { held } = window as unknown as { held: { longest: number } };
      const { longest: found } = held;
      if (forget) held.longest = 0;
      return found;
    }, reset);
    const settled = () => page.locator('[data-settled="true"]').waitFor({ timeout: 300_000 });
    await page.goto(address);
    const names = [...new Set(document.sources.map(({ file }) => file.name))];
    await page.getByLabel('Picture files').setInputFiles(names.map((name) => `${folder}/${name}`));
    await page.waitForURL(/build-up/, { timeout: 300_000 });
    await settled();
    const id = /document\/([^/]+)/.exec(page.url())?.[1] ?? '';
    await page.goto(address);
    await page.waitForTimeout(1500);
    await page.evaluate(
      (stored) =>
        new Promise<void>((resolve, reject) => {
          const open = indexedDB.open('tazzel');
          open.onerror = () => reject(open.error);
          open.onsuccess = () => {
            const put = open.result.transaction('documents', 'readwrite').objectStore('documents').put({ document: stored, savedAt: Date.now() }, stored.id);
            put.onsuccess = () => {
              open.result.close();
              resolve();
            };
          };
        }),
      { ...document, id },
    );
    const opening = await timed(async () => {
      await page.goto(`${address}/document/${id}/build-up`);
      await settled();
    });
    await page.waitForTimeout(6000);
    const field = page.getByRole('complementary', { name: 'Bench' }).getByRole('textbox', { name: 'Opacity' });
    const steps: number[] = [];
    await field.focus();
    for (let i = 0; i < 12; i++) {
      steps.push(
        await timed(async () => {
          await page.keyboard.press('ArrowDown');
          await settled();
        }),
      );
    }
    // At full size, where blurs are largest: how long the interface is held up while they are dragged.
    await page.getByTestId('picture').click();
    await page.keyboard.press('1');
    await settled();
    const width = page.getByRole('complementary', { name: 'Bench' }).getByRole('textbox', { name: 'Width', exact: true });
    await width.focus();
    await longest(true);
    for (let i = 0; i < 15; i++) {
      await page.keyboard.press('ArrowUp');
      await page.waitForTimeout(120);
    }
    await settled();
    const heldUp = await longest();
    await page.getByRole('link', { name: 'Deliver' }).click();
    const [delivering] = await Promise.all([
      timed(() => page.waitForEvent('download', { timeout: 300_000 })),
      page.getByRole('button', { name: 'Save the picture' }).click(),
    ]);
    console.log(`(n) in Chromium: three blurs dragged at 100 % hold the interface up for ${heldUp.toFixed(0)} ms at most; a PNG of the whole takes ${(delivering / 1000).toFixed(1)} s`);
    console.log(`(d) in Chromium: ${document.buildUp.picture.length} layers of ${document.size.width} × ${document.size.height} open in ${(opening / 1000).toFixed(1)} s, a nudge of the top layer ${median(steps).toFixed(0)} ms, peak memory of the whole browser ${peak.toFixed(0)} MB (goal < 3072)`);
  } finally {
    clearInterval(watch);
    await context.close();
    server.close();
  }
}
