import { expect, test } from '@playwright/test';
import { execFile, spawn } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { delimiter, dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
const launcher = join(root, 'glenfrost');
let folder;
test.beforeEach(() => { folder = mkdtempSync(join(tmpdir(), 'glenfrost-launcher-')); });
test.afterEach(() => rmSync(folder, { recursive: true, force: true }));

const run = (args, env = {}) => new Promise(done =>
  execFile(launcher, args, { env: { ...process.env, ...env } }, (error, out, err) => done({ code: error?.code ?? 0, text: out + err })));

const listen = () => new Promise(done => {
  const s = createServer().listen(0, '127.0.0.1', () => done(s));
});

async function start(args, env = {}) {
  const child = spawn(launcher, args, { env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'inherit'] });
  let text = '';
  await new Promise((ready, fail) => {
    child.stdout.on('data', d => {
      text += d;
      if (text.includes('listens on')) ready();
    });
    child.on('exit', code => fail(new Error(`ended with ${code}: ${text}`)));
  });
  child.removeAllListeners('exit');
  return { text, stop: () => new Promise(done => { child.on('exit', done); child.kill('SIGTERM'); }) };
}

async function freePort() {
  const s = await listen();
  const { port } = s.address();
  await new Promise(done => s.close(done));
  return port;
}

test('a taken port is said in plain words', async () => {
  const taken = await listen();
  const { code, text } = await run(['demo', '--port', String(taken.address().port)]);
  taken.close();
  expect(code).toBe(1);
  expect(text).toContain('is taken by another program');
  expect(text).toContain('--port');
});

test('wrong words and numbers are said', async () => {
  expect((await run(['demo', '--port', 'abc'])).text).toContain('a number between 1 and 65535');
  expect((await run(['demo', '--port', '70000'])).text).toContain('a number between 1 and 65535');
  expect((await run(['demo', '--purple'])).text).toContain('no option --purple');
  expect((await run(['dance'])).text).toContain('no command "dance"');
  expect((await run(['restore'])).text).toContain('name the backup');
  expect((await run(['help'])).text).toContain('./glenfrost demo');
  expect((await run(['serve', '--gcode-mb', 'lots'])).text).toContain('a number of megabytes');
});

test('an old or missing tool is said with what is needed', async () => {
  const bin = join(folder, 'bin');
  mkdirSync(bin);
  const fake = (name, version) => {
    writeFileSync(join(bin, name), `#!/bin/sh\necho ${version}\n`);
    chmodSync(join(bin, name), 0o755);
  };
  for (const tool of ['bash', 'env', 'dirname', 'readlink', 'cat', 'cmp', 'find', 'uname', 'mkdir', 'tail', 'sh']) {
    const at = process.env.PATH.split(delimiter).map(p => join(p, tool)).find(existsSync);
    if (at) symlinkSync(at, join(bin, tool));
  }
  const only = { PATH: bin };
  expect((await run(['test'], only)).text).toContain('.NET SDK is missing');
  fake('dotnet', '8.0.400');
  expect((await run(['test'], only)).text).toContain('found 8.0.400, version 10 is needed');
  fake('dotnet', '10.0.401');
  expect((await run(['test'], only)).text).toContain('Node is missing');
  fake('node', 'v18.19.0');
  fake('npm', '9.0.0');
  expect((await run(['test'], only)).text).toContain('Node is too old: found 18.19.0');
});

test('the demo starts in a fresh place and throws it away; --data keeps it', async () => {
  const port = await freePort();
  const fresh = await start(['demo', '--port', String(port)], { TMPDIR: folder });
  const place = /Demo data in (\S+);/.exec(fresh.text)[1];
  expect(fresh.text).toContain('thrown away');
  expect(existsSync(join(place, 'glenfrost.db'))).toBe(true);
  expect((await fetch(`http://localhost:${port}/`)).status).toBe(200);
  expect((await fetch(`http://localhost:${port}/lib/glenfrost.css`).then(r => r.text())).length).toBeGreaterThan(10_000);
  await fresh.stop();
  expect(existsSync(place)).toBe(false);
  const kept = join(folder, 'kept');
  const second = await start(['demo', '--port', String(port), '--data', kept]);
  await second.stop();
  expect(existsSync(join(kept, 'glenfrost.db'))).toBe(true);
});

