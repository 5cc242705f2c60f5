import { expect, test } from '@playwright/test';
import { halfRead, Server } from './server.mjs';

let server;
test.beforeEach(async () => { server = await new Server().start(); });
test.afterEach(() => server.end());

const cell = (page, s, a) => page.locator(`input[data-section="${s}"][data-aspect="${a}"]`);

test('a server killed between keystrokes loses no reading', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await expect(cell(page, 7, 'overhang')).toBeFocused();
  const keys = ['2', '3', '2', '3', '4', '1', '2', '3', '4', '1', '2', '3', '4'];
  for (const [i, k] of keys.entries()) {
    await page.keyboard.press(k);
    if (i % 4 === 2) await server.kill();
    await page.waitForTimeout(60);
    if (i % 4 === 3) await server.start();
  }
  if (server.process.signalCode !== null) await server.start();
  await expect(page.locator('.saving, .unsent')).toHaveCount(0, { timeout: 30_000 });
  await expect(page.locator('#sofar')).toContainText('All is scored');
  await server.kill();
  await server.start();
  await page.reload();
  const values = await page.locator('input.score').evaluateAll(list => list.map(e => e.value));
  expect(values.filter(v => v !== '')).toHaveLength(45);
  const bond = [];
  for (let s = 8; s >= 0; s--) bond.push(await cell(page, s, 'bond').inputValue());
  expect(bond).toEqual(keys.slice(4));
});

test('typed while the server is away: kept over a reload, said, and sent later', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await expect(cell(page, 7, 'overhang')).toBeFocused();
  await server.kill();
  await page.keyboard.press('2');
  await page.keyboard.press('3');
  await expect(page.locator('#unsent')).toContainText('2 not saved');
  await server.start();
  await page.reload();
  await expect(page.locator('.saving, .unsent')).toHaveCount(0, { timeout: 20_000 });
  await expect(cell(page, 7, 'overhang')).toHaveValue('2');
  await expect(cell(page, 6, 'overhang')).toHaveValue('3');
  await page.reload();
  await expect(cell(page, 6, 'overhang')).toHaveValue('3');
});

test('an answer that came while the page was being loaded anew is shown in it', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await expect(cell(page, 7, 'overhang')).toBeFocused();
  // The old page of the reading grid is given back after the reading was acknowledged.
  const old = await page.evaluate(() => fetch(location.href).then(r => r.text()));
  await page.keyboard.press('2');
  await expect(page.locator('.saving')).toHaveCount(0);
  await page.route('**/runs/*', route => route.request().resourceType() === 'document' ? route.fulfill({ body: old, contentType: 'text/html' }) : route.continue());
  await page.reload();
  await expect(cell(page, 7, 'overhang')).toHaveValue('2');
  await expect(cell(page, 6, 'overhang')).toBeFocused();
});

test('two tabs on one cell: the second is told, and neither is lost', async ({ page, context }) => {
  const address = await halfRead(page, server);
  const other = await context.newPage();
  // The other tab is not told in time what this one does.
  await other.route('**/*handler=Since*', route => route.abort());
  await page.goto(address);
  await other.goto(address);
  await cell(page, 7, 'overhang').focus();
  await page.keyboard.press('2');
  await expect(page.locator('.saving')).toHaveCount(0);
  await cell(other, 7, 'overhang').focus();
  await other.keyboard.press('4');
  await expect(cell(other, 7, 'overhang')).toHaveClass(/refused/);
  await expect(other.locator('#next')).toContainText('put 2 here');
  await expect(cell(other, 7, 'overhang')).toHaveValue('4');
  await other.keyboard.press('Enter');
  await expect(cell(other, 7, 'overhang')).not.toHaveClass(/refused/);
  await page.reload();
  await expect(cell(page, 7, 'overhang')).toHaveValue('4');
});

test('two tabs that type while the server is away keep each their own', async ({ page, context }) => {
  const address = await halfRead(page, server);
  const other = await context.newPage();
  await page.goto(address);
  await other.goto(address);
  await expect(cell(other, 7, 'overhang')).toBeFocused();
  await server.kill();
  await cell(page, 7, 'overhang').focus();
  await page.keyboard.press('2');
  await cell(other, 6, 'overhang').focus();
  await other.keyboard.press('3');
  await expect(other.locator('#unsent')).toContainText('1 not saved');
  await expect(page.locator('#unsent')).toContainText('1 not saved');
  await page.close();
  await other.close();
  await server.start();
  const later = await context.newPage();
  await later.goto(address);
  await expect(later.locator('.saving, .unsent')).toHaveCount(0, { timeout: 20_000 });
  await later.reload();
  await expect(cell(later, 7, 'overhang')).toHaveValue('2');
  await expect(cell(later, 6, 'overhang')).toHaveValue('3');
});

