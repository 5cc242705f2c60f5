import { expect, test } from '@playwright/test';
import { halfRead, Server } from './server.mjs';

const server = new Server();
test.beforeAll(() => server.start());
test.afterAll(() => server.end());
test.use({ viewport: { width: 390, height: 844 }, hasTouch: true });

const cut = page => page.evaluate(() => document.documentElement.scrollWidth - innerWidth);

test('a phone shows Today, a spool and a run to read, whole', async ({ page }) => {
  const half = await halfRead(page, server);
  await page.goto(server.url);
  expect(await cut(page)).toBeLessThanOrEqual(0);
  await expect(page.locator('.lead a')).toBeInViewport();
  await page.goto(half);
  expect(await cut(page)).toBeLessThanOrEqual(0);
  // A touch keyboard puts its digit into the field without a usable key event.
  const cell = page.locator('input[data-section="7"][data-aspect="overhang"]');
  await cell.evaluate(e => { e.value = '3'; e.dispatchEvent(new InputEvent('input', { bubbles: true })); });
  await expect(page.locator('.saving')).toHaveCount(0);
  await page.reload();
  await expect(cell).toHaveValue('3');
  await page.goto(`${server.url}/find?q=H-07`);
  await expect(page.locator('h1')).toHaveText('Spool H-07');
  expect(await cut(page)).toBeLessThanOrEqual(0);
  // Every way stands there at once: nothing scrolls away under the thumb.
  expect(await page.locator('nav').evaluate(n => n.scrollWidth - n.clientWidth)).toBeLessThanOrEqual(0);
  for (const name of ['Today', 'Log', 'Guides', 'Preferences']) await expect(page.locator('nav').getByRole('link', { name, exact: true })).toBeInViewport();
});

test('beside the printer a repeat of a part is one press on the phone, and the part is whole there', async ({ page }) => {
  await page.goto(`${server.url}/find?q=Heath+Dunnock`);
  await page.locator('main a[href^="/pairings/"]', { hasText: 'Dunnock 180' }).first().click();
  await page.locator('#ledger a[href^="/runs/"]', { hasText: /own part 5/i }).first().click();
  expect(await cut(page)).toBeLessThanOrEqual(0);
  const good = page.getByRole('button', { name: 'Good', exact: true });
  await good.scrollIntoViewIfNeeded();
  await good.tap();
  await expect(page.locator('#tally')).toContainText('9 of 11 good');
  await page.getByLabel('What was wrong').fill('corner up');
  await page.getByRole('button', { name: 'Not good' }).tap();
  await expect(page.locator('#tally')).toContainText('9 of 12 good');
  expect(await cut(page)).toBeLessThanOrEqual(0);
});
