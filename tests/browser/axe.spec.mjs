import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect, test } from '@playwright/test';
import { halfRead, Server } from './server.mjs';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
const server = new Server();
// A third of the screens each, side by side with whatever else there is.
test.describe.configure({ mode: 'parallel' });
test.beforeAll(() => server.start());
test.afterAll(() => server.end());

// Everything is looked at once, light on the laptop. Dark differs by its colours alone, the tablet by its widths alone: each page is opened once.
const byColour = { runOnly: ['color-contrast', 'link-in-text-block'] };
const laptop = { width: 1280, height: 800 }, tablet = { width: 820, height: 1180 };

async function look(page, name) {
  // A press waits until another page is begun, not until all of it is there.
  await page.waitForLoadState('load');
  await judged(page, name, {});
  await whole(page, name);
  await page.setViewportSize(tablet);
  await whole(page, `${name}, on a tablet,`);
  await page.setViewportSize(laptop);
  await shipped(page, name);
  await page.emulateMedia({ colorScheme: 'dark' });
  await judged(page, `${name}, dark`, byColour);
  await page.emulateMedia({ colorScheme: 'light' });
}

async function whole(page, name) {
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth), `${name} is cut`).toBeLessThanOrEqual(0);
}

async function judged(page, name, rules) {
  const found = await page.evaluate(async rules => (await window.axe.run(document, { resultTypes: ['violations'], preload: false, ...rules })).violations
    .filter(v => v.impact === 'serious' || v.impact === 'critical').map(v => `${v.id}: ${v.nodes.slice(0, 3).map(n => n.target + ' ' + (n.any[0]?.message ?? '')).join(' | ')}`), rules);
  expect(found, name).toEqual([]);
}

/** Every sign on the page is in a font that ships: one that a device lacks would show as an empty box there. */
async function shipped(page, name) {
  await page.evaluate(() => document.fonts.ready);
  const session = await page.context().newCDPSession(page);
  await session.send('DOM.enable');
  await session.send('CSS.enable');
  const { root } = await session.send('DOM.getDocument');
  const { nodeId } = await session.send('DOM.querySelector', { nodeId: root.nodeId, selector: 'body' });
  const { fonts } = await session.send('CSS.getPlatformFontsForNode', { nodeId });
  await session.detach();
  expect(fonts.filter(f => !f.isCustomFont).map(f => `${f.glyphCount} signs in ${f.familyName}`), `${name}: signs that no shipped font has`).toEqual([]);
}

// Nothing serious on any screen, light and dark, and nothing cut on laptop or tablet.
const looked = test.extend({
  page: async ({ browser }, use) => {
    const context = await browser.newContext({ colorScheme: 'light', viewport: laptop, bypassCSP: true });
    await context.addInitScript({ content: axe });
    await use(await context.newPage());
    await context.close();
  },
});

looked('nothing serious, and nothing cut, on the main screens', async ({ page }) => {
  const paths = ['/', '/pairings', '/pairings/new', '/filaments', '/filaments/new', '/printers', '/printers/new', '/start', '/log', '/find?q=heath', '/preferences', '/room', '/devices', '/device', '/docs/devices', '/exchange', '/sittings', '/gcode', '/guides', '/guides/slip-or-skip', '/blame', '/blame?filament0=Heath&passed0=0&tried0=5&filament1=Tarn&passed1=1&tried1=1&printer2=x', '/schedule', '/nowhere'];
  for (const path of paths) {
    await page.goto(server.url + path);
    await look(page, path);
  }
  await page.goto(`${server.url}/filaments`);
  await page.getByRole('link', { name: 'Brackenfell Heath' }).first().click();
  await page.goto(`${page.url()}/report`);
  await look(page, 'the report');
  await page.goto(`${server.url}/pairings`);
  await page.locator('#pairings a.open').first().click();
  for (const size of ['wide', 'tall', 'postcard']) {
    await page.goto(`${page.url().replace(/\/card.*/, '')}/card?size=${size}`);
    await look(page, `the ${size} card`);
  }
  await page.goto(`${server.url}/preferences`);
  await page.getByText('PIN of this bench').click();
  await look(page, 'the PIN');
});