test('a backup taken while it runs restores what was there', async () => {
  const data = join(folder, 'data');
  const port = await freePort();
  const log = async () => (await fetch(`http://localhost:${port}/log`)).text();
  let server = await start(['demo', '--port', String(port), '--data', data]);
  const copy = join(folder, 'copy.db');
  expect((await run(['backup', copy, '--data', data])).text).toContain('Backup written');
  expect((await run(['backup', copy, '--data', data])).text).toContain('exists already');
  const page = await (await fetch(`http://localhost:${port}/room`)).text();
  const ticket = /name="__RequestVerificationToken" type="hidden" value="([^"]+)"/.exec(page)[1];
  expect(ticket).toBeTruthy();
  await server.stop();
  expect((await run(['restore', join(folder, 'nothing.db'), '--data', data, '--port', String(port)])).text).toContain('does not exist');
  const restored = await run(['restore', copy, '--data', data, '--port', String(port)]);
  expect(restored.text).toContain('Restored into');
  expect(readdirSync(join(data, 'backups')).some(f => f.startsWith('before-restore'))).toBe(true);
  server = await start(['serve', '--port', String(port), '--data', data]);
  expect(await log()).toContain('Brackenfell Heath');
  await server.stop();
});

// fetch sets the Host header itself.
const ask = (port, path, headers) => new Promise((done, fail) =>
  request({ host: '127.0.0.1', port, path, headers }, r => { r.resume(); done({ status: r.statusCode, to: r.headers.location }); }).on('error', fail).end());

test('a proxy is let in by its name alone, and each device behind it types the code', async () => {
  const port = await freePort();
  const through = { host: 'bench.example', 'x-forwarded-for': '203.0.113.9' };
  let server = await start(['serve', '--port', String(port), '--data', join(folder, 'one')]);
  expect((await ask(port, '/', through)).status).toBeGreaterThanOrEqual(400);
  expect((await ask(port, '/export/archive.json', { host: `localhost:${port}`, 'x-forwarded-for': '203.0.113.9' })).status).toBeGreaterThanOrEqual(400);
  await server.stop();
  server = await start(['serve', '--port', String(port), '--data', join(folder, 'one'), '--proxy', 'bench.example']);
  const { status, to } = await ask(port, '/', through);
  expect([status, to]).toEqual([302, expect.stringContaining('/device')]);
  expect((await ask(port, '/device', through)).status).toBe(200);
  expect((await ask(port, '/', { ...through, host: 'another.example' })).status).toBeGreaterThanOrEqual(400);
  expect((await ask(port, '/', { host: `localhost:${port}` })).status).toBe(200);
  await server.stop();
  expect((await run(['serve', '--proxy'])).text).toContain('--proxy needs the name');
});

test('inspect and step answer a script, from any folder', async () => {
  const ring = join(root, 'demo/gcode/gauge-ring.gcode');
  const report = await run(['inspect', ring, '--json']);
  expect(report.code).toBe(0);
  expect(JSON.parse(report.text).odd.map(o => o.key)).toContain('flow-override');
  const out = join(folder, 'stepped.gcode');
  const stepped = await run(['step', ring, '--what', 'flow', '--from', '95', '--to', '105', '--by', '5', '--base', '1.2', '--section', '2', '-o', out]);
  expect(stepped.code, stepped.text).toBe(0);
  expect(stepped.text).toContain('0 others changed');
  expect(existsSync(out)).toBe(true);
  expect((await run(['step', ring, '--what', 'flow', '--from', '95', '--to', '105', '--by', '5', '--section', '2', '-o', out])).code).toBe(3);
  expect((await run(['inspect', join(folder, 'none.gcode')])).code).toBe(3);
  expect((await run(['inspect'])).code).toBe(2);
});
