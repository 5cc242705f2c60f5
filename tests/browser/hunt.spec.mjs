// A hunt: from a print that fails to the print that decides, by the ledger, by comparing, and by exchanging one thing.
import { expect, test } from '@playwright/test';
import { Server } from './server.mjs';

const server = new Server();
test.beforeAll(() => server.start());
test.afterAll(() => server.end());

const hunted = async page => {
  await page.goto(`${server.url}/pairings`);
  await page.locator('.cell', { has: page.getByLabel('Mark Brackenfell Sill on Ptarmigan 350 left to compare') }).locator('a.open').click();
};

test('from a failing print to the print that decides', async ({ page }) => {
  await hunted(page);
  await page.getByRole('link', { name: /The whole ledger/ }).click();
  await expect(page.locator('.lead-text')).toContainText('6 of 40 changed the answer');
  await page.getByText('What decided, in order').click();
  await expect(page.locator('.deciding')).toContainText('worn by fibre');
  await page.getByLabel('Show').selectOption('quick-check');
  await page.getByRole('button', { name: 'Show', exact: true }).click();
  // The last good one beside the last bad one: what differs, and which print would tell.
  await page.getByLabel('Mark Quick check 4 to compare').check();
  await page.getByLabel('Mark Quick check 5 to compare').check();
  await page.getByRole('button', { name: 'Compare what is marked' }).click();
  await expect(page.locator('#differs')).toContainText('0.4 hardened steel');
  await expect(page.locator('#concluded')).toContainText('beside B');
  // The failing one, exchanged for the other machine, with all else held.
  await page.getByRole('link', { name: 'Quick check 4', exact: true }).click();
  await page.getByRole('link', { name: 'Print the same again on …' }).click();
  await page.locator('tr', { hasText: 'Brackenfell Sill on Whimbrel 300' }).getByRole('link', { name: 'Plan it' }).click();
  await expect(page.locator('#like')).toContainText('Held as there');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await expect(page.getByText('is planned')).toBeVisible();
  await page.waitForLoadState('load');
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  await expect(page.locator('#finish')).toBeVisible();
  await page.goBack();

  // What is to blame begins with the failing run and its swap; whether that passed is the tester's to say.
  await hunted(page);
  await page.getByRole('link', { name: 'Quick check 4', exact: true }).click();
  await page.getByRole('link', { name: /What is to\s+blame/ }).click();
  await expect(page.locator('[name=printer0]')).toHaveValue('Ptarmigan 350 left');
  await expect(page.locator('[name=printer1]')).toHaveValue('Whimbrel 300');
  await page.getByRole('button', { name: 'What do they say?' }).click();
  await expect(page.locator('#err-passed1')).toContainText('How many of them passed');
  await page.locator('[name=tried0]').fill('4');
  await page.locator('[name=tried1]').fill('5');
  await page.locator('[name=passed1]').fill('5');
  await page.getByRole('button', { name: 'What do they say?' }).click();
  // The other machine has another nozzle too: that is no exchange of one thing, and it says so.
  await expect(page.locator('#verdict')).toContainText('Nothing was exchanged yet that tells');
  for (const factor of ['nozzle', 'slicer', 'dryness', 'other'])
    await page.locator(`[name=${factor}1]`).fill(await page.locator(`[name=${factor}0]`).inputValue());
  await page.getByRole('button', { name: 'What do they say?' }).click();
  await expect(page.locator('#verdict')).toContainText('The printer is to blame');
  await expect(page.locator('#verdict')).toContainText('Luck alone does this');
});

test('good enough is said with the keyboard, and what is typed wrong stands at its field', async ({ page }) => {
  await hunted(page);
  await page.getByText('Say when it is good enough').focus();
  await page.keyboard.press('Enter');
  await page.getByLabel('To be reached').selectOption('score.bridge');
  await page.locator('[name=atLeast0]').fill('7');
  await page.keyboard.press('Enter');
  await expect(page.locator('#err-atLeast0')).toContainText('4');
  await page.locator('[name=atLeast0]').fill('3');
  await page.keyboard.press('Enter');
  await expect(page.locator('#goal')).toContainText('bridge 3 or more');
});
