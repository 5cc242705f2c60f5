// Numbers read from a piece by keyboard, and the feed's sheet, as a tester at the bench uses them.
import { expect, test } from '@playwright/test';
import { Server } from './server.mjs';

let server;
test.beforeAll(async () => { server = await new Server().start(); });
test.afterAll(() => server.end());

const cell = (page, s, a) => page.locator(`input[data-section="${s}"][data-aspect="${a}"]`);

test('a wall is read with the keyboard: comma, Enter, digits without focus, a strange value', async ({ page }) => {
  const errors = [];
  page.on('pageerror', e => errors.push(e.message));
  await page.goto(server.url);
  await page.getByRole('link', { name: /Read on: Wall flow/ }).click();
  // The first wanted cell that is empty waits for it.
  await expect(cell(page, 0, 'wallMm.3')).toBeFocused();
  await page.keyboard.type('0,45');
  await page.keyboard.press('Enter');
  await expect(cell(page, 0, 'wallMm.3')).toHaveValue('0.45');
  await expect(cell(page, 0, 'wallMm.4')).toBeFocused();
  await page.keyboard.type('0.44 mm');
  await page.keyboard.press('Enter');
  await expect(cell(page, 0, 'wallMm.4')).toHaveValue('0.44');
  // The drawing of the piece from above shows it at its place.
  await expect(page.locator('[data-cell="0.wallMm.4"]')).toContainText('0.44');
  // Far off: saved, and asked about in words.
  await page.keyboard.type('4.4');
  await page.keyboard.press('Enter');
  await expect(page.locator('#next')).toContainText(/Saved\..*4\.4/);
  await page.reload();
  await expect(cell(page, 0, 'wallMm.3')).toHaveValue('0.45');
  await expect(cell(page, 0, 'wallMm.4')).toHaveValue('0.44');
  expect(errors).toEqual([]);
});

test('feed: remaining length typed, delivered shown at once, spread judged, its guide a press away', async ({ page }) => {
  await page.goto(`${server.url}/printers`);
  await page.getByRole('link', { name: 'Dunnock 180' }).first().click();
  await page.getByRole('link', { name: 'measure its feed' }).click();
  await page.locator('#f-markMm').fill('100');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await expect(page.locator('#err-markMm')).toContainText('120 mm would be right');
  await expect(page.locator('#f-markMm')).toHaveValue('100');
  await page.locator('#err-markMm .offer').click();
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await expect(page).toHaveURL(/runs/);
  await page.getByRole('button', { name: 'Begin measuring' }).click();
  await expect(cell(page, 0, 'remainingMm')).toBeFocused();
  for (const left of ['20', '24,5', '19']) {
    await page.keyboard.type(left);
    await page.keyboard.press('Enter');
  }
  await expect(page.locator('tr[data-section="1"]')).toContainText('95.5 mm');
  await page.locator('#finish').click();
  await expect(page.locator('#verdict')).toContainText('slips or loses steps');
  await page.locator('a[href^="/guides/slip-or-skip"]').first().click();
  await page.locator('.answers a').first().click();
  await expect(page.locator('.ruled-in')).toContainText('slip');
});
