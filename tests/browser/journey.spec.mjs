import { expect, test } from '@playwright/test';
import { Server } from './server.mjs';

// Each project runs in a worker of its own, so each starts on fresh data.
const server = new Server();
test.beforeAll(() => server.start());
test.afterAll(() => server.end());

test('by mouse: from a label to a kept temperature', async ({ page }, info) => {
  const name = `Fen ${info.project.name}`;
  await page.goto(`${server.url}/filaments/new`);
  await page.getByLabel('Maker').fill('Brackenfell');
  await page.getByLabel('Product line').fill(name);
  await page.locator('[name="s0.nozzleMin"]').fill('200');
  await page.locator('[name="s0.nozzleMax"]').fill('225');
  await page.getByRole('button', { name: 'Register it', exact: true }).click();
  await expect(page.locator('h1')).toHaveText(`Brackenfell ${name}`);
  await page.getByRole('link', { name: 'Pair with a toolhead' }).click();
  await page.getByLabel('Toolhead').selectOption({ label: 'Dunnock 180, 0.4 standard' });
  await page.getByRole('button', { name: 'Show where it could start' }).click();
  await expect(page.getByText('The most alike')).toBeVisible();
  await page.getByText('Label, and the family').click();
  await page.getByRole('button', { name: 'Make the pairing' }).click();
  await page.getByRole('link', { name: /^Plan a (temperature )?tower$/ }).click();

  // The drawing follows each keystroke; a refusal stands at its field and one click applies an offer.
  await expect(page.locator('#preview .big')).toHaveText('6 sections');
  await page.getByLabel('Coolest').fill('210');
  await expect(page.locator('#preview .big')).toHaveText('4 sections');
  await page.getByLabel('Section height').fill('10,1');
  await expect(page.locator('#err-sectionHeightMm')).toContainText('0.1 mm left over');
  await page.locator('#err-sectionHeightMm .offer').last().click();
  await expect(page.getByLabel('Section height')).toHaveValue('10.2');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await expect(page.getByText('is planned')).toBeVisible();
  // The page goes to its print stage once it has loaded; on a busy machine a click before that falls beside the link.
  await page.waitForLoadState('load');

  await page.getByRole('link', { name: 'Bench sheet to print' }).click();
  await expect(page.getByRole('button', { name: 'Print this page' })).toBeVisible();
  await expect(page.getByText('Ended at layer')).toBeVisible();
  await page.getByRole('link', { name: 'Back' }).click();
  await page.getByLabel('It took').fill('62');
  await page.getByRole('button', { name: 'It is printed: read it' }).click();

  for (const [section, score] of [[3, 2], [2, 4], [1, 3], [0, 2]])
    for (const aspect of ['bridge', 'overhang', 'strings', 'surface', 'bond']) {
      const cell = page.locator(`input[data-section="${section}"][data-aspect="${aspect}"]`);
      await cell.click();
      await page.keyboard.type(String(score));
    }
  await expect(page.locator('#sofar')).toContainText('All is scored');
  await page.getByRole('button', { name: 'Finish reading' }).click();
  await expect(page.locator('#verdict')).toContainText('215');
  await page.getByRole('button', { name: /^Keep 215/ }).click();
  await expect(page.locator('.told')).toContainText('in the profile');
  await page.locator('.told').getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('.told')).toContainText('no longer kept');
  await page.getByRole('button', { name: /^Keep 215/ }).click();
  await page.locator('.run-head a').click();
  await expect(page.locator('#nozzleTemperatureC')).toContainText('temperature tower 1');
});

test('by keyboard only: from Today to a kept temperature', async ({ page }) => {
  const errors = [];
  page.on('pageerror', e => errors.push(e.message));
  page.on('console', m => m.type() === 'error' && errors.push(m.text()));
  await page.goto(server.url);
  await page.waitForLoadState();
  await page.keyboard.press('p');
  await expect(page).toHaveURL(/pairings$/);
  await page.keyboard.press('t');
  await expect(page.locator('.lead a')).toBeFocused();
  await page.keyboard.press('Enter');
  // The first empty cell is in focus; digits go down one aspect and on to the next.
  const cell = (s, a) => page.locator(`input[data-section="${s}"][data-aspect="${a}"]`);
  await expect(cell(7, 'overhang')).toBeFocused();
  await page.keyboard.press('2');
  await page.waitForTimeout(450);
  await page.keyboard.press('3');
  await expect(cell(5, 'overhang')).toBeFocused();
  await page.keyboard.press('9');
  await expect(page.locator('#next')).toContainText('is no score');
  await page.keyboard.press('3');
  await page.waitForTimeout(450);
  await page.keyboard.press('4');
  await expect(cell(8, 'bond')).toBeFocused();
  for (const k of ['m', '3', '4', '3', '4', '3', '4', '3', '4']) {
    await page.keyboard.press(k);
    await page.waitForTimeout(120);
  }
  await expect(page.locator('#finish')).toBeFocused();
  await expect(page.locator('.saving')).toHaveCount(0);
  await expect(cell(8, 'bond')).toHaveValue('m');
  await page.keyboard.press('Enter');
  await expect(page.locator('#verdict')).toBeFocused();
  const keep = page.getByRole('button', { name: /^Keep \d+/ });
  await keep.focus();
  await page.keyboard.press('Enter');
  await expect(page.locator('.told')).toContainText('in the profile');
  expect(errors).toEqual([]);
});

