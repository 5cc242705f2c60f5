// The demo's year is laid out once for all test files and their servers, and copied by each: by whoever runs all tests (GLENFROST_YEAR), or here.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const app = resolve(dirname(fileURLToPath(import.meta.url)), '../../artifacts/app');

export default function layOut() {
  if (process.env.GLENFROST_YEAR) return () => {};
  const year = mkdtempSync(join(tmpdir(), 'glenfrost-year-'));
  execFileSync('dotnet', [join(app, 'Glenfrost.Web.dll'), 'seed', '--data', year, '--demo', join(app, 'demo')], { stdio: 'inherit' });
  process.env.GLENFROST_YEAR = year;
  return () => rmSync(year, { recursive: true, force: true });
}
