/** Takes the pictures of docs/screenshots from the demo data, with the production build. `npm run screenshots` */
import { mkdirSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type Browser, chromium, type Page } from '@playwright/test';
import { createApp } from '../apps/server/src/app.ts';
import { ReviewStore } from '../apps/server/src/review/store.ts';
import { browserOptions } from '../e2e/browser.ts';

const folder = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));
const root = fileURLToPath(new URL('../apps/web/dist', import.meta.url));

async function settled(page: Page): Promise<void> {
  await page.waitForFunction(() => document.querySelector('[data-settled="true"]') !== null, undefined, { timeout: 60_000 });
  await page.waitForTimeout(700);
}

const views: Readonly<Record<string, (page: Page, address: string) => Promise<void>>> = {
  'build-up': async (page, address) => {
    await page.goto(`${address}/demo`);
    await settled(page);
    await page.getByRole('button', { name: 'Select Evening', exact: true }).first().click();
    await settled(page);
  },
  surfaces: async (page, address) => {
    await page.goto(`${address}/document/demo/surfaces`);
    await settled(page);
    await page.getByRole('radio', { name: 'hatch' }).click();
    await page.locator('tr[data-row]', { hasText: 'Brick' }).first().click();
    const box = await page.getByTestId('picture').boundingBox();
    if (box) await page.mouse.move(box.x + box.width * 0.42, box.y + box.height * 0.36);
    await settled(page);
  },
  mask: async (page, address) => {
    await page.goto(`${address}/document/demo/surfaces`);
    await settled(page);
    await page.locator('tr[data-row]', { hasText: 'Gravel in front' }).click();
    await page.getByRole('radio', { name: 'hatch' }).click();
    await page.getByRole('complementary', { name: 'Bench' }).getByRole('button', { name: /^∩ Depth band/ }).click();
    await settled(page);
  },
  elements: async (page, address) => {
    await page.goto(`${address}/document/demo/elements`);
    await settled(page);
    await page.locator('[data-row]', { hasText: 'raw_lighting' }).click();
    await page.keyboard.press('e');
    await settled(page);
  },
  entourage: async (page, address) => {
    await page.goto(`${address}/demo/late-sun`);
    await settled(page);
    await page.getByRole('link', { name: 'Entourage', exact: true }).click();
    await page.getByRole('button', { name: 'Select People', exact: true }).click();
    await settled(page);
  },
  'reading-room': async (page, address) => {
    await page.goto(`${address}/demo/reading-room`);
    await settled(page);
  },
  'render-bench': async (page, address) => {
    await page.goto(`${address}/render`);
    const start = page.getByRole('button', { name: 'Start the render' });
    await page.waitForFunction(() => document.querySelector<HTMLButtonElement>('footer button')?.disabled === false, undefined, { timeout: 60_000 });
    await start.click();
    await page.getByRole('status').filter({ hasText: /Rendering, .* left/ }).waitFor({ timeout: 60_000 });
    await page.waitForTimeout(75_000);
  },
  dusk: async (page, address) => {
    await page.goto(`${address}/document/demo/build-up`);
    await settled(page);
    await page.getByRole('button', { name: 'Dark panels' }).click();
    await settled(page);
  },
  documents: async (page, address) => {
    // The small pictures are made some seconds after a document has opened.
    for (const name of ['/demo', '/demo/reading-room']) {
      await page.goto(`${address}${name}`);
      await settled(page);
      await page.waitForTimeout(5000);
    }
    await page.goto(`${address}/`);
    await page.waitForSelector('li img');
    await page.waitForTimeout(500);
  },
  // The last ones change the document.
  review: async (page, address) => {
    await page.goto(`${address}/demo`);
    await settled(page);
    await page.getByRole('link', { name: 'Deliver', exact: true }).click();
    const section = page.getByRole('region', { name: 'Review' });
    await section.getByRole('textbox', { name: 'Note to this version' }).fill('The evening, as we talked about it. Please look at the doors.');
    await section.getByRole('button', { name: 'Publish for review' }).click();
    await section.getByRole('button', { name: 'Publish version 2' }).waitFor();
    await page.goto(await section.getByRole('textbox', { name: 'Link for the client' }).inputValue());
    for (const [x, y, text] of [[0.53, 0.6, 'Could these doors be a little lighter? From here they look almost black.'], [0.27, 0.49, 'This lamp is very bright, it draws the eye.']] as const) {
      await page.getByRole('button', { name: 'New remark' }).click();
      const box = await page.getByTestId('sheet').boundingBox();
      if (!box) throw new Error('There is no picture.');
      await page.mouse.click(box.x + box.width * x, box.y + box.height * y);
      await page.getByRole('textbox', { name: 'New remark' }).fill(text);
      await page.getByRole('textbox', { name: 'Your name' }).fill('Ada Holt');
      await page.getByRole('button', { name: 'Send' }).click();
      await page.getByRole('button', { name: 'New remark' }).waitFor();
    }
    await page.getByRole('radio', { name: 'Wipe' }).click();
    await page.waitForTimeout(500);
  },
  sky: async (page, address) => {
    await page.goto(`${address}/document/demo/sky`);
    await settled(page);
    await page.getByRole('button', { name: 'Add the sky Late sun' }).click();
    await page.getByRole('complementary', { name: 'Bench' }).getByText('Sky, under the tone line').waitFor();
    await settled(page);
    await page.waitForTimeout(1500);
    await settled(page);
  },
  lens: async (page, address) => {
    await page.goto(`${address}/document/demo/lens`);
    await settled(page);
    const bench = page.getByRole('complementary', { name: 'Bench' });
    await bench.getByRole('button', { name: 'Evening glow' }).click();
    await settled(page);
    await bench.getByRole('button', { name: 'Film', exact: true }).click();
    await settled(page);
    await page.getByRole('region', { name: 'Lens and film' }).getByText('Glow of lamps').click();
    await bench.getByRole('textbox', { name: 'Amount', exact: true }).fill('24');
    await bench.getByRole('textbox', { name: 'Amount', exact: true }).press('Enter');
    await settled(page);
  },
  // Three schemes, and a list of deliveries.
  deliver: async (page, address) => {
    await page.goto(`${address}/document/demo/deliver`);
    await settled(page);
    const add = () => page.getByRole('button', { name: 'New scheme' }).click();
    await add();
    await page.getByRole('link', { name: 'Light', exact: true }).click();
    await page.getByRole('button', { name: 'Mix the light' }).click();
    await page.getByRole('button', { name: 'Load Dusk' }).click();
    await settled(page);
    await page.getByRole('link', { name: 'Deliver', exact: true }).click();
    const bench = page.getByRole('complementary', { name: 'Bench' });
    await bench.getByRole('button', { name: 'Keep in the list' }).click();
    await page.getByRole('radio', { name: 'TIFF' }).click();
    await bench.getByRole('button', { name: 'Keep in the list' }).click();
    await page.waitForTimeout(3000);
    await settled(page);
  },
  repaint: async (page, address) => {
    await page.goto(`${address}/document/demo/surfaces`);
    await settled(page);
    await page.waitForTimeout(1500);
    await page.locator('tr[data-row]', { hasText: 'Timber slats' }).first().click();
    const hex = page.getByRole('textbox', { name: 'New colour as a hex code' }).first();
    await hex.fill('#3d5c56');
    await hex.press('Enter');
    await page.waitForTimeout(1500);
    await settled(page);
  },
  groups: async (page, address) => {
    await page.goto(`${address}/document/demo/elements`);
    await settled(page);
    const bench = page.getByRole('complementary', { name: 'Bench' });
    await bench.getByRole('combobox', { name: 'Granularity of the rebuild' }).click();
    await page.getByRole('option', { name: 'Filter × raw' }).click();
    await bench.getByRole('button', { name: 'Exact rebuild' }).click();
    await page.getByRole('button', { name: /Open Elements/ }).click();
    await page.getByRole('button', { name: /Open diffuse_filter/ }).click();
    await page.waitForTimeout(3000);
    await settled(page);
  },
  rebuild: async (page, address) => {
    await page.goto(`${address}/document/demo/elements`);
    await settled(page);
    await page.locator('[data-row]', { hasText: 'self_illumination' }).first().click();
    const bench = page.getByRole('complementary', { name: 'Bench' });
    await bench.getByRole('combobox', { name: 'Counts in the sum' }).click();
    await page.getByRole('option', { name: 'No' }).click();
    await bench.getByRole('button', { name: 'The whole set' }).click();
    await bench.getByRole('button', { name: 'Check', exact: true }).click();
    await page.waitForSelector('[data-verdict]', { timeout: 120_000 });
    await bench.getByRole('button', { name: 'Look at the difference' }).click();
    await settled(page);
  },
  'tone-line': async (page, address) => {
    await page.goto(`${address}/document/demo/build-up`);
    await settled(page);
    await page.getByRole('button', { name: 'Select the tone line' }).click();
    await page.getByRole('combobox', { name: 'Curve of the tone line' }).click();
    await page.getByRole('option', { name: /^Toe and shoulder/ }).click();
    await settled(page);
  },
  light: async (page, address) => {
    await page.goto(`${address}/demo/reading-room`);
    await settled(page);
    await page.getByRole('link', { name: 'Light', exact: true }).click();
    await settled(page);
    await page.getByRole('button', { name: 'Load Evening' }).click();
    await settled(page);
    await page.getByRole('radio', { name: 'Elements' }).click();
    await page.getByRole('button', { name: 'Environment: colour and more' }).click();
    await page.getByText(/^grain .*, as rendered/).waitFor({ timeout: 60_000 });
    await settled(page);
  },
  beside: async (page, address) => {
    await page.goto(`${address}/document/demo/build-up`);
    await settled(page);
    await page.keyboard.press('v');
    await page.keyboard.press('f');
    await settled(page);
  },
};

async function take(browser: Browser, address: string, only: readonly string[]): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, serviceWorkers: 'block' });
  const page = await context.newPage();
  await page.goto(`${address}/demo`);
  await settled(page);
  for (const [name, prepare] of Object.entries(views)) {
    if (only.length > 0 && !only.includes(name)) continue;
    const view = await context.newPage();
    await page.goto('about:blank');
    await prepare(view, address);
    await view.screenshot({ path: `${folder}${name}.png` });
    console.log(`docs/screenshots/${name}.png`);
    if (name === 'dusk') await view.getByRole('button', { name: 'Light panels' }).click();
    await view.goto(`${address}/`);
    await view.close();
  }
}

const server = createApp(root, { store: new ReviewStore(mkdtempSync(join(tmpdir(), 'tazzel-reviews-'))), studioKey: null }).listen(0, '127.0.0.1');
const address = await new Promise<string>((resolve) => {
  server.once('listening', () => resolve(`http://localhost:${(server.address() as { port: number }).port}`));
});
const browser = await chromium.launch(browserOptions);
try {
  await take(browser, address, process.argv.slice(2));
} finally {
  await browser.close();
  server.close();
}
