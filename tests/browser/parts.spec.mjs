// A part of one's own: from its file in the G-code room to a run that failed, its suspects, and its repeats counted.
import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { Server } from './server.mjs';

const server = new Server();
test.beforeAll(() => server.start());
test.afterAll(() => server.end());

const cell = (page, s, a) => page.locator(`[data-section="${s}"][data-aspect="${a}"]`);

/** The retraction that a failed run suspects: planned from there, read with the shorter ones worse, and kept. */
async function decide(page) {
  await page.locator('#suspects tbody tr', { hasText: 'Retraction length' }).getByRole('link', { name: /^Plan / }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Retraction');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  const rows = await page.locator('table.scores tbody tr').count();
  for (const aspect of ['narrow', 'wide'])
    for (let i = 0; i < rows; i++) {
      await cell(page, i, aspect).fill(String(Math.min(4, 1 + i)));
      await page.keyboard.press('Enter');
    }
  await page.locator('#finish').click();
  await page.getByRole('button', { name: /^Keep / }).first().click();
  await expect(page.locator('.judge-stage aside')).toContainText('Decided');
}

test('an own file is printed as a run, fails at a layer, and its repeats are counted', async ({ page }) => {
  await page.goto(`${server.url}/gcode`);
  await page.getByRole('link', { name: 'gauge-ring.gcode' }).first().click();
  await page.getByRole('link', { name: 'Print this as a run' }).click();
  // Nothing is typed twice: the file says how high it is and how warm it prints.
  await expect(page.getByLabel('Height', { exact: true })).toHaveValue('7.2');
  await expect(page.getByLabel('Nozzle')).toHaveValue('210');
  await page.getByLabel('First zone ends at').fill('9');
  await expect(page.getByText('is not below the top of the part')).toBeVisible();
  await page.getByLabel('First zone ends at').fill('');
  // A zone ends where the part is pointed at.
  await expect(page.locator('svg[data-part]')).toHaveAttribute('aria-label', /all of it/);
  await page.locator('svg[data-part]').focus();
  for (const key of ['Home', 'PageUp', ...Array(4).fill('ArrowUp')]) await page.keyboard.press(key);
  await expect(page.locator('#pointed')).toContainText('Layer 15, 3.0 mm: all of it');
  await page.getByRole('button', { name: 'A zone ends here' }).click();
  await expect(page.getByLabel('First zone ends at')).toHaveValue('3');
  await expect(page.locator('#elevation')).toContainText('3 to 7.2 mm');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await expect(page.getByText('is planned and its file is ready')).toBeVisible();
  await expect(page.getByRole('link', { name: 'Download the G-code' })).toBeVisible();
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  await cell(page, 0, 'part').fill('4');
  await page.keyboard.press('Enter');
  await cell(page, 1, 'part').fill('2');
  await page.keyboard.press('Enter');
  await cell(page, 1, 'defect.1').selectOption('strings');
  // Which layer it was is pointed at on the part: by mouse first, then by keys to the very one.
  const part = page.locator('svg[data-part]');
  await part.click({ position: { x: 60, y: 20 } });
  await expect(page.locator('#pointed')).toContainText(/^Layer \d+, [\d.]+ mm: 3 to 7.2 mm/);
  await page.keyboard.press('Home');
  for (const key of ['PageUp', 'PageUp', ...Array(9).fill('ArrowUp')]) await page.keyboard.press(key);
  await expect(page.locator('#pointed')).toContainText('Layer 30, 6.0 mm');
  await page.getByRole('button', { name: 'It failed here' }).click();
  await expect(cell(page, 1, 'failedAtLayer')).toHaveValue('30');
  await expect(page.locator('#sofar')).toContainText('failed at layer 30');
  await page.locator('#finish').click();
  await expect(page.locator('#verdict')).toContainText('Not passed: it failed at layer 30');
  await expect(page.locator('#suspects')).toContainText('Retraction length');
  await expect(page.locator('#suspects tbody tr').first().getByRole('link', { name: /^Plan / })).toBeVisible();
  // The same part again, one press each.
  await page.getByRole('button', { name: 'Good', exact: true }).click();
  await expect(page.locator('#tally')).toContainText('1 of 1 good');
  await page.getByLabel('What was wrong').fill('came off');
  await page.getByRole('button', { name: 'Not good' }).click();
  await expect(page.locator('#tally')).toContainText('1 of 2 good');
  await expect(page.locator('#tally')).toContainText('a good part');
  // What it suspects decides; then the same file again passes, and the report of the filament is one page that says so.
  const failed = page.url().split(/[?#]/)[0];
  await decide(page);
  await page.goto(failed);
  await page.getByRole('link', { name: 'plan anew' }).click();
  await expect(page.locator('svg[data-part]')).toHaveAttribute('aria-label', /as its file lies/);
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  await cell(page, 1, 'part').focus();
  await page.keyboard.type('44');
  await expect(page.locator('#sofar')).toContainText('Passed: each of 2 zones reaches 3.5');
  await page.locator('#finish').click();
  await expect(page.locator('#verdict')).toContainText('Passed');
  await page.locator('.run-head a').first().click();
  await page.locator('main a[href^="/filaments/"]').first().click();
  await page.getByRole('link', { name: 'Report' }).click();
  await expect(page.locator('.report')).toContainText('gauge-ring');
  expect((await page.pdf({ format: 'A4', preferCSSPageSize: true })).toString('latin1').match(/\/Type\s*\/Page[^s]/g)).toHaveLength(1);
});

/** A vane of the pairing at that address, printed and scored; the spire as given, all else clean. */
async function vane(page, pairing, spire) {
  await page.goto(`${pairing}/verification`);
  await page.getByLabel('Each zone is to reach').fill('3');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await page.getByRole('button', { name: 'It is printed: read it' }).click();
  await cell(page, 6, 'part').focus();
  // The top row is the spire: digits go down without Enter.
  await page.keyboard.type(`${spire}444444`);
}

test('a file that is dropped on a pairing or its ledger is the plan of a part, and one dropped in a sweep is stepped', async ({ page }) => {
  const drop = async (name, file) => {
    const transfer = await page.evaluateHandle(([n, t]) => {
      const d = new DataTransfer();
      d.items.add(new File([t], n));
      return d;
    }, [name, readFileSync(`demo/gcode/${file}`, 'utf8')]);
    await page.dispatchEvent('main', 'dragover', { dataTransfer: transfer });
    await page.dispatchEvent('main', 'drop', { dataTransfer: transfer });
  };
  await page.goto(`${server.url}/find?q=Plain+Whimbrel`);
  await page.locator('main a[href^="/pairings/"]', { hasText: 'Whimbrel 300' }).first().click();
  const pairing = page.url().split('#')[0];
  await drop('ring.gcode', 'gauge-ring.gcode');
  await expect(page.getByLabel('Height', { exact: true })).toHaveValue('7.2');
  await expect(page.locator('#preview')).toContainText('ring.gcode, 7.2 mm high');
  await page.goto(`${server.url}/ledger?id=${pairing.split('/').at(-1)}`);
  await drop('ring.gcode', 'gauge-ring.gcode');
  await expect(page.getByLabel('Height', { exact: true })).toHaveValue('7.2');
  await page.goto(`${pairing}/fan-steps`);
  await page.getByRole('link', { name: 'I have my own model' }).click();
  await drop('notches.gcode', 'notched-temperature-tower.gcode');
  await expect(page.locator('#dropped')).toContainText('7 sections of 24 layers');
  await expect(page.locator('svg.own-model')).toContainText('151–174');
  await page.getByRole('button', { name: 'Take this plan' }).click();
  await expect(page.getByText('is planned and its file is ready')).toBeVisible();
});

test('a verification fails at a layer, the suspected run decides, it passes, and the report says so', async ({ page }) => {
  await page.goto(`${server.url}/find?q=Plain+Whimbrel`);
  await page.locator('main a[href^="/pairings/"]', { hasText: 'Whimbrel 300' }).first().click();
  await expect(page.locator('#nozzleTemperatureC .state')).toHaveText('provisional');
  const pairing = page.url().split('#')[0];
  await vane(page, pairing, 1);
  await cell(page, 6, 'failedAtLayer').fill('198');
  await page.keyboard.press('Enter');
  await cell(page, 6, 'defect.1').selectOption('strings');
  await page.locator('#finish').click();
  await expect(page.locator('#verdict')).toContainText('failed at layer 198, in spire');
  await expect(page.locator('.judge-stage aside')).toContainText('Nothing becomes doubtful by itself');
  await page.getByRole('button', { name: 'Keep the result' }).click();
  await decide(page);
  // What was kept is printed, and all of it passes now.
  await vane(page, pairing, 4);
  await expect(page.locator('#sofar')).toContainText('Passed: each of 7 zones reaches 3');
  await page.locator('#finish').click();
  await expect(page.locator('.judge-stage aside')).toContainText('Confirmed with it: Nozzle temperature');
  await page.getByRole('button', { name: 'Keep the result' }).click();
  await page.goto(pairing);
  await expect(page.locator('#nozzleTemperatureC .state')).toHaveText('confirmed');
  await page.getByRole('link', { name: /Plain/ }).first().click();
  await page.getByRole('link', { name: 'Report' }).click();
  await expect(page.locator('.report')).toContainText('small vane passed');
  expect((await page.pdf({ format: 'A4', preferCSSPageSize: true })).toString('latin1').match(/\/Type\s*\/Page[^s]/g)).toHaveLength(1);
});

test('the report of a filament is one page of paper, and a file that needs nothing else', async ({ page }, info) => {
  await page.goto(`${server.url}/filaments`);
  await page.getByRole('link', { name: /Heath/ }).first().click();
  await page.getByRole('link', { name: 'Report' }).click();
  await page.getByText('Your words beside the numbers').click();
  await page.getByLabel('What to watch for').fill('Two weeks on the shelf, and spires grow hairs.');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.locator('.report')).toContainText('spires grow hairs');
  const pagesOf = async p => (await p.pdf({ format: 'A4', preferCSSPageSize: true })).toString('latin1').match(/\/Type\s*\/Page[^s]/g).length;
  expect(await pagesOf(page)).toBe(1);
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Take out as a file' }).click()]);
  expect(download.suggestedFilename()).toBe('brackenfell-heath-report.html');
  // Opened with the server out of reach, it is whole: nothing is asked for, and each picture is there.
  const alone = await page.context().newPage();
  const asked = [];
  alone.on('request', r => { if (!r.url().startsWith('file:') && !r.url().startsWith('data:')) asked.push(r.url()); });
  const kept = info.outputPath('report.html');
  await download.saveAs(kept);
  await alone.goto(`file://${kept}`);
  await expect(alone.locator('.report h1')).toHaveText('Brackenfell Heath');
  expect(await alone.locator('img').evaluateAll(list => list.length > 0 && list.every(i => i.naturalWidth > 0))).toBe(true);
  expect(asked).toEqual([]);
  expect(await pagesOf(alone)).toBe(1);
});
