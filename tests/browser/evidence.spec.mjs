import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@playwright/test';
import Ajv2020 from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import jsqr from 'jsqr';
import { halfRead, Server } from './server.mjs';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
const cell = (page, s, a) => page.locator(`input[data-section="${s}"][data-aspect="${a}"]`);

/** JPEGs drawn by the browser itself, each its own. */
const pictures = (page, n, width = 1200, height = 900) => page.evaluate(async ([n, width, height]) => {
  const made = [];
  for (let i = 0; i < n; i++) {
    const canvas = Object.assign(document.createElement('canvas'), { width, height });
    const c = canvas.getContext('2d');
    for (let k = 0; k < 900; k++) {
      c.fillStyle = `hsl(${(k * 37 + i * 11) % 360} 60% ${20 + k % 60}%)`;
      c.fillRect((k * 7919) % width, (k * 104729 + i * 31) % height, 160, 90);
    }
    const blob = await new Promise(done => canvas.toBlob(done, 'image/jpeg', 0.9));
    made.push([...new Uint8Array(await blob.arrayBuffer())]);
  }
  return made;
}, [n, width, height]).then(list => list.map((bytes, i) => ({ name: `photo-${i}.jpg`, mimeType: 'image/jpeg', buffer: Buffer.from(bytes) })));

