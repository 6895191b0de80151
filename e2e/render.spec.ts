import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { scratch } from '../tests/tools.ts';
import { cardNames, choose, downloaded, settled, still, toStage } from './helpers.ts';

const folder = scratch();
/** The small scene of docs/scenes.md: ready in a moment. */
const example = /```json\n([\s\S]*?)```/.exec(readFileSync(new URL('../docs/scenes.md', import.meta.url), 'utf8'))?.[1] ?? '';
const sceneFile = (name: string, text = example) => {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
};

const side = (page: Page) => page.getByRole('complementary', { name: 'How it is rendered' });
const start = (page: Page) => page.getByRole('button', { name: 'Start the render' });
const done = (page: Page) => expect(page.getByRole('contentinfo').getByRole('status')).toHaveText(/^Done after/);
const drawn = (page: Page, what: RegExp) => expect(page.locator('canvas')).toHaveAttribute('data-drawn', what);

async function set(page: Page, name: string, value: string): Promise<void> {
  const field = side(page).getByRole('textbox', { name, exact: true });
  await field.fill(value);
  await field.press('Enter');
}

/** The bench with the small scene at a small size. */
async function openBench(page: Page, elements = 'Enhancement'): Promise<void> {
  await page.goto('/render');
  await expect(start(page)).toBeEnabled();
  await page.getByLabel('Scene file').setInputFiles(sceneFile('room.json'));
  await expect(page.getByText('A room')).toBeVisible();
  await set(page, 'Width', '120');
  await set(page, 'Height', '80');
  await set(page, 'Noise', '20');
  await page.getByRole('button', { name: elements, exact: true }).click();
}

/** Mean of the canvas's colours. */
const mean = (page: Page) =>
  page.locator('canvas').evaluate((canvas: HTMLCanvasElement) => {
    const { data } = canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height) ?? { data: new Uint8ClampedArray() };
    const sums = [0, 0, 0, 0];
    for (let i = 0; i < data.length; i++) sums[i % 4] += data[i];
    return sums.map((sum) => sum / (data.length / 4));
  });

test('from the start page to elements, flipped through, and into a document', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Render a scene' }).click();
  await expect(page.getByRole('heading', { name: 'Render bench' })).toBeVisible();
  await expect(page.getByText('Kiln Yard Library')).toBeVisible();
  await openBench(page);
  expect((await mean(page))[3]).toBe(0);
  await start(page).click();
  await done(page);
  await drawn(page, /^beauty 0 clean$/);
  const beauty = await mean(page);
  expect(beauty[3]).toBe(255);
  expect(beauty[0]).toBeGreaterThan(30);

  // Flipping: with the key, with the buttons, by name.
  await page.keyboard.press(']');
  await drawn(page, /^denoised-beauty 0/);
  await page.getByRole('button', { name: 'Element before' }).click();
  await drawn(page, /^beauty 0/);
  await choose(page, page.getByRole('combobox', { name: 'Shown element' }), 'Material ID');
  await drawn(page, /^material-id 0/);
  const before = await mean(page);
  await page.getByRole('textbox', { name: 'Number of Plaster' }).or(page.getByRole('spinbutton', { name: 'Number of Plaster' })).fill('9');
  await expect.poll(async () => (await mean(page)).join()).not.toBe(before.join());

  // Noisy against denoised.
  await choose(page, page.getByRole('combobox', { name: 'Shown element' }), /^Beauty$/);
  await drawn(page, /^beauty 0 clean$/);
  await page.getByRole('checkbox', { name: 'Without noise' }).click();
  await drawn(page, /^beauty 0 noisy$/);
  await expect(page.getByText(/The surfaces seen reach from .* to .* m\./)).toBeVisible();

  await side(page).getByRole('button', { name: 'Send to the document' }).click();
  await page.waitForURL(/\/document\/.*\/build-up/, { timeout: 120_000 });
  await settled(page);
  await expect.poll(() => cardNames(page)).toEqual(['denoised_beauty']);
  await toStage(page, 'Surfaces');
  await expect(page.getByRole('region', { name: 'Material schedule', exact: true })).toContainText('Plaster');
});

