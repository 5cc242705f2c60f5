// Takes the pictures of docs/screenshots from the demo: node tests/browser/screenshots.mjs (after ./glenfrost demo or test has built).
import { chromium } from '@playwright/test';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { executablePath } from './browser.mjs';
import { halfRead, Server } from './server.mjs';
import layOut from './year.mjs';

const out = resolve(dirname(fileURLToPath(import.meta.url)), '../../docs/screenshots');
const clear = layOut();
const server = await new Server().start();
const browser = await chromium.launch({ executablePath, args: process.getuid() === 0 ? ['--no-sandbox'] : [] });
const open = async (colorScheme, width, height) => (await browser.newContext({ colorScheme, viewport: { width, height } })).newPage();
const page = await open('light', 1280, 800);
const shoot = async (name, p = page) => {
  await p.waitForTimeout(300);
  await p.screenshot({ path: join(out, `${name}.png`) });
};
const todo = text => page.locator('.todo', { hasText: text }).first().locator('a').click();
const home = () => page.goto(server.url);

try {
  await home(); await shoot('today');
  await page.goto(`${server.url}/pairings`); await shoot('pairings');
  await page.locator('#pairings tbody tr', { hasText: 'Brackenfell Heath' }).locator('a.open').first().click(); await shoot('pairing');
  const pairing = page.url();
  await page.goto(`${pairing}/temperature-tower`); await page.locator('svg.layer-view').waitFor(); await shoot('plan');
  await page.goto(`${pairing.replace('/pairings/', '/ledger?id=')}&kind=temperature-tower`);
  await page.getByRole('link', { name: 'Temperature tower 1' }).click(); await shoot('judge-band');
  await page.goto(`${pairing.replace('/pairings/', '/ledger?id=')}&kind=temperature-tower`);
  for (const box of await page.locator('.ledger input[type=checkbox]').all()) await box.check();
  await page.getByRole('button', { name: 'Compare what is marked' }).click(); await shoot('compare');
  await page.goto(`${server.url}/pairings`); await page.locator('.cell', { has: page.getByLabel('Mark Brackenfell Sill on Ptarmigan 350 left to compare') }).locator('a.open').click();
  await page.getByRole('link', { name: /The whole ledger/ }).click(); await shoot('ledger');
  await page.goto(pairing); await page.getByRole('link', { name: 'Flow limit by weighing 1', exact: true }).click(); await shoot('flow-limit');
  await page.goto(pairing); await page.getByRole('link', { name: 'Pressure advance 2', exact: true }).click(); await shoot('pressure');
  await home(); await todo('Planned;');
  await page.getByRole('link', { name: 'Bench sheet' }).click(); await shoot('sheet');
  const half = await halfRead(page, server);
  await page.goto(half.replace(/#.*/, '')); await shoot('read');
  await page.goto(`${pairing.replace('/pairings/', '/ledger?id=')}&kind=temperature-tower`); await page.getByRole('link', { name: 'Temperature tower 1' }).click(); await page.goto(`${page.url().replace(/[?#].*/, '')}/photos`); await shoot('photos');
  await page.goto(`${server.url}/filaments`); await page.getByRole('link', { name: 'Brackenfell Heath' }).click(); await shoot('filament');
  const filament = page.url();
  await page.getByRole('link', { name: 'Report' }).click(); await page.setViewportSize({ width: 860, height: 1180 }); await shoot('report');
  await page.setViewportSize({ width: 1280, height: 800 }); await page.goto(filament);
  await page.goto(`${pairing}/verification`); await page.locator('svg.layer-view').waitFor(); await shoot('verification');
  await page.goto(`${server.url}/printers`); await page.getByText('Ptarmigan 350').first().click(); await shoot('printer');
  await page.goto(`${server.url}/gcode`); await page.getByRole('link', { name: 'gauge-ring.gcode' }).click(); await page.locator('#layer[data-drawn]').waitFor(); await shoot('gcode');
  await home(); await todo('Planned;');
  await page.getByRole('button', { name: 'Try it on the simulated printer' }).click();
  await page.selectOption('#sim-speed', '300'); await page.getByRole('button', { name: 'Print on the simulated printer' }).click();
  await page.getByText(/Layer 1\d\d of/).waitFor({ timeout: 60000 }); await shoot('simulated');
  const tablet = await open('dark', 820, 1180);
  await tablet.goto(half.replace(/#.*/, '')); await shoot('read-tablet-dark', tablet);
} finally {
  await browser.close();
  await server.end();
  clear();
}