test('a tablet is let in by the code, and both read one run at once without losing a reading', async ({ page, browser }) => {
  const server = await new Server(true, true).start();
  try {
    const address = (await halfRead(page, server)).replace(/#.*/, '');
    const tablet = await (await browser.newContext({ viewport: { width: 820, height: 1180 }, hasTouch: true })).newPage();
    // Where the machine has no network, a second browser at the bench stands in for the tablet.
    if (server.lanUrl) {
      await tablet.goto(address.replace(server.url, server.lanUrl));
      await expect(tablet.locator('h1')).toHaveText('Let this device in');
      await tablet.getByLabel('Device code').fill(server.code);
      await tablet.getByLabel('Name of this device').fill('tablet');
      await tablet.getByLabel('Who works on it').fill('Ruan');
      await tablet.getByRole('button', { name: 'Let it in' }).click();
      await expect(tablet).toHaveURL(address.replace(server.url, server.lanUrl));
      // The printed code, read by an independent reader, opens the run on the admitted device.
      await page.goto(`${address}/code`);
      const seen = await page.evaluate(async () => {
        const svg = new XMLSerializer().serializeToString(document.querySelector('.label svg'));
        const image = new Image(400, 400);
        image.src = `data:image/svg+xml,${encodeURIComponent(svg)}`;
        await image.decode();
        const canvas = Object.assign(document.createElement('canvas'), { width: 400, height: 400 });
        const c = canvas.getContext('2d');
        c.fillStyle = '#fff';
        c.fillRect(0, 0, 400, 400);
        c.drawImage(image, 0, 0, 400, 400);
        return [...c.getImageData(0, 0, 400, 400).data];
      });
      const code = (jsqr.default ?? jsqr)(Uint8ClampedArray.from(seen), 400, 400);
      expect(code.data).toBe(address.replace(server.url, server.lanUrl));
      await tablet.goto(code.data);
      await expect(cell(tablet, 7, 'overhang')).toBeVisible();
    } else await tablet.goto(address);
    await page.goto(address);
    await cell(page, 7, 'overhang').focus();
    await page.keyboard.press('2');
    await expect(cell(tablet, 7, 'overhang')).toHaveValue('2', { timeout: 6000 });
    await cell(tablet, 8, 'bond').focus();
    await tablet.keyboard.press('1');
    await expect(cell(page, 8, 'bond')).toHaveValue('1', { timeout: 6000 });
    if (server.lanUrl) await expect(page.locator('#others')).toContainText('Ruan');

    // Both at once, each down a column of its own.
    await cell(page, 6, 'overhang').focus();
    await cell(tablet, 7, 'bond').focus();
    for (let i = 0; i < 3; i++) await Promise.all([page.keyboard.press('3'), tablet.keyboard.press('2')]);
    await expect(page.locator('.saving')).toHaveCount(0);
    await expect(tablet.locator('.saving')).toHaveCount(0);
    for (const p of [page, tablet]) {
      await p.reload();
      for (const s of [6, 5, 4]) await expect(cell(p, s, 'overhang')).toHaveValue('3');
      for (const s of [7, 6, 5]) await expect(cell(p, s, 'bond')).toHaveValue('2');
    }

    // The tablet finishes; the bench is told and loses nothing of what it still types.
    await tablet.locator('#finish').click();
    await expect(tablet).toHaveURL(/#judge/);
    await expect(page.locator('#others')).toContainText('went on at another device', { timeout: 8000 });
  } finally {
    await server.end();
  }
});

test('a server killed during uploads keeps every acknowledged photo, and none by halves', async ({ page }) => {
  const server = await new Server().start();
  try {
    const address = (await halfRead(page, server)).replace(/#.*/, '/photos');
    await page.goto(address);
    const before = await page.locator('.shot').count();
    const files = await pictures(page, 6);
    const kept = [];
    page.on('response', async r => {
      if (r.url().endsWith('/photos/add') && r.ok()) kept.push(...(await r.json().catch(() => ({ photos: [] }))).photos.map(p => p.id));
    });
    const uploading = page.setInputFiles('#chosen', files);
    for (let i = 0; i < 3; i++) {
      await page.waitForTimeout(120 + i * 130);
      await server.kill();
      await server.start();
    }
    await uploading;
    await expect(page.locator('.shot')).toHaveCount(before + files.length, { timeout: 90_000 });
    await server.kill();
    await server.start();
    await page.goto(address);
    await expect(page.locator('.shot')).toHaveCount(before + files.length);
    expect(kept.length).toBeGreaterThan(0);
    for (const id of kept) {
      const size = await page.evaluate(async id => {
        const picture = await createImageBitmap(await (await fetch(`/photos/${id}/large`)).blob());
        return [picture.width, picture.height];
      }, id);
      expect(size).toEqual([1200, 900]);
    }
    for (const folder of ['incoming', 'files']) {
      const place = join(server.data, folder);
      expect(existsSync(place) ? readdirSync(place).filter(f => f.endsWith('.part')) : [], folder).toEqual([]);
    }
  } finally {
    await server.end();
  }
});

test.describe('one bench', () => {
  const server = new Server();
  test.beforeAll(() => server.start());
  test.afterAll(() => server.end());

  test('a photo straight from the row, and what is too large is said before it is sent', async ({ page }) => {
    await page.goto(await halfRead(page, server));
    const row = page.locator('tr[data-section="3"]');
    const [file] = await pictures(page, 1, 900, 700);
    const was = await row.locator('img').getAttribute('src');
    await row.locator('[data-snap]').setInputFiles(file);
    await expect(page.locator('#next')).toContainText('The photo is kept');
    await expect(row.locator('img')).not.toHaveAttribute('src', was);
    await row.locator('[data-snap]').evaluate(input => {
      const chosen = new DataTransfer();
      chosen.items.add(new File([new Uint8Array(45_000_000)], 'huge.jpg', { type: 'image/jpeg' }));
      input.files = chosen.files;
      input.dispatchEvent(new Event('change', { bubbles: true }));
    });
    await expect(page.locator('#next')).toContainText('huge.jpg has 45 MB; at most 40 MB');
    await row.locator('[data-snap]').setInputFiles({ name: 'note.jpg', mimeType: 'image/jpeg', buffer: Buffer.from('no picture at all, only text') });
    await expect(page.locator('#next')).toContainText('This is no picture');
  });

  test('photos are scored again by keys alone', async ({ page }) => {
    await page.goto((await halfRead(page, server)).replace(/#.*/, '/photos'));
    await page.getByRole('button', { name: 'Score them again' }).click();
    const [, count] = (await page.locator('h1').textContent()).match(/of (\d+)/);
    for (let i = 1; i <= Number(count); i++) {
      await expect(page.locator('h1')).toHaveText(`Score again, ${i} of ${count}`);
      for (const key of ['3', '2', 'm', '4', '1']) await page.keyboard.press(key);
      await page.keyboard.press('Enter');
    }
    await expect(page.locator('h1')).toHaveText('Scored again');
    await expect(page.locator('.lead-text')).toContainText('got the same score again');
  });

  test('what goes out keeps to the published schema, and the schema can refuse', async ({ page }) => {
    const ajv = new Ajv2020({ allErrors: true, strict: true });
    addFormats(ajv);
    const get = path => page.request.get(server.url + path).then(r => r.json());
    const valid = ajv.compile(await get('/schema/archive-1.json'));
    const archive = await get('/export/archive.json');
    const run = archive.rows.runs[0];
    for (const [path, scope] of [['/export/archive.json', 'archive'], [`/runs/${run.id}/run.json`, 'run'], [`/pairings/${run.pairingId}/pairing.json`, 'pairing'], [`/pairings/${run.pairingId}/profile.json`, 'profile']]) {
      const document = await get(path);
      expect(document.scope).toBe(scope);
      expect(valid(document), `${path}: ${ajv.errorsText(valid.errors?.slice(0, 3))}`).toBe(true);
    }
    for (const spoil of [d => { delete d.rows.runs[0].stage; }, d => { d.rows.readings[0].value = 'three'; }, d => { d.version = 2; }, d => { d.rows.photos[0].sha256 = 'ABC'; }, d => { d.rows.settings[0].state = 'sure'; }, d => { d.rows.runs[0].hat = 1; }]) {
      const spoiled = structuredClone(archive);
      spoil(spoiled);
      expect(valid(spoiled), String(spoil)).toBe(false);
    }
  });

  test('the script of the docs feeds numbers from a file, once', async ({ page }) => {
    const address = (await halfRead(page, server)).replace(/#.*/, '');
    await page.goto(`${server.url}/devices`);
    await page.getByLabel('Name').fill('script on the shelf');
    await page.getByRole('button', { name: 'Make a token' }).click();
    const token = await page.locator('.token').textContent();
    await page.goto(address);
    const numbers = join(server.data, 'numbers.txt');
    writeFileSync(numbers, '191,5\n196\n\n200 °C\n');
    const feed = () => execFileSync('node', [join(root, 'docs/post-readings.mjs'), server.url, address.split('/').at(-1), token, 'observedC', numbers], { encoding: 'utf8' });
    const first = feed();
    expect(first.match(/^201 /gm)).toHaveLength(3);
    for (const [s, v] of [[8, '191.5'], [7, '196'], [6, '200']]) await expect(cell(page, s, 'observedC')).toHaveValue(v, { timeout: 6000 });
    expect(feed().match(/^200 /gm)).toHaveLength(3);
    await page.reload();
    await expect(cell(page, 5, 'observedC')).toHaveValue('');
  });

  test('the archive is taken out and looked at before it is taken in', async ({ page }) => {
    await page.goto(`${server.url}/exchange`);
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'The whole archive as zip' }).click()]);
    const zip = readFileSync(await download.path());
    const other = await new Server(false).start();
    try {
      for (const says of ['0 the same', 'Everything in it stands here already']) {
        await page.goto(`${other.url}/exchange`);
        await page.setInputFiles('#file', { name: 'archive.zip', mimeType: 'application/zip', buffer: zip });
        await page.getByRole('button', { name: 'Look at it' }).click();
        await expect(page.locator('.lead-text')).toContainText(says);
        const take = page.getByRole('button', { name: /^Take .* in$/ });
        if (await take.count() > 0) await take.click();
      }
      await page.goto(`${other.url}/pairings`);
      await expect(page.locator('#pairings tbody tr')).toHaveCount(7);
    } finally {
      await other.end();
    }
  });
});
