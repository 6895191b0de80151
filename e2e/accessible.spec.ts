import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { bench, cardNames, cards, correctAll, DEMO_FILES, openDemo, settled, still, toStage } from './helpers.ts';

/** @param within only these parts, where the others have been looked at. What is in order is not described: that takes most of the time. */
async function nothingSerious(page: Page, what: string, ...within: readonly string[]): Promise<void> {
  await still(page);
  const axe = new AxeBuilder({ page }).options({ resultTypes: ['violations'] });
  const { violations } = await within.reduce((made, part) => made.include(part), axe).analyze();
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
  expect(serious.map(({ id, nodes }) => `${what}: ${id} ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`)).toEqual([]);
}

test('axe finds nothing serious on any stage, in light panels and in dark ones', async ({ page }) => {
  await openDemo(page);
  const around = ['[aria-label="Schedules"]', '[aria-label="Bench"]'];
  for (const stage of ['Elements', 'Build-up', 'Surfaces', 'Sky & air', 'Lens', 'Deliver']) {
    await toStage(page, stage);
    if (stage === 'Elements') await page.locator('tr[data-row]').first().click();
    if (stage === 'Surfaces') await page.locator('tr[data-row]').nth(2).click();
    await settled(page);
    // What lies around them is the same on all stages.
    await nothingSerious(page, stage, ...(stage === 'Elements' ? [] : around));
    if (stage !== 'Surfaces') continue;
    // The same parts in other colours: the stage with the most of them.
    await page.getByRole('button', { name: 'Dark panels' }).click();
    await nothingSerious(page, 'Surfaces, dark');
    await page.getByRole('button', { name: 'Light panels' }).click();
  }
});

test('axe finds nothing serious in the benches of fills, snapshots and repainting, with handles and histogram', async ({ page }) => {
  await openDemo(page);
  await cards(page).nth(3).getByRole('button', { name: /^Select/ }).click();
  await bench(page).getByRole('button', { name: 'Open the scopes' }).click();
  for (const name of ['Fill', 'Snapshot', 'Vignette', 'Repaint', 'Curves', 'Hue families']) {
    if (name === 'Fill' || name === 'Snapshot') {
      await page.getByRole('button', { name: 'Add a layer …' }).click();
      await page.getByRole('menuitem', { name: new RegExp(`^${name}`) }).click();
    } else await correctAll(page, name);
    if (name === 'Snapshot') await bench(page).getByRole('button', { name: 'Move it …' }).click();
    await settled(page);
    await expect(page.getByTestId('histogram')).toBeVisible();
    await nothingSerious(page, name, '[aria-label="Bench"]');
  }
});

test('axe finds nothing serious on the start page, in sheets and with a folded build-up', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByText('There is no document yet.')).toBeVisible();
  await nothingSerious(page, 'empty start page');
  await openDemo(page);
  await page.keyboard.press('w');
  await nothingSerious(page, 'wipe', '[aria-label="Picture"]');
  await page.keyboard.press('Shift+Slash');
  await expect(page.getByRole('dialog', { name: 'Keyboard' })).toBeVisible();
  await nothingSerious(page, 'keyboard sheet', '[role="dialog"]');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('dialog', { name: 'Find a command' })).toBeVisible();
  await nothingSerious(page, 'command finder', '[role="dialog"]');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Fold' }).click();
  await nothingSerious(page, 'folded build-up', '[aria-label="Build-up"]');
  await page.getByRole('link', { name: 'Tazzel' }).click();
  await expect(page.getByRole('listitem').first()).toBeVisible();
  await nothingSerious(page, 'start page');
});

test('the whole path with the keyboard alone', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByText('There is no document yet.')).toBeVisible();
  const button = page.getByRole('button', { name: 'New from files' });
  for (let i = 0; i < 6 && !(await button.evaluate((element) => element === document.activeElement)); i++) await page.keyboard.press('Tab');
  const choosing = page.waitForEvent('filechooser');
  // The browser must have learned that the chooser is wanted before the key comes.
  await page.waitForTimeout(500);
  await page.keyboard.press('Enter');
  const chooser = await choosing;
  await chooser.setFiles(DEMO_FILES);
  await page.waitForURL(/build-up/);
  await settled(page);
  // A layer from an element, by the finder: everything has a name there.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('hue and saturation for all');
  await page.keyboard.press('Enter');
  await expect(cards(page)).toHaveCount(2);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('stage surf');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/surfaces/);
  // Down to the third material, correct it, type a value, look at it, undo.
  await page.getByRole('button', { name: /^M03: M03/ }).focus();
  await page.keyboard.press('Enter');
  await expect(bench(page)).toContainText('of the picture');
  await bench(page).getByRole('textbox', { name: 'Exposure' }).focus();
  await page.keyboard.type('-1');
  await page.keyboard.press('Enter');
  await expect(cards(page)).toHaveCount(3);
  await expect(cards(page).filter({ hasText: 'M03: exposure' })).toContainText('−1.00 EV');
  await bench(page).getByRole('button', { name: /M03/ }).first().focus();
  await page.keyboard.press('k');
  await expect(page.getByRole('radio', { name: 'hatch' })).toBeChecked();
  await page.keyboard.press('Comma');
  await page.keyboard.press('Shift+Period');
  await expect.poll(() => cardNames(page)).toEqual(['Hue and saturation', 'kiln-yard beauty', 'M03: exposure']);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Alt+8');
  await page.getByRole('button', { name: 'Save the picture' }).focus();
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);
  expect(download.suggestedFilename()).toBe('kiln-yard-600x400.png');
});

test('focus is seen, names are spoken', async ({ page }) => {
  await openDemo(page);
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  const outline = await page.evaluate(() => getComputedStyle(document.activeElement as Element).outlineStyle);
  expect(outline).toBe('solid');
  const nameless = await page.evaluate(() => [...document.querySelectorAll('button, input:not([hidden]), [role="combobox"]')].filter((element) => !(element.getAttribute('aria-label') || element.textContent?.trim() || (element as HTMLInputElement).labels?.length)).map((element) => element.outerHTML.slice(0, 120)));
  expect(nameless).toEqual([]);
});

test('axe finds nothing serious over the picture: legends, samplers, comparisons, states and looks, the drawn tone curve', async ({ page }) => {
  await openDemo(page);
  await page.keyboard.press('n');
  await page.getByRole('button', { name: 'Keep corrections as a look' }).click();
  await page.getByRole('menuitem', { name: 'All corrections and the tone line' }).click();
  await page.keyboard.press('i');
  await page.getByTestId('picture').click({ position: { x: 300, y: 300 } });
  await page.keyboard.press('f');
  await page.keyboard.press('x');
  await page.keyboard.press('t');
  await settled(page);
  await nothingSerious(page, 'difference in stops');
  await page.keyboard.press('x');
  await page.getByRole('button', { name: 'Select the tone line' }).click();
  await page.getByRole('combobox', { name: 'Curve of the tone line' }).click();
  await page.getByRole('option', { name: /^Toe and shoulder/ }).click();
  await settled(page);
  await nothingSerious(page, 'tone curve with handles', '[aria-label="Bench"]');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).focus();
  const before = await bench(page).getByRole('textbox', { name: 'Shoulder' }).inputValue();
  await page.keyboard.press('ArrowDown');
  await expect(bench(page).getByRole('textbox', { name: 'Shoulder' })).not.toHaveValue(before);
});
