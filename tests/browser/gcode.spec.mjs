// Files as they are handed out, opened again by readers that Glenfrost did not write: a general-purpose G-code parser, and the loaders of a 3D library.
import { test, expect } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Server } from './server.mjs';

const require = createRequire(import.meta.url);
const { parseStringSync } = require('gcode-parser');
globalThis.DOMParser = require('linkedom').DOMParser;
const { STLLoader } = await import('three/examples/jsm/loaders/STLLoader.js');
const { ThreeMFLoader } = await import('three/examples/jsm/loaders/3MFLoader.js');

let server;
test.beforeAll(async () => { server = await new Server().start(); });
test.afterAll(async () => { await server.end(); });

/** Runs a file as a printer would: positions, fed filament, temperatures. */
function print(text, limits) {
  const s = { x: 0, y: 0, z: 0, e: 0, relative: false, set: 0, back: 0, ours: false, layer: 0, feature: '' };
  const seen = { laid: new Map(), sections: new Map(), hottest: 0, bed: 0, moves: 0, retractions: 0, problems: [] };
  for (const { words, comments = [], line } of parseStringSync(text)) {
    for (const c of comments) {
      if (c.startsWith('print begins')) s.ours = true;
      else if (c.startsWith('print ends')) s.ours = false;
      else if (/^layer \d+, z/.test(c)) s.layer = +c.match(/\d+/)[0];
      else if (words.length === 0) s.feature = c;
    }
    if (words.length === 0) continue;
    const [letter, number] = words[0];
    const w = Object.fromEntries(words.slice(1));
    const code = `${letter}${number}`;
    if (code === 'M82' || code === 'M83') s.relative = code === 'M83';
    else if (code === 'G92') s.e = w.E ?? s.e;
    else if (code === 'M104' || code === 'M109') { s.set = w.S ?? w.R; seen.hottest = Math.max(seen.hottest, s.set); }
    else if (code === 'M140' || code === 'M190') seen.bed = Math.max(seen.bed, w.S ?? w.R);
    else if (code === 'G0' || code === 'G1') {
      const fed = w.E === undefined ? 0 : s.relative ? w.E : w.E - s.e;
      if (w.E !== undefined) s.e = s.relative ? s.e : w.E;
      const to = { x: w.X ?? s.x, y: w.Y ?? s.y, z: w.Z ?? s.z };
      const length = Math.hypot(to.x - s.x, to.y - s.y);
      if (s.ours) {
        seen.moves++;
        const [x0, y0] = limits.middle ? [-limits.bed[0] / 2, -limits.bed[1] / 2] : [0, 0];
        if (to.x < x0 || to.y < y0 || to.x > x0 + limits.bed[0] || to.y > y0 + limits.bed[1] || to.z > limits.bed[2]) seen.problems.push(`beside the bed: ${line}`);
        if (fed > 0 && s.set < 170) seen.problems.push(`cold: ${line}`);
        if (fed < 0 || (fed > 0 && length === 0)) {
          s.back -= fed;
          if (fed < 0 && s.back > limits.retraction - 1e-4) seen.retractions++;
        } else if (fed > 0) {
          if (s.back > 1e-4) seen.problems.push(`lays a line while pulled back: ${line}`);
          if (!['skirt', 'brim', 'prime line'].includes(s.feature)) {
            seen.laid.set(s.layer, (seen.laid.get(s.layer) ?? 0) + fed);
            if (!seen.sections.has(s.layer)) seen.sections.set(s.layer, { set: s.set, z: to.z });
          }
        } else if (length > (limits.step ?? 1) && s.back < limits.retraction - 1e-4 && s.feature !== 'prime line') seen.problems.push(`${length.toFixed(2)} mm without retraction: ${line}`);
        if (s.back < -1e-4 || s.back > limits.retraction + 1e-4) seen.problems.push(`retraction out of balance: ${line}`);
      }
      Object.assign(s, to);
    }
  }
  return { ...seen, back: s.back };
}

const cases = [
  { printer: 'Dunnock 180', bed: [180, 180, 180], max: 237, bedMax: 90 },
  { printer: 'Whimbrel 300', bed: [300, 300, 320], max: 296, bedMax: 120 },
  // A 0.6 nozzle: a step to the neighbouring line is at most two of its lines wide.
  { printer: 'Ptarmigan 350 right', bed: [350, 350, 400], max: 282, bedMax: 110, step: 1.32 },
];

