// A bounded part of what `./glenfrost bench soak` and `./glenfrost bench fuzz` do at length.
import { execFile } from 'node:child_process';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { expect, test } from '@playwright/test';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
// What it printed is told as well where it fails: which input it was stands there and nowhere else.
const bench = (...args) => promisify(execFile)(
  'dotnet', [join(root, 'bench/Glenfrost.Bench/bin/Release/net10.0/Glenfrost.Bench.dll'), '--app', join(root, 'artifacts/app'), ...args], { cwd: root })
  .catch((error) => ({ stdout: `${error.stdout}\n${error.stderr}\n${error.message}` }));

test('killed at each of its points, the application loses nothing that it acknowledged', async () => {
  const { stdout } = await bench('soak', '--kills', '9', '--seed', '3', '--year', process.env.GLENFROST_YEAR);
  expect(stdout).toContain('nothing was lost');
});

test('what nobody should send is answered, and never by a fault', async () => {
  const { stdout } = await bench('fuzz', '--inputs', '400', '--seed', '7', '--year', process.env.GLENFROST_YEAR);
  expect(stdout).toContain('every promise held');
});
