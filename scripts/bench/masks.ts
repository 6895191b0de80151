/** Masks at the size of a print: flat colours taken apart against matching colours plainly, and the brush in the browser. */
import { chromium } from '@playwright/test';
import { evaluateMask, type MaskInputs, materialTerm, newMask, type Plane, unmix } from '@tazzel/core';
import { createApp } from '../../apps/server/src/app.ts';
import { wholeBrowser } from '../../e2e/browser.ts';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { compare, median, report } from './measure.ts';

const COLORS = 24;
const color = (k: number, c: number) => [37, 91, 151][c] * (k + 1) % 200 + 28;

/** Slanted bricks in 24 flat colours, antialiased along their edges: about a tenth of the pixels is mixed. */
function bricks(width: number, height: number): Plane[] {
  const data = [0, 1, 2].map(() => new Uint8Array(width * height));
  const rows = 60;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const v = (y + x * 0.11) / rows;
      const course = Math.floor(v);
      const share = Math.min(1, (v - course) * rows);
      const one = (Math.floor((x + (course % 2) * 70) / 140) + 5 * course + 2400) % COLORS;
      const other = (Math.floor((x + ((course + 1) % 2) * 70) / 140) + 5 * (course - 1) + 2400) % COLORS;
      for (const c of [0, 1, 2]) data[c][y * width + x] = Math.round(color(one, c) * share + color(other, c) * (1 - share));
    }
  }
  return data.map((plane) => ({ type: 'u8', width, height, data: plane }));
}

/** What selecting by colour does: each pixel goes to the first colour that is near enough in every channel. */
function plainMatch(planes: readonly Plane[], tolerance: number): Uint16Array {
  const [r, g, b] = planes.map(({ data }) => data);
  const out = new Uint16Array(r.length).fill(0xffff);
  for (let i = 0; i < out.length; i++) {
    for (let k = 0; k < COLORS; k++) {
      if (Math.abs(r[i] - color(k, 0)) > tolerance || Math.abs(g[i] - color(k, 1)) > tolerance || Math.abs(b[i] - color(k, 2)) > tolerance) continue;
      out[i] = k;
      break;
    }
  }
  return out;
}

export async function benchMasks(width: number, height: number): Promise<void> {
  const planes = bricks(width, height);
  const keys = Array.from({ length: COLORS }, (_, k) => color(k, 0) * 2 ** 32 + color(k, 1) * 2 ** 16 + color(k, 2));
  const mixture = unmix(planes, keys);
  report(`(i) shares of ${COLORS} colours, ${width} × ${height} : matching them plainly`, await compare(async () => unmix(planes, keys), async () => plainMatch(planes, 2), 3), 2);
  const inputs: MaskInputs = { size: { width, height }, level: 0, views: {}, mattes: {}, coverages: {}, pictures: {}, masks: {}, camera: null, mixtures: { 'mixture ids': { ...mixture, x: 0, y: 0 } }, materials: { a: { sourceId: 'ids', index: 3, colorKey: 0, what: 'flat', behindId: null, coverage: null } } };
  const [r, g, b] = planes.map(({ data }) => data);
  const one = () => {
    const out = new Uint8Array(width * height);
    for (let i = 0; i < out.length; i++) out[i] = Math.abs(r[i] - color(3, 0)) <= 2 && Math.abs(g[i] - color(3, 1)) <= 2 && Math.abs(b[i] - color(3, 2)) <= 2 ? 255 : 0;
    return out;
  };
  report('(j) a mask of one material from its shares : matching it plainly', await compare(async () => evaluateMask(newMask('m', 'm', [materialTerm(['a'])]), inputs), async () => one(), 5));
  console.log(`    ${((100 * mixture.edges.length) / (width * height)).toFixed(1)} % of the pixels are mixed`);
}

interface Frames {
  readonly painting: number[];
  readonly idle: number[];
  /** Steps of the stroke that were not on the canvas in the next frame. */
  readonly late: number;
}

/** Runs in the page: therefore a text, which no compiler changes. */
const paintInPage = `async (canvas) => {
  const box = canvas.getBoundingClientRect();
  const [x, y] = [(i) => 150 + i * 4, (i) => 200 + 60 * Math.sin(i / 6)];
  const send = (type, i) => canvas.dispatchEvent(new PointerEvent(type, { pointerId: 1, pointerType: 'pen', pressure: 0.7, button: 0, buttons: 1, bubbles: true, clientX: box.left + x(i), clientY: box.top + y(i) }));
  const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
  const scale = canvas.width / box.width;
  const pixel = (i) => canvas.getContext('2d').getImageData(Math.round(x(i) * scale), Math.round(y(i) * scale), 1, 1).data.join();
  canvas.setPointerCapture = () => undefined;
  const [painting, idle] = [[], []];
  for (let i = 0; i < 60; i++) {
    const start = await frame();
    idle.push((await frame()) - start);
  }
  const clean = Array.from({ length: 91 }, (_, i) => pixel(i));
  send('pointerdown', 0);
  let late = 0;
  for (let i = 1; i <= 90; i++) {
    const start = await frame();
    send('pointermove', i);
    painting.push((await frame()) - start);
    // What was painted is on the canvas when the frame after the event is over.
    await frame();
    if (pixel(i) === clean[i]) late++;
  }
  send('pointerup', 90);
  return { late, painting, idle };
}`;

/** How long frames take while a stroke is painted over a picture of this size, against frames in which nothing happens. */
export async function benchBrush(width: number, height: number): Promise<void> {
  const picture = await sharp({ create: { width, height, channels: 3, background: '#888', noise: { type: 'gaussian', mean: 128, sigma: 40 } } }).jpeg().toBuffer();
  const server = createApp(fileURLToPath(new URL('../../apps/web/dist', import.meta.url))).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const browser = await chromium.launch(wholeBrowser);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, serviceWorkers: 'block' });
    await page.goto(`http://localhost:${(server.address() as { port: number }).port}/`);
    await page.getByLabel('Picture files').setInputFiles({ name: 'beauty.jpg', mimeType: 'image/jpeg', buffer: picture });
    await page.waitForURL(/build-up/, { timeout: 300_000 });
    const settled = () => page.locator('[data-settled="true"]').waitFor({ timeout: 300_000 });
    await settled();
    await page.getByRole('link', { name: 'Surfaces' }).click();
    await page.getByRole('button', { name: 'New mask' }).click();
    await page.keyboard.press('p');
    for (const zoom of ['fit', '100 %']) {
      if (zoom !== 'fit') await page.keyboard.press('1');
      await settled();
      const { late, painting, idle } = await page.evaluate<Frames>(`(${paintInPage})(document.querySelector('[data-testid="picture"]'))`);
      console.log(`(k) brush over ${width} × ${height} at ${zoom}: a frame while painting ${median(painting).toFixed(1)} ms : an empty frame ${median(idle).toFixed(1)} ms   ratio ${(median(painting) / median(idle)).toFixed(2)}; strokes not on the screen in the next frame: ${late} of 90`);
    }
  } finally {
    await browser.close();
    server.close();
  }
}