test('an old score asks why before it changes', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await cell(page, 0, 'bridge').focus();
  await page.keyboard.press('2');
  await expect(page.locator('#ask')).toContainText('Why is it 2 now');
  await page.keyboard.type('better light');
  await page.keyboard.press('Enter');
  await expect(page.locator('#ask')).toBeHidden();
  await expect(page.locator('.saving')).toHaveCount(0);
  await page.reload();
  await expect(cell(page, 0, 'bridge')).toHaveValue('2');
});

test('bouncing keys are questioned, digits without focus go to the cell named as next', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await cell(page, 7, 'overhang').focus();
  await page.keyboard.press('3');
  await page.keyboard.press('3');
  await expect(cell(page, 6, 'overhang')).toHaveClass(/questioned/);
  await page.evaluate(() => document.activeElement.blur());
  await page.keyboard.press('1');
  await expect(cell(page, 5, 'overhang')).toHaveValue('1');
  await cell(page, 4, 'overhang').focus();
  await page.keyboard.press('f');
  await expect(page.locator('tr[data-section="4"]')).toHaveClass('failed');
  await page.locator('#across').check();
  await page.reload();
  await expect(page.locator('#across')).toBeChecked();
});

test('finishing waits for what is still on its way over a slow line, and judges with it', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  let sent = 0;
  await page.route('**/runs/*?handler=Reading', async route => {
    sent++;
    await new Promise(done => setTimeout(done, 1500));
    await route.continue();
  });
  for (let s = 7; s >= 0; s--) if (await cell(page, s, 'overhang').inputValue() === '') { await cell(page, s, 'overhang').focus(); await page.keyboard.press('3'); }
  const typed = await page.locator('.saving').count();
  expect(typed).toBeGreaterThan(1);
  await page.locator('#finish').click();
  await expect(page).toHaveURL(/#judge/, { timeout: 40_000 });
  expect(sent).toBeGreaterThanOrEqual(typed);
  await page.goto(`${page.url().split('#')[0].split('?')[0]}?open=read`);
  await expect(cell(page, 7, 'overhang')).toHaveValue('3');
  await expect(page.locator('.unsent')).toHaveCount(0);
});

test('nothing is judged while readings wait for a server that is away', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await page.route('**/runs/*?handler=Reading', route => route.abort());
  await cell(page, 7, 'overhang').focus();
  await page.keyboard.press('2');
  await page.locator('#finish').click();
  await expect(page.getByText('nothing is judged')).toBeVisible({ timeout: 30_000 });
  expect(page.url()).not.toContain('#judge');
  await page.unroute('**/runs/*?handler=Reading');
  await expect(page.locator('.saving')).toHaveCount(0, { timeout: 20_000 });
  await page.locator('#finish').click();
  await expect(page).toHaveURL(/#judge/, { timeout: 20_000 });
});

test('a fault of the page over one answer does not keep the next readings from being sent', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await page.evaluate(() => {
    const scores = document.getElementById('scores');
    const real = scores.querySelectorAll.bind(scores);
    scores.querySelectorAll = what => {
      if (what === '.unsent' && window.faulty) { window.faulty = false; throw new Error('a fault of the page'); }
      return real(what);
    };
  });
  let sent = 0;
  await page.route('**/runs/*?handler=Reading', async route => {
    if (sent++ === 0) await page.evaluate(() => { window.faulty = true; });
    await route.continue();
  });
  const faults = [];
  page.on('pageerror', e => faults.push(e.message));
  for (const s of [7, 6, 5]) { await cell(page, s, 'overhang').focus(); await page.keyboard.press('2'); }
  await expect.poll(() => sent).toBeGreaterThanOrEqual(3);
  expect(faults).toEqual(['a fault of the page']);
  await page.unroute('**/runs/*?handler=Reading');
  await page.reload();
  for (const s of [7, 6, 5]) await expect(cell(page, s, 'overhang')).toHaveValue('2');
});

test('a full disk is said beside the cells, nothing typed is lost, and it is sent once there is room', async ({ page }) => {
  await page.goto(await halfRead(page, server));
  await expect(cell(page, 7, 'overhang')).toBeFocused();
  // What the server answers then is shown by its own test; here, what the page makes of it.
  await page.route('**/runs/*handler=Reading', route => route.fulfill({ status: 507, headers: { 'X-Disk': 'the disk is full' }, contentType: 'application/problem+json', body: '{}' }));
  await page.keyboard.press('2');
  await page.keyboard.press('3');
  await expect(page.locator('#unsent')).toHaveText('the disk is full; 2 readings are kept in this browser and sent again');
  await page.unroute('**/runs/*handler=Reading');
  await expect(page.locator('.saving, .unsent')).toHaveCount(0, { timeout: 30_000 });
  await page.reload();
  await expect(cell(page, 7, 'overhang')).toHaveValue('2');
  await expect(cell(page, 6, 'overhang')).toHaveValue('3');
});
