import { expect, type Locator, type Page } from '@playwright/test';
import { idPng, layeredExr } from '../tests/elements.ts';

export const demoFile = (name: 'kiln-yard.exr' | 'kiln-yard_material_id.png') => (name === 'kiln-yard.exr' ? layeredExr() : idPng());
export const DEMO_FILES = [demoFile('kiln-yard.exr'), demoFile('kiln-yard_material_id.png')];
export { program } from '../tests/shell.ts';

/** The picture on the screen shows the document as it is, and all cards are drawn. */
export async function settled(page: Page): Promise<void> {
  await expect(page.locator('[data-settled="true"]')).toBeVisible({ timeout: 240_000 });
  await expect(page.locator('[data-drawn="true"]')).toBeVisible();
}

/** What was changed last is stored. */
export const saved = (page: Page) => expect(page.getByRole('region', { name: 'Title block' })).toContainText('Saved in this browser');

/** Nothing moves any more. */
export const still = (page: Page) => page.evaluate(async () => {
  const ending = document.getAnimations().filter((animation) => animation.effect?.getComputedTiming().iterations !== Number.POSITIVE_INFINITY);
  await Promise.allSettled(ending.map((animation) => animation.finished));
});

/** @param at another server than that of the small demo */
export async function openDemo(page: Page, at = ''): Promise<void> {
  await page.goto(`${at}/demo`);
  await settled(page);
}

/** Goes to a stage, and is there. */
export async function toStage(page: Page, name: string): Promise<void> {
  const link = page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name, exact: true });
  await link.click();
  await expect(link).toHaveAttribute('aria-current', 'page');
}

/** Makes a new document of the demo's files through the start page. */
export async function newDocument(page: Page, files: readonly string[] = DEMO_FILES): Promise<void> {
  await page.goto('/');
  await page.getByLabel('Picture files').setInputFiles([...files]);
  await page.waitForURL(/\/document\/.*\/build-up/);
  await settled(page);
}

const buildUp = (page: Page): Locator => page.getByRole('region', { name: 'Build-up', exact: true });
export const cards = (page: Page): Locator => buildUp(page).locator('li[data-layer]');
/** Names of the layers in order, once all their cards are drawn. */
export async function cardNames(page: Page): Promise<string[]> {
  await expect(buildUp(page)).toHaveAttribute('data-drawn', 'true');
  return cards(page).evaluateAll((items) => items.map((item) => item.querySelector('[aria-label^="Select "]')?.getAttribute('aria-label')?.slice(7) ?? ''));
}
/** What a drop or a build has found, beside the work. */
export const notes = (page: Page) => page.getByRole('region', { name: 'Notes' });
/** Adds a correction of all below the selected layer. */
export async function correctAll(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'Correct all below …' }).click();
  await page.getByRole('option', { name }).first().click();
  await settled(page);
}

export const bench = (page: Page) => page.getByRole('complementary', { name: 'Bench' });

/** The scale of a number on the bench: left end, length and middle line, in pixels of the page. */
export async function scaleOf(page: Page, name: string): Promise<{ x: number; width: number; y: number }> {
  const row = bench(page).getByRole('textbox', { name, exact: true }).locator('xpath=ancestor::div[1]');
  const box = await row.locator('> div[aria-hidden]').boundingBox();
  if (!box) throw new Error(`There is no scale of ${name}.`);
  return { x: box.x, width: box.width, y: box.y + box.height / 2 };
}

export async function choose(page: Page, field: Locator, option: string | RegExp): Promise<void> {
  await field.click();
  await page.getByRole('option', { name: option }).first().click();
}

/** Types a number into a field of the bench. */
export async function type(page: Page, name: string, value: string): Promise<void> {
  const field = bench(page).getByRole('textbox', { name, exact: true });
  await field.fill(value);
  await field.press('Enter');
}

/** Colours of the canvas in device pixels, under a point of the picture. */
export function canvasPixel(page: Page, x: number, y: number): Promise<number[]> {
  return page.getByTestId('picture').evaluate(
    (canvas: HTMLCanvasElement, at) => {
      const ratio = canvas.width / canvas.clientWidth;
      return [...(canvas.getContext('2d')?.getImageData(Math.floor(at.x * ratio), Math.floor(at.y * ratio), 1, 1).data ?? [])];
    },
    { x, y },
  );
}

/** A point of the picture field, as shares of its size. */
export async function fieldPoint(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  // Whole pixels: events know no others.
  return { x: Math.round(box.x + box.width * x), y: Math.round(box.y + box.height * y) };
}

/** A point of the demo's fitted picture, as shares of its size, within the field. */
export async function picturePoint(page: Page, fx: number, fy: number): Promise<{ x: number; y: number }> {
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  const zoom = Math.min((box.width - 48) / 1200, (box.height - 48) / 800);
  return { x: box.width / 2 + (fx - 0.5) * 1200 * zoom, y: box.height / 2 + (fy - 0.5) * 800 * zoom };
}

/** A short stroke of the brush over a place of the picture; the pointer leaves it afterwards. */
export async function stroke(page: Page, fx: number, fy: number): Promise<void> {
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  const at = await picturePoint(page, fx, fy);
  await page.mouse.move(box.x + at.x - 20, box.y + at.y);
  await page.mouse.down();
  for (let i = 0; i <= 10; i++) await page.mouse.move(box.x + at.x - 20 + 4 * i, box.y + at.y + (i % 2));
  await page.mouse.up();
  await page.mouse.move(box.x + 5, box.y + 5);
}

/** What the demo's picture shows at a place, as shares of its size. */
export async function colorAt(page: Page, fx: number, fy: number): Promise<number[]> {
  await settled(page);
  const { x, y } = await picturePoint(page, fx, fy);
  return (await canvasPixel(page, x, y)).slice(0, 3);
}

export async function downloaded(page: Page, button: Locator): Promise<{ name: string; path: string }> {
  const [download] = await Promise.all([page.waitForEvent('download'), button.click()]);
  return { name: download.suggestedFilename(), path: await download.path() };
}

/** Lets files fall onto the window, as from a folder. */
export async function drop(page: Page, files: readonly { name: string; bytes: Uint8Array }[]): Promise<void> {
  const transfer = await page.evaluateHandle((list) => {
    const data = new DataTransfer();
    for (const { name, base64 } of list) data.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], name));
    return data;
  }, files.map(({ name, bytes }) => ({ name, base64: Buffer.from(bytes).toString('base64') })));
  const target = page.locator('#root > div').first();
  for (const event of ['dragenter', 'dragover', 'drop']) await target.dispatchEvent(event, { dataTransfer: transfer });
}