test('files: named by themselves, never the same name twice, read by OpenImageIO', async ({ page }) => {
  await openBench(page, 'Masks only');
  await start(page).click();
  await done(page);
  const save = side(page).getByRole('button', { name: 'Save all elements' });
  const first = await downloaded(page, save);
  expect(first.name).toBe('a-room_front_001.exr');
  const path = join(folder, 'parts.exr');
  writeFileSync(path, readFileSync(first.path));
  expect(execFileSync('oiiotool', ['--info', '-v', '-a', path]).toString()).toMatch(/oiio:subimagename: "beauty"[\s\S]*oiio:subimagename: "crypto_material"/);
  await choose(page, side(page).getByRole('combobox', { name: 'Files' }), 'A PNG for each element');
  const second = await downloaded(page, save);
  expect(second.name).toBe('a-room_front_002.zip');
  await expect(page.getByRole('region', { name: 'Notes' })).toContainText('Position is not saved: a PNG keeps numbers from 0 to 1 only');
  await page.getByRole('button', { name: 'Close the notes' }).click();
  const zip = join(folder, 'pngs.zip');
  writeFileSync(zip, readFileSync(second.path));
  // A zip lists its names as they are.
  expect(readFileSync(zip).includes('a-room_front_002_material_id.png')).toBe(true);

  // Into a document that is there: the same picture size, more elements.
  await side(page).getByRole('button', { name: 'Send to the document' }).click();
  await page.waitForURL(/\/document\//, { timeout: 120_000 });
  await settled(page);
  await page.goto('/render');
  await expect(start(page)).toBeEnabled();
  expect(await page.getByRole('button', { name: 'Masks only' }).getAttribute('aria-pressed')).toBe('true');
});

test('stops and keeps what it has; settings come back', async ({ page }) => {
  await openBench(page, 'Exact rebuild');
  await set(page, 'Noise', '0.5');
  await set(page, 'Seed', '3');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('contentinfo').getByRole('status')).toHaveText(/Rendering, .* left/);
  await expect.poll(async () => (await mean(page))[3]).toBeGreaterThan(200);
  // Flipping while it renders.
  await choose(page, page.getByRole('combobox', { name: 'Shown element' }), 'Light group: lamps');
  await drawn(page, /^light-group 2 noisy$/);
  await page.getByRole('button', { name: 'Stop and keep' }).click();
  await done(page);
  await expect(page.getByRole('contentinfo').getByRole('status')).toHaveText(/stopped before the noise limit/);
  await expect(side(page).getByRole('button', { name: 'Save all elements' })).toBeEnabled();
  await page.reload();
  await expect(start(page)).toBeEnabled();
  await expect(side(page).getByRole('textbox', { name: 'Seed', exact: true })).toHaveValue('3');
});

test('a region, depth of field, exposure by settings', async ({ page }) => {
  await openBench(page, 'Masks only');
  await side(page).getByRole('checkbox', { name: 'Depth of field' }).click();
  await set(page, 'In focus at', '6');
  await choose(page, side(page).getByRole('combobox', { name: 'Exposure' }), 'By settings');
  await set(page, 'f-number', '11');
  await side(page).getByRole('button', { name: 'Draw one' }).click();
  const box = await page.locator('canvas').boundingBox();
  if (!box) throw new Error('no canvas');
  await page.mouse.move(box.x + box.width * 0.25, box.y + box.height * 0.25);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.75, box.y + box.height * 0.75, { steps: 5 });
  await page.mouse.up();
  await expect(side(page).getByRole('button', { name: /^6\d × 4\d$/ })).toBeVisible();
  await start(page).click();
  await done(page);
  await drawn(page, /./);
  expect((await mean(page))[3]).toBeGreaterThan(50);
  expect((await mean(page))[3]).toBeLessThan(80);
  await side(page).getByRole('button', { name: 'Whole' }).click();
  await side(page).getByRole('button', { name: 'As in the scene' }).first().click();
  await expect(side(page).getByRole('checkbox', { name: 'Depth of field' })).not.toBeChecked();
});

test('wrong scenes and renders that are too large say what to do', async ({ page }) => {
  await openBench(page, 'Everything');
  await page.getByLabel('Scene file').setInputFiles(sceneFile('wrong.json', example.replace('"lumens": 900', '"lumens": "many"')));
  await expect(page.getByRole('alert')).toContainText('lamps[0].lumens');
  await page.getByLabel('Scene file').setInputFiles(sceneFile('words.json', 'not a scene'));
  await expect(page.getByRole('alert')).toContainText('words.json is not JSON');
  await set(page, 'Width', '8000');
  await set(page, 'Height', '8000');
  await start(page).click();
  await expect(page.getByRole('alert')).toContainText(/This render needs .* GB of memory, 3\.0 GB are allowed/);
  await set(page, 'Width', '180');
  await set(page, 'Height', '120');
  await expect(page.getByRole('alert')).toBeHidden();
});

test('axe finds nothing serious on the render bench', async ({ page }) => {
  await openBench(page);
  // In dark panels, whose colours are those of the workspace, which is looked through in both.
  await page.getByRole('button', { name: 'Dark panels' }).click();
  await still(page);
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === 'serious' || impact === 'critical').map(({ id, nodes }) => `${id} ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`)).toEqual([]);
});
