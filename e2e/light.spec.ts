import { expect, type Page, test } from '@playwright/test';
import { bench, choose, notes, openDemo, saved, settled, toStage, type } from './helpers.ts';

const goToLight = async (page: Page) => {
  await toStage(page, 'Light');
  await settled(page);
  await expect(bench(page).getByText(/^grain .*, as rendered/)).toBeVisible();
};
/** Light or picture values of a place, as the title block says them. */
const valuesAt = async (page: Page, row: 'Light' | 'Picture', across: number, down: number): Promise<number[]> => {
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('There is no picture.');
  await page.mouse.move(5, 5);
  await page.mouse.move(box.x + box.width * across, box.y + box.height * down);
  await page.waitForTimeout(300);
  const read = async () => new RegExp(`${row}\\s+([\\d.]+)\\s+([\\d.]+)\\s+([\\d.]+)`, 'i').exec(await page.getByRole('region', { name: 'Title block' }).innerText())?.slice(1, 4).map(Number) ?? [];
  await expect.poll(async () => (await read()).length).toBe(3);
  return read();
};
const pick = async (page: Page, button: string, item: string) => {
  await bench(page).getByRole('button', { name: button, exact: true }).first().click();
  await page.getByRole('menuitem', { name: item, exact: true }).click();
  await settled(page);
};
const stopsOf = (page: Page, group: string) => bench(page).getByRole('textbox', { name: group, exact: true });

test('night and day from one render: mixes are kept, intensities and colours go back apart, night is loaded again', async ({ page }) => {
  await openDemo(page);
  await goToLight(page);
  await bench(page).getByRole('button', { name: 'Mix the light' }).click();
  await settled(page);
  // Night: sun off, sky down and colder, lamps twice and warmer.
  await bench(page).getByRole('checkbox', { name: 'Sun on' }).click();
  await type(page, 'Environment', '-3.5');
  await bench(page).getByRole('button', { name: 'Environment: colour and more' }).click();
  await choose(page, bench(page).getByRole('combobox', { name: 'Colour' }), 'Another');
  await type(page, 'Temperature', '12000');
  await bench(page).getByRole('button', { name: 'Interior lamps: colour and more' }).click();
  await type(page, 'Watts', '2');
  await expect(stopsOf(page, 'Interior lamps')).toHaveValue('1.00');
  await choose(page, bench(page).getByRole('combobox', { name: 'Colour' }), 'Another');
  await type(page, 'Temperature', '2700');
  await settled(page);
  await page.getByRole('button', { name: 'Keep this mix' }).click();
  const scenarios = page.locator('tr[data-row]');
  await expect(scenarios.filter({ hasText: 'Lighting 4' })).toBeVisible();
  const night = await valuesAt(page, 'Light', 0.5, 0.2);

  // Day: lamps off, sun on, sky as rendered in colour and up three stops, the rest up.
  await pick(page, 'All', 'All as rendered');
  await bench(page).getByRole('checkbox', { name: 'Interior lamps on' }).click();
  await bench(page).getByRole('checkbox', { name: 'Facade lamps on' }).click();
  await type(page, 'Environment', '3');
  await type(page, 'Rest', '2');
  await settled(page);
  const day = await valuesAt(page, 'Light', 0.5, 0.2);
  expect(day[1] / night[1]).toBeGreaterThan(20);
  // A white wall neutral, after the mix; the locus is named.
  await bench(page).getByRole('button', { name: 'White balance' }).click();
  await settled(page);
  await bench(page).getByRole('button', { name: 'Click what should be neutral' }).click();
  const box = await page.getByTestId('picture').boundingBox();
  if (!box) throw new Error('There is no picture.');
  await page.mouse.click(box.x + box.width * 0.42, box.y + box.height * 0.4);
  await settled(page);
  const codes = await valuesAt(page, 'Picture', 0.42, 0.4);
  expect(Math.max(...codes) - Math.min(...codes)).toBeLessThanOrEqual(12);
  await expect(bench(page).getByRole('combobox', { name: 'Locus' })).toHaveText(/Daylight|Glowing/);
  await page.getByRole('button', { name: 'Keep this mix' }).click();

  // All intensities back, colours kept; all colours back; night again.
  await page.getByRole('button', { name: 'Load Lighting 4' }).click();
  await settled(page);
  await pick(page, 'All', 'Intensities as rendered');
  await expect(stopsOf(page, 'Environment')).toHaveValue('0.00');
  await bench(page).getByRole('button', { name: 'Environment: colour and more' }).click();
  await expect(bench(page).getByRole('combobox', { name: 'Colour' })).toHaveText('Another');
  await pick(page, 'All', 'Colours as rendered');
  await expect(bench(page).getByRole('combobox', { name: 'Colour' })).toHaveText('As rendered');
  await page.getByRole('button', { name: 'Load Lighting 4' }).click();
  await settled(page);
  await expect(stopsOf(page, 'Environment')).toHaveValue('-3.50');
  await expect(bench(page).getByRole('checkbox', { name: 'Sun on' })).not.toBeChecked();
});

