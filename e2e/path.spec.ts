import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { bench, canvasPixel, cardNames, cards, choose, demoFile, downloaded, drop, fieldPoint, newDocument, openDemo, program, scaleOf, settled, toStage, type } from './helpers.ts';
import { SHIPPED } from './shipped.ts';

const pixels = (path: string) => sharp(path).raw().toBuffer();

test('from files on the disk to a finished picture, and the same from the shell', async ({ page, browser }) => {
  await page.goto('/');
  await expect(page.getByText('There is no document yet.')).toBeVisible();
  await newDocument(page);

  // The beauty is the base; every layer of the file is an element; materials were found.
  await expect.poll(() => cardNames(page)).toEqual(['kiln-yard beauty']);
  const elements = page.getByRole('region', { name: 'Elements', exact: true });
  await expect(elements.locator('tr[data-row]')).toHaveCount(7);

  // An element becomes a layer over the tone line.
  await page.getByRole('button', { name: 'Add a layer' }).click();
  await page.getByRole('menuitem', { name: /ambient_occlusion/ }).click();
  await expect.poll(() => cardNames(page)).toEqual(['kiln-yard beauty', 'ambient_occlusion']);
  await choose(page, bench(page).getByRole('combobox', { name: 'Blend mode' }), /^Multiply/);
  await type(page, 'Opacity', '60');
  await expect(cards(page).nth(1)).toContainText('Multiply');
  await expect(cards(page).nth(1)).toContainText('60 %');

  // See it, click it, correct it.
  await toStage(page, 'Surfaces');
  const brick = await fieldPoint(page, 0.24, 0.5);
  await page.mouse.move(brick.x, brick.y);
  const titleBlock = page.getByRole('region', { name: 'Title block' });
  await expect(titleBlock).toContainText(/M\d\d/);
  await expect(titleBlock).toContainText(/\d+\.\d m/);
  const tag = /M\d\d/.exec(await titleBlock.innerText())?.[0] ?? 'none';
  await page.mouse.click(brick.x, brick.y);
  await expect(bench(page)).toContainText(tag);
  await type(page, 'Hue', '-20');
  await type(page, 'Saturation', '140');
  await settled(page);
  await expect.poll(async () => (await cardNames(page)).at(-1)).toContain('hue and saturation');

  // Deliver, save the project, and let the shell flatten it: the same pixels.
  await toStage(page, 'Deliver');
  const picture = await downloaded(page, page.getByRole('button', { name: 'Save the picture' }));
  expect(picture.name).toBe('kiln-yard-600x400.png');
  const project = await downloaded(page, page.getByRole('button', { name: 'Save the project file' }));
  expect(project.name).toBe('kiln-yard.tazzel');
  const folder = mkdtempSync(join(tmpdir(), 'tazzel-e2e-'));
  execFileSync(process.execPath, [program, 'flatten', project.path, '--out', join(folder, 'shell.png')]);
  expect(Buffer.compare(await pixels(picture.path), await pixels(join(folder, 'shell.png')))).toBe(0);

  const forms: readonly (readonly [format: string, choice: readonly [string, string] | null, args: readonly string[]])[] = [
    ['TIFF', ['Bits', '32, light'], ['32.tif', '--bits', '32']],
    ['JPEG', null, ['92.jpg']],
    ['OpenEXR', ['Numbers', 'Float'], ['float.exr', '--samples', 'float']],
    ['Radiance HDR', null, ['light.hdr']],
  ];
  for (const [format, choice, [name, ...more]] of forms) {
    await page.getByRole('radio', { name: format }).click();
    if (choice) await choose(page, bench(page).getByRole('combobox', { name: choice[0] }), choice[1]);
    const file = await downloaded(page, page.getByRole('button', { name: 'Save the picture' }));
    execFileSync(process.execPath, [program, 'flatten', project.path, '--out', join(folder, name), ...more]);
    // The same pixels, and where nothing is packed by the browser itself the same file.
    expect(execFileSync('idiff', ['-fail', '0', '-warn', '0', file.path, join(folder, name)]).toString(), format).toContain('PASS');
    if (['JPEG', 'Radiance HDR'].includes(format)) expect(Buffer.compare(readFileSync(file.path), readFileSync(join(folder, name))), format).toBe(0);
  }
  // Of any width, also as it is on paper.
  await page.getByRole('radio', { name: 'PNG' }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Bits' }), '8');
  await type(page, 'Resolution', '300');
  await choose(page, bench(page).getByRole('combobox', { name: 'Size' }), /^Of its own/);
  await type(page, 'Paper width', '38.1');
  await expect(bench(page).getByRole('textbox', { name: 'Width', exact: true })).toHaveValue('450');
  const print = await downloaded(page, page.getByRole('button', { name: 'Save the picture' }));
  expect(print.name).toBe('kiln-yard-450x300.png');
  execFileSync(process.execPath, [program, 'flatten', project.path, '--out', join(folder, 'print.png'), '--width', '38.1mm', '--dpi', '300']);
  expect(Buffer.compare(await pixels(print.path), await pixels(join(folder, 'print.png')))).toBe(0);
  expect(await sharp(print.path).metadata()).toMatchObject({ width: 450, height: 300, density: 300 });
  await choose(page, bench(page).getByRole('combobox', { name: 'Size' }), /^Full/);
  await type(page, 'Resolution', '0');

  // Another browser that knows nothing of the document gives the identical picture.
  const elsewhere = await browser.newContext();
  const other = await elsewhere.newPage();
  await other.goto('/');
  await other.getByLabel('Project file').setInputFiles({ name: project.name, mimeType: 'application/zip', buffer: readFileSync(project.path) });
  await other.waitForURL(/build-up/);
  await settled(other);
  await expect.poll(() => cardNames(other)).toEqual(await cardNames(page));
  await toStage(other, 'Deliver');
  const again = await downloaded(other, other.getByRole('button', { name: 'Save the picture' }));
  expect(Buffer.compare(readFileSync(again.path), readFileSync(picture.path))).toBe(0);
  await elsewhere.close();
});

test('the build-up: rename, switch, duplicate, delete, reorder by drag and keys, undo of each', async ({ page }) => {
  await openDemo(page);
  const start = await cardNames(page);
  expect(start).toHaveLength(12);
  const undo = () => page.keyboard.press('Control+z');

  await cards(page).nth(2).getByRole('button', { name: /^Select/ }).click();
  await page.keyboard.press('F2');
  await expect(page.getByRole('textbox', { name: 'Layer' })).toBeFocused();
  await page.keyboard.type('Later evening');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await cardNames(page))[2]).toBe('Later evening');
  await undo();
  await expect.poll(() => cardNames(page)).toEqual(start);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(async () => (await cardNames(page))[2]).toBe('Later evening');
  await undo();

  await page.keyboard.press('o');
  await expect(cards(page).nth(2).getByRole('checkbox')).not.toBeChecked();
  await undo();
  await expect(cards(page).nth(2).getByRole('checkbox')).toBeChecked();

  await page.keyboard.press('Control+d');
  await expect.poll(() => cardNames(page)).toHaveLength(13);
  await page.keyboard.press('Delete');
  await expect.poll(() => cardNames(page)).toEqual(start);

  // By keys: over the tone line and back.
  await cards(page).nth(9).getByRole('button', { name: /^Select/ }).click();
  await expect(bench(page)).toContainText('under the tone line');
  await page.keyboard.press('Shift+Period');
  await expect(bench(page)).toContainText('over the tone line');
  await expect.poll(() => cardNames(page)).toEqual(start);
  await page.keyboard.press('Shift+Comma');
  await expect(bench(page)).toContainText('under the tone line');

  // By dragging the card of the occlusion towards the finish.
  await cards(page).nth(11).scrollIntoViewIfNeeded();
  const from = await cards(page).nth(10).boundingBox();
  const to = await cards(page).nth(11).boundingBox();
  if (!from || !to) throw new Error('no cards');
  await page.mouse.move(from.x + 80, from.y + 60);
  await page.mouse.down();
  for (let i = 1; i <= 12; i++) await page.mouse.move(from.x + 80 + ((to.x - from.x + 20) * i) / 12, from.y + 60);
  await page.mouse.up();
  await expect.poll(() => cardNames(page)).toEqual([...start.slice(0, 10), start[11], start[10]]);
  await undo();
  await expect.poll(() => cardNames(page)).toEqual(start);

  // By the grip with the keyboard.
  await page.getByRole('button', { name: `Move ${start[1]}`, exact: true }).focus();
  await page.keyboard.press('Space');
  const said = page.locator('[id^="DndLiveRegion"]');
  await expect(said).toContainText(/is picked up|is at/);
  await page.keyboard.press('ArrowRight');
  await expect(said).toContainText(`is at ${start[2]}.`);
  await page.keyboard.press('Space');
  await expect.poll(() => cardNames(page)).toEqual([start[0], start[2], start[1], ...start.slice(3)]);
});

