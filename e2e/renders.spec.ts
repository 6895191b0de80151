import { expect, type Page, test } from '@playwright/test';
import { bench, cards, openDemo, scaleOf, settled } from './helpers.ts';

/** From here on the page counts which components draw anew, by the landmark that they stand in. React tells its tools about every commit. */
const countRenders = (page: Page) =>
  page.addInitScript(() => {
    const PERFORMED_WORK = 1;
    // Function components, with and without memo, and those that forward references.
    const COMPONENTS = [0, 11, 15];
    interface Fiber {
      readonly tag: number;
      readonly flags: number;
      readonly stateNode: unknown;
      readonly child: Fiber | null;
      readonly sibling: Fiber | null;
      readonly return: Fiber | null;
      readonly alternate: Fiber | null;
    }
    const counts: Record<string, number> = {};
    Object.assign(window, { renderCounts: counts });
    const elementAt = (fiber: Fiber | null): Element | null => {
      for (let at = fiber; at; at = at.child) if (at.stateNode instanceof Element) return at.stateNode;
      for (let at = fiber; at; at = at.return) if (at.stateNode instanceof Element) return at.stateNode;
      return null;
    };
    const landmark = (fiber: Fiber) => elementAt(fiber)?.closest('[aria-label]:is(aside, section, header, nav, footer, article, svg)')?.getAttribute('aria-label') ?? 'elsewhere';
    const walk = (fiber: Fiber | null) => {
      for (let at = fiber; at; at = at.sibling) {
        if (COMPONENTS.includes(at.tag) && at.flags & PERFORMED_WORK) {
          const name = landmark(at);
          counts[name] = (counts[name] ?? 0) + 1;
        }
        // What did not change shares its children with the time before.
        if (at.child !== at.alternate?.child) walk(at.child);
      }
    };
    Object.assign(window, { __REACT_DEVTOOLS_GLOBAL_HOOK__: { supportsFiber: true, inject: () => 1, onCommitFiberUnmount() {}, onCommitFiberRoot: (_: number, root: { current: Fiber }) => walk(root.current) } });
  });

const renders = (page: Page) => page.evaluate(() => ({ ...(window as unknown as { renderCounts: Record<string, number> }).renderCounts }));

test('a step of a slider draws only what shows its value', async ({ page }) => {
  await countRenders(page);
  await openDemo(page);
  await cards(page).nth(6).click({ position: { x: 90, y: 8 } });
  const scale = await scaleOf(page, 'Exposure');
  await page.mouse.move(scale.x + scale.width / 2, scale.y);
  await page.mouse.down();
  await page.mouse.move(scale.x + scale.width * 0.55, scale.y);
  await settled(page);
  await page.waitForTimeout(600);
  const before = await renders(page);
  const steps = 10;
  for (let i = 1; i <= steps; i++) {
    await page.mouse.move(scale.x + scale.width * (0.55 + i / 100), scale.y);
    await page.waitForTimeout(30);
  }
  const after = await renders(page);
  await page.mouse.up();
  await expect(bench(page)).toBeVisible();
  const anew = Object.fromEntries(Object.entries(after).map(([name, count]) => [name, (count - (before[name] ?? 0)) / steps]).filter(([, count]) => (count as number) > 0));
  // The correction's own fields, its card, its frame, and what says that something is computed and saved.
  const [shows, tells] = [['Bench', 'Correction', 'Build-up'], ['Title block', 'Picture', 'Mask', 'elsewhere']];
  expect(Object.keys(anew).filter((name) => !shows.includes(name) && !tells.includes(name)), JSON.stringify(anew)).toEqual([]);
  expect(anew.Correction).toBeGreaterThan(0);
  // Four parts of one card have some components each; all twelve cards would have hundreds.
  expect(anew['Build-up'], JSON.stringify(anew)).toBeLessThan(30);
  // On a busy machine what says that something is computed changes with every step.
  for (const name of tells) expect(anew[name] ?? 0, `${name} ${JSON.stringify(anew)}`).toBeLessThan(20);
});
