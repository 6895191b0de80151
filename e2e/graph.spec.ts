import { expect, type Locator, type Page, test } from '@playwright/test';
import { bench, canvasPixel, cards, choose, correctAll, newDocument, openDemo, settled, toStage, type } from './helpers.ts';

const addLayer = async (page: Page, name: RegExp) => {
  await page.getByRole('button', { name: 'Add a layer …' }).click();
  await page.getByRole('menuitem', { name }).click();
  await settled(page);
};
const select = (page: Page, name: string) => page.getByRole('button', { name: `Select ${name}`, exact: true }).first().click();
/** The picture as it is on the screen now, in some places. */
async function seen(page: Page): Promise<number[][]> {
  await settled(page);
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('the picture is not on the screen');
  const places = [[0.2, 0.3], [0.35, 0.6], [0.5, 0.45], [0.62, 0.3], [0.75, 0.7]];
  return Promise.all(places.map(([x, y]) => canvasPixel(page, box.width * x, box.height * y)));
}
const handle = (page: Page, name: string): Locator => page.getByRole('region', { name: 'Picture' }).getByRole('button', { name, exact: true });
async function drag(page: Page, from: Locator, dx: number, dy: number): Promise<void> {
  const box = await from.boundingBox();
  if (!box) throw new Error('the handle is not on the screen');
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 6; i++) await page.mouse.move(x + (dx * i) / 6, y + (dy * i) / 6);
  await page.mouse.up();
  await settled(page);
}

test('a reflection blurred inside the water alone: nothing of the gravel comes in, and undo brings it back', async ({ page }) => {
  await openDemo(page);
  const before = await seen(page);
  await toStage(page, 'Surfaces');
  await page.locator('tr[data-row]', { hasText: 'Water' }).first().click();
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'Gaussian blur' }).first().click();
  await type(page, 'Width', '18');
  await settled(page);
  await expect(bench(page).getByRole('checkbox', { name: 'Stays inside its mask' })).toBeChecked();
  // What is not water is what it was.
  expect(await seen(page)).toEqual(before);
  await bench(page).getByRole('checkbox', { name: 'Stays inside its mask' }).click();
  await settled(page);
  await page.keyboard.press('Control+z');
  await toStage(page, 'Build-up');
  await expect(bench(page).getByRole('checkbox', { name: 'Stays inside its mask' })).toBeChecked();
  // Width in pixels and blur in a chain: the whole picture goes soft, and comes back at once when it is switched off.
  await select(page, 'denoised_beauty');
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'Gaussian blur' }).first().click();
  await type(page, 'Width', '40');
  const soft = await seen(page);
  expect(soft).not.toEqual(before);
  await bench(page).getByRole('checkbox', { name: 'Gaussian blur on' }).click();
  expect(await seen(page)).toEqual(before);
});

test('a fill: a ramp is laid by its handles, with the pointer and with keys', async ({ page }) => {
  await openDemo(page);
  await select(page, 'Darker corners');
  await addLayer(page, /^Fill/);
  await expect(bench(page)).toContainText('Fill, under the tone line');
  const plain = await seen(page);
  expect(new Set(plain.map(String)).size).toBeLessThanOrEqual(5);
  await choose(page, bench(page).getByRole('combobox', { name: 'Fill', exact: true }), 'Ramp along a line');
  const ramp = await seen(page);
  expect(ramp).not.toEqual(plain);
  await drag(page, handle(page, 'The ramp ends here'), 0, -180);
  const shorter = await seen(page);
  expect(shorter).not.toEqual(ramp);
  await handle(page, 'The ramp begins here').press('Shift+ArrowRight');
  await settled(page);
  const hex = bench(page).getByRole('textbox', { name: 'Begins with as a hex code' });
  await hex.fill('c0392b');
  await hex.press('Enter');
  await expect(hex).toHaveValue('#c0392b');
  const [red] = await seen(page);
  expect(red[0]).toBeGreaterThan(red[2]);
  await hex.fill('not a colour');
  await hex.press('Enter');
  await expect(hex).toHaveValue('#c0392b');
  // One drag is one step back.
  for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z');
  expect(await seen(page)).toEqual(shorter);
  await page.keyboard.press('Control+z');
  expect(await seen(page)).toEqual(ramp);
});

