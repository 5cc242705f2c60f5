// A tower without a printer: printed on the simulated one, watched, stamped, read by its instruments, and by processes of their own over the device API.
import { expect, test } from '@playwright/test';
import { execFile, spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { connect, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Server } from './server.mjs';

const app = resolve(dirname(fileURLToPath(import.meta.url)), '../../artifacts/app/Glenfrost.Web.dll');
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
let server;
test.beforeAll(async () => { server = await new Server().start(); });
test.afterAll(async () => { await server.end(); });

/** Plans a small tower on a pairing and goes to its simulated twin. */
async function twin(page, filament, printer, hot, cool) {
  await page.goto(`${server.url}/pairings`);
  const heads = await page.locator('#pairings thead th').allTextContents();
  const row = page.locator('#pairings tbody tr', { hasText: filament });
  await row.locator('td').nth(heads.findIndex(h => h.includes(printer)) - 1).locator('a.open').click();
  await page.goto(`${page.url().split('#')[0]}/temperature-tower`);
  for (const [name, value] of [['hottestC', hot], ['coolestC', cool], ['stepC', '5'], ['sectionHeightMm', '6']]) await page.fill(`[name=${name}]`, value);
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'Try it on the simulated printer' }).click();
  await expect(page.locator('.run-head')).toContainText('simulated');
}

async function healthy(page, name) {
  const found = await page.evaluate(async () => (await window.axe.run(document, { resultTypes: ['violations'] })).violations
    .filter(v => v.impact === 'serious' || v.impact === 'critical').map(v => `${v.id}: ${v.nodes.slice(0, 3).map(n => n.target).join(' | ')}`));
  expect(found, name).toEqual([]);
  // On the tablet too nothing is cut.
  for (const width of [820, 1280]) {
    await page.setViewportSize({ width, height: 800 });
    expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth), `${name} is cut at ${width}`).toBeLessThanOrEqual(0);
  }
}

test('print, pause, stamp, leave, find again, read, judge', async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, bypassCSP: true });
  await context.addInitScript({ content: axe });
  const page = await context.newPage();
  const errors = [];
  page.on('pageerror', e => errors.push(e.message));
  page.on('console', m => { if (m.type() === 'error') errors.push(m.text()); });
  await twin(page, 'Heath', 'Dunnock', '220', '205');
  await healthy(page, 'before');
  await page.selectOption('#sim-speed', '60');
  await page.getByRole('button', { name: 'Print on the simulated printer' }).click();
  await page.locator('.live[data-drawn]').waitFor();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.locator('.live-line')).toContainText('Paused');
  const run = page.url().split('#')[0];
  // Elsewhere the print is found again.
  await page.goto(server.url);
  await page.locator('.side a', { hasText: /layer \d+ of/ }).click();
  await expect(page).toHaveURL(new RegExp(run.split('/').at(-1)));
  await page.selectOption('#live-speed', '300');
  await page.getByRole('button', { name: 'Set' }).click();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.locator('.live-line')).toContainText(/Layer (?!1 )\d+ of/, { timeout: 20000 });
  await page.locator('#stamp-form[data-ready]').waitFor();
  await healthy(page, 'live');
  await page.getByLabel('blobs').check();
  await page.keyboard.press('s');
  await expect(page.locator('#stamp-list li')).toContainText(/blobs in section \d, 2\d\d °C: layer \d+.* ± .* mm.*mm³\/s/);
  await expect(page.locator('.layer-strip')).toHaveAttribute('aria-label', /of \d+ layers; planned above, seen below/);
  if (await page.locator('#live-speed').count() > 0) {
    await page.selectOption('#live-speed', '2000');
    await page.getByRole('button', { name: 'Set' }).click();
  }
  await page.getByRole('button', { name: 'Read with the simulated instruments' }).click({ timeout: 30000 });
  await healthy(page, 'read');
  // As if typed: cells fill one after another.
  await expect(page.locator('.live-reading')).toContainText('The simulated instruments');
  await expect.poll(() => page.locator('input.score').evaluateAll(all => all.filter(i => i.value === '').length), { timeout: 20000 }).toBe(0);
  await expect(page.locator('#others')).toContainText(/simulated/);
  await page.locator('#finish').click();
  await expect(page.locator('#verdict')).toBeVisible();
  await page.getByText('What the simulated printer did').click();
  await expect(page.locator('#simulated')).toContainText('printed to its end');
  await healthy(page, 'judged');
  // Somebody may score the drawn piece without the instruments.
  await page.goto(`${run}/photos`);
  await expect(page.locator('.shot img')).toHaveCount(4);
  expect(errors).toEqual([]);
  await context.close();
});

