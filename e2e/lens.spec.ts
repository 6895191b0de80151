/** The stage Lens: glow, tilt blur and grain over the demo, switched together, in an order that is usual or not. */
import { expect, type Page, test } from '@playwright/test';
import { nodePlatform } from '@tazzel/engine/node';
import { encodePng } from '@tazzel/formats';
import { bench, cardNames, choose, colorAt, correctAll, openDemo, picturePoint, saved, settled, toStage, type } from './helpers.ts';

/** Of the small demo. */
const [WIDTH, HEIGHT] = [300, 200];
const LAMP_BESIDE = [0.285, 0.48] as const;
const WALL = [0.62, 0.62] as const;
const SKY = [0.4, 0.04] as const;
const BRICKS = [0.3875, 0.575] as const;
const list = (page: Page) => page.getByRole('region', { name: 'Lens and film' });
const apart = (a: readonly number[], b: readonly number[]) => a.reduce((sum, value, c) => sum + Math.abs(value - b[c]), 0);
const sum = (color: readonly number[]) => color.reduce((total, value) => total + value, 0);
const add = async (page: Page, name: string) => {
  await bench(page).getByRole('button', { name, exact: true }).click();
  await settled(page);
};

/** Light around one lamp, as large as the small demo. */
async function glarePicture(): Promise<Buffer> {
  const rgba = new Uint8Array(WIDTH * HEIGHT * 4);
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const far = Math.hypot((i % WIDTH) - LAMP_BESIDE[0] * WIDTH, Math.floor(i / WIDTH) - LAMP_BESIDE[1] * HEIGHT);
    rgba.set([200 / (1 + far / 8), 170 / (1 + far / 8), 120 / (1 + far / 8), 255], i * 4);
  }
  return Buffer.concat(await encodePng({ width: WIDTH, height: HEIGHT, rgba }, nodePlatform));
}

test('glow of the lamps, grain over the picture, tilt blur; all of it off and on, one by one, an unusual order is said', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Lens');
  await expect(list(page)).toContainText('Nothing yet');
  const [beside, wall, sky] = [await colorAt(page, ...LAMP_BESIDE), await colorAt(page, ...WALL), await colorAt(page, ...SKY)];
  await add(page, 'Evening glow');
  expect(await cardNames(page)).toContain('Evening glow');
  await page.getByRole('region', { name: 'Lens and film' }).getByText('Glow of lamps').click();
  await type(page, 'Amount', '60');
  await expect.poll(async () => sum(await colorAt(page, ...LAMP_BESIDE))).toBeGreaterThan(sum(beside) + 8);
  // A mask says where the glow is seen, or what shines: from the bricks nothing comes that falls on them.
  const bricks = await colorAt(page, ...BRICKS);
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask', exact: true }), 'Brick');
  await expect.poll(async () => apart(await colorAt(page, ...LAMP_BESIDE), beside)).toBeLessThan(8);
  expect(apart(await colorAt(page, ...BRICKS), bricks)).toBeLessThan(12);
  await choose(page, bench(page).getByRole('combobox', { name: 'Its mask is' }), 'What shines');
  await expect.poll(async () => sum(bricks) - sum(await colorAt(page, ...BRICKS))).toBeGreaterThan(60);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => apart(await colorAt(page, ...BRICKS), bricks)).toBe(0);
  // Off together, and on again, in one step of the history each.
  await list(page).getByRole('button', { name: 'All of it off, to judge' }).click();
  await settled(page);
  expect(await colorAt(page, ...WALL)).toEqual(wall);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => apart(await colorAt(page, ...LAMP_BESIDE), beside)).toBeGreaterThan(8);
  await list(page).getByRole('button', { name: 'All of it off, to judge' }).click();
  await list(page).getByRole('button', { name: 'All of it on again' }).click();
  await settled(page);
  await expect.poll(async () => apart(await colorAt(page, ...LAMP_BESIDE), beside)).toBeGreaterThan(8);

  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).click();
  await add(page, 'Grain');
  await type(page, 'Amount', '0.8');
  await expect(list(page).getByRole('row', { name: /Grain/ })).toContainText('picture');
  await expect.poll(async () => apart(await colorAt(page, ...SKY), sky)).toBeGreaterThan(0);
  await expect(list(page).getByRole('status')).toHaveCount(0);
  // Something of the lens over the grain.
  await page.getByRole('button', { name: 'Correct all below …' }).click();
  await page.getByRole('option', { name: 'Tilt blur' }).first().click();
  await settled(page);
  await expect(list(page).getByRole('status').first()).toContainText('“Grain” comes before “Tilt blur”');
  await type(page, 'Width', '1.5');
  await settled(page);
  await list(page).getByRole('checkbox', { name: 'Grain on' }).click();
  await expect(list(page).getByRole('status')).toHaveCount(0);
  // As another lens would have drawn it: the lamp moves outwards, and back.
  const lamp = await colorAt(page, ...LAMP_BESIDE);
  await add(page, 'Distortion');
  await type(page, 'Bent by', '-20');
  await expect(bench(page)).toContainText('Masks go along');
  await expect.poll(async () => apart(await colorAt(page, ...LAMP_BESIDE), lamp)).toBeGreaterThan(20);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => apart(await colorAt(page, ...LAMP_BESIDE), lamp)).toBeLessThan(3);
  // The renderer's own: of this beauty its elements are all there is, so the glare is not in it.
  await page.getByLabel('Picture files to add').setInputFiles({ name: 'bloom.png', mimeType: 'image/png', buffer: await glarePicture() });
  await expect(page.getByRole('status').filter({ hasText: 'Reading' })).toBeHidden();
  await add(page, 'The renderer’s own glare');
  await expect(bench(page)).toContainText('The beauty does not hold this glare');
  await saved(page);
  await page.reload();
  await settled(page);
  expect(await cardNames(page)).toEqual(expect.arrayContaining(['Evening glow', 'Grain', 'Tilt blur']));
});

