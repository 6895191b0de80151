/** Ways of looking at the picture: compared, read, measured; states to return to; looks for the next document. */
import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { bench, canvasPixel, cardNames, choose, correctAll, downloaded, notes, openDemo, saved, settled, type } from './helpers.ts';

const corner = (page: Page) => page.getByRole('combobox', { name: 'Compared with' });
async function reading(page: Page, name: string): Promise<void> {
  await choose(page, page.getByRole('combobox', { name: 'How the picture is read' }), name);
  await settled(page);
}

test('the picture is read in grey, in stops and by what is clipped, each with a legend; as it is again', async ({ page }) => {
  await openDemo(page);
  const plain = await canvasPixel(page, 380, 290);
  await reading(page, 'Grey');
  const [r, g, b] = await canvasPixel(page, 380, 290);
  expect([r, g]).toEqual([g, b]);
  await reading(page, 'Stops of light');
  await expect(page.getByRole('figure', { name: 'Legend: Stops of light' })).toContainText('+1');
  expect(await canvasPixel(page, 380, 290)).not.toEqual(plain);
  await page.keyboard.press('y');
  await settled(page);
  await expect(page.getByRole('figure', { name: 'Legend: Clipping' })).toContainText('white');
  await page.keyboard.press('y');
  await settled(page);
  expect(await canvasPixel(page, 380, 290)).toEqual(plain);
});

test('compared with a kept state: beside, by difference, and back to it', async ({ page }) => {
  await openDemo(page);
  const names = await cardNames(page);
  await page.keyboard.press('n');
  const states = page.getByRole('region', { name: 'States', exact: true });
  await expect(states).toContainText('State 1');
  await page.keyboard.press('x');
  await choose(page, corner(page), 'State 1');
  await settled(page);
  // Nothing differs yet, not even eight times as bright.
  await choose(page, page.getByRole('combobox', { name: 'Difference lightened' }), '× 8');
  for (const [x, y] of [[300, 200], [380, 290], [500, 420]]) expect((await canvasPixel(page, x, y)).slice(0, 3)).toEqual([0, 0, 0]);
  await correctAll(page, 'Exposure');
  await type(page, 'Exposure', '-1');
  await settled(page);
  expect((await canvasPixel(page, 380, 290))[0]).toBeGreaterThan(30);
  await page.keyboard.press('x');
  await page.keyboard.press('v');
  await settled(page);
  await expect(page.getByText('On the left:')).toBeVisible();
  await page.keyboard.press('v');
  await states.getByRole('button', { name: 'Return to State 1' }).click();
  expect(await cardNames(page)).toEqual(names);
  await page.getByRole('button', { name: 'Undo' }).click();
  expect((await cardNames(page)).length).toBe(names.length + 1);
  // It is part of the document.
  await saved(page);
  await page.reload();
  await settled(page);
  await expect(states).toContainText('State 1');
});

test('scopes are drawn, samplers stay, a layer is looked at alone, and a lock keeps it', async ({ page }) => {
  await openDemo(page);
  await bench(page).getByRole('button', { name: 'Open the scopes' }).click();
  for (const scope of ['Waveform', 'Parade', 'Vectorscope']) {
    await choose(page, bench(page).getByRole('combobox', { name: 'Scope', exact: true }), scope);
    await expect
      .poll(() => page.getByTestId('scope').evaluate((canvas: HTMLCanvasElement) => canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height).data.some((value, i) => i % 4 < 3 && value > 60)))
      .toBe(true);
  }
  await page.getByRole('button', { name: 'Place colour samplers by clicks' }).click();
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('There is no picture.');
  await page.mouse.click(box.x + 300, box.y + 300);
  await page.mouse.click(box.x + 420, box.y + 380);
  const samplers = page.getByRole('list', { name: 'Colour samplers' });
  await expect(samplers.getByRole('listitem')).toHaveCount(2);
  await expect(samplers).toContainText('EV');
  await page.getByRole('button', { name: 'Remove colour sampler 1' }).click();
  await expect(samplers.getByRole('listitem')).toHaveCount(1);
  await page.getByRole('button', { name: 'Select Occlusion', exact: true }).first().click();
  await page.keyboard.press('q');
  await settled(page);
  await expect(page.getByText('Alone: Occlusion')).toBeVisible();
  await page.keyboard.press('q');
  await page.keyboard.press('Shift+3');
  await expect(bench(page).getByRole('textbox', { name: 'Opacity' })).toHaveValue('30');
  await page.keyboard.press('d');
  await page.keyboard.press('Shift+5');
  await expect(bench(page).getByRole('textbox', { name: 'Opacity' })).toHaveValue('30');
  await expect(bench(page).getByRole('button', { name: 'Unlock the layer' })).toBeVisible();
});

test('a look is kept, saved, and applied to another document with what is missing named', async ({ page }) => {
  await openDemo(page);
  const looks = page.getByRole('region', { name: 'Looks', exact: true });
  await looks.getByRole('button', { name: 'Keep corrections as a look' }).click();
  await page.getByRole('menuitem', { name: 'All corrections and the tone line' }).click();
  const file = await downloaded(page, looks.getByRole('button', { name: 'Save Kiln Yard Library as a file' }));
  expect(file.name).toBe('kiln-yard-library.look.json');
  expect(JSON.parse(readFileSync(file.path, 'utf8'))).toMatchObject({ format: 'tazzel-look', name: 'Kiln Yard Library' });
  await page.goto('/demo/reading-room');
  await settled(page);
  await looks.getByRole('button', { name: 'Apply Kiln Yard Library' }).click();
  await expect(notes(page)).toContainText('The mask “Gravel” lacks the material “Gravel”.');
  expect(await cardNames(page)).toContain('Look: Kiln Yard Library');
});
