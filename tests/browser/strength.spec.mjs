// Pegs are broken blind, one number and one key at a time; plates are printed in turn; a release is a row with each print.
import { expect, test } from '@playwright/test';
import { Server } from './server.mjs';

const server = new Server();
test.beforeAll(() => server.start());
test.afterAll(() => server.end());

const cell = (page, s, a) => page.locator(`[data-section="${s}"][data-aspect="${a}"]`);

async function pairing(page, name) {
  await page.goto(`${server.url}/pairings`);
  await page.locator('tr', { hasText: name }).first().locator('a[href^="/pairings/"]').first().click();
  await page.waitForURL(/\/pairings\/[0-9a-f-]{36}/);
}

test('pegs are planned by what the rig can see, broken in an order by lot and told at the end', async ({ page }) => {
  await pairing(page, /Heath/);
  await page.getByText('More prints').click();
  await page.getByRole('link', { name: 'Layer bond, by pegs' }).click();
  await expect(page.locator('#sees')).toContainText('a planned pair differs from');
  const before = await page.locator('#sees').textContent();
  await page.getByLabel('Pegs of each').fill('4');
  await expect(page.locator('#sees')).not.toHaveText(before);
  await page.getByLabel('Pegs of each').fill('3');
  await page.getByLabel('Height', { exact: true }).fill('110');
  await expect(page.locator('#plan')).toContainText('carrier of the toolhead');
  await page.getByLabel('Height', { exact: true }).fill('24');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  const rows = await page.locator('table.scores tbody tr').evaluateAll(trs => trs.map(t => t.dataset.section));
  // Not in the order of their numbers, and the next one stands large beside the table.
  expect(rows.map(Number)).not.toEqual([...rows.map(Number)].sort((a, b) => a - b));
  for (const [i, s] of rows.entries()) {
    await expect(page.locator('.peg-now .stile.now .peg-number')).toHaveText(String(Number(s) + 1));
    await cell(page, s, 'force').fill(String(180 + i * 3));
    await page.keyboard.press('Enter');
    await cell(page, s, 'broke').selectOption('layer');
    if (i < rows.length - 1) {
      await expect(page.locator('#sofar')).toContainText('left to break');
      await cell(page, rows[i + 1], 'force').focus();
    }
  }
  await expect(page.locator('#sofar')).not.toContainText('left to break');
  await page.locator('#finish').click();
  await expect(page.locator('svg.bond-chart circle').first()).toBeVisible();
  await expect(page.getByText('One plate is one print')).toBeVisible();
  await page.getByText('Open the arithmetic').click();
  await expect(page.getByText('degrees of freedom')).toBeVisible();
});

test('a plate of a pair asks for its fellow, with the one difference turned round', async ({ page }) => {
  await pairing(page, /Plain/);
  await page.getByText('More prints').click();
  await page.getByRole('link', { name: 'Warp, by plates in pairs' }).click();
  await page.getByLabel('One difference').selectOption('brim');
  await page.getByLabel('Brim with').fill('6');
  await page.getByLabel('Length').fill('90');
  await page.getByLabel('This print').selectOption('with');
  await expect(page.locator('#elevation')).toContainText('brim 6 mm');
  await page.getByLabel('This print').selectOption('without');
  await expect(page.locator('#elevation')).toContainText('no brim');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  for (const s of [0, 1, 2, 3, 4]) {
    await cell(page, s, 'lift.cooled').fill('0.2');
    await page.keyboard.press('Enter');
    await cell(page, s, 'lift.released').fill('0.4');
    await page.keyboard.press('Enter');
  }
  await page.locator('#finish').click();
  await expect(page.locator('#verdict')).toContainText('One plate alone says nothing');
  await page.locator('aside a.btn[href*="after="]').first().click();
  await expect(page.getByLabel('This print')).toHaveValue('with');
  await expect(page.getByLabel('One difference')).toHaveValue('brim');
  await expect(page.getByLabel('Pair', { exact: true })).toHaveValue('1');
});
