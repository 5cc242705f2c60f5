import { defineConfig } from '@playwright/test';
import { executablePath } from './browser.mjs';

const args = ['--disable-background-networking', '--disable-component-update', '--disable-sync', '--no-first-run', ...(process.getuid() === 0 ? ['--no-sandbox'] : [])];

const long = /(axe|lost|soak|evidence|launcher)\.spec/;

export default defineConfig({
  testDir: '.',
  outputDir: '../../test-results',
  globalSetup: './year.mjs',
  // Files side by side, each with servers and data places of its own.
  workers: 3,
  retries: 0,
  // Wide: a loaded machine is slow, and that is no failure.
  timeout: 400_000,
  expect: { timeout: 40_000 },
  reporter: 'list',
  use: { launchOptions: { executablePath, args }, actionTimeout: 40_000, trace: 'off' },
  projects: [
    // Files of minutes begin first: what is begun last would run by itself at the end.
    { name: 'long', use: { viewport: { width: 1280, height: 800 } }, testMatch: long },
    { name: 'laptop', use: { viewport: { width: 1280, height: 800 } }, testIgnore: long },
    { name: 'tablet', use: { viewport: { width: 820, height: 1180 }, hasTouch: true }, testMatch: /journey/ },
  ],
});