test('a slider is one step, nudges and typing work, double click resets', async ({ page }) => {
  await openDemo(page);
  await cards(page).nth(6).getByRole('button', { name: /^Select/ }).click();
  const field = bench(page).getByRole('textbox', { name: 'Exposure' });
  await expect(field).toHaveValue('0.50');
  const scale = await scaleOf(page, 'Exposure');
  await page.mouse.move(scale.x + scale.width / 2, scale.y);
  await page.mouse.down();
  for (let i = 0; i < 15; i++) await page.mouse.move(scale.x + scale.width * (0.5 + i * 0.02), scale.y);
  await page.mouse.up();
  await expect(field).not.toHaveValue('0.50');
  await page.keyboard.press('Control+z');
  await expect(field).toHaveValue('0.50');
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();

  await field.focus();
  await page.keyboard.press('ArrowUp');
  await expect(field).toHaveValue('0.55');
  await page.keyboard.press('Shift+ArrowUp');
  await expect(field).toHaveValue('1.05');
  await type(page, 'Exposure', '1,5');
  await expect(field).toHaveValue('1.50');
  await type(page, 'Exposure', 'much');
  await expect(field).toHaveValue('1.50');
  await type(page, 'Exposure', '400');
  await expect(field).toHaveValue('10.00');
  await bench(page).getByText('Exposure', { exact: true }).dblclick();
  await expect(field).toHaveValue('0.00');
});