looked('nothing serious, and nothing cut, on every kind of trial: a run as it stands, its readings, its plan', async ({ page }) => {
  await page.goto(`${server.url}/log?kind=run`);
  const links = await page.$$eval('a[href^="/runs/"]', a => a.map(x => [x.textContent.trim().replace(/ \d.*/, ''), x.getAttribute('href').split(/[?#]/)[0]]));
  const runs = new Map(links.reverse());
  for (const [kind, run] of runs) {
    await page.goto(server.url + run);
    await look(page, kind);
    await page.goto(`${server.url}${run}?open=read`);
    await look(page, `${kind}, readings`);
    await page.locator('a[href*="?after="], a[href*="?run="]').first().click();
    await page.locator('#plan').waitFor();
    await look(page, `${kind}, plan`);
  }
  expect(runs.size).toBeGreaterThanOrEqual(6);
});

looked('nothing serious, and nothing cut, on what is read, decided, measured and brought in', async ({ page }) => {
  const half = await halfRead(page, server);
  await page.goto(`${server.url}/printers`);
  await page.getByRole('link', { name: 'Dunnock 180' }).first().click();
  await look(page, 'printer');
  await page.getByRole('link', { name: 'checks', exact: true }).first().click();
  await look(page, 'checks');
  await page.goto(half);
  await look(page, 'read');
  const photos = half.replace(/#.*/, '/photos');
  await page.goto(photos);
  await look(page, 'photos');
  await page.locator('.shot a').first().click();
  await page.getByText('Erase it for good').click();
  await look(page, 'photo');
  await page.goto(`${photos}?across=4`);
  await look(page, 'across runs');
  for (const box of await page.locator('input[name=c]').all()) await box.check();
  await page.getByRole('button', { name: 'Put the ticked ones' }).click();
  await look(page, 'side by side');
  await page.goto(photos);
  await page.getByRole('button', { name: 'Score them again' }).click();
  await look(page, 'blind');
  await page.goto(`${server.url}/gcode`);
  await page.getByRole('link', { name: /225-195/ }).first().click();
  await page.locator('#layer[data-drawn]').waitFor();
  await page.locator('details.diff summary').click();
  // One part is open at a time: each is looked at.
  const parts = page.locator('details.part');
  for (let i = 0; i < await parts.count(); i++) {
    if (await parts.nth(i).getAttribute('open') === null) await parts.nth(i).locator('> summary').click();
    await look(page, `stepped file, ${await parts.nth(i).locator('> summary b').textContent()}`);
  }
  await page.goto(`${server.url}/gcode`);
  await page.getByRole('link', { name: 'gauge-ring.gcode' }).click();
  await page.locator('#layer[data-drawn]').waitFor();
  await look(page, 'file');
  await page.goto(half.replace(/#.*/, '/code'));
  await look(page, 'code');
  await page.goto(`${server.url}/exchange`);
  await page.setInputFiles('#file', { name: 'notes.csv', mimeType: 'text/csv', buffer: Buffer.from('filament,printer,nozzle\nHeath,Dunnock 180,209\nHeth,Dunnock 180,hot\n') });
  await page.getByRole('button', { name: 'Look at it' }).click();
  await look(page, 'old notes');
  await page.goto(`${server.url}/exchange`);
  await page.setInputFiles('#file', { name: 'a.json', mimeType: 'application/json', buffer: Buffer.from('{"format":"glenfrost-archive","version":1,"rows":{"people":[{"id":"01a20000-0000-7000-8000-0000000000ac","name":"Guest"},{"id":"x"}]}}') });
  await page.getByRole('button', { name: 'Look at it' }).click();
  await look(page, 'import');
  await page.goto(server.url + '/');
  await page.locator('.todo', { hasText: 'Decide' }).first().locator('a').click();
  await look(page, 'judge');
  await page.goto(server.url + '/');
  await page.locator('.todo', { hasText: 'Planned;' }).locator('a').click();
  await look(page, 'print');
  await page.getByRole('link', { name: 'change' }).click();
  await look(page, 'plan');
  await page.locator('h1 + p a').first().click();
  await look(page, 'pairing');
  await page.locator('main details:not(.out)').evaluateAll(all => all.forEach(d => { d.open = true; }));
  await look(page, 'pairing, unfolded');
  await page.getByRole('link', { name: /Quick check piece/ }).click();
  await page.locator('#preview details.more summary').first().click();
  await look(page, 'quick check');
  await page.goto(page.url().replace('quick-check', 'temperature-tower'));
  await page.locator('form details.more summary').click();
  await page.locator('#f-arrangement').selectOption('separate');
  await page.locator('#f-coolestC').fill(String(Number(await page.inputValue('#f-hottestC')) - 5));
  await page.locator('.plate-view').waitFor();
  await look(page, 'separate pieces');
  await page.goto(`${server.url}/filaments`);
  await page.locator('.list th a').first().click();
  await look(page, 'filament');
  await page.locator('.row2').first().click();
  await look(page, 'spool');
  await page.goto(`${server.url}/printers`);
  await page.locator('.list th a').first().click();
  await look(page, 'printer');
});