test('what a lens bends is pointed at where it is seen; masks go along, below it and above', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Lens');
  await add(page, 'Distortion');
  await type(page, 'Bent by', '-30');
  await toStage(page, 'Surfaces');
  await settled(page);
  // The chimney, which was nearer to the middle; where it was is sky now.
  const [CHIMNEY, BESIDE] = [[0.672, 0.06], [0.628, 0.06]] as const;
  const { x, y } = await picturePoint(page, ...CHIMNEY);
  await page.getByTestId('picture').hover({ position: { x, y } });
  await expect(page.getByText('Old brick', { exact: true }).last()).toBeVisible();
  await page.getByTestId('picture').click({ position: { x, y } });
  await expect(bench(page).getByText('Old brick', { exact: true })).toBeVisible();
  await page.getByRole('radio', { name: 'matte' }).click();
  await settled(page);
  // A pixel of its edge is in part of it.
  expect((await colorAt(page, ...CHIMNEY))[0]).toBeGreaterThan(150);
  expect((await colorAt(page, ...BESIDE))[0]).toBeLessThan(10);
  await page.getByRole('radio', { name: 'off' }).click();
  await bench(page).getByRole('button', { name: 'Keep as a mask' }).click();
  await toStage(page, 'Build-up');
  await page.getByRole('button', { name: 'Select Distortion', exact: true }).click();
  const [brick, sky] = [await colorAt(page, ...CHIMNEY), await colorAt(page, ...BESIDE)];
  await correctAll(page, 'Exposure');
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask', exact: true }), 'Old brick');
  await type(page, 'Exposure', '2');
  await settled(page);
  await expect.poll(async () => sum(await colorAt(page, ...CHIMNEY)) - sum(brick)).toBeGreaterThan(120);
  expect(apart(await colorAt(page, ...BESIDE), sky)).toBeLessThan(3);
});

test('what is clicked is sharp, a second click says where that ends; the sky has no distance; what is sharp is shown', async ({ page }) => {
  await openDemo(page);
  await toStage(page, 'Lens');
  /** Beside a lamp before the facade. */
  const AROUND = [0.3875, 0.575] as const;
  await add(page, 'Focus');
  await expect(bench(page)).toContainText('Click in the picture what is to be sharp.');
  const sharp = await colorAt(page, ...AROUND);
  const click = async (fx: number, fy: number) => {
    const { x, y } = await picturePoint(page, fx, fy);
    await page.getByTestId('picture').click({ position: { x, y } });
  };
  await bench(page).getByRole('button', { name: 'Click what is sharp' }).click();
  await click(0.4, 0.04);
  await expect(page.getByText('That is sky')).toBeVisible();
  // The ground near the camera, then a little farther away.
  await click(0.5, 0.97);
  const metres = async (label: string) => Number(await bench(page).getByRole('spinbutton', { name: label, exact: true }).or(bench(page).getByRole('textbox', { name: label, exact: true })).first().inputValue());
  await expect.poll(() => metres('Sharp at')).toBeGreaterThan(2);
  await bench(page).getByRole('button', { name: 'Click where that ends' }).click();
  await click(0.5, 0.9);
  await expect.poll(() => metres('And as far as')).toBeGreaterThan(await metres('Sharp at'));
  await expect(bench(page)).toContainText('Sharp from');
  // Elements over the tone line keep their details.
  await expect(list(page).getByRole('status')).toContainText('“Occlusion”');
  await type(page, 'Focal length', '85');
  // On the barrel: a third of a stop for a key, a drag to the widest opening that is engraved.
  const barrel = page.getByRole('slider', { name: 'f-number on the barrel' });
  await type(page, 'f-number', '2.8');
  await barrel.press('ArrowUp');
  await expect(bench(page).getByRole('textbox', { name: 'f-number' })).toHaveValue('3.1');
  const [knob, lens] = [await barrel.boundingBox(), await page.getByRole('group', { name: 'The opening of the lens' }).locator('svg').boundingBox()];
  if (!knob || !lens) throw new Error('The lens is not drawn.');
  await page.mouse.move(knob.x + knob.width / 2, knob.y + knob.height / 2);
  await page.mouse.down();
  await page.mouse.move(lens.x + 4, lens.y + lens.width / 2, { steps: 4 });
  await page.mouse.move(lens.x + lens.width * 0.2, lens.y + lens.height - 4, { steps: 4 });
  await page.mouse.up();
  await expect(bench(page).getByRole('textbox', { name: 'f-number' })).toHaveValue('1.0');
  await page.keyboard.press('Control+z');
  await expect(bench(page).getByRole('textbox', { name: 'f-number' })).toHaveValue('3.1');
  await page.getByRole('slider', { name: 'Roundness of the blades' }).press('ArrowDown');
  await expect(bench(page).getByRole('textbox', { name: 'Roundness' })).toHaveValue('95');
  await type(page, 'f-number', '1.4');
  await settled(page);
  const sky = await colorAt(page, ...SKY);
  expect(apart(await colorAt(page, ...AROUND), sharp)).toBeGreaterThan(12);
  await choose(page, bench(page).getByRole('combobox', { name: 'Shows' }), 'What is sharp');
  await expect.poll(async () => sum(await colorAt(page, ...SKY))).toBeLessThan(sum(sky) * 0.8);
});