test('a snapshot is placed on the picture, mirrored and turned; what it shows can be chosen, not itself', async ({ page }) => {
  await openDemo(page);
  await select(page, 'Evening');
  await addLayer(page, /^Snapshot/);
  await expect(bench(page)).toContainText('Snapshot, under the tone line');
  const whole = await seen(page);
  await bench(page).getByRole('button', { name: 'Move it …' }).click();
  expect(await seen(page)).toEqual(whole);
  await drag(page, handle(page, 'Lower right corner'), -150, -100);
  const smaller = await seen(page);
  expect(smaller).not.toEqual(whole);
  const number = async (name: string) => Number(await bench(page).getByRole('textbox', { name, exact: true }).inputValue());
  const [across, down] = [await number('Width'), await number('Height')];
  expect(across).toBeLessThan(80);
  // A corner keeps the shape.
  expect(across).toBeCloseTo(down, 1);
  await drag(page, handle(page, 'Move it'), 60, 30);
  expect(await number('Across')).toBeGreaterThan(20);
  await drag(page, handle(page, 'Turn it'), 80, 0);
  expect(Math.abs(await number('Turned'))).toBeGreaterThan(5);
  await bench(page).getByRole('button', { name: 'Mirror left and right' }).click();
  expect(await number('Width')).toBeCloseTo(-across, 1);
  await type(page, 'Width', '0');
  await expect(page.getByText('scaled to nothing').first()).toBeVisible();
  await page.keyboard.press('Control+z');
  await bench(page).getByRole('button', { name: 'Back to where its pixels lie' }).click();
  expect(await seen(page)).toEqual(whole);
  // Only what lies below it is offered.
  await bench(page).getByRole('combobox', { name: 'Shows after' }).click();
  await expect(page.getByRole('option', { name: 'Darker corners' })).toBeHidden();
  await page.getByRole('option', { name: 'denoised_beauty' }).click();
  expect(await seen(page)).not.toEqual(whole);
  // The layer that it shows is deleted: it says so, and the rest stays.
  await select(page, 'denoised_beauty');
  await page.keyboard.press('Delete');
  await select(page, 'After Evening');
  await expect(bench(page)).toContainText('the layer that it shows is gone');
});

