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
  // A slipped point is refused with what it may have been; what is far off and possible is saved, and asked about in words.
  await page.keyboard.type('4.4');
  await page.keyboard.press('Enter');
  await expect(page.locator('#next')).toContainText('Did you mean 0.44?');
  await page.keyboard.press('Control+A');
  await page.keyboard.type('0.9');
  await page.keyboard.press('Enter');
  await expect(page.locator('#next')).toContainText(/Saved\..*0\.9/);
  await page.reload();
  await expect(cell(page, 0, 'wallMm.3')).toHaveValue('0.45');
  await expect(cell(page, 0, 'wallMm.4')).toHaveValue('0.44');
  expect(errors).toEqual([]);
});

test('weighed samples: a scale that types fills cell after cell, clicking ends the row, the curve and its speeds follow', async ({ page }) => {
  await page.goto(`${server.url}/pairings`);
  await page.locator('#pairings tbody tr', { hasText: 'Cold Ash Plain' }).locator('a.open').first().click();
  await page.locator('.waypoints a', { hasText: 'Flow limit by weighing' }).click();
  await expect(page.locator('#dryness')).toContainText('P-14');
  // Too coarse a scale is said while it is typed, and one press mends the length.
  await page.locator('#f-scaleResolutionG').fill('0,05');
  await expect(page.locator('#scale-said')).toContainText('too coarse');
  await page.locator('#preview .offer').first().click();
  await expect(page.locator('#scale-said')).toContainText('fine enough');
  await page.locator('#f-scaleResolutionG').fill('0.001');
  await page.locator('#f-samples').fill('8');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await expect(page.locator('.print-stage')).toContainText('Stand by');
  await page.getByRole('button', { name: 'Begin measuring' }).click();
  await expect(cell(page, 0, 'sampleG.1')).toBeFocused();
  for (const mass of ['1.200', '1,201', '1.199 g', '1.200', '1.185', '1.150', '1.080', '1.000']) {
    await page.keyboard.type(mass);
    await page.keyboard.press('Enter');
  }
  await expect(page.locator('tr[data-section="6"]')).toContainText('% lost');
  await page.locator('#finish').click();
  await expect(page.locator('#verdict')).toContainText('mm³/s');
  await expect(page.locator('svg.chart .level')).toHaveCount(2);
  await expect(page.locator('table.speeds td').first()).toHaveText(/^\d+$/);
});

test('strings on a photo: two clicks on the reeds count what hangs between them', async ({ page }) => {
  await page.goto(`${server.url}/pairings`);
  await page.locator('#pairings tbody tr', { hasText: 'Cold Ash Plain' }).locator('a.open').first().click();
  await page.locator('.waypoints a', { hasText: 'Retraction' }).click();
  await expect(page.locator('.sweep-ways')).toContainText('small pieces, one print each');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'Try it on the simulated printer' }).click();
  await page.selectOption('#sim-speed', '2000');
  await page.getByRole('button', { name: 'Print on the simulated printer' }).click();
  await expect(page.locator('#read .dot.open')).toBeVisible({ timeout: 90_000 });
  await page.goto(`${page.url().replace(/[?#].*/, '')}/photos`);
  await page.locator('.shots a[href*="?c="]').first().click();
  const picture = page.locator('[data-measure] img');
  await expect(picture).toBeVisible();
  const box = await picture.boundingBox();
  // The drawn reeds stand 10 mm apart in the middle, 30 px a mm of 960.
  const at = share => ({ x: box.width * share, y: box.height / 2 });
  await picture.click({ position: at(0.5 - (150 + 60) / 960) });
  await expect(page.locator('#measure-said')).toContainText('other reed');
  await picture.click({ position: at(0.5 + (150 + 60) / 960) });
  await expect(page.locator('.measure-answer').first()).toContainText(/strings?.*confidence/);
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
  // On a loaded machine the page still moves while its fonts come: a press that begins on the button must end on it.
  await page.waitForLoadState('load');
  await page.evaluate(() => document.fonts.ready);
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
  await expect(page.locator('.ruled-in')).toContainText(/slip/i);
});
