/** Slider steps on the demo, at fit zoom, as they are seen on the screen. */
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from '@playwright/test';
import { createApp } from '../../apps/server/src/app.ts';
import { wholeBrowser } from '../../e2e/browser.ts';
import { median } from './measure.ts';

interface Steps {
  readonly late: number;
  readonly delays: number[];
}

/** Runs in the page: therefore a text, which no compiler changes. A step counts as late if the picture is not another one in the next frame but one. */
const stepsInPage = `async (canvas, field, shiftKey) => {
  const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
  const context = canvas.getContext('2d');
  const seen = () => context.getImageData(canvas.width >> 1, canvas.height >> 1, 64, 8).data.join();
  const delays = [];
  let late = 0;
  field.focus();
  for (let i = 0; i < 60; i++) {
    for (let j = 0; j < 3; j++) await frame();
    const before = seen();
    await frame();
    field.dispatchEvent(new KeyboardEvent('keydown', { key: i % 20 < 10 ? 'ArrowUp' : 'ArrowDown', shiftKey, bubbles: true }));
    let frames = 0;
    do {
      await frame();
      frames++;
    } while (seen() === before && frames < 30);
    delays.push(frames);
    if (frames > 3) late++;
  }
  return { late, delays };
}`;

const inBench = (page: Page) => page.getByRole('complementary', { name: 'Bench' });
const toStage = (page: Page, name: string) => page.getByRole('link', { name, exact: true }).click();

/** What is moved: how it comes to be there, and the field that is stepped. */
const MOVES = {
  exposure: {
    field: 'Exposure',
    prepare: async (page: Page) => {
      await page.getByRole('button', { name: 'Correct all below …' }).click();
      await page.getByRole('option', { name: 'Exposure' }).first().click();
    },
  },
  light: {
    field: 'Environment',
    prepare: async (page: Page) => {
      await toStage(page, 'Light');
      await page.getByRole('button', { name: 'Mix the light' }).click();
    },
  },
  haze: {
    field: 'Visibility',
    prepare: async (page: Page) => {
      await toStage(page, 'Sky & air');
      await inBench(page).getByRole('button', { name: 'Air', exact: true }).click();
    },
  },
  'f-number': {
    field: 'f-number',
    // Thirds of a stop: larger ones end where nothing is blurred any more, and no step is seen.
    isSmall: true,
    prepare: async (page: Page) => {
      await toStage(page, 'Lens');
      await inBench(page).getByRole('button', { name: 'Focus', exact: true }).click();
      await inBench(page).getByRole('textbox', { name: 'Sharp at', exact: true }).fill('1');
      await page.keyboard.press('Enter');
    },
  },
} as const;

/** How many frames pass until a step is seen. */
export async function benchSteps(of: keyof typeof MOVES): Promise<void> {
  const { field, prepare } = MOVES[of];
  const server = createApp(fileURLToPath(new URL('../../apps/web/dist', import.meta.url))).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const browser = await chromium.launch(wholeBrowser);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, serviceWorkers: 'block' });
    await page.goto(`http://localhost:${(server.address() as { port: number }).port}/demo`);
    const settled = () => page.locator('[data-settled="true"]').waitFor({ timeout: 300_000 });
    await settled();
    await prepare(page);
    await settled();
    await page.waitForTimeout(1500);
    await inBench(page).getByRole('textbox', { name: field, exact: true }).evaluate((element) => element.setAttribute('data-bench-field', ''));
    const { late, delays } = await page.evaluate<Steps>(`(${stepsInPage})(document.querySelector('[data-testid="picture"]'), document.querySelector('[aria-label="Bench"] [data-bench-field]'), ${!('isSmall' in MOVES[of])})`);
    console.log(`(t) slider steps on the demo at fit zoom, ${of}: ${late} of ${delays.length} later than the next frame but one (goal ≤ 5 %), half of them within ${median(delays)} frames, nine of ten within ${[...delays].sort((a, b) => a - b)[Math.floor(delays.length * 0.9)]}`);
  } finally {
    await browser.close();
    server.close();
  }
}