const run = args => new Promise(done => execFile('dotnet', [app, ...args], (error, out, err) => done({ code: error?.code ?? 0, out, err })));

test('a program streams a file to the printer\'s port; scale and eyes read the piece over the device API', async ({ page }) => {
  test.setTimeout(90000);
  await twin(page, 'Sill', 'Whimbrel', '245', '235');
  const gcode = await (await page.request.get(server.url + await page.locator('a[href*="/files/"]').first().getAttribute('href'))).text();
  const address = page.url().split('#')[0];
  const folder = mkdtempSync(join(tmpdir(), 'glenfrost-pieces-'));
  const port = await new Promise(done => { const s = createServer().listen(0, '127.0.0.1', () => { const p = s.address().port; s.close(() => done(p)); }); });
  const printer = spawn('dotnet', [app, 'printer', '--port', String(port), '--printer', 'Whimbrel 300', '--filament', 'Brackenfell Sill', '--speed', '2000', '--pieces', folder], { stdio: ['ignore', 'pipe', 'inherit'] });
  try {
    let said = '';
    await new Promise(ready => printer.stdout.on('data', d => { said += d; if (said.includes('listens on')) ready(); }));
    // As any sender of lines: one line, then wait for its ok.
    const socket = connect(port, '127.0.0.1');
    let heard = '';
    let answered = null;
    socket.on('data', d => {
      heard += d;
      for (let at; (at = heard.indexOf('\n')) >= 0; heard = heard.slice(at + 1)) if (heard.slice(0, at).startsWith('ok')) answered?.();
    });
    await new Promise(done => socket.on('connect', done));
    const send = line => new Promise(done => { answered = done; socket.write(`${line}\n`); });
    for (const line of gcode.split('\n').map(l => l.split(';')[0].trim()).filter(l => l)) await send(line);
    socket.end();
    await expect.poll(() => said, { timeout: 20000 }).toContain('taken off');
    const piece = join(folder, readdirSync(folder)[0]);
    expect((await run(['calliper', '--piece', piece, '--from', '2', '--to', '7', '--times', '3'])).out.trim().split('\n')).toHaveLength(3);
    // The run is said to be printed; the instruments are told where to post by its address and a token.
    await page.selectOption('#sim-speed', '2000');
    await page.getByRole('button', { name: 'Print on the simulated printer' }).click();
    await page.getByRole('button', { name: 'Read with the simulated instruments' }).waitFor({ timeout: 30000 });
    await page.goto(`${server.url}/devices`);
    await page.getByLabel('Name').fill('bench scale');
    await page.getByLabel('Whose readings').fill('Isla');
    await page.getByRole('button', { name: 'Make a token' }).click();
    const token = (await page.locator('main').textContent()).match(/gfr_[0-9a-f]+/)[0];
    const scale = await run(['scale', '--run', address, '--token', token, '--piece', piece, '--resolution', '0.01']);
    expect(scale.err).toBe('');
    expect(scale.out).toMatch(/^\d+(\.\d+)? g/);
    const eyes = await run(['eyes', '--run', address, '--token', token, '--piece', piece, '--every', '0']);
    expect(eyes.err).toBe('');
    expect(eyes.out.trim().split('\n')).toHaveLength(15);
    await page.goto(address);
    expect(await page.locator('input.score').evaluateAll(all => all.filter(i => i.value === '').length)).toBe(0);
    await expect(page.locator('input.score').first()).toHaveAttribute('title', /simulated eyes/);
    // What is wrong is said.
    expect((await run(['scale', '--run', address, '--token', 'gfr_no', '--piece', piece])).err).toContain('not known here');
    expect((await run(['eyes', '--run', 'somewhere', '--piece', piece])).code).toBe(2);
    expect((await run(['printer', '--printer', 'Nobody']))).toMatchObject({ code: 2, err: expect.stringContaining('Dunnock 180') });
    expect((await run(['printer', '--fault', 'flood=3'])).err).toContain('runaway');
    writeFileSync(join(folder, 'no.json'), '{}');
    expect((await run(['calliper', '--piece', join(folder, 'no.json')]))).toMatchObject({ code: 1, err: expect.stringContaining('no printed piece') });
  } finally {
    printer.kill('SIGTERM');
    rmSync(folder, { recursive: true, force: true });
  }
});