test('a layer’s own chain, a mask for it, inverted and switched off', async ({ page }) => {
  await openDemo(page);
  await cards(page).first().getByRole('button', { name: /^Select/ }).click();
  await bench(page).getByRole('button', { name: 'Add …' }).click();
  await page.getByRole('option', { name: 'Exposure' }).first().click();
  await type(page, 'Exposure', '2');
  await choose(page, bench(page).getByRole('combobox', { name: 'Mask' }).nth(1), 'Glass');
  await settled(page);
  await page.getByRole('radio', { name: 'matte' }).click();
  await expect.poll(async () => (await canvasPixel(page, 380, 60))[0]).toBe(0);
  await bench(page).getByRole('checkbox', { name: 'Inverted' }).last().click();
  await expect.poll(async () => (await canvasPixel(page, 380, 60))[0]).toBe(255);
  await expect(cards(page).first()).toContainText('Exposure');
  await page.getByRole('radio', { name: 'hatch' }).click();
  await page.getByRole('radio', { name: 'off' }).click();
  await settled(page);
  const bright = await canvasPixel(page, 380, 60);
  await bench(page).getByRole('checkbox', { name: 'Exposure on' }).click();
  await settled(page);
  await expect.poll(async () => (await canvasPixel(page, 380, 60))[1]).toBeLessThan(bright[1]);
});

test('values and pixels are right at every zoom', async ({ page }) => {
  await openDemo(page, SHIPPED);
  await toStage(page, 'Deliver');
  await page.getByRole('checkbox', { name: /Dither/ }).uncheck();
  const { path } = await downloaded(page, page.getByRole('button', { name: 'Save the picture' }));
  const { data, info } = await sharp(path).raw().toBuffer({ resolveWithObject: true });
  const title = page.getByRole('region', { name: 'Title block' });
  for (const zoom of ['fit', '100', '400']) {
    if (zoom !== 'fit') await page.keyboard.press('1');
    if (zoom === '400') for (let i = 0; i < 4; i++) await page.getByRole('button', { name: 'Zoom in' }).click();
    await settled(page);
    for (const [fx, fy] of [[0.3, 0.3], [0.52, 0.61], [0.71, 0.44]]) {
      const point = await fieldPoint(page, fx, fy);
      await page.mouse.move(point.x, point.y);
      await expect.poll(async () => (await title.innerText()).match(/Pixel\s+(\d+), (\d+)/i)).not.toBeNull();
      await page.waitForTimeout(250);
      const text = await title.innerText();
      const [, x, y] = text.match(/Pixel\s+(\d+), (\d+)/i) ?? [];
      const codes = text.match(/Picture\s+(\d+)\s+(\d+)\s+(\d+)/i)?.slice(1, 4).map(Number);
      const at = (Number(y) * info.width + Number(x)) * 3;
      expect(codes, `${zoom} ${x} ${y}`).toEqual([...data.subarray(at, at + 3)]);
      // At 100 % and more the screen shows exactly these codes.
      if (zoom === 'fit') continue;
      const box = await page.getByTestId('picture').boundingBox();
      const shown = await canvasPixel(page, point.x - (box?.x ?? 0), point.y - (box?.y ?? 0));
      expect(shown.slice(0, 3), `${zoom} ${x} ${y}`).toEqual(codes);
    }
  }
});

test('before and after at one key, and a wipe', async ({ page }) => {
  await openDemo(page);
  const after = await canvasPixel(page, 300, 80);
  await page.keyboard.press('c');
  await settled(page);
  await expect.poll(() => canvasPixel(page, 300, 80)).not.toEqual(after);
  const before = await canvasPixel(page, 300, 80);
  await page.keyboard.press('c');
  await expect.poll(() => canvasPixel(page, 300, 80)).toEqual(after);
  await page.keyboard.press('w');
  await settled(page);
  await expect.poll(() => canvasPixel(page, 300, 80)).toEqual(before);
  const handle = page.getByRole('slider', { name: /Wipe/ });
  await handle.focus();
  for (let i = 0; i < 6; i++) await page.keyboard.press('Shift+ArrowLeft');
  await expect(handle).toHaveAttribute('aria-valuenow', '0');
  await expect.poll(() => canvasPixel(page, 300, 80)).toEqual(after);
});