test('a warm lamp in a colour that it holds little of: what it costs, what is within reach; grain is told before it is seen', async ({ page }) => {
  await page.goto('/demo/reading-room');
  await settled(page);
  await goToLight(page);
  await bench(page).getByRole('button', { name: 'Facade lamps: colour and more' }).click();
  await expect(bench(page).getByText(/As rendered its light is/)).toContainText(/1[78]\d0 K|2\d\d0 K/);
  await choose(page, bench(page).getByRole('combobox', { name: 'Colour' }), 'Another');
  const code = bench(page).getByRole('textbox', { name: 'Light as a hex code' });
  await code.fill('#1020ff');
  await code.press('Enter');
  await expect(bench(page).getByText(/Its light holds little blue: the grain of blue grows by 4\.0 stops, and it becomes \d\.\d EV darker/)).toBeVisible();
  await bench(page).getByRole('button', { name: 'Take it' }).click();
  await expect(bench(page).getByText(/becomes .* darker/)).toHaveCount(0);
  await type(page, 'Environment', '5');
  await settled(page);
  await bench(page).getByRole('button', { name: 'Environment: colour and more' }).click();
  await expect(bench(page).getByText(/Its grain will be seen/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(stopsOf(page, 'Environment')).toHaveValue('1.00');
});

test('elements in the light of the board are the mix exactly; scenarios are compared, and gone between', async ({ page }) => {
  await page.goto('/demo/reading-room');
  await settled(page);
  await goToLight(page);
  await page.getByRole('button', { name: 'Load Evening' }).click();
  await settled(page);
  const places = [[0.3, 0.5], [0.5, 0.3], [0.7, 0.75]] as const;
  const byLights = [];
  for (const [x, y] of places) byLights.push(await valuesAt(page, 'Light', x, y));
  await bench(page).getByRole('radio', { name: 'Elements' }).click();
  await settled(page);
  for (const [i, [x, y]] of places.entries()) for (const [c, value] of (await valuesAt(page, 'Light', x, y)).entries()) expect(Math.abs(value - byLights[i][c])).toBeLessThanOrEqual(0.0021 + 0.01 * byLights[i][c]);
  await bench(page).getByRole('radio', { name: 'Lights' }).click();
  await settled(page);

  // A row of the table is what the picture is compared with.
  await page.locator('tr[data-row]', { hasText: 'Morning' }).click();
  await page.getByRole('button', { name: /^Before and after|^Before/ }).first().click();
  await settled(page);
  await expect(page.getByRole('combobox', { name: 'Compared with' })).toHaveText('Morning');
  await page.getByRole('button', { name: /^Before and after|^Before/ }).first().click();
  const schedules = page.getByRole('complementary', { name: 'Schedules' });
  await choose(page, schedules.getByRole('combobox', { name: 'To' }), 'Evening');
  const way = schedules.getByRole('textbox', { name: 'On the way' });
  await way.fill('100');
  await way.press('Enter');
  await settled(page);
  await expect(stopsOf(page, 'Environment')).toHaveValue('-1.50');

  // One group over the picture, and looked at alone.
  await bench(page).getByRole('button', { name: 'Sun alone' }).click();
  await settled(page);
  await expect(page.getByText('Alone: Sun')).toBeVisible();
  await bench(page).getByRole('button', { name: 'Sun alone' }).click();
  await expect(page.getByText('Alone: Sun')).toHaveCount(0);
  await bench(page).getByRole('button', { name: 'Sun: colour and more' }).click();
  await bench(page).getByRole('button', { name: 'Add over the picture' }).click();
  await expect(page.getByRole('button', { name: 'Select light_group_sun' })).toBeVisible();
});

test('frames: moments with scenarios, looked at, and saved as files', async ({ page }) => {
  await page.goto('/demo/reading-room');
  await settled(page);
  await goToLight(page);
  for (let n = 0; n < 2; n++) await bench(page).getByRole('button', { name: 'Add a moment' }).click();
  await type(page, 'Moment 2', '0.5');
  await type(page, 'A second', '4');
  await expect(bench(page).getByText('3 frames')).toBeVisible();
  await type(page, 'Look at', '0.25');
  await expect(page.getByText('Frame 1 of 3, 0.25 s')).toBeVisible();
  const saved = page.waitForEvent('download');
  await bench(page).getByRole('button', { name: 'Save the frames' }).click();
  await page.getByRole('menuitem', { name: 'PNG files in a zip' }).click();
  expect((await saved).suggestedFilename()).toBe('kiln-yard-reading-room-frames.zip');
});

test('a mix goes back into the lamps of the scene: the mix is as rendered then, and the render bench has the scene', async ({ page }) => {
  await page.goto('/demo/reading-room');
  await settled(page);
  await goToLight(page);
  await type(page, 'Interior lamps', '1');
  await bench(page).getByRole('button', { name: 'Write into the lamps' }).click();
  await page.waitForURL(/\/render$/);
  await expect(notes(page)).toContainText('The lamps carry the mix now');
  // Rendered with light groups there is a mix while it renders.
  await page.getByRole('button', { name: 'Start the render' }).click();
  const how = page.getByRole('complementary', { name: 'How it is rendered' });
  await expect(how.getByRole('checkbox', { name: 'interior lamps on' })).toBeVisible();
  await how.getByRole('checkbox', { name: 'interior lamps on' }).click();
  await expect(page.getByRole('img', { name: 'Light mix' })).toBeVisible();
  await page.getByRole('button', { name: 'Stop and keep' }).click();
});

test('mixes of the other camera are taken over in one step, group by group', async ({ page }) => {
  await page.goto('/demo');
  await settled(page);
  await toStage(page, 'Light');
  const scenarios = page.getByRole('region', { name: 'Scenarios', exact: true });
  const kept = await scenarios.locator('tr[data-row]').count();
  await page.getByRole('button', { name: 'Mix the light' }).click();
  await scenarios.getByRole('button', { name: 'Keep this mix' }).click();
  await expect(scenarios.locator('tr[data-row]')).toHaveCount(kept + 1);
  await saved(page);
  await page.goto('/demo/reading-room');
  await settled(page);
  await toStage(page, 'Light');
  const before = await scenarios.locator('tr[data-row]').count();
  await scenarios.getByRole('button', { name: 'Mixes of another document' }).click();
  const sheet = page.getByRole('dialog', { name: 'Mixes of another document' });
  await expect(sheet).toContainText('Kiln Yard Library');
  await sheet.getByRole('button', { name: 'Take them' }).first().click();
  await expect(scenarios.locator('tr[data-row]')).toHaveCount(before + kept + 1);
  await page.keyboard.press('Control+z');
  await expect(scenarios.locator('tr[data-row]')).toHaveCount(before);
});
