// The G-code room as a tester uses it: drop a file, look at it, step it, take it away again.
import { test, expect } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Server } from './server.mjs';

const demo = resolve(dirname(fileURLToPath(import.meta.url)), '../../demo/gcode');
let server;
test.beforeAll(async () => { server = await new Server().start(); });
test.afterAll(async () => { await server.end(); });

/** Drops a file on the page as a hand would: with a drop event, not through the file field. */
async function drop(page, name, text) {
  await page.goto(`${server.url}/gcode`);
  const transfer = await page.evaluateHandle(([n, t]) => {
    const d = new DataTransfer();
    d.items.add(new File([t], n));
    return d;
  }, [name, text]);
  await page.dispatchEvent('main', 'dragover', { dataTransfer: transfer });
  await page.dispatchEvent('main', 'drop', { dataTransfer: transfer });
  await expect(page.locator('h1')).toHaveText(name);
}

const drawn = page => page.locator('#layer').evaluate(c => [+c.dataset.drawn, +c.dataset.layer]);
const said = page => page.locator('#move-facts');
const part = (page, name) => page.locator('details.part > summary', { hasText: name }).click();

test('drop, look, step, download', async ({ page }) => {
  const errors = [];
  page.on('pageerror', e => errors.push(e.message));
  page.on('console', m => { if (m.type() === 'error') errors.push(m.text()); });
  const tower = readFileSync(join(demo, 'notched-temperature-tower.gcode'), 'utf8');
  await drop(page, 'my tower.gcode', tower);
  await expect(page.locator('#odd')).toContainText('never changes');
  await expect(page.locator('.gsum')).toContainText('174 layers');

  // The bar is moved through with the pointer …
  const bar = page.locator('#bar');
  await page.locator('#layer[data-drawn]').waitFor();
  const box = await bar.boundingBox();
  await page.mouse.click(box.x + box.width * 0.25, box.y + 40);
  // The middle was shown first.
  await expect.poll(async () => (await drawn(page))[1]).toBeLessThan(80);
  await expect(bar).toBeFocused();
  const quarter = (await drawn(page))[1];
  expect(quarter).toBeGreaterThan(20);
  // … and by keys: layer by layer, move by move.
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await drawn(page))[1]).toBe(quarter + 1);
  const before = await said(page).textContent();
  await page.keyboard.press('ArrowLeft');
  await expect(said(page)).not.toHaveText(before);
  await page.keyboard.press('End');
  await expect(bar).toHaveAttribute('aria-valuetext', /layer 174/);
  await page.keyboard.press('Home');
  await expect(bar).toHaveAttribute('aria-valuetext', /^0:00:00/);
  // What is drawn is ink of many shades, and each question shades it anew: by mouse and by the arrow keys.
  for (let i = 0; i < 3; i++) await page.keyboard.press('PageUp');
  await expect(said(page)).toContainText('215 °C');
  for (const question of ['go fast?', 'get hot?', 'get air?', 'lie wide?', 'begin and end?', 'flow most?']) {
    await page.getByText(question).click();
    await expect(page.getByRole('radio', { name: question })).toBeChecked();
    await expect(page.locator('#ramp-text')).not.toBeEmpty();
  }
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('radio', { name: 'go fast?' })).toBeChecked();
  await expect(page.locator('#ramp-text')).toContainText('mm/s');
  await page.locator('#below').selectOption('19');
  await expect.poll(() => page.locator('#layer').evaluate(c => {
    const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
    const seen = new Set();
    for (let i = 0; i < d.length; i += 4) seen.add((d[i] << 16) | (d[i + 1] << 8) | d[i + 2]);
    return seen.size;
  })).toBeGreaterThan(8);
  // A move is read where it is touched.
  await page.locator('#layer').click({ position: { x: 200, y: 200 } });
  await expect(said(page)).toContainText('wall');
  await part(page, 'Step by height');

  // Heights are read off the file; the sections follow every keystroke.
  await expect(page.locator('#f-base')).toHaveValue('1.5');
  await expect(page.locator('#f-section')).toHaveValue('6');
  await page.locator('#f-from').fill('225');
  await page.locator('#f-to').fill('195');
  await expect(page.locator('#sections tbody tr')).toHaveCount(7);
  await page.locator('#f-section').fill('6,1');
  await expect(page.locator('#sections')).toContainText('24.4 layers');
  await page.locator('#f-section').fill('7');
  await expect(page.locator('#sections')).toContainText('would hold 6');
  await page.locator('#sections .offer').click();
  await expect(page.locator('#f-section')).toHaveValue('6');
  await page.getByRole('button', { name: 'Write the stepped file' }).click();
  await expect(page.locator('.proof')).toContainText('It does what was planned');
  await expect(page.locator('.proof tbody tr')).toHaveCount(7);

  // What is taken away is the file that came, with eight lines more.
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download' }).click()]);
  expect(download.suggestedFilename()).toBe('my tower-temperature-225-195.gcode');
  const text = readFileSync(await download.path(), 'utf8');
  const ours = text.split('\n').filter(l => l.includes('glenfrost'));
  expect(ours.filter(l => l.startsWith('M104')).map(l => +l.match(/S(\d+)/)[1])).toEqual([225, 220, 215, 210, 205, 200, 195]);
  expect(text.split('\n').filter(l => !l.includes('glenfrost')).join('\n')).toBe(tower);
  expect(errors).toEqual([]);
});