test('slats are repainted under the same light; without its elements it says what is missing', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Surfaces');
  await page.locator('tr[data-row]', { hasText: 'Timber slats' }).first().click();
  const hex = bench(page).getByRole('textbox', { name: 'New colour as a hex code' }).first();
  const present = await hex.inputValue();
  await hex.fill('#7d2320');
  await hex.press('Enter');
  await expect(cards(page).filter({ hasText: 'Timber slats: repaint' })).toContainText('#7d2320');
  await expect(bench(page)).toContainText('LRV 6');
  await bench(page).getByRole('button', { name: /^Repaint #/ }).click();
  await expect(bench(page).getByRole('textbox', { name: 'Present colour as a hex code' })).toHaveValue(present);
  await page.goto('/');
  await newDocument(page);
  await correctAll(page, 'Repaint');
  await expect(bench(page)).toContainText('New colour');
  await toStage(page, 'Elements');
  await page.getByRole('region', { name: 'Elements', exact: true }).locator('tr[data-row]', { hasText: 'raw_lighting' }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Role' }), 'Picture');
  await toStage(page, 'Build-up');
  await expect(bench(page)).toContainText('The document has no raw lighting');
});

test('a vignette follows its centre, and the histogram follows the picture', async ({ page }) => {
  await openDemo(page);
  await select(page, 'Darker corners');
  await correctAll(page, 'Vignette');
  await bench(page).getByRole('button', { name: 'Open the scopes' }).click();
  const drawing = page.getByTestId('histogram');
  const label = () => drawing.getAttribute('aria-label');
  await expect(drawing).toBeVisible();
  const first = await label();
  await type(page, 'Corners', '-3');
  await expect.poll(label).not.toBe(first);
  const darker = await seen(page);
  await drag(page, handle(page, 'Centre'), -180, 90);
  expect(await seen(page)).not.toEqual(darker);
  expect(Number(await bench(page).getByRole('textbox', { name: 'Centre across' }).inputValue())).toBeLessThan(35);
  await choose(page, bench(page).getByRole('combobox', { name: 'In which numbers' }), 'Light');
  await expect(drawing).toContainText('grey');
  await expect(bench(page)).toContainText('beyond white');
  // A layer alone, and what is remembered.
  await select(page, 'Occlusion');
  await choose(page, bench(page).getByRole('combobox', { name: 'What is measured' }), 'This layer alone');
  await expect(bench(page).getByRole('combobox', { name: 'In which numbers' })).toHaveText(/Picture values/);
  await page.reload();
  await settled(page);
  await expect(drawing).toBeVisible();
});

test('curves are drawn with the pointer, with keys and by a click in the picture, and undo step by step', async ({ page }) => {
  await openDemo(page);
  await select(page, 'Occlusion');
  const before = await seen(page);
  await correctAll(page, 'Curves');
  const drawing = page.getByTestId('curve');
  const points = drawing.getByRole('slider');
  await expect(points).toHaveCount(2);
  // A point drawn downwards darkens.
  const box = await drawing.boundingBox();
  if (!box) throw new Error('the drawing is not on the screen');
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * (0.5 + i * 0.04));
  await page.mouse.up();
  await expect(points).toHaveCount(3);
  const darker = await seen(page);
  expect(darker.every(([red], i) => red < before[i][0])).toBe(true);
  await expect(cards(page).filter({ hasText: 'Curves' }).first()).toContainText('all through 3 points');
  // Keys move it, by one code or ten; the numbers say where it is.
  await points.nth(1).focus();
  await page.keyboard.press('Shift+ArrowUp');
  const to = bench(page).getByRole('textbox', { name: 'To', exact: true });
  const raised = Number(await to.inputValue());
  expect(raised).toBeCloseTo(76.5 + 10, 0);
  await type(page, 'To', '100 + 20');
  await expect(points.nth(1)).toHaveAttribute('aria-valuetext', /becomes 120/);
  // A click in the picture sets a point where its value lies.
  await bench(page).getByRole('radio', { name: 'Luminosity' }).click();
  await bench(page).getByRole('button', { name: 'Set a point by a click in the picture' }).click();
  const picture = await page.getByTestId('picture').boundingBox();
  if (!picture) throw new Error('the picture is not on the screen');
  await page.mouse.click(picture.x + picture.width * 0.5, picture.y + picture.height * 0.4);
  await expect(points).toHaveCount(3);
  await points.nth(1).focus();
  await page.keyboard.press('Delete');
  await expect(points).toHaveCount(2);
  for (let i = 0; i < 8 && (await cards(page).filter({ hasText: 'Curves' }).count()) > 0; i++) await page.keyboard.press('Control+z');
  await expect(cards(page).filter({ hasText: 'Curves' })).toHaveCount(0);
  expect(await seen(page)).toEqual(before);
});

test('the menu of corrections finds them, puts them where they work, and says why not', async ({ page }) => {
  await openDemo(page);
  await select(page, 'denoised_beauty');
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('combobox', { name: 'Find a correction' }).fill('curv');
  const curves = page.getByRole('option', { name: /^Curves/ });
  await expect(curves).toHaveAttribute('aria-disabled', 'true');
  await expect(curves).toContainText('Curves does not work under the tone line.');
  await page.keyboard.press('Escape');
  // Of all below it goes over the tone line, and says so before.
  await page.getByRole('button', { name: 'Correct all below …' }).click();
  await page.getByRole('combobox', { name: 'Find a correction' }).fill('curv');
  await expect(page.getByRole('option', { name: /^Curves/ })).toContainText('over the tone line');
  await page.keyboard.press('Enter');
  await settled(page);
  await expect(bench(page)).toContainText('Curves of all below, over the tone line');
  // Families of hues: only the blues go.
  await correctAll(page, 'Hue families');
  const before = await seen(page);
  await bench(page).getByRole('radio', { name: /^Blue/ }).click();
  await type(page, 'Saturation', '0');
  expect(await seen(page)).not.toEqual(before);
  await expect(bench(page).getByRole('radio', { name: 'Blue, changed' })).toBeVisible();
  await expect(cards(page).filter({ hasText: 'Hue families' }).first()).toContainText('blue 0 %');
});