test('zoom stays at the pointer, dragging moves, the screen is sharp at two device pixels', async ({ browser }) => {
  const context = await browser.newContext({ deviceScaleFactor: 2, viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await openDemo(page);
  const size = await page.getByTestId('picture').evaluate((canvas: HTMLCanvasElement) => [canvas.width / canvas.clientWidth, canvas.height / canvas.clientHeight]);
  expect(size).toEqual([2, 2]);
  const title = page.getByRole('region', { name: 'Title block' });
  const pixel = async () => (await title.innerText()).match(/Pixel\s+(\d+), (\d+)/i)?.slice(1).map(Number) ?? [];
  const point = await fieldPoint(page, 0.6, 0.4);
  await page.mouse.move(point.x, point.y);
  await expect.poll(pixel).toHaveLength(2);
  const before = await pixel();
  for (let i = 0; i < 5; i++) await page.mouse.wheel(0, -200);
  await page.mouse.move(point.x + 1, point.y);
  await page.mouse.move(point.x, point.y);
  await expect.poll(async () => (await pixel()).map((v, i) => Math.abs(v - before[i]) <= 1)).toEqual([true, true]);
  await page.mouse.down();
  await page.mouse.move(point.x + 100, point.y + 40, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => (await pixel()).map((v, i) => Math.abs(v - before[i]) <= 1)).toEqual([true, true]);
  await context.close();
});

test('elements: encoding can be changed and is seen; an element alone; materials found by hand', async ({ page }) => {
  await newDocument(page, [demoFile('kiln-yard.exr')]);
  await toStage(page, 'Elements');
  await page.locator('tr[data-row]', { hasText: 'kiln-yard beauty' }).click();
  const light = await canvasPixel(page, 380, 400);
  await choose(page, bench(page).getByRole('combobox', { name: 'Encoding' }), /^Display/);
  await settled(page);
  await expect.poll(async () => (await canvasPixel(page, 380, 400))[0]).toBeLessThan(light[0]);
  await page.keyboard.press('Control+z');
  await expect.poll(() => canvasPixel(page, 380, 400)).toEqual(light);
  await page.locator('tr[data-row]', { hasText: 'raw_lighting' }).click();
  await bench(page).getByRole('button', { name: 'Look at it alone' }).click();
  await expect(page.getByText('Element: raw_lighting')).toBeVisible();
  await bench(page).getByRole('button', { name: 'Find materials' }).click();
  await expect(page.getByRole('region', { name: 'Notes' })).toContainText('does not look like an ID picture');
  await page.getByRole('button', { name: 'Close the notes' }).click();

  // Dropped onto the open document: the ID picture fills the schedule.
  await drop(page, [{ name: 'kiln-yard_material_id.png', bytes: readFileSync(demoFile('kiln-yard_material_id.png')) }]);
  await toStage(page, 'Surfaces');
  await expect.poll(() => page.getByRole('region', { name: 'Material schedule', exact: true }).locator('tr[data-row]').count()).toBeGreaterThanOrEqual(19);
});

test('a file of several parts, packed with PIZ in tiles, gives the same picture', async ({ page }) => {
  await newDocument(page, [demoFile('kiln-yard.exr')]);
  const places = [[300, 80], [380, 400], [520, 300]] as const;
  const plain = await Promise.all(places.map(([x, y]) => canvasPixel(page, x, y)));
  const path = join(mkdtempSync(join(tmpdir(), 'tazzel-e2e-')), 'parts.exr');
  const part = (name: string, channels: string) => [demoFile('kiln-yard.exr'), '--ch', channels, '--attrib', 'oiio:subimagename', name];
  execFileSync('oiiotool', [...part('beauty', 'R,G,B'), ...part('raw_lighting', 'R=raw_lighting.R,G=raw_lighting.G,B=raw_lighting.B'), '--siappend', ...part('depth', 'Z=depth.Z'), '--siappend', '--compression', 'piz', '--tile', '64', '64', '-o', path]);
  await newDocument(page, [path]);
  const elements = page.getByRole('region', { name: 'Elements', exact: true }).locator('tr[data-row]');
  await expect(elements).toHaveCount(3);
  for (const [i, [x, y]] of places.entries()) await expect.poll(() => canvasPixel(page, x, y)).toEqual(plain[i]);
  const point = await fieldPoint(page, 0.24, 0.5);
  await page.mouse.move(point.x, point.y);
  await expect(page.getByRole('region', { name: 'Title block' })).toContainText(/\d+\.\d m/);
  await expect(elements.nth(1)).toContainText('Raw lighting');
});