test('what is odd is mended with one click, and the difference is shown', async ({ page }) => {
  await drop(page, 'ring.gcode', readFileSync(join(demo, 'gauge-ring.gcode'), 'utf8'));
  // A line of the file is found on the bar and in the drawing.
  await page.locator('#layer[data-drawn]').waitFor();
  await page.locator('#odd li', { hasText: 'slowed down' }).locator('a[data-line]').click();
  await expect(page.locator('#bar')).toHaveAttribute('aria-valuetext', /layer 27,/);
  await page.locator('#odd li', { hasText: 'flow override' }).getByRole('button', { name: 'Drop it' }).click();
  await expect(page.locator('.difft .gone')).toContainText('M221 S95');
  await expect(page.locator('.difft .came-in')).toContainText('; glenfrost off: M221 S95');
  await expect(page.locator('#odd')).not.toContainText('flow override');
  await part(page, 'Mend');
  await page.locator('#f-printer').selectOption('m900');
  await page.locator('#f-toC').fill('22');
  await page.locator('form', { hasText: 'Slow cool-down' }).getByRole('button', { name: 'Write it so' }).click();
  await expect(page.locator('#f-toC')).toHaveValue('22');
  await expect(page.locator('#err-toC')).toContainText('may never be reached');
});

test('a layer set of two hundred thousand moves stays smooth', async ({ page }) => {
  // One layer of 200,000 short moves, as a scan of a surface gives.
  const lines = ['M104 S210', 'M109 S210', 'G28', 'G90', 'M83', 'G0 X19 Y20 Z0.2 F6000'];
  for (let i = 0; i < 200_000; i++) {
    const row = Math.floor(i / 500), x = row % 2 ? 500 - i % 500 : i % 500;
    lines.push(`G1 X${(20 + x * 0.24).toFixed(2)} Y${(20 + row * 0.3).toFixed(2)} E0.008 F${1200 + (i * 7) % 1800}`);
  }
  await drop(page, 'surface.gcode', [...lines, 'M104 S0', ''].join('\n'));
  await expect.poll(async () => (await drawn(page))[0]).toBeGreaterThan(80_000);
  await page.locator('#bar').focus();
  await page.keyboard.press('End');
  await expect.poll(async () => (await drawn(page))[0]).toBe(200_000);
  // Drawn in slices, so that no frame holds the page up; kept in pictures, so that a step costs a slice at most.
  const did = () => page.locator('#layer').evaluate(c => ({ at: +c.dataset.drawn, frames: +c.dataset.frames, strokes: +c.dataset.strokes, ms: +c.dataset.ms }));
  await page.keyboard.press('+');
  await expect.poll(async () => (await did()).strokes).toBe(200_000);
  const anew = await did();
  expect(anew.frames).toBeGreaterThan(3);
  for (const [keys, at] of [['ArrowLeft', 199_999], ['Control+ArrowLeft', 199_899], ['Shift+ArrowRight', 199_909]]) {
    await page.keyboard.press(keys);
    await expect.poll(async () => (await did()).at).toBe(at);
    const step = await did();
    expect(step.strokes).toBeLessThanOrEqual(6000);
    console.log(`      all anew ${anew.ms} ms in ${anew.frames} frames; ${keys} ${step.ms} ms`);
  }
});

test('without script a file is looked at and stepped by its forms', async ({ browser }) => {
  const page = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
  await page.goto(`${server.url}/gcode`);
  await page.setInputFiles('#file', { name: 'plain.gcode', mimeType: 'text/plain', buffer: readFileSync(join(demo, 'notched-temperature-tower.gcode')) });
  await page.getByRole('button', { name: 'Look at it' }).click();
  await expect(page.locator('.gsum')).toContainText('174 layers');
  await expect(page.locator('#bar path.mean')).toHaveAttribute('d', /^M0 100L/);
  await part(page, 'Step by height');
  await page.locator('#f-what').selectOption('retraction-length');
  await page.locator('#f-from').fill('0.4');
  await page.locator('#f-to').fill('1');
  await page.locator('#f-by').fill('0.1');
  await page.getByRole('button', { name: 'Write the stepped file' }).click();
  await expect(page.locator('.proof')).toContainText('It does what was planned');
  await page.locator('.diff summary').click();
  await expect(page.locator('.difft')).toContainText('; glenfrost step retraction-length 0.4, section 1 of 7');
  await part(page, 'Step by height');
  await page.locator('#f-what').selectOption('fan');
  await page.locator('#f-from').fill('150');
  await page.locator('#f-again').check();
  await page.getByRole('button', { name: 'Write the stepped file' }).click();
  await expect(page.locator('#err-from')).toContainText('outside 0 to 100');
  await expect(page.locator('#f-from')).toHaveValue('150');
});

test('what is no G-code is said in plain words', async ({ page }) => {
  await page.goto(`${server.url}/gcode`);
  await page.setInputFiles('#file', { name: 'clip.gcode', mimeType: 'text/plain', buffer: Buffer.from('PK\u0003\u0004 zip') });
  await page.getByRole('button', { name: 'Look at it' }).click();
  await expect(page.locator('.notice')).toContainText('clip.gcode is a zip');
});