for (const c of cases) {
  test(`a tower for ${c.printer}, taken in the browser, is what its plan says`, async ({ page }) => {
    await page.goto(`${server.url}/pairings`);
    const links = await page.locator(`a[aria-label*="${c.printer}"], td a`).evaluateAll(a => a.map(x => x.getAttribute('href')));
    let found = false;
    for (const href of [...new Set(links)].filter(h => h?.startsWith('/pairings/') && !h.includes('new'))) {
      await page.goto(server.url + href);
      if ((await page.locator('.head, h1 ~ .sub, .sub').allTextContents()).some(t => t.includes(`on ${c.printer}`))) { found = true; await page.goto(`${server.url}${href}/temperature-tower`); break; }
    }
    expect(found, `a pairing on ${c.printer}`).toBe(true);
    const hot = +(await page.inputValue('#f-hottestC'));
    await page.fill('#f-coolestC', String(hot - 10));
    await expect(page.locator('#preview .big')).toHaveText('3 sections');
    await page.click('text=Take this plan');
    await page.waitForURL(/\/runs\//);
    const run = page.url().split('#')[0];
    const checkpoints = await page.locator('.print-stage tbody tr').evaluateAll(rows => rows.map(r => [...r.cells].map(x => x.textContent.trim())));
    const [download] = await Promise.all([page.waitForEvent('download'), page.click('text=Download the G-code')]);
    const text = readFileSync(await download.path(), 'ascii');
    const retraction = +text.match(/; retraction: ([\d.]+) mm/)[1];
    const seen = print(text, { bed: c.bed, step: c.step, retraction });
    expect(seen.problems.slice(0, 5)).toEqual([]);
    expect(seen.hottest).toBeLessThanOrEqual(c.max);
    expect(seen.bed).toBeLessThanOrEqual(c.bedMax);
    expect(seen.moves).toBeGreaterThan(5000);
    expect(seen.retractions).toBeGreaterThan(50);
    expect(seen.back).toBeCloseTo(retraction, 3);
    // Every checkpoint of the page is in the file at its layer and height, and the section before still had its own.
    expect(checkpoints).toHaveLength(3);
    checkpoints.forEach(([, layer, height, display], i) => {
      const first = seen.sections.get(+layer);
      expect(first.set).toBe(+display);
      expect(first.z).toBeGreaterThan(+height);
      if (i > 0) expect(seen.sections.get(+layer - 1).set).toBe(+checkpoints[i - 1][3]);
    });

    // The piece as STL and 3MF: closed, the same in both, and as heavy as the file.
    const stl = new STLLoader().parse(new Uint8Array(await (await page.request.get(`${run}/piece.stl`)).body()).buffer);
    const mf = new ThreeMFLoader().parse(new Uint8Array(await (await page.request.get(`${run}/piece.3mf`)).body()).buffer);
    const volume = soup(stl);
    let second;
    mf.traverse(o => { if (o.geometry) second = soup(o.geometry.index ? o.geometry.toNonIndexed() : o.geometry); });
    expect(second.volume).toBeCloseTo(volume.volume, 0);
    expect(volume.open).toBe(0);
    const filament = +text.match(/; filament: ([\d.]+) mm, multiplier ([\d.]+)/)[1];
    const multiplier = +text.match(/multiplier ([\d.]+)/)[1];
    const laid = [...seen.laid.values()].reduce((a, b) => a + b, 0) * Math.PI * filament * filament / 4 / multiplier;
    expect(laid / volume.volume).toBeGreaterThan(0.98);
    expect(laid / volume.volume).toBeLessThan(1.02);
  });
}

/** Volume of a triangle soup and how many of its edges have no partner. */
function soup(geometry) {
  const p = geometry.attributes.position;
  const edges = new Map();
  let volume = 0;
  const key = i => `${p.getX(i).toFixed(4)},${p.getY(i).toFixed(4)},${p.getZ(i).toFixed(4)}`;
  for (let i = 0; i < p.count; i += 3) {
    const [a, b, c] = [0, 1, 2].map(k => [p.getX(i + k), p.getY(i + k), p.getZ(i + k)]);
    volume += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6;
    const k = [key(i), key(i + 1), key(i + 2)];
    for (const [q, r] of [[k[0], k[1]], [k[1], k[2]], [k[2], k[0]]]) {
      const [name, sign] = q < r ? [`${q}|${r}`, 1] : [`${r}|${q}`, -1];
      const n = (edges.get(name) ?? 0) + sign;
      if (n === 0) edges.delete(name); else edges.set(name, n);
    }
  }
  return { volume, open: edges.size };
}

test('the piece is cut where its elevation is touched, and a separate plate shows its pieces', async ({ page }) => {
  await page.goto(`${server.url}/pairings`);
  const href = await page.locator('td a[href^="/pairings/"]').first().getAttribute('href');
  await page.goto(`${server.url}${href}/temperature-tower`);
  await expect(page.locator('#layer-view')).toContainText('Layer');
  // The script takes the drawing over once it is there: from then on it is a slider for keys and for a screen reader.
  const piece = page.getByRole('slider', { name: 'The piece from the front: where it is cut' });
  await piece.focus();
  await page.keyboard.press('Home');
  await expect(page.locator('#layer-view')).toContainText('Layer 1 ');
  await expect(piece).toHaveAttribute('aria-valuetext', /Layer 1 /);
  await expect(page.locator('.path-key')).toContainText('skirt');
  await expect(piece).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await expect(page.locator('#layer-view')).toContainText('Layer 2 ');
  await page.locator('#layer').fill('40');
  await expect(page.locator('#layer-view')).toContainText('Layer 40 ');
  // Touched near its top it is cut there, and the mark is where it was touched.
  const box = await page.locator('#elevation svg').boundingBox();
  await page.mouse.click(box.x + box.width * 0.4, box.y + box.height * 0.2);
  await expect(page.locator('#layer')).not.toHaveValue('40');
  await expect(async () => {
    const mark = await page.locator('.layer-now').boundingBox();
    expect(Math.abs(mark.y - (box.y + box.height * 0.2))).toBeLessThan(5);
    expect(+(await page.locator('#layer-view').textContent()).match(/z ([\d.]+) mm/)[1]).toBeGreaterThan(20);
  }).toPass();
  const hot = +(await page.inputValue('#f-hottestC'));
  await page.fill('#f-coolestC', String(hot - 5));
  await page.selectOption('#f-arrangement', 'separate');
  await expect(page.locator('.plate-view')).toBeVisible();
  await expect(page.locator('.plate-view text')).toHaveCount(2);
});
