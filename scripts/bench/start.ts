/** The start page of the kept program: with its server gone, with it, and without anything kept. */
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from '@playwright/test';
import { createApp } from '../../apps/server/src/app.ts';
import { wholeBrowser } from '../../e2e/browser.ts';
import { median, report, timed } from './measure.ts';

const root = fileURLToPath(new URL('../../apps/web/dist', import.meta.url));
const ROUNDS = 51;

async function serving() {
  const server = createApp(root).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const end = () => {
    server.closeAllConnections();
    server.close();
  };
  return { address: `http://localhost:${(server.address() as AddressInfo).port}`, end };
}

/** Without a network; with one, as everybody has it after the first visit; and as it would be if nothing were kept but what browsers keep by themselves. */
export async function benchStart(): Promise<void> {
  const servers = await Promise.all([serving(), serving(), serving()]);
  const [away, kept, notKept] = servers;
  const browser = await chromium.launch(wholeBrowser);
  const opened = async (serviceWorkers: 'allow' | 'block') => (await browser.newContext({ viewport: { width: 1280, height: 800 }, serviceWorkers })).newPage();
  const start = async (page: Page, address: string): Promise<number> => {
    await page.goto('about:blank');
    return timed(async () => {
      await page.goto(address);
      await page.getByText('There is no document yet.').waitFor();
    });
  };
  try {
    const pages = [await opened('allow'), await opened('allow'), await opened('block')];
    for (const [i, page] of pages.entries()) {
      await page.goto(servers[i].address);
      if (servers[i] !== notKept) await page.getByText('it starts without a network').waitFor();
      await start(page, servers[i].address);
    }
    away.end();
    const times: number[][] = pages.map(() => []);
    for (let round = 0; round < ROUNDS; round++) {
      // Each goes first as often as the others.
      for (let i = 0; i < pages.length; i++) {
        const which = (round + i) % pages.length;
        times[which].push(await start(pages[which], servers[which].address));
      }
    }
    const [offline, online, plain] = times.map(median);
    report('(dd) start without a network : with one', { ours: offline, theirs: online, ratio: offline / online }, 1);
    report('(ee) start without a network : from a server on this machine, nothing kept', { ours: offline, theirs: plain, ratio: offline / plain });
  } finally {
    await browser.close();
    kept.end();
    notKept.end();
  }
}
