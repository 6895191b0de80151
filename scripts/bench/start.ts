/** The start page of the kept program with its server gone, against the same from a server on this machine that the browser has been at before. */
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from '@playwright/test';
import { createApp } from '../../apps/server/src/app.ts';
import { browserOptions } from '../../e2e/browser.ts';
import { median, report, timed } from './measure.ts';

const root = fileURLToPath(new URL('../../apps/web/dist', import.meta.url));
const ROUNDS = 31;

async function serving() {
  const server = createApp(root).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const end = () => {
    server.closeAllConnections();
    server.close();
  };
  return { address: `http://localhost:${(server.address() as AddressInfo).port}`, end };
}

export async function benchStart(): Promise<void> {
  const [kept, served] = [await serving(), await serving()];
  const browser = await chromium.launch(browserOptions);
  const opened = async (serviceWorkers: 'allow' | 'block') => (await browser.newContext({ viewport: { width: 1280, height: 800 }, serviceWorkers })).newPage();
  const start = async (page: Page, address: string): Promise<number> => {
    await page.goto('about:blank');
    return timed(async () => {
      await page.goto(address);
      await page.getByText('There is no document yet.').waitFor();
    });
  };
  try {
    const [without, with_] = [await opened('allow'), await opened('block')];
    await without.goto(kept.address);
    await without.getByText('it starts without a network').waitFor();
    await start(with_, served.address);
    kept.end();
    const times: [number[], number[]] = [[], []];
    for (let i = 0; i < ROUNDS; i++) {
      // Each goes first as often as the other.
      for (const which of i % 2 === 0 ? ([0, 1] as const) : ([1, 0] as const)) times[which].push(await (which === 0 ? start(without, kept.address) : start(with_, served.address)));
    }
    const [ours, theirs] = times.map(median);
    report('(dd) start without a network : of the same with one', { ours, theirs, ratio: ours / theirs }, 1);
  } finally {
    await browser.close();
    served.end();
  }
}