test('keys: find, help, the pairings table and their switch', async ({ page }) => {
  await page.goto(`${server.url}/pairings`);
  await page.keyboard.press('?');
  await expect(page.locator('#keys')).toContainText('Marks two to four');
  await page.keyboard.press('Escape');
  await expect(page.locator('#keys')).toBeHidden();
  await page.locator('#pairings tr', { hasText: 'Brackenfell Heath' }).locator('a.open').first().focus();
  await page.keyboard.press(' ');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press(' ');
  await expect(page.locator('#compare-go')).toHaveText('Compare 2 marked');
  expect(await page.locator('#pairings a.open[tabindex="0"]').count()).toBe(1);
  await page.locator('#compare-go').click();
  await expect(page.locator('h1')).toHaveText('Compare');
  await page.keyboard.press('/');
  // The list of the last letter: an earlier one would be taken away again.
  const last = page.waitForResponse(r => decodeURIComponent(r.url()).replaceAll('+', ' ').includes('q=heath dunnock'));
  await page.keyboard.type('heath dunnock');
  await last;
  await expect(page.locator('#found a').first()).toBeVisible();
  await page.waitForTimeout(200);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.locator('h1')).toContainText('Brackenfell Heath');
  await page.goto(`${server.url}/preferences`);
  await page.getByLabel('Single keys act').uncheck();
  await page.getByLabel('Theme').selectOption('dark');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
  await page.keyboard.press('p');
  await page.waitForTimeout(300);
  await expect(page).toHaveURL(/preferences/);
});

test('without script: plan and reading forms work', async ({ browser }, info) => {
  const context = await browser.newContext({ javaScriptEnabled: false, viewport: info.project.use.viewport });
  const page = await context.newPage();
  await page.goto(`${server.url}/pairings/new`);
  await page.getByLabel('Filament', { exact: true }).selectOption({ label: 'Cold Ash Float, foaming PLA' });
  await page.getByLabel('Toolhead').selectOption({ label: `Ptarmigan 350 ${info.project.name === 'tablet' ? 'right, 0.6' : 'left, 0.4'} standard` });
  await page.getByRole('button', { name: 'Show where it could start' }).click();
  await page.getByRole('button', { name: 'Make the pairing' }).click();
  await page.getByRole('link', { name: /^Plan a (temperature )?tower$/ }).click();
  await page.getByLabel('Coolest').fill('239');
  await page.getByRole('button', { name: 'Show the drawing' }).click();
  await page.locator('#err-stepC .offer').first().click();
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  await page.locator('[name="c.0.bridge"]').fill('3');
  await page.locator('[name="c.1.bridge"]').fill('f');
  await page.getByRole('button', { name: 'Save readings' }).click();
  await expect(page.locator('.told')).toContainText('2 readings saved');
  await expect(page.locator('tr.failed')).toHaveCount(1);
  await context.close();
});

test('a stale plan says so and keeps what was typed', async ({ page, context }) => {
  await page.goto(`${server.url}/`);
  await page.locator('.todo', { hasText: 'Temperature tower 2' }).locator('a').click();
  const change = await page.getByRole('link', { name: 'change' }).getAttribute('href');
  const other = await context.newPage();
  await page.goto(server.url + change);
  await other.goto(server.url + change);
  await other.getByLabel('Base height').fill('1.4');
  await other.getByRole('button', { name: 'Save the plan' }).click();
  await page.getByLabel('Base height').fill('1.6');
  await page.getByRole('button', { name: 'Save the plan' }).click();
  await expect(page.locator('#notice')).toContainText('in another tab');
  await expect(page.getByLabel('Base height')).toHaveValue('1.6');
  await page.getByRole('button', { name: 'Save the plan' }).click();
  await expect(page.getByText('The plan is saved')).toBeVisible();
});
